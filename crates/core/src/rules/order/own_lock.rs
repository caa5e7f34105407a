//! A job that waits for a lock which its own run holds.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Lock, Pipeline};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.own-lock",
    severity: Severity::Error,
    title: "A run waits for itself",
    why: "Runs and jobs of the same concurrency group wait for each other. A run holds its group until its last job has ended: a \
          job of it, or of a pipeline that it calls, in the same group waits for that end and so for itself. The forge ends the \
          run, and nothing is published.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
concurrency:
  group: ‹pages›
jobs:
  publish:
    runs-on: ubuntu-latest
    concurrency: «pages»
    steps:
      - run: npx gh-pages -d public
",
        r"
== .github/workflows/publish.yml
on: workflow_call
concurrency: «${{ github.workflow }}-${{ github.ref }}»
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
== pipeline
on: push
concurrency: ‹${{ github.workflow }}-${{ github.ref }}›
jobs:
  go:
    uses: ./.github/workflows/publish.yml
",
    ],
    good: &[
        r"
== pipeline
on: push
concurrency: site-${{ github.ref }}
jobs:
  build:
    runs-on: ubuntu-latest
    concurrency: pages
    steps:
      - run: echo ready
  publish:
    runs-on: ubuntu-latest
    concurrency: pages
    steps:
      - run: npx gh-pages -d public
",
        r"
== .github/workflows/publish.yml
on: workflow_call
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
== pipeline
on: push
concurrency: ${{ github.workflow }}
jobs:
  go:
    uses: ./.github/workflows/publish.yml
",
    ],
    check,
};

/// Calls in calls are followed this far, as far as forges follow them.
const DEPTH: usize = 4;
/// More calls are no honest run.
const CALLS: usize = 500;

fn check(case: &Case<'_>, out: &mut Findings) {
    // What calls it is looked at from there, with the lock of the caller.
    let held: Vec<&Lock> = case.pipeline.lock.iter().collect();
    let mut calls = CALLS;
    within(case, case.pipeline, &held, (DEPTH, &mut calls), out);
}

/// Looks at the jobs of a pipeline while some locks are held.
fn within<'c>(
    case: &Case<'c>,
    pipeline: &'c Pipeline,
    held: &[&'c Lock],
    (depth, calls): (usize, &mut usize),
    out: &mut Findings,
) {
    for job in &pipeline.jobs {
        if let Some(lock) = &job.lock {
            speak(
                case,
                held,
                lock,
                &format!("`{}` waits for the group that its own run holds, and never starts", job.id.value),
                out,
            );
        }
        let callee = job.call.as_ref().and_then(|call| case.project.callee(call)).filter(|_| depth > 0 && *calls > 0);
        let Some(callee) = callee.map(|index| &case.project.prepared[index].pipeline) else { continue };
        *calls -= 1;
        let mut inner: Vec<&Lock> = held.iter().copied().chain(&job.lock).collect();
        if let Some(lock) = &callee.lock {
            speak(
                case,
                &inner,
                lock,
                &format!("what `{}` calls waits for the group that its caller holds, and never starts", job.id.value),
                out,
            );
            inner.push(lock);
        }
        if !inner.is_empty() {
            within(case, callee, &inner, (depth - 1, calls), out);
        }
    }
}

fn speak(case: &Case<'_>, held: &[&Lock], lock: &Lock, message: &str, out: &mut Findings) {
    let differing = &case.pipeline.customs.differing_values;
    let Some(outer) = held.iter().find(|outer| is_same_group(outer, lock, differing)) else { return };
    out.add(lock.group.inner(), message)
        .witness(at(outer.group.inner()), "the run is in this group until its last job has ended")
        .mend(Mend::by_hand("give one of the two another group, or remove one of them"));
}

/// Whether two groups have the same name in one run. What differs from job to job, or is handed in, is not known.
/// Source: the format's page "Workflow syntax", `concurrency`; names of groups do not mind upper and lower case.
fn is_same_group(outer: &Lock, inner: &Lock, differing: &[&str]) -> bool {
    let (one, other) = (squeezed(&outer.group.value), squeezed(&inner.group.value));
    !one.is_empty() && one.eq_ignore_ascii_case(&other) && !differing.iter().any(|word| other.contains(word))
}

fn squeezed(text: &str) -> String {
    text.chars().filter(|c| !c.is_whitespace()).collect()
}
