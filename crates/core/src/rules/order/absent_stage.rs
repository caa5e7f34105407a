//! A job in a stage that does not exist.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::knowledge::{Among, near};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.absent-stage",
    severity: Severity::Error,
    title: "A job is in a stage that does not exist",
    why: "Stages run one after the other, in the order in which they are listed. A job in a stage that is not listed makes the \
          forge refuse the whole file.",
    needs: &[],
    bad: &[
        r"
== gitlab
stages: [‹build›, deploy]
site:
  stage: «biuld»
  script:
    - make
",
        r"
== .travis.yml
language: generic
stages: [‹check›, publish]
jobs:
  include:
    - stage: «publsh»
      script: make
",
    ],
    good: &[r"
== gitlab
stages: [build, deploy]
site:
  stage: build
  script:
    - make
last:
  stage: .post
  script:
    - make
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.partial {
        return;
    }
    let named: Option<Vec<&str>> =
        case.pipeline.stages.as_ref().map(|stages| stages.iter().map(|text| text.value.as_str()).collect());
    let usual = &case.pipeline.customs.usual_stages;
    // Where stages need not be listed, nothing but a slip of a listed one is worth a word.
    let refused = !usual.is_empty();
    let known = named.unwrap_or_else(|| usual.to_vec());
    for job in &case.pipeline.jobs {
        let Some(stage) = job.stage.as_ref().filter(|stage| !stage.value.contains('$')) else { continue };
        let is_known = |name: &str| known.iter().any(|known| *known == name || !refused && known.eq_ignore_ascii_case(name));
        if is_known(&stage.value) || matches!(stage.value.as_str(), ".pre" | ".post") {
            continue;
        }
        let meant = near(&stage.value, known.iter().copied(), Among::Whole);
        if !refused && !meant.as_ref().is_some_and(|meant| meant.sure) {
            continue;
        }
        let then = if refused { "so the forge refuses this file" } else { "so it comes after all that are listed" };
        let finding =
            out.add(stage.inner(), format!("`{}` is in the stage `{}`, which does not exist, {then}", job.id.value, stage.value));
        if !refused {
            finding.severity(Severity::Warning);
        }
        match case.pipeline.stages.as_ref().and_then(|stages| stages.first()) {
            Some(first) => finding.witness(at(first.at), format!("the stages are {}", listed(&known))),
            None => finding.witness(WitnessSource::Catalog, format!("where no stages are listed, they are {}", listed(&known))),
        };
        finding.mend(match meant {
            Some(meant) => Mend::name(&meant, stage.inner()),
            None => pen::write(case, &Ask::ListStage),
        });
    }
}
