//! A filter under an event that takes no such filter.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::form::FormIssueKind;
use crate::knowledge::Consequence;
use crate::model::FilterOf;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.stray-filter",
    severity: Severity::Warning,
    title: "An event has a filter that it does not take",
    why: "Each event takes only the filters of its kind: a pull request has a branch that it goes into and no tag, a start by \
          hand has neither. A filter in the wrong place is passed over, and the pipeline starts where nobody wanted it to.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  pull_request:
    «tags»: [v1]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"],
    good: &[
        r"
== .github/workflows/build.yml
name: Build
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  push:
    tags: [v1]
  pull_request:
    types: [opened]
    paths: [src/**]
  workflow_run:
    workflows: [Build]
    branches: [main]
jobs:
  a:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== pipeline
on:
  merge_group:
  repository_dispatch:
    types: [ferry]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.stray_filter == Consequence::Unknown {
        return;
    }
    for issue in &case.prepared.form {
        let FormIssueKind::StrayFilter { event, plain, key, of } = &issue.kind else { continue };
        let takes = case.pipeline.format.grammar().filters(event);
        let takes = if takes.is_empty() { "takes no filters".to_owned() } else { format!("takes {}", listed(&takes)) };
        let starts = match of {
            Some(FilterOf::Branches | FilterOf::Tags) if *plain => "for every branch and tag".to_owned(),
            Some(FilterOf::Branches | FilterOf::Tags) => format!("for every `{event}`"),
            Some(FilterOf::Paths) => "whatever was changed".to_owned(),
            None => "for every kind of it".to_owned(),
        };
        out.add(issue.at, format!("`{event}` takes no `{key}`, so this filters nothing: it starts {starts}"))
            .witness(WitnessSource::Catalog, format!("`{event}` {takes}"))
            .mend(Mend::by_hand(format!("remove `{key}` here, or move it under the event that it is meant for")));
    }
}
