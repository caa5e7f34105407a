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
    bad: &[r"
== gitlab
stages: [‹build›, deploy]
site:
  stage: «biuld»
  script:
    - make
"],
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

/// The stages where a file names none.
const USUAL: [&str; 3] = ["build", "test", "deploy"];

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.partial {
        return;
    }
    let named: Option<Vec<&str>> =
        case.pipeline.stages.as_ref().map(|stages| stages.iter().map(|text| text.value.as_str()).collect());
    let known = named.unwrap_or_else(|| USUAL.to_vec());
    for job in &case.pipeline.jobs {
        let Some(stage) = job.stage.as_ref().filter(|stage| !stage.value.contains('$')) else { continue };
        if known.contains(&stage.value.as_str()) || matches!(stage.value.as_str(), ".pre" | ".post") {
            continue;
        }
        let finding = out.add(
            stage.inner(),
            format!("`{}` is in the stage `{}`, which does not exist, so the forge refuses this file", job.id.value, stage.value),
        );
        match case.pipeline.stages.as_ref().and_then(|stages| stages.first()) {
            Some(first) => finding.witness(at(first.at), format!("the stages are {}", listed(&known))),
            None => finding.witness(WitnessSource::Catalog, format!("where no stages are listed, they are {}", listed(&known))),
        };
        finding.mend(match near(&stage.value, known.iter().copied(), Among::Whole) {
            Some(meant) => Mend::name(&meant, stage.inner()),
            None => pen::write(case, &Ask::ListStage),
        });
    }
}
