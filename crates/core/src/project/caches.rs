//! What is cached anywhere in the repository, gone through once for all pipelines that ask.

use std::collections::{HashMap, HashSet};

use super::Project;
use crate::effects::{Effect, UploadPath};
use crate::text::Place;

/// The paths that some pipeline saves.
pub(super) struct SavedPaths {
    /// A pipeline is known in part only, or saves a folder that is not known: any path may be one.
    any: bool,
    /// As they are written.
    written: HashSet<String>,
}

/// A cache that a run of a stranger's code saves, by its numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct StrangersCache {
    /// The pipeline.
    pub pipeline: usize,
    /// The job.
    pub job: usize,
    /// Among those of the job.
    pub number: usize,
    /// Where it is written.
    pub at: Place,
}

/// What is the same of all that share a cache: the key, and the files that it is made of.
pub(crate) type CacheKey = (Option<String>, Vec<Option<Vec<String>>>);

/// Such caches by what they share.
pub(crate) type StrangersCaches = HashMap<CacheKey, Vec<StrangersCache>>;

impl Project<'_> {
    /// Whether a pipeline saves one of these paths, or one may that is not known.
    pub(crate) fn saves_one_of(&self, paths: &[UploadPath]) -> bool {
        let saved = self.known.saved.get_or_init(|| {
            let mut saved = SavedPaths { any: false, written: HashSet::new() };
            for index in 0..self.prepared.len() {
                let case = self.case(index);
                saved.any |= case.pipeline.partial;
                for (_, _, effect) in case.all_effects() {
                    if let Effect::SaveCache { paths, .. } | Effect::RestoreCache { paths, saves: None | Some(true), .. } =
                        &effect.effect
                    {
                        saved.any |= paths.iter().any(|path| path.folder.is_none());
                        saved.written.extend(paths.iter().map(|path| path.written.clone()));
                    }
                }
            }
            saved
        });
        saved.any || paths.iter().any(|path| saved.written.contains(&path.written))
    }

    /// The caches that strangers may write; worked out by whoever asks first.
    pub(crate) fn strangers_caches(&self, work_out: impl FnOnce() -> StrangersCaches) -> &StrangersCaches {
        self.known.strangers.get_or_init(work_out)
    }
}
