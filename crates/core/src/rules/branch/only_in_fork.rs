//! A checkout of a branch that a pull request from a fork does not have here.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity};
use crate::model::{Text, Trigger};
use crate::pen::{self, Ask};
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.only-in-fork",
    severity: Severity::Warning,
    title: "A branch is checked out that forks do not have here",
    why: "The branch of a pull request lies in the repository that it comes from. From a fork, this repository has no branch of \
          that name, or another one of the same name: the checkout fails, or brings something else.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  ‹pull_request›:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
        with:
          ref: «${{ github.head_ref }}»
      - run: npm ci
"],
    good: &[
        r"
== pipeline
on: pull_request
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
",
        r"
== pipeline
on: pull_request
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
        with:
          repository: ${{ github.event.pull_request.head.repo.full_name }}
          ref: ${{ github.head_ref }}
      - run: npm ci
",
        r"
== pipeline
on: pull_request
jobs:
  build:
    if: github.event.pull_request.head.repo.full_name == github.repository
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
        with:
          ref: ${{ github.head_ref }}
      - run: npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::Checkout { reference: Some(reference), repository: None, .. } = &effect.effect else { continue };
        if !names_their_branch(case, reference) {
            continue;
        }
        let Some(trigger) = started_by_forks(case, job, step) else { continue };
        let message =
            format!("`{}` fails for pull requests from forks: their branch is not in this repository", case.job_name(job));
        out.add(reference.inner(), message)
            .witness(at(trigger.name.at), "this starts it for forks too")
            .mend(pen::write(case, &Ask::CheckOutOfFork { beside: reference }));
    }
}

/// Whether the whole text is the name of the branch that a pull request comes from, or that first and something else without one.
fn names_their_branch(case: &Case<'_>, reference: &Text) -> bool {
    let names = &case.pipeline.run().values.their_branches;
    let reads = case.reads_of(reference);
    let Some(first) = reads.first().filter(|read| read.range.len() == reference.value.trim().len()) else { return false };
    let named = names.iter().any(|name| name.eq_ignore_ascii_case(case.sources.slice(first.at)));
    let source = &case.sources.get(first.at.file).text;
    let behind = source.get(first.at.span.end as usize..).unwrap_or_default().trim_start();
    named && (first.plain || behind.starts_with("||"))
}

/// The trigger by which a pull request from a fork comes to a step, as far as the pipeline starts at all.
fn started_by_forks<'c>(case: &'c Case<'_>, job: usize, step: usize) -> Option<&'c Trigger> {
    let (_, rehearsal) = case.played().find(|(occasion, rehearsal)| {
        let verdict = &rehearsal.jobs[job];
        let by_start = (verdict.at, &verdict.because) == (rehearsal.starts.at, &rehearsal.starts.because);
        let comes = verdict.answer == Answer::Yes || (verdict.answer == Answer::Unsure && by_start);
        occasion.kind == OccasionKind::Fork && comes && rehearsal.steps[job][step] == Answer::Yes
    })?;
    case.pipeline.triggers.get(rehearsal.trigger?)
}
