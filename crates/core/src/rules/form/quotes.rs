//! Double quotes in an expression.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.quotes",
    severity: Severity::Error,
    title: "Double quotes in an expression",
    why: "Texts in an expression stand in single quotes. A double quote there makes the forge refuse the whole file.",
    needs: &[],
    bad: &[r#"
== steps
      - run: npm ci
        if: «github.ref == "refs/heads/main"»
"#],
    good: &[r#"
== steps
      - uses: actions/checkout@v5
      - run: npm ci
        if: "github.ref == 'refs/heads/main'"
      - run: echo "${{ github.ref_name == 'main' }}"
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::Expression { quotes: true, instead, .. } = &issue.kind else { continue };
        out.add(issue.at, format!("this expression has a text in double quotes, {}", super::REFUSED))
            .witness(WitnessSource::Catalog, "texts in an expression stand in single quotes")
            .mend(match instead {
                Some(text) => Mend::certain("write single quotes", [Edit::replace(issue.at, text.clone())]),
                None => Mend::by_hand("write single quotes; one inside a text is doubled"),
            });
    }
}
