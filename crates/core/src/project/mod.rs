//! All pipelines of a repository together: who starts whom, what each event does, and who publishes where.
//!
//! Everything is worked out once, by whoever asks first. [`Project::prepare`] asks for one pipeline ahead of the rules, so that many
//! pipelines can be worked out at the same time.

mod caches;
pub mod case;
mod columns;
mod face;
mod index;
mod kept;
mod opened;
mod played;
mod reads;
mod universe;
mod worked_out;

use std::collections::{BTreeSet, HashMap, HashSet};
use std::sync::Arc;

pub use columns::columns;
pub use face::Face;
pub use kept::{Kept, reached};
pub use reads::{Read, ReadAt, ReadIn, Reads, RunFact};

pub(crate) use self::caches::{CacheKey, StrangersCache, StrangersCaches};
use self::case::Case;
use self::played::Played;
pub(crate) use self::worked_out::Outcomes;
pub use self::worked_out::PlacedPublish;
use self::worked_out::{Worked, WorkedOut};
use crate::effects::{PipelineEffects, followed_of_each};
use crate::facts::Facts;
use crate::finding::Finding;
use crate::formats::Prepared;
use crate::knowledge::Date;
use crate::model::{Call, Callee, Pipeline, Work};
use crate::rehearsal::{Answer, OTHER_BRANCH, Occasion, OccasionKind, Rehearsal};
use crate::text::{FileId, Place, Sources};
use crate::trail::Trail;

/// All that is checked together.
pub struct Project<'a> {
    /// All texts.
    pub sources: &'a Sources,
    /// What is known of the repository.
    pub facts: &'a Facts,
    /// Every pipeline file after reading.
    pub prepared: &'a [Prepared],
    /// The day on which it is checked; without one, nothing goes out of use.
    pub today: Option<Date>,
    known: Arc<WorkedOut>,
}

impl<'a> Project<'a> {
    /// Joins files with facts; nothing but the look-ups is worked out yet.
    pub fn new(prepared: &'a [Prepared], facts: &'a Facts, sources: &'a Sources, today: Option<Date>) -> Self {
        Self::keeping(prepared, facts, sources, today, &Kept::nothing(prepared, sources))
    }

    /// The same pipelines and facts as those that something was kept of.
    pub fn keeping(prepared: &'a [Prepared], facts: &'a Facts, sources: &'a Sources, today: Option<Date>, kept: &Kept) -> Self {
        Self { sources, facts, prepared, today, known: kept.0.clone() }
    }

    /// Works out what one pipeline does and what each event does to it. Asking is never needed, and may be done from many threads.
    pub fn prepare(&self, index: usize) {
        self.worked(index);
        // One pipeline of a group is enough to play it.
        if self.leads(index) {
            self.group(self.known.index.place(index).0);
        }
    }

    /// One of its pipelines with all that is known of it.
    pub fn case(&self, index: usize) -> Case<'_> {
        let worked = self.worked(index);
        Case {
            project: self,
            index,
            sources: self.sources,
            facts: self.facts,
            prepared: &self.prepared[index],
            pipeline: &self.prepared[index].pipeline,
            effects: &worked.effects,
            trail: &worked.trail,
            reads: &worked.reads,
            listed: Default::default(),
        }
    }

    /// Every event that can start a pipeline, or one that starts it, with what comes of it there.
    pub fn played(&self, index: usize) -> impl Iterator<Item = (&Occasion, &Rehearsal)> {
        let (group, place) = self.known.index.place(index);
        self.group(group).of.iter().map(move |(occasion, all)| (occasion, &*all[place]))
    }

    /// What an event does to a pipeline; nothing when its universe does not tell.
    pub fn outcome(&self, index: usize, occasion: &Occasion) -> Option<&Rehearsal> {
        let (group, place) = self.known.index.place(index);
        let played = self.group(group);
        let find = |name: Option<&str>| {
            let same =
                |(known, _): &&(Occasion, Vec<Arc<Rehearsal>>)| known.kind == occasion.kind && known.name.as_deref() == name;
            played.of.iter().find(same).map(|(_, all)| &*all[place])
        };
        find(occasion.name.as_deref()).or_else(|| {
            // A branch that nobody here names behaves as any other.
            (occasion.kind == OccasionKind::Push && played.names_only).then(|| find(Some(OTHER_BRANCH))).flatten()
        })
    }

    /// The steps of a pipeline from which what they hand on goes online; worked out by whoever asks first.
    fn online(&self, index: usize, work_out: impl FnOnce() -> HashSet<(usize, usize)>) -> &HashSet<(usize, usize)> {
        self.known.online[index].get_or_init(work_out)
    }

    /// All publishes by the place that they go to.
    pub fn placed(&self) -> &HashMap<String, Vec<PlacedPublish>> {
        self.known.places.get_or_init(|| {
            let mut found: HashMap<String, Vec<PlacedPublish>> = HashMap::new();
            for pipeline in 0..self.prepared.len() {
                let case = self.case(pipeline);
                for one in case.published() {
                    let Some(place) = one.place else { continue };
                    let placed = PlacedPublish {
                        pipeline,
                        job: one.job,
                        step: one.step,
                        at: one.effect.at,
                        branching: one.effect.branching,
                    };
                    found.entry(place.to_owned()).or_default().push(placed);
                }
            }
            found
        })
    }

    /// Nothing but one step puts something online, so that mending it cannot change what another one publishes.
    pub fn publishes_once(&self) -> bool {
        *self.known.publishes.get_or_init(|| (0..self.prepared.len()).map(|index| self.case(index).published().count()).sum())
            <= 1
    }

    /// Where a push to the default branch surely publishes.
    pub fn live_places(&self) -> &HashSet<String> {
        self.known.live.get_or_init(|| {
            let mut found = HashSet::new();
            for index in 0..self.prepared.len() {
                let case = self.case(index);
                let Some(rehearsal) = case.on_default_push() else { continue };
                let surely = case.published().filter(|published| case.happens(published, rehearsal) == Answer::Yes);
                found.extend(surely.filter_map(|published| published.place.map(str::to_owned)));
            }
            found
        })
    }

    /// Whether a push to the default branch publishes something, or may.
    pub fn publishes_on_push(&self, default: &str) -> bool {
        *self.known.on_push.get_or_init(|| {
            let pushed = Occasion::new(OccasionKind::Push, Some(default));
            (0..self.prepared.len()).any(|index| {
                let case = self.case(index);
                let Some(outcome) = self.outcome(index, &pushed) else { return false };
                case.published().any(|published| case.happens(&published, outcome) > Answer::No)
            })
        })
    }

    /// Whether a push to the default branch starts a pipeline besides one, or may.
    pub fn starts_another_on_push(&self, default: &str, besides: usize) -> bool {
        let pushed = self.known.pushed.get_or_init(|| {
            let pushed = Occasion::new(OccasionKind::Push, Some(default));
            let starts = |index: &usize| self.outcome(*index, &pushed).is_none_or(|outcome| outcome.starts.answer > Answer::No);
            (0..self.prepared.len()).filter(starts).take(2).collect()
        });
        pushed.iter().any(|index| *index != besides)
    }

    /// Where another pipeline than one has a lock of a group, upper and lower case alike, that ends what goes on in it.
    pub fn ends_in_group(&self, group: &str, besides: usize) -> Option<Place> {
        let ending = self.known.ending.get_or_init(|| {
            let mut found: HashMap<String, Vec<(usize, Place)>> = HashMap::new();
            for (index, one) in self.prepared.iter().enumerate() {
                let of_jobs = one.pipeline.jobs.iter().filter_map(|job| job.lock.as_ref());
                for lock in one.pipeline.lock.iter().chain(of_jobs).filter(|lock| lock.ends_what_goes_on()) {
                    found.entry(lock.group.value.to_ascii_lowercase()).or_default().push((index, lock.group.inner()));
                }
            }
            found
        });
        let of_group = ending.get(&group.to_ascii_lowercase())?;
        of_group.iter().find(|(index, _)| *index != besides).map(|(_, at)| *at)
    }

    fn worked(&self, index: usize) -> &Worked {
        self.known.pipelines[index].get_or_init(|| {
            let pipeline = &self.prepared[index].pipeline;
            let effects =
                PipelineEffects::of(pipeline, self.facts, &|found| self.action(found), followed_of_each(self.prepared.len()));
            let trail = Trail::of(pipeline, &effects, self.facts);
            Worked { effects, trail, reads: reads::of(pipeline, self.facts) }
        })
    }

    /// Whether a pipeline is the first of those that start each other.
    fn leads(&self, index: usize) -> bool {
        self.known.index.place(index).1 == 0
    }

    fn group(&self, group: usize) -> &Played {
        self.known.played[group].get_or_init(|| self.play_group(&self.known.index.groups()[group]))
    }

    /// The files that are pipelines of their own, as against parts of others.
    pub fn standalone(&self) -> Vec<usize> {
        (0..self.prepared.len()).filter(|index| !self.prepared[*index].pipeline.is_part).collect()
    }

    /// Takes away what comments and dulk.toml accept, in whatever file they stand.
    pub(crate) fn accept(&self, findings: &mut Vec<Finding>) {
        if findings.is_empty() {
            return;
        }
        let speaking =
            || (0..self.prepared.len()).filter(|index| !self.prepared[*index].acceptances.is_empty()).collect::<Vec<usize>>();
        for index in self.known.accepting.get_or_init(speaking) {
            crate::accept::apply(&self.prepared[*index].acceptances, findings, self.sources);
        }
        crate::accept::apply_settings(self, findings);
    }

    /// Where a pipeline runs the composite action of a file, directly.
    pub fn runs(&self, index: usize, action: FileId) -> Option<Place> {
        let mut steps = self.prepared[index].pipeline.jobs.iter().flat_map(|job| &job.steps);
        steps.find_map(|step| match &step.work {
            Work::Uses { action: used, found, .. } => {
                self.action(found).filter(|pipeline| pipeline.file == action).map(|_| used.at)
            }
            _ => None,
        })
    }

    /// What the pipeline of a file reads.
    pub(crate) fn reads_in(&self, file: FileId) -> Option<&Reads> {
        let index = self.in_file(file)?;
        Some(&self.worked(index).reads)
    }

    /// The path of a pipeline's file.
    pub fn path(&self, index: usize) -> &'a str {
        &self.sources.get(self.prepared[index].pipeline.file).path
    }

    /// What people know a pipeline by: its path, with its name where it is not the only one of its file.
    pub fn label(&self, index: usize) -> String {
        match self.name_in_file(index) {
            Some(name) => format!("{}, {name}", self.path(index)),
            None => self.path(index).to_owned(),
        }
    }

    /// The name of a pipeline where it is not the only one of its file.
    pub fn name_in_file(&self, index: usize) -> Option<&'a str> {
        let name = self.prepared[index].pipeline.name.as_ref();
        name.map(|name| name.value.as_str()).filter(|_| self.known.index.shares_file(index))
    }

    /// The name by which other pipelines wait for one: its title, or else its path.
    pub fn title(&self, index: usize) -> &'a str {
        index::title(&self.prepared[index].pipeline, self.sources)
    }

    /// The first pipeline of a file.
    pub fn in_file(&self, file: FileId) -> Option<usize> {
        self.prepared.iter().position(|one| one.pipeline.file == file)
    }

    /// The names under which the pipelines read something of these kinds, sorted.
    pub fn names_read(&self, kinds: &[Read]) -> BTreeSet<String> {
        let all = (0..self.prepared.len()).flat_map(|index| self.worked(index).reads.iter());
        all.filter(|read| kinds.contains(&read.read)).map(|read| read.name.clone()).collect()
    }

    /// The pipeline of a path, when it could be read whole.
    pub fn find(&self, path: &str) -> Option<usize> {
        self.known.index.find(path)
    }

    /// The pipeline of this repository that a call names.
    pub fn callee(&self, call: &Call) -> Option<usize> {
        self.known.index.callee(&call.found)
    }

    /// The jobs that call a pipeline, each with its pipeline.
    pub fn callers(&self, index: usize) -> &[(usize, usize)] {
        self.known.index.callers(index)
    }

    /// The composite action that a step names by its folder, as `./.github/actions/build`.
    pub fn action(&self, found: &Callee) -> Option<&'a Pipeline> {
        self.known.index.action(found).map(|index| &self.prepared[index].pipeline)
    }
}

#[cfg(test)]
mod tests;
