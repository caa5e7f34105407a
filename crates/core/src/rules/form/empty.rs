//! A pipeline file, or a part of it, with nothing in it.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.empty",
    severity: Severity::Error,
    title: "The pipeline file, or a part of it, is empty",
    why: "A file without triggers and jobs starts nothing, and a key with nothing under it makes the forge refuse the whole \
          file. Often the lines that belong there have slipped to the left and now stand beside the key.",
    needs: &[],
    bad: &[
        r"
== pipeline
«»# to be written
",
        r"
== gitlab
timetable:
  «script»:
  artifacts:
    paths: [public]
",
    ],
    good: &[
        r"
== gitlab
timetable:
  before_script:
  script:
    - npm run build
  dependencies:
",
        r"
== steps
      - uses: actions/checkout@v5
      - run: npm ci
",
        r"
== pipeline
on:
  push:
  workflow_dispatch:
env:
permissions:
jobs:
  build:
    runs-on: ubuntu-latest
    env:
      BASE:
    steps:
      - uses: actions/checkout@v5
      - name:
        run: npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::Empty { key, wanted, open } = &issue.kind else { continue };
        match key {
            None => out
                .add(issue.at, "nothing is in this file, so nothing ever runs")
                .witness(WitnessSource::Catalog, "a pipeline file says what starts it and what its jobs do")
                .mend(Mend::by_hand("write the pipeline, or remove the file")),
            Some(key) if *open => out
                .add(issue.at, format!("nothing stands under `{key}`, and what that means is not documented"))
                .severity(Severity::Warning)
                .witness(WitnessSource::Catalog, format!("`{key}` takes {wanted}"))
                .mend(Mend::by_hand(format!("write what belongs under `{key}`, or remove the key"))),
            Some(key) => out
                .add(issue.at, format!("nothing stands under `{key}`, {}", super::REFUSED))
                .witness(WitnessSource::Catalog, format!("`{key}` takes {wanted}"))
                .mend(Mend::by_hand(format!("write what belongs under `{key}`, indented further than it, or remove the key"))),
        };
    }
}
