//! Pages that are put into their folder and not handed on.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.left-out",
    severity: Severity::Error,
    title: "The published folder is not among what the job hands on",
    why: "The forge takes its pages from what the job hands on. When the folder is not listed there, the job is green and \
          nothing goes online.",
    needs: &[],
    bad: &[r"
== gitlab
«pages»:
  script:
    - mkdocs build -d public
"],
    good: &[r"
== gitlab
pages:
  script:
    - mkdocs build -d public
  artifacts:
    paths: [public/]
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        if job.needs_unknown && case.pipeline.partial {
            continue;
        }
        for (_, published) in case.effects.of_job(index) {
            let Effect::Publish { folder: Some(folder), needs_hand_on: true, .. } = &published.effect else { continue };
            let Some(wanted) = folder.folder.as_deref() else { continue };
            let paths: Vec<_> = case
                .effects
                .of_job(index)
                .filter_map(|(_, effect)| match &effect.effect {
                    Effect::Upload { paths, .. } => Some(paths),
                    _ => None,
                })
                .flatten()
                .collect();
            let covers = |path: &&crate::effects::UploadPath| {
                path.folder.as_deref().is_none_or(|folder| {
                    folder.is_empty()
                        || wanted == folder
                        || wanted.starts_with(&format!("{folder}/"))
                        || folder.starts_with(&format!("{wanted}/"))
                })
            };
            if paths.iter().any(covers) {
                continue;
            }
            let finding = out.add(
                folder.at,
                format!("`{}` puts nothing online: the folder `{wanted}` is not among what it hands on", job.id.value),
            );
            match paths.first() {
                Some(path) => finding.witness(at(path.at), "this is handed on"),
                None => finding.witness(WitnessSource::Catalog, "the job hands nothing on"),
            };
            finding.mend(pen::write(case, &Ask::HandOn { folder: wanted, job: index }));
        }
    }
}
