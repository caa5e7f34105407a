//! A condition that is always true by mistake.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "form.fixed-condition",
    severity: Severity::Error,
    title: "A condition that is always true",
    why: "An `if` is already an expression. With braces round a part of it, that part is filled into a text, and a text that is \
          not empty counts as true: the step runs always, and a publish that was meant for one branch runs on every one.",
    needs: &[],
    bad: &[r"
== steps
      - run: npm run publish
        if: «${{ github.ref }} == 'refs/heads/main'»
"],
    good: &[r#"
== steps
      - run: npm run publish
        if: ${{ github.ref == 'refs/heads/main' }}
      - run: npm ci
        if: " ${{ always() }} "
      - run: npm ci
        if: github.ref == 'refs/heads/main'
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::FixedCondition { instead, reason } = &issue.kind else { continue };
        out.add(issue.at, "this condition is always true, whatever the values are")
            .witness(WitnessSource::Catalog, reason.clone())
            .mend(match instead {
                Some(text) => mend(case, issue.at, text),
                None => Mend::by_hand("put the whole condition inside the braces, or write it without any"),
            });
    }
}

/// Once the condition asks, it has to be able to hold: what reads a name that is always empty may then never run.
fn mend(case: &Case<'_>, place: Place, text: &str) -> Mend {
    let reads_nothing = case.prepared.form.iter().any(|issue| {
        matches!(issue.kind, FormIssueKind::UnknownName { among, .. } if among.read_as_empty()) && place.holds(issue.at)
    });
    let (title, edit) = (format!("write {text}"), [Edit::replace(place, text)]);
    if reads_nothing { Mend::likely(title, edit) } else { Mend::certain(title, edit) }
}
