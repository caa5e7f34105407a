//! A pipeline file where no forge reads it.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::formats::is_read;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.misplaced",
    severity: Severity::Error,
    title: "A pipeline file where no forge reads it",
    why: "A forge reads pipeline files only from one folder, or under one name. A file beside it is never an error: it is simply \
          never read, and nothing that it says ever happens.",
    needs: &[],
    bad: &[r"
== .github/workflow/site.yml
«»on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"],
    good: &[r"
== .github/workflows/site.yml
on: push
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
        let FormIssueKind::Misplaced { wanted, reason, moved } = &issue.kind else { continue };
        let read_elsewhere = || case.facts.files.known().is_none_or(|files| files.any("read as a pipeline", is_read));
        if *moved && read_elsewhere() {
            continue;
        }
        let finding = out.add(issue.at, "this pipeline file is never read, so nothing in it ever runs");
        if *moved && case.pipeline.customs.path_is_a_setting {
            finding.severity(Severity::Warning);
        }
        for (caller, job) in case.project.callers(case.index) {
            if let Some(call) = &case.project.prepared[*caller].pipeline.jobs[*job].call {
                finding.witness(at(call.target.inner()), "this calls it, and the forge refuses the call");
            }
        }
        finding.witness(WitnessSource::Catalog, reason.clone()).mend(Mend::by_hand(format!("move it to {wanted}")));
    }
}
