//! A file that is no YAML.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.unreadable",
    severity: Severity::Error,
    title: "The pipeline file cannot be read",
    why: "A file that is not well-formed is refused whole: no event starts it, nothing is built, and the site stays as it was. \
          Often the forge shows no more than that the file is invalid.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
jobs:
  build:
    name: Timetable«:» summer
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        "== pipeline\non: push\njobs:\n«\t»build: {}\n",
        r"
== gitlab
build:
  environment: timetable«:» summer
  script:
    - npm run build
",
    ],
    good: &[
        r"
== pipeline
on: push
jobs:
  build:
    name: 'Timetable: summer'
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== gitlab
build:
  environment: 'timetable: summer'
  script:
    - npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let (reason, mend) = match &issue.kind {
            FormIssueKind::Unreadable { reason } => {
                let line = case.sources.get(issue.at.file).position(issue.at.span.start).line;
                (reason, format!("mend line {line}, and check again: what follows it was not looked at"))
            }
            FormIssueKind::Refused { reason } => (reason, "put an ordinary text file in its place, or remove it".to_owned()),
            _ => continue,
        };
        out.add(issue.at, "this file cannot be read, so nothing in it ever runs")
            .witness(WitnessSource::Catalog, reason.clone())
            .mend(Mend::by_hand(mend));
    }
}
