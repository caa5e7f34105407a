//! A reference to a key of another job that does not have it.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed_short};
use crate::form::FormIssueKind;
use crate::knowledge::nearest;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.absent-reference",
    severity: Severity::Error,
    title: "A reference leads to nothing",
    why: "With `!reference` a job takes a part of another one. When that part, or the job itself, does not exist, the forge refuses the \
          whole file and nothing runs.",
    needs: &[],
    bad: &[r"
== gitlab
.packages:
  before_script:
    - npm ci
pages:
  before_script:
    - !reference «[.packages, setup]»
  script:
    - npm run build
  artifacts:
    paths: [public]
"],
    good: &[r"
== gitlab
.packages:
  before_script:
    - npm ci
pages:
  before_script:
    - !reference [.packages, before_script]
  script:
    - npm run build
  artifacts:
    paths: [public]
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.partial {
        return;
    }
    for issue in &case.prepared.form {
        let FormIssueKind::AbsentReference { absent, within, known } = &issue.kind else { continue };
        let words: Vec<&str> = known.iter().map(String::as_str).collect();
        let message = match within {
            Some(job) => format!("`{job}` has no `{absent}` to refer to, {}", super::REFUSED),
            None => format!("there is no job `{absent}` to refer to, {}", super::REFUSED),
        };
        let finding = out.add(issue.at, message);
        finding.witness(
            WitnessSource::Catalog,
            match within {
                Some(job) => format!("`{job}` has {}", listed_short(&words)),
                None => format!("the jobs here are {}", listed_short(&words)),
            },
        );
        finding.mend(Mend::by_hand(match nearest(absent, words.iter().copied()) {
            Some(meant) => format!("write {meant}, or add what is missing"),
            None => "write the key that is meant, or add it".to_owned(),
        }));
    }
}
