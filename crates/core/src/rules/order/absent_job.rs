//! A job that waits for one that does not exist.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, listed_short};
use crate::knowledge::{Among, Meant, near};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.absent-job",
    severity: Severity::Error,
    title: "A job waits for a job that does not exist",
    why: "The forge refuses a file in which a job waits for one it cannot find: no job of it runs.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
jobs:
  ‹build›:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
  publish:
    needs: [«biuld»]
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== gitlab
‹build›:
  stage: build
  script:
    - make
live:
  stage: deploy
  needs: [«biuld»]
  script:
    - make live
",
    ],
    good: &[
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
  publish:
    needs: Build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ls
",
        r"
== gitlab
build:
  stage: build
  script:
    - make
live:
  stage: deploy
  needs: [build]
  script:
    - make live
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in &case.pipeline.jobs {
        for need in job.needs.iter().chain(&job.takes_from).chain(&job.slipped_needs) {
            let Some(name) = need.known().filter(|name| case.pipeline.job(name).is_none()) else { continue };
            let ids: Vec<&str> = case.pipeline.jobs.iter().map(|other| other.id.value.as_str()).collect();
            let others: Vec<&str> = ids.iter().copied().filter(|id| *id != job.id.value).collect();
            // One that it waits for already is not what is meant.
            let waits = |id: &str| job.needs.iter().any(|other| other.value == id && other.at != need.at);
            let free = others.iter().copied().filter(|id| !waits(id));
            let meant = near(name, free, Among::Whole).or_else(|| Meant::only_of(&others));
            let shown = meant.as_ref().map(|meant| meant.word.as_str()).or(ids.first().copied());
            let witness = shown.and_then(|id| case.pipeline.job(id)).map(|index| case.pipeline.jobs[index].id.at);
            let does = if job.takes_from.iter().all(|one| one.at != need.at) { "waits for" } else { "takes the artifacts of" };
            let message =
                format!("`{}` {does} `{name}`, which is no job, so this file is refused and nothing in it runs", job.id.value);
            let finding = out.add(need.inner(), message);
            if let Some(at) = witness {
                finding.witness(crate::case::at(at), format!("the jobs of this file are {}", listed_short(&ids)));
            }
            finding.mend(match meant {
                Some(meant) => Mend::name(&meant, need.inner()),
                None => Mend::by_hand("write the job that it has to wait for, or remove this"),
            });
        }
    }
}
