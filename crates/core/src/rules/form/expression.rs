//! An expression that does not parse.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.expression",
    severity: Severity::Error,
    title: "An expression that cannot be read",
    why: "What stands in `${{ }}`, and every `if`, is an expression with rules of its own. One that cannot be read makes the \
          forge refuse the whole file: nothing runs, and the site stays as it was.",
    needs: &[],
    bad: &[
        r"
== steps
      - run: echo ${{ github.ref «=» 'x' }}
",
        r#"
== gitlab
pages:
  script:
    - make public
  rules:
    - if: $CI_COMMIT_BRANCH «=» "main"
"#,
        r"
== .travis.yml
language: generic
if: «$TRAVIS_BRANCH» = main
script: make
",
    ],
    good: &[
        r#"
== steps
      - run: echo ${{ github.ref == 'refs/heads/main' && 'it''s live' || 'not' }} ${HOME} {{ page }} $(date)
        if: ${{ !cancelled() && (github.event_name != 'schedule' || github.run_number > 0x10) }}
      - run: echo "${{ '}}' }}" ${{ toJSON(github.event.commits.*.id) }} ${{ github['ref_name'] }}
"#,
        r#"
== gitlab
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: ($CI_COMMIT_BRANCH == "main" || $CI_COMMIT_TAG =~ /^v\d+/) && $CI_PIPELINE_SOURCE != "schedule"
"#,
        r"
== .travis.yml
language: generic
if: branch = main AND NOT fork
script: make
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::Expression { reason, quotes: false, .. } = &issue.kind else { continue };
        let leads_to = match case.pipeline.customs.wrong_key.is_refused() {
            true => super::REFUSED,
            false => "so what waits for it does not run",
        };
        out.add(issue.at, format!("this expression cannot be read, {leads_to}"))
            .witness(WitnessSource::Catalog, reason.clone())
            .mend(Mend::by_hand("mend the expression here"));
    }
}
