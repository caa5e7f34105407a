//! A word for yes or no that is only a word.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.yes-no-trap",
    severity: Severity::Error,
    title: "A word for yes or no that is only a word",
    why: "The format knows only `true` and `false`. The words yes, no, on and off are texts like any other, and where one of the \
          two values is wanted the forge refuses the file.",
    needs: &[],
    bad: &[r"
== pipeline
on: push
concurrency:
  group: pages
  cancel-in-progress: «yes»
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
        continue-on-error: «off»
"],
    good: &[r"
== pipeline
on: push
concurrency:
  group: pages-${{ github.ref }}
  cancel-in-progress: true
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
        continue-on-error: ${{ github.ref != 'refs/heads/main' }}
        env: {WINTER: yes}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::YesNoTrap { written, meant, key } = &issue.kind else { continue };
        out.add(issue.at, format!("`{written}` is only a word here, {}", super::REFUSED))
            .witness(WitnessSource::Catalog, format!("`{key}` takes true or false"))
            .mend(Mend::certain(format!("write {meant}"), [Edit::replace(issue.at, *meant)]));
    }
}
