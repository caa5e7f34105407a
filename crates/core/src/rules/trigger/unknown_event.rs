//! An event that the format does not know.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.unknown-event",
    severity: Severity::Error,
    title: "The pipeline waits for an event that does not exist",
    why: "The forge refuses a file that names an event it does not know. None of its other events starts it either.",
    needs: &[],
    bad: &[r"
== pipeline
on: [push, «pull-request»]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"],
    good: &[r"
== pipeline
on:
  push:
  pull_request:
  workflow_dispatch:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::UnknownEvent { name, meant } = &issue.kind else { continue };
        let finding = out.add(issue.at, format!("there is no event `{name}`, so this file is refused and nothing in it runs"));
        finding.witness(
            WitnessSource::Catalog,
            format!("events that people use for a site are {}", case.pipeline.customs.usual_events),
        );
        finding.mend(match meant {
            Some(meant) => Mend::name(meant, issue.at),
            None => Mend::by_hand("write the event that is meant, or remove it"),
        });
    }
}
