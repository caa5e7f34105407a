//! The folder of the forge's pages is handed on, and nothing puts it online.

use crate::case::Case;
use crate::effects::StepEffects;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.no-pages-job",
    severity: Severity::Warning,
    title: "The site is handed on, and nothing puts it online",
    why: "The forge puts the folder of one job online: the one that is called `pages`, or that has the key of this name. Any other \
          job keeps its folder as an artifact for a while. It is green, and nothing is published.",
    needs: &[],
    bad: &[r"
== gitlab
build:
  stage: build
  script:
    - npx vite build --outDir public
  artifacts: {paths: [public]}
deploy-site:
  stage: deploy
  script:
    - ls public
  artifacts: {paths: [«public»]}
"],
    good: &[
        r"
== gitlab
pages:
  resource_group: pages
  script:
    - npx vite build --outDir public
  artifacts: {paths: [public]}
",
        r"
== gitlab
deploy-site:
  resource_group: pages
  pages: true
  script:
    - npx vite build --outDir public
  artifacts: {paths: [public]}
",
        // Somebody else takes it.
        r"
== gitlab
deploy-site:
  stage: build
  script:
    - npx vite build --outDir public
  artifacts: {paths: [public]}
send:
  stage: deploy
  script:
    - ./send public
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(folder) = case.pipeline.customs.pages_folder else { return };
    let publishes =
        case.project.prepared.iter().enumerate().any(|(index, _)| case.project.case(index).published().next().is_some());
    if publishes || case.pipeline.is_part || case.pipeline.partial || case.pipeline.jobs.iter().any(|job| job.call.is_some()) {
        return;
    }
    for handover in case.trail.handovers.iter().filter(|one| one.path.folder.as_deref() == Some(folder)) {
        let job = &case.pipeline.jobs[handover.job];
        let words = ["page", "deploy", "publish", "site"];
        let is_meant = job.stage.as_ref().is_some_and(|stage| stage.value.contains("deploy"))
            && words.iter().any(|word| job.id.value.to_ascii_lowercase().contains(word));
        // Whoever follows may put it online in a way that nobody here knows.
        let follows = |other: usize| case.pipeline.waits_for(other, handover.job);
        let sends = |effects: &StepEffects| effects.may_do_anything() || effects.calls.iter().any(|(name, _)| name != "git");
        if !is_meant || case.effects.jobs[handover.job].iter().any(sends) || (0..case.pipeline.jobs.len()).any(follows) {
            continue;
        }
        let id = case.job_name(handover.job);
        out.add(handover.path.at, format!("`{id}` hands on `{folder}`, and nothing puts it online"))
            .witness(
                WitnessSource::Catalog,
                "the forge publishes the folder of a job that is called `pages`, or has the key `pages`",
            )
            .mend(pen::write(case, &Ask::MakePages { job: handover.job }));
    }
}
