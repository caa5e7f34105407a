//! All secrets handed to a called pipeline that reads one.

use crate::case::{Case, at, secrets_read};
use crate::finding::{Findings, Mend, Severity};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.handed-whole",
    severity: Severity::Advice,
    title: "All secrets are handed to a pipeline that reads one",
    why: "With everything handed on, each step of the called pipeline could read every secret there is. Named one by one, it is \
          plain what it gets.",
    needs: &[],
    bad: &[r"
== .github/workflows/publish.yml
on: ‹workflow_call›
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ./publish ${{ secrets.HOST_KEY }}
== jobs
  build:
    uses: «./.github/workflows/publish.yml»
    secrets: inherit
"],
    good: &[
        r"
== .github/workflows/publish.yml
on: workflow_call
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ./publish ${{ secrets.HOST_KEY }} ${{ secrets.OTHER }}
== jobs
  build:
    uses: ./.github/workflows/publish.yml
    secrets: inherit
",
        r"
== jobs
  build:
    uses: ferry/tools/.github/workflows/publish.yml@v1
    secrets: inherit
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for call in case.pipeline.jobs.iter().filter_map(|job| job.call.as_ref()).filter(|call| call.all_secrets) {
        let Some(index) = case.project.callee(call) else { continue };
        let callee = case.project.case(index);
        let calls_on = callee.pipeline.jobs.iter().any(|job| job.call.is_some() || job.environment.is_some());
        let mut read = secrets_read(&callee);
        read.sort_unstable();
        read.dedup();
        let Some(trigger) = callee.pipeline.triggers.iter().find(|trigger| trigger.event == crate::model::Event::Called) else {
            continue;
        };
        if calls_on || read.len() > 1 {
            continue;
        }
        let (message, mend) = match read.first() {
            Some(name) => (
                format!("all secrets are handed on, and the called pipeline reads {name} only"),
                Mend::by_hand(format!("hand {name} on by its name")),
            ),
            None => (
                "all secrets are handed on, and the called pipeline reads none".to_owned(),
                pen::write(case, &Ask::HandNoSecrets),
            ),
        };
        out.add(call.target.inner(), message).witness(at(trigger.name.at), "this pipeline gets them").mend(mend);
    }
}
