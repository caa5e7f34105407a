//! A key that stands twice in one place.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::form::FormIssueKind;
use crate::knowledge::Consequence;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.repeated-key",
    severity: Severity::Error,
    title: "A key stands twice in one place",
    why: "Each key may stand once in a place. Twice, as after two pasted examples, and the forge refuses the whole file or \
          silently keeps only one of the two.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
‹env›: {A: 1}
«env»: {B: 2}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
",
        r"
== gitlab
pages:
  ‹script›:
    - npm ci
  «script»:
    - npm run build
",
        r"
== .travis.yml
language: generic
‹script›: make
«script»: make site
",
    ],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    env: {A: 1}
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
        env: {A: 2}
      - run: npm run build
",
        r"
== gitlab
pages:
  script:
    - npm ci
    - npm run build -- --outDir public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::RepeatedKey { key, first } = &issue.kind else { continue };
        let effect = match case.pipeline.customs.repeated_key {
            Consequence::Refused => super::REFUSED,
            Consequence::PassedOver | Consequence::Unknown => "and only one of the two counts",
        };
        out.add(issue.at, format!("`{key}` stands twice here, {effect}"))
            .witness(at(*first), "it stands here first")
            .mend(Mend::by_hand(format!("join the two into one `{key}`, or make two places of them, such as two steps")));
    }
}
