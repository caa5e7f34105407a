//! A version that is read as a shorter number.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.number-trap",
    severity: Severity::Error,
    title: "A version that is read as a shorter number",
    why: "Without quotes, 3.10 is a number, and the number 3.10 is 3.1. The set-up step then fetches a version that nobody asked \
          for, or finds none and fails.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/setup-python@v5
        with:
          python-version: «3.10»
",
        r"
== gitlab
build:
  variables:
    PYTHON: «3.10»
  script:
    - make public
",
        r"
== .travis.yml
language: python
python: «3.10»
script: make
",
    ],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix: {node: ['22.10', 24.1, 24.0]}
    steps:
      - uses: actions/setup-python@v5
        with: {python-version: '3.12'}
      - uses: actions/setup-node@v4
        with: {node-version: 24.10.0}
      - run: sleep 1
        env: {RATE: 1.50}
",
        r#"
== gitlab
build:
  variables:
    PYTHON: "3.10"
  script:
    - make public
"#,
        r"
== .travis.yml
language: python
python: '3.13'
install: skip
script: make
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::NumberTrap { written, read } = &issue.kind else { continue };
        out.add(issue.at, format!("the version {written} is read as {read}"))
            .witness(WitnessSource::Catalog, format!("without quotes it is a number, and as a number {written} is {read}"))
            .mend(Mend::certain(format!("put quotes round it: '{written}'"), [Edit::replace(issue.at, format!("'{written}'"))]));
    }
}
