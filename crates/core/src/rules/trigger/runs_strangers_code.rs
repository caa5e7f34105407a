//! A run with the repository's rights that runs what a stranger wrote.

use crate::case::{Case, at};
use crate::effects::{Effect, is_inside};
use crate::finding::{Findings, Severity};
use crate::model::{Event, Text, Trigger, Work};
use crate::pen::{self, Ask};
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "trigger.runs-strangers-code",
    severity: Severity::Error,
    title: "A stranger's code runs with the repository's rights",
    why: "Some events run on the default branch with its secrets and a token that may write, although a stranger's pull request \
          set them off. When such a run checks out the pull request and installs or builds it, anybody can run anything with \
          those rights.",
    needs: &[],
    bad: &[r"
== git
main default
== pipeline
on: ‹pull_request_target›
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
        with:
          ref: «${{ github.event.pull_request.head.sha }}»
      - run: ‹npm ci›
"],
    good: &[
        r"
== git
main default
== pipeline
on: pull_request_target
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm ci
",
        r"
== git
main default
== pipeline
on: pull_request
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
        with: {ref: '${{ github.event.pull_request.head.sha }}'}
      - run: npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
        // An environment may ask a person first.
        if of_job.environment.is_some() {
            continue;
        }
        let Some(trigger) = set_off_by_strangers(case, job) else { continue };
        let Some((step, reference, into)) = theirs(case, job) else { continue };
        let Some(runs) = case
            .effects
            .of_job(job)
            .filter(|(number, _)| *number > step)
            .find_map(|(number, effect)| runs_code(&effect.effect, &into, &of_job.steps[number].work).then_some(effect.at))
        else {
            continue;
        };
        speak(case, job, trigger, reference, runs, out);
    }
}

fn speak(case: &Case<'_>, job: usize, trigger: &Trigger, reference: &Text, runs: Place, out: &mut Findings) {
    let message =
        format!("`{}` runs the code of anybody's pull request with this repository's secrets and rights", case.job_name(job));
    out.add(reference.inner(), message)
        .witness(at(trigger.name.at), format!("`{}` gives a stranger's run the rights of this repository", trigger.name.value))
        .witness(at(runs), "this runs what was checked out")
        .mend(pen::write(case, &Ask::StartWithoutRights));
}

/// The trigger that starts a job with the repository's rights when a stranger proposes something.
fn set_off_by_strangers<'c>(case: &'c Case<'_>, job: usize) -> Option<&'c Trigger> {
    let (_, rehearsal) = case.played().find(|(occasion, _)| occasion.kind == OccasionKind::Fork)?;
    let trigger = case.pipeline.triggers.get(rehearsal.trigger?)?;
    let privileged = matches!(trigger.event, Event::PrivilegedProposal | Event::AfterPipeline);
    let runs = rehearsal.starts.answer == Answer::Yes && rehearsal.jobs.get(job)?.answer == Answer::Yes;
    (privileged && runs).then_some(trigger)
}

/// The step that checks out what a stranger wrote, and the folder it goes to.
fn theirs<'c>(case: &'c Case<'_>, job: usize) -> Option<(usize, &'c Text, String)> {
    let known = &case.pipeline.run().values.strangers_refs;
    case.effects.of_job(job).find_map(|(step, effect)| match &effect.effect {
        Effect::Checkout { reference: Some(reference), into: Some(into), .. } => {
            let is_theirs = reference.value.starts_with("refs/pull/") || known.iter().any(|name| reference.value.contains(name));
            is_theirs.then(|| (step, &**reference, into.clone()))
        }
        _ => None,
    })
}

fn runs_code(effect: &Effect, into: &str, work: &Work) -> bool {
    let in_theirs = |dir: &Option<String>| dir.as_ref().is_some_and(|dir| is_inside(dir, into));
    match effect {
        Effect::Install { dir, .. } | Effect::RunScript { dir, .. } => into.is_empty() || in_theirs(dir),
        Effect::Build { .. } => into.is_empty(),
        Effect::Unknown(_) => into.is_empty() && matches!(work, Work::Runs { .. }),
        _ => false,
    }
}

/// A job of this pipeline checks out and runs a stranger's code with the repository's rights.
pub(in crate::rules) fn is_theirs(case: &Case<'_>, job: usize) -> bool {
    case.pipeline.jobs[job].environment.is_none() && set_off_by_strangers(case, job).is_some() && theirs(case, job).is_some()
}
