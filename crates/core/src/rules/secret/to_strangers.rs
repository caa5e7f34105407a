//! A secret in a run that a stranger's pull request starts.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity};
use crate::model::Event;
use crate::pen::{self, Ask};
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.to-strangers",
    severity: Severity::Warning,
    title: "A stranger's pull request runs a publish without its secret",
    why: "A pull request from a fork gets no secrets: they are empty, and a step that publishes with one fails. The pull request \
          stays red through no fault of its author.",
    needs: &[],
    bad: &[r"
== git
main default
== pipeline
on: ‹pull_request›
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: netlify deploy --dir dist
        env: {NETLIFY_AUTH_TOKEN: '${{ «secrets.N» }}'}
"],
    good: &[
        r"
== git
main default
== pipeline
on: pull_request
jobs:
  build:
    if: github.event.pull_request.head.repo.fork == false
    runs-on: ubuntu-latest
    steps:
      - run: netlify deploy --dir dist
        env: {NETLIFY_AUTH_TOKEN: '${{ secrets.N }}'}
",
        r"
== git
main default
== pipeline
on: [push, pull_request]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vitest
        env: {KEY: '${{ secrets.K }}'}
      - if: github.event_name == 'push'
        run: netlify deploy --prod
        env: {NETLIFY_AUTH_TOKEN: '${{ secrets.N }}'}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.forks_run_at_home {
        return;
    }
    let Some((_, rehearsal)) = case.played().find(|(occasion, _)| occasion.kind == OccasionKind::Fork) else { return };
    let Some(trigger) = rehearsal.trigger.and_then(|index| case.pipeline.triggers.get(index)) else { return };
    if trigger.event != Event::Proposal || rehearsal.starts.answer != Answer::Yes {
        return;
    }
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        for (number, step) in job.steps.iter().enumerate() {
            let publishes =
                case.effects.jobs[index][number].effects.iter().any(|effect| matches!(effect.effect, Effect::Publish { .. }));
            if !publishes || rehearsal.step(index, number) != Answer::Yes || step.may_fail.is_some() {
                continue;
            }
            let first = case.secrets().find(|read| (read.job, read.step) == (Some(index), Some(number)));
            let Some((place, name)) = first.map(|read| (read.at, &read.name)) else { continue };
            out.add(place, format!("a pull request from a fork fails here: `{name}` is empty for it"))
                .witness(at(trigger.name.at), format!("`{}` starts this for forks too, without secrets", trigger.name.value))
                .mend(pen::write(case, &Ask::OwnProposalsOnly));
        }
    }
}
