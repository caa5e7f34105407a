//! A key that its place needs.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.missing-key",
    severity: Severity::Error,
    title: "A key that this place needs is missing",
    why: "Without the key the forge cannot know what starts the file, on which machine a job runs, or what a step does. It \
          refuses the whole file: nothing runs, and the site stays as it was.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
jobs:
  «build»:
    steps:
      - run: npm ci
",
        r"
== gitlab
«site»:
  stage: build
",
        r"
== .travis.yml
language: generic
script: make
«deploy»:
  bucket: tarnsay-timetable
",
        r#"
== buddy.yml
- pipeline: "Timetable"
  events:
    - «type»: "PUSH"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "make"
"#,
    ],
    good: &[
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
  publish:
    uses: ./.github/workflows/publish.yml
",
        r"
== gitlab
site:
  stage: build
  script:
    - make
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::MissingKey { keys, within } = &issue.kind else { continue };
        let wanted = keys.iter().map(|key| format!("`{key}`")).collect::<Vec<_>>().join(" or ");
        out.add(issue.at, format!("{within} has no {wanted}, {}", super::wrong_shape_leads_to(case)))
            .witness(WitnessSource::Catalog, purpose(case, keys.first().map_or("", String::as_str)))
            .mend(Mend::by_hand(format!("add {wanted}")));
    }
}

/// What a key that must be there is for.
fn purpose(case: &Case<'_>, key: &str) -> String {
    case.pipeline.customs.purposes.get(key).map_or_else(|| format!("the format needs `{key}` here"), |why| (*why).to_owned())
}
