//! A key that its place does not take.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed, listed_short};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.unknown-key",
    severity: Severity::Error,
    title: "A key that this place does not take",
    why: "The format knows a fixed set of keys in each place. One key too many, or one letter wrong, and the forge refuses the \
          whole file: nothing runs, and the site stays as it was.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
jobs:
  build:
    «runs_on»: ubuntu-latest
    steps:
      - run: npm ci
",
        r"
== gitlab
site:
  «scripts»: [make]
",
        r"
== .travis.yml
language: generic
«before_instal»: ./pier
script: make
",
        r#"
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      «excute_commands»:
        - "make"
"#,
    ],
    good: &[
        r"
== pipeline
on:
  push:
    branches: [main]
jobs:
  build:
    runs-on: ubuntu-latest
    env: {ANY_NAME: 1}
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
",
        r"
== pipeline
'on': {push: }
jobs: {build: {runs-on: [self-hosted, linux], steps: [{uses: a/b@v1, with: {anything: 1}}]}}
",
        r"
== gitlab
site:
  script:
    - make
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::UnknownKey { key, within, known, meant, belongs, of_event } = &issue.kind else { continue };
        // What stands under an event is not looked at before the event comes.
        let effect = if *of_event { "so it counts for nothing" } else { super::unknown_key_leads_to(case) };
        let finding = out.add(issue.at, format!("`{key}` is not a key of {within}, {effect}"));
        let harmless = *of_event || !case.pipeline.customs.wrong_key.is_refused();
        if harmless && !meant.as_ref().is_some_and(|meant| meant.sure || *of_event) {
            finding.severity(Severity::Warning);
        }
        let elsewhere = if belongs.is_empty() { String::new() } else { format!("; `{key}` is a key of {}", listed(belongs)) };
        finding.witness(WitnessSource::Catalog, format!("{within} takes {}{elsewhere}", listed_short(known)));
        finding.mend(match (meant, belongs.as_slice()) {
            (Some(meant), _) => Mend::name(meant, issue.at),
            (None, [place]) => Mend::by_hand(format!("move `{key}` to {place}, or remove it")),
            (None, _) => Mend::by_hand(format!("remove `{key}`, or write the key that is meant")),
        });
    }
}
