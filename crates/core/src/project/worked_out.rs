//! What is worked out of a project, each thing once, by whoever asks first.

use std::collections::{BTreeSet, HashMap, HashSet};
use std::sync::{Arc, OnceLock};

use super::caches::{SavedPaths, StrangersCaches};
use super::index::Index;
use super::played::{InTurn, Played};
use super::reads::Reads;
use crate::effects::PipelineEffects;
use crate::formats::Prepared;
use crate::rehearsal::{Occasion, Rehearsal};
use crate::text::{Place, Sources};
use crate::trail::Trail;

/// All that is worked out of the same texts.
pub(super) struct WorkedOut {
    pub index: Index,
    /// By pipeline, whose numbers hold for every list below that says so.
    pub pipelines: Vec<Arc<OnceLock<Worked>>>,
    /// By group of pipelines that start each other.
    pub played: Vec<Arc<OnceLock<Played>>>,
    /// By pipeline: what comes of every event that can start it.
    pub possible: Vec<Arc<OnceLock<Outcomes>>>,
    /// By pipeline.
    pub played_in_turn: Vec<InTurn>,
    /// All publishes by the place that they go to.
    pub places: OnceLock<HashMap<String, Vec<PlacedPublish>>>,
    pub live: OnceLock<HashSet<String>>,
    pub on_push: OnceLock<bool>,
    /// Two pipelines that start on a push to the default branch, or may; fewer when there are fewer.
    pub pushed: OnceLock<Vec<usize>>,
    /// By group, in small letters: the pipelines with a lock of it that ends what goes on, and where it names the group.
    pub ending: OnceLock<HashMap<String, Vec<(usize, Place)>>>,
    pub publishes: OnceLock<usize>,
    pub saved: OnceLock<SavedPaths>,
    pub strangers: OnceLock<StrangersCaches>,
    /// The pipelines whose comments accept something.
    pub accepting: OnceLock<Vec<usize>>,
    /// By pipeline: the steps, by job and number, from which what they hand on goes online.
    pub online: Vec<OnceLock<HashSet<(usize, usize)>>>,
}

/// What comes of every event that can start a pipeline; nothing where that is not known.
pub(crate) type Outcomes = Option<Vec<(Occasion, Arc<Rehearsal>)>>;

/// A publish of any pipeline, by its numbers.
#[derive(Clone, Copy, Debug)]
pub struct PlacedPublish {
    /// The pipeline.
    pub pipeline: usize,
    /// The job.
    pub job: usize,
    /// The step in it.
    pub step: usize,
    /// Where it is written.
    pub at: Place,
    /// It stands in a branch of its script.
    pub branching: bool,
}

/// What is worked out of one pipeline.
pub(super) struct Worked {
    pub effects: PipelineEffects,
    pub trail: Trail,
    pub reads: Reads,
}

impl WorkedOut {
    /// Nothing but the look-ups.
    pub fn nothing(prepared: &[Prepared], sources: &Sources) -> Self {
        fn open<T: Default>(count: usize) -> Vec<T> {
            std::iter::repeat_with(T::default).take(count).collect()
        }
        let index = Index::of(prepared, sources);
        let count = prepared.len();
        Self {
            pipelines: open(count),
            played: open(index.groups().len()),
            possible: open(count),
            played_in_turn: open(count),
            places: OnceLock::new(),
            live: OnceLock::new(),
            on_push: OnceLock::new(),
            pushed: OnceLock::new(),
            ending: OnceLock::new(),
            publishes: OnceLock::new(),
            saved: OnceLock::new(),
            strangers: OnceLock::new(),
            accepting: OnceLock::new(),
            online: open(count),
            index,
        }
    }

    /// With what was worked out before of the pipelines that did not become others.
    pub fn take_over(&mut self, before: &Self, changed: &BTreeSet<usize>) {
        let same = |index: &usize| !changed.contains(index);
        for index in (0..self.pipelines.len()).filter(same) {
            self.pipelines[index].clone_from(&before.pipelines[index]);
        }
        let played: HashMap<&[usize], &Arc<OnceLock<Played>>> =
            before.index.groups().iter().map(Vec::as_slice).zip(&before.played).collect();
        for (members, cell) in self.index.groups().iter().zip(&mut self.played) {
            let Some(known) = played.get(members.as_slice()).filter(|_| members.iter().all(same)) else { continue };
            *cell = (*known).clone();
            // What can start a pipeline hangs on those that start it.
            members.iter().for_each(|index| self.possible[*index].clone_from(&before.possible[*index]));
        }
    }
}
