//! Two keys that cannot stand together.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.exclusive-keys",
    severity: Severity::Error,
    title: "Two keys that cannot stand together",
    why: "A step either takes an action or runs commands, and a job either has steps or calls another pipeline. With both the \
          forge cannot tell what is meant and refuses the whole file.",
    needs: &[],
    bad: &[
        r"
== steps
      - ‹uses›: actions/checkout@v4
        «run»: npm ci
",
        r#"
== gitlab
pages:
  script:
    - make public
  ‹rules›:
    - if: $CI_COMMIT_BRANCH == "main"
  «only»: [main]
"#,
    ],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
        with: {path: site}
      - run: npm ci
        shell: bash
  publish:
    uses: ./.github/workflows/publish.yml
    with: {folder: dist}
    permissions: {contents: read}
    strategy: {matrix: {a: [1]}}
",
        r#"
== gitlab
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::ExclusiveKeys { one, first, other, within } = &issue.kind else { continue };
        out.add(issue.at, format!("{within} cannot have both `{one}` and `{other}`, {}", super::REFUSED))
            .witness(at(*first), format!("`{one}` stands here"))
            .mend(Mend::by_hand(match other.as_str() {
                "run" => "make two steps of it".to_owned(),
                "with" => "indent it below the step that it belongs to, or remove it".to_owned(),
                "steps" => format!("remove `{one}`, or move the steps into a job of their own"),
                _ => format!("remove `{other}`, or move it where it is read"),
            }));
    }
}
