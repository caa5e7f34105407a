//! A job that extends one which does not exist.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed_short};
use crate::form::FormIssueKind;
use crate::knowledge::{Among, near};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.absent-parent",
    severity: Severity::Error,
    title: "A job builds on one that does not exist",
    why: "A job can take its keys from another by its name. When there is none of that name, the forge refuses the whole file.",
    needs: &[],
    bad: &[r"
== gitlab
.site:
  script:
    - make
live:
  extends: «.sites»
"],
    good: &[r"
== gitlab
.site:
  script:
    - make
live:
  extends: [.site]
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.partial {
        return;
    }
    for issue in &case.prepared.form {
        let FormIssueKind::AbsentParent { name, known } = &issue.kind else { continue };
        let words: Vec<&str> = known.iter().map(String::as_str).collect();
        let finding = out.add(issue.at, format!("there is no job `{name}` to build on, so the forge refuses this file"));
        finding.witness(WitnessSource::Catalog, format!("the jobs here are {}", listed_short(&words)));
        finding.mend(match near(name, words.iter().copied(), Among::Whole) {
            Some(meant) => Mend::name(&meant, issue.at),
            None => Mend::by_hand("write the job that is meant, or add it"),
        });
    }
}
