//! A key that the format keeps for old files only.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.ageing-key",
    severity: Severity::Advice,
    title: "A key that the format no longer develops",
    why: "Some keys still work and are kept for old files only. What was added since can do more, and examples are no longer \
          written with the old ones.",
    needs: &[],
    bad: &[r"
== gitlab
site:
  script:
    - make
  «only»: [main]
"],
    good: &[r#"
== gitlab
site:
  script:
    - make
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // One word for the whole file is enough.
    let ageing = case.prepared.form.iter().find_map(|issue| match &issue.kind {
        FormIssueKind::AgeingKey { key, instead } => Some((issue.at, key, instead)),
        _ => None,
    });
    if let Some((place, key, instead)) = ageing {
        out.add(place, format!("`{key}` still works, and is kept for old files only"))
            .witness(WitnessSource::Catalog, format!("new files are written with `{instead}`"))
            .mend(Mend::by_hand(format!("write `{instead}` when you change this job next")));
    }
}
