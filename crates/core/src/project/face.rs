//! What other pipelines of a project can see of one, beside those that start it, are started by it, or run it.

use std::collections::BTreeSet;
use std::fmt::Debug;
use std::hash::{DefaultHasher, Hash, Hasher};

use super::Project;
use crate::effects::Effect;
use crate::rehearsal::{Answer, OccasionKind};

/// What can be seen of a pipeline from anywhere in its project. Two faces that are equal look the same to every rule.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Face {
    /// What every other pipeline may look at.
    everywhere: u64,
    /// What those look at that have caches; nothing where it has none.
    caches: Option<u64>,
    /// What those look at that keep runs apart; nothing where it does not.
    locks: Option<u64>,
    /// What those look at that publish to the same places.
    publishes: u64,
    /// The places that it publishes to.
    places: BTreeSet<String>,
}

impl Face {
    /// Whether findings of a pipeline that shows `other` may change when this face becomes `new`.
    pub fn matters_to(&self, new: &Self, other: &Self) -> bool {
        let shares = |places: &BTreeSet<String>| places.intersection(&other.places).next().is_some();
        self.everywhere != new.everywhere
            || (self.caches != new.caches && other.caches.is_some())
            || (self.locks != new.locks && other.locks.is_some())
            || ((self.publishes != new.publishes || self.places != new.places) && (shares(&self.places) || shares(&new.places)))
    }
}

fn hash_of(part: &impl Debug) -> u64 {
    let mut hasher = DefaultHasher::new();
    format!("{part:?}").hash(&mut hasher);
    hasher.finish()
}

impl Project<'_> {
    /// What others can see of a pipeline.
    pub fn face(&self, index: usize) -> Face {
        let case = self.case(index);
        let (pipeline, prepared) = (case.pipeline, case.prepared);
        let publishes = case.publishes();
        let starts: Vec<(&_, Answer)> = case.played().map(|(occasion, played)| (occasion, played.starts.answer)).collect();
        let on_push: Vec<Answer> = case
            .played()
            .filter(|(occasion, _)| occasion.kind == OccasionKind::Push)
            .flat_map(|(_, played)| publishes.iter().map(|published| case.happens(published, played)))
            .collect();
        let general = (prepared.whole, pipeline.partial, pipeline.is_part, self.title(index), pipeline.format.id());
        // Whose code a job with a cache runs hangs on all that it does.
        let has_cache = |job: &usize| {
            case.effects
                .of_job(*job)
                .any(|(_, effect)| matches!(effect.effect, Effect::RestoreCache { .. } | Effect::SaveCache { .. }))
        };
        let caches: Vec<_> = (0..pipeline.jobs.len())
            .filter(has_cache)
            .map(|job| (&pipeline.jobs[job], case.effects.of_job(job).collect::<Vec<_>>()))
            .collect();
        let locks: Vec<_> = pipeline.lock.iter().chain(pipeline.jobs.iter().filter_map(|job| job.lock.as_ref())).collect();
        let played: Vec<_> = case
            .played()
            .map(|(occasion, played)| {
                (occasion, publishes.iter().map(|published| case.happens(published, played)).collect::<Vec<_>>())
            })
            .collect();
        let said: Vec<_> = publishes
            .iter()
            .map(|one| {
                (one.place, one.job, one.step, one.effect, &pipeline.jobs[one.job].environment, &pipeline.jobs[one.job].id)
            })
            .collect();
        Face {
            everywhere: hash_of(&(general, &starts, &on_push, publishes.len())),
            caches: (!caches.is_empty()).then(|| hash_of(&(&caches, &pipeline.triggers))),
            locks: (!locks.is_empty()).then(|| hash_of(&locks)),
            publishes: hash_of(&(&said, &played)),
            places: publishes.iter().filter_map(|one| one.place.map(str::to_owned)).collect(),
        }
    }
}
