//! A value of another shape than its key takes.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.wrong-shape",
    severity: Severity::Error,
    title: "A value of another shape than its key takes",
    why: "Some keys take one word, some a list (lines with `-`), some further keys. Where the shape is wrong the forge refuses \
          the whole file: nothing runs, and the site stays as it was.",
    needs: &[],
    bad: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      «run: npm ci»
",
        r"
== gitlab
pages:
  stage: «[deploy]»
  script:
    - make public
",
        r#"
== gitlab
build:
  script:
    - «echo "built: $CI_COMMIT_SHORT_SHA"»
    - npm run build
"#,
        r"
== .travis.yml
language: generic
script: make
deploy: «s3»
",
        r#"
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Send"
      type: "«SFPT»"
      local_path: "dist"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
    ],
    good: &[
        r#"
== gitlab
build:
  script:
    - 'echo "built: $CI_COMMIT_SHORT_SHA"'
    - npm run build
"#,
        r"
== pipeline
on:
  push:
    branches: main
concurrency: pages
jobs:
  build:
    runs-on: [self-hosted, linux]
    timeout-minutes: ${{ vars.LIMIT }}
    continue-on-error: ${{ matrix.may-fail }}
    needs: []
    strategy: {matrix: {may-fail: [true, false]}}
    container: node:22
    environment: {name: production}
    steps:
      - run: npm ci
        timeout-minutes: 5
        continue-on-error: true
        env: ${{ fromJSON(vars.ENV) }}
",
        r"
== gitlab
pages:
  stage: deploy
  script:
    - make public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::WrongShape { key, found, wanted, instead } = &issue.kind else { continue };
        let key = if key.contains(' ') { key.clone() } else { format!("`{key}`") };
        out.add(issue.at, format!("{key} is given {found}, {}", super::wrong_shape_leads_to(case)))
            .witness(WitnessSource::Catalog, format!("{key} takes {wanted}"))
            .mend(match instead {
                Some(instead) => Mend::name(instead, issue.at),
                None => Mend::by_hand(format!("write {wanted}{}", hint(wanted))),
            });
    }
}

fn hint(wanted: &str) -> &'static str {
    if wanted == "a list" { ": each line starts with `- `" } else { "" }
}
