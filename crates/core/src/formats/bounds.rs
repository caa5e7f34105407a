//! How much a file may hold. What is looked at for every event and by every rule costs more than what is only read, and beyond these
//! numbers, which nobody writes by hand, it would take more than the two seconds that somebody waits.

use crate::form::{Beyond, FormIssue, FormIssueKind};
use crate::model::{Pipeline, Work};
use crate::text::Place;

/// Of a file.
const JOBS: usize = 10_000;
/// Of all jobs of a file.
const STEPS: usize = 25_000;
/// Of one list, of which the first that fits decides: it is gone through for every event.
const CHOICES: usize = 1_000;
/// Of one block.
const VARIABLES: usize = 5_000;

/// The first kind of thing of which the pipelines of a file hold more than is looked at.
pub(super) fn beyond(pipelines: &[Pipeline]) -> Option<FormIssue> {
    let jobs = || pipelines.iter().flat_map(|pipeline| &pipeline.jobs);
    let steps = || jobs().flat_map(|job| &job.steps).filter(|step| !matches!(step.work, Work::ByItself(_)));
    let mut lists = pipelines.iter().map(|pipeline| &pipeline.choices).chain(jobs().map(|job| &job.when.choices));
    let of_pipelines = pipelines.iter().map(|pipeline| &pipeline.variables).chain(jobs().map(|job| &job.variables));
    let mut blocks = of_pipelines.chain(steps().map(|step| &step.variables));
    counted("jobs", JOBS, jobs().map(|job| job.id.at))
        .or_else(|| counted("steps", STEPS, steps().map(|step| step.at)))
        .or_else(|| lists.find_map(|list| counted("rules for one decision", CHOICES, list.iter().map(|choice| choice.at))))
        .or_else(|| {
            blocks.find_map(|block| counted("variables in one place", VARIABLES, block.entries.iter().map(|(name, _)| name.at)))
        })
}

/// Where more of something stand than a limit; the place is that of the first beyond it.
fn counted(what: &'static str, limit: usize, mut places: impl Iterator<Item = Place>) -> Option<FormIssue> {
    let at = places.nth(limit)?;
    let held = limit + 1 + places.count();
    Some(FormIssue { at, kind: FormIssueKind::Beyond(Beyond { what, limit, held }) })
}
