//! A context or function that is not available where it stands.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.out-of-place",
    severity: Severity::Error,
    title: "A value is read where it is not yet there",
    why: "Not every value is there everywhere: a job's name is fixed before its steps run, a whole file's variables before any \
          job starts. The forge refuses a file that reads a value where it cannot be.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    if: «env».LIVE == 'yes'
    steps:
      - run: npm ci
"],
    good: &[r"
== pipeline
on:
  push:
  workflow_dispatch:
    inputs:
      place: {type: string}
jobs:
  a:
    runs-on: ubuntu-latest
    steps:
      - run: ./look
  build:
    needs: a
    runs-on: ${{ matrix.os }}
    strategy: {matrix: {os: [ubuntu-latest]}}
    if: always() && needs.a.result == 'success' && vars.LIVE
    environment: {name: '${{ inputs.place }}', url: '${{ steps.x.outputs.y }}'}
    outputs: {a: '${{ steps.x.outputs.y }}'}
    concurrency: ${{ github.ref }}
    steps:
      - id: x
        run: ./x ${{ env.A }} ${{ hashFiles('**') }}
        env: {KEY: '${{ secrets.KEY }}'}
        if: failure() && env.A && hashFiles('a') != ''
      - run: ./y
        if: steps.x.outcome == 'failure'
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::OutOfPlace { name, function, available } = &issue.kind else { continue };
        // Of secrets a rule of their own speaks.
        if name.eq_ignore_ascii_case("secrets") {
            continue;
        }
        let what = if *function { format!("the function `{name}`") } else { format!("`{name}`") };
        out.add(issue.at, format!("{what} cannot be used here, {}", super::REFUSED))
            .witness(WitnessSource::Catalog, format!("here there are {}", listed(available)))
            .mend(Mend::by_hand(advice(name)));
    }
}

fn advice(name: &str) -> String {
    match name {
        "env" => "write the value itself, or keep it as a variable of the repository and read `vars`".to_owned(),
        "steps" | "job" | "runner" => "move this into a step, or into the job's outputs".to_owned(),
        "matrix" | "strategy" | "needs" => "move this into a job".to_owned(),
        "success" | "failure" | "always" | "cancelled" => "move this into an `if`".to_owned(),
        _ => "read something that is there".to_owned(),
    }
}
