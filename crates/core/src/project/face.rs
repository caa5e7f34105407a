//! What other pipelines of a project can see of one, beside those that start it, are started by it, or run it.

use std::collections::BTreeSet;
use std::fmt::Debug;
use std::hash::{DefaultHasher, Hash, Hasher};

use super::Project;
use crate::case::{Case, Published};
use crate::effects::{Effect, EffectAt};
use crate::model::Job;
use crate::rehearsal::{Answer, Occasion, OccasionKind};

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
        let pipeline = case.pipeline;
        let publishes = case.publishes();
        let locks: Vec<_> = pipeline.lock.iter().chain(pipeline.jobs.iter().filter_map(|job| job.lock.as_ref())).collect();
        let caches = caching_jobs(&case);
        let said = |one: &Published<'_>| {
            let job = &pipeline.jobs[one.job];
            hash_of(&(one.place, one.job, one.step, one.effect, &job.environment, &job.id))
        };
        let said: Vec<u64> = publishes.iter().map(said).collect();
        Face {
            everywhere: hash_of(&(
                (case.prepared.whole, pipeline.partial, pipeline.is_part, self.title(index), pipeline.format.id()),
                case.played().map(|(occasion, played)| (occasion, played.starts.answer)).collect::<Vec<_>>(),
                happening(&case, &publishes, |occasion| occasion.kind == OccasionKind::Push),
                publishes.len(),
                &pipeline.stores,
            )),
            caches: (!caches.is_empty()).then(|| hash_of(&(&caches, &pipeline.triggers))),
            locks: (!locks.is_empty()).then(|| hash_of(&locks)),
            publishes: hash_of(&(&said, happening(&case, &publishes, |_| true))),
            places: publishes.iter().filter_map(|one| one.place.map(str::to_owned)).collect(),
        }
    }
}

/// The jobs that have a cache, with all that they do: whose code they run hangs on that.
fn caching_jobs<'c>(case: &'c Case<'_>) -> Vec<(&'c Job, Vec<(usize, &'c EffectAt)>)> {
    let is_cache = |effect: &EffectAt| matches!(effect.effect, Effect::RestoreCache { .. } | Effect::SaveCache { .. });
    let with_effects = (0..case.pipeline.jobs.len()).map(|job| (&case.pipeline.jobs[job], case.effects.of_job(job).collect()));
    with_effects.filter(|(_, effects): &(_, Vec<_>)| effects.iter().any(|(_, effect)| is_cache(effect))).collect()
}

/// By event, whether each publish happens.
fn happening<'c>(
    case: &'c Case<'_>,
    publishes: &[Published<'_>],
    wanted: impl Fn(&Occasion) -> bool,
) -> Vec<(&'c Occasion, Vec<Answer>)> {
    let played = case.played().filter(|(occasion, _)| wanted(occasion));
    played.map(|(occasion, rehearsal)| (occasion, publishes.iter().map(|one| case.happens(one, rehearsal)).collect())).collect()
}
