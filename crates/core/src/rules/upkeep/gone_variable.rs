//! A variable that the run no longer sets.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::project::{Read, ReadIn};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.gone-variable",
    severity: Severity::Error,
    title: "A variable that is no longer set",
    why: "The forge used to set this variable, and stopped. What reads it gets nothing: a condition that compares it is never true, and \
          the job behind it never runs.",
    needs: &[],
    bad: &[r#"
== gitlab
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $«CI_BUILD_REF_NAME» == "main"
"#],
    good: &[r#"
== gitlab
variables:
  CI_BUILD_TAG: none
pages:
  script:
    - make public && echo '$CI_BUILD_ID' $CI_BUILD_TAG
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_REF_NAME == "main"
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let gone = &case.pipeline.customs.gone_variables;
    let mut spoken = Vec::new();
    for read in case.reads.iter().filter(|read| read.read == Read::Gone) {
        // Jobs that build on one another share their lines.
        if spoken.contains(&read.at) {
            continue;
        }
        spoken.push(read.at);
        let message = match read.within {
            ReadIn::Condition => format!("{} is never set, so this condition compares nothing", read.name),
            _ => format!("{} is empty when this runs: the forge no longer sets it", read.name),
        };
        let finding = out.add(read.at, message);
        let Some(instead) = gone.get(&read.name) else { continue };
        finding
            .witness(WitnessSource::Catalog, format!("{instead} has taken its place"))
            .mend(Mend::certain(format!("write {instead}"), [Edit::replace(read.at, *instead)]));
    }
}
