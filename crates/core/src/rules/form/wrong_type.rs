//! A value of a kind that does not fit.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.wrong-type",
    severity: Severity::Error,
    title: "A value of a kind that does not fit",
    why: "Expressions tell texts, numbers and yes-or-no values apart. A comparison of two kinds is mostly false whatever they \
          hold, so that the step or job behind it never runs; a function with too few values makes the forge refuse the file.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  workflow_dispatch:
    inputs:
      live: {type: boolean}
jobs:
  build:
    runs-on: ubuntu-latest
    if: «inputs.live == 'true'»
    steps:
      - run: npm ci
"],
    good: &[r"
== pipeline
on:
  workflow_dispatch:
    inputs:
      live: {type: boolean}
      place: {type: string}
jobs:
  build:
    runs-on: ubuntu-latest
    if: inputs.live == true && github.event.inputs.live == 'true'
    steps:
      - id: look
        run: ./look ${{ join(github.event.commits.*.id, ',') }} ${{ toJSON(github) }}
      - run: npm ci
        if: inputs.place == 'true' && steps.look.outputs.changed == 'true' && fromJSON(steps.look.outputs.changed) == true
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::WrongType { reason } = &issue.kind else { continue };
        let (message, mend) = if reason.contains("equal") {
            ("this comparison is decided before anything runs".to_owned(), "compare with a value of the same kind")
        } else if reason.contains("Object") {
            (
                "this writes the word \"Object\" instead of a value".to_owned(),
                "name the one value that is meant, or write toJSON(…)",
            )
        } else {
            (format!("this function is given too few or too many values, {}", super::REFUSED), "give it the values that it takes")
        };
        out.add(issue.at, message).witness(WitnessSource::Catalog, reason.clone()).mend(Mend::by_hand(mend));
    }
}
