//! A publishing job without a time limit.

use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;

use super::made_by_some_event;

pub const RULE: Rule = Rule {
    id: "order.unbounded",
    severity: Severity::Advice,
    title: "A job that publishes has no time limit",
    why: "A transfer that hangs keeps its job, and everything that waits for the lock, for hours: the forge's own limit is six. \
          A site is published in minutes.",
    needs: &[],
    bad: &[r"
== git
main default
== jobs
  «publish»:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
"],
    good: &[r"
== git
main default
== jobs
  publish:
    timeout-minutes: 10
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let limit = &case.pipeline.customs.usual_limit;
    // An hour is bearable.
    let short = case.pipeline.customs.usual_minutes.is_some_and(|minutes| minutes <= 60);
    let unlimited = case.pipeline.customs.unlimited;
    if limit.is_empty() && !unlimited || short {
        return;
    }
    // The hand-over to the forge's own pages gives up by itself after minutes.
    let by_transfer = made_by_some_event(case).into_iter().filter(|published| !published.is_forge_pages());
    let mut jobs: Vec<usize> = by_transfer.map(|published| published.job).collect();
    jobs.dedup();
    for index in jobs {
        let job = &case.pipeline.jobs[index];
        if job.time_limit.is_some() {
            continue;
        }
        out.add(job.id.at, format!("`{}` publishes and may run for hours when something hangs", job.id.value))
            .witness(
                WitnessSource::Catalog,
                match unlimited {
                    true => "without a limit of its own, nothing stops it".to_owned(),
                    false => format!("without a limit of its own, a job is stopped after {limit}"),
                },
            )
            .mend(pen::write(case, &Ask::Limit { job: index }));
    }
}
