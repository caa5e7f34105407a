//! What is cached, and under which key.

pub(in crate::rules) mod absent_lockfile;
pub(in crate::rules) mod blind_key;
pub(in crate::rules) mod doubled;
pub(in crate::rules) mod empty_hash;
pub(in crate::rules) mod frozen_key;
pub(in crate::rules) mod mixed_platforms;
pub(in crate::rules) mod mixed_versions;
pub(in crate::rules) mod never_saved;
pub(in crate::rules) mod no_prefix;
pub(in crate::rules) mod none;
pub(in crate::rules) mod other_manager;
pub(in crate::rules) mod outside;
pub(in crate::rules) mod restless_key;
pub(in crate::rules) mod stale_site;
pub(in crate::rules) mod strangers;
pub(in crate::rules) mod too_late;
pub(in crate::rules) mod too_many_files;
pub(in crate::rules) mod wiped;
pub(in crate::rules) mod wrong_folder;

use crate::case::Case;
use crate::effects::{Effect, EffectAt, HashOf, UploadPath};
use crate::knowledge;
use crate::model::Text;
use crate::project::{CacheKey, Read, ReadAt, RunFact};
use crate::rules::family;
use crate::text::Place;

family![
    absent_lockfile,
    frozen_key,
    never_saved,
    restless_key,
    blind_key,
    empty_hash,
    too_many_files,
    too_late,
    wiped,
    no_prefix,
    mixed_platforms,
    mixed_versions,
    doubled,
    none,
    stale_site,
    outside,
    wrong_folder,
    strangers,
    other_manager,
];

/// A cache that a step brings back.
struct Restored<'c> {
    job: usize,
    step: usize,
    at: &'c EffectAt,
    /// Nothing where files alone make the key.
    key: Option<&'c Text>,
    hashes: &'c [HashOf],
    paths: &'c [UploadPath],
    fallback: Option<&'c Text>,
    /// It is also saved when the job has run; nothing when that is not known.
    saves: Option<bool>,
}

fn restored<'c>(case: &'c Case<'_>) -> Vec<Restored<'c>> {
    let of = |(job, step, at): (usize, usize, &'c EffectAt)| match &at.effect {
        Effect::RestoreCache { key, hashes, paths, fallback, saves, .. } if key.is_some() || !hashes.is_empty() => {
            let (key, fallback) = (key.as_ref(), fallback.as_ref());
            Some(Restored { job, step, at, key, hashes, paths, fallback, saves: *saves })
        }
        _ => None,
    };
    case.all_effects().filter_map(of).collect()
}

impl Restored<'_> {
    /// Where the key is written.
    fn key_at(&self) -> Place {
        match (self.key, self.hashes) {
            (Some(key), _) => key.inner(),
            (None, [first, ..]) => first.at,
            (None, []) => self.at.at,
        }
    }

    /// What the key reads beside files; nothing when a part of it is not understood.
    fn reads<'r>(&self, case: &'r Case<'_>) -> Option<Vec<&'r ReadAt>> {
        let Some(key) = self.key else { return Some(Vec::new()) };
        let reads = case.reads_of(key);
        reads.iter().all(|read| read.plain).then_some(reads)
    }

    /// What is the same of all that share a cache: the key, and the files that it is made of.
    fn shared_by(&self) -> CacheKey {
        let files = self.hashes.iter().map(|hash| hash.patterns.clone()).collect();
        (self.key.map(|key| key.value.clone()), files)
    }
}

/// Whether one of the paths is a package manager's own store of downloads or the installed packages.
fn holds_packages(paths: &[UploadPath]) -> bool {
    paths.iter().any(|path| {
        holds_installed(path) || knowledge::managers().stores.values().copied().flatten().any(|store| is_store(path, store))
    })
}

/// Whether one of the paths is what a generator keeps from one build to the next.
fn holds_builds(paths: &[UploadPath]) -> bool {
    let kept = || knowledge::generators().generator.iter().flat_map(|generator| generator.caches);
    paths.iter().any(|path| kept().any(|cache| path.written.trim_end_matches('/').ends_with(cache)))
}

/// Whether a path is where a manager keeps its downloads, whatever folder that stands in.
fn is_store(path: &UploadPath, store: &str) -> bool {
    path.written.trim_end_matches('/').ends_with(store.trim_start_matches("~/"))
}

/// The only file in git that names the packages which these folders hold.
fn lockfile_for<'c>(case: &'c Case<'_>, paths: &[UploadPath]) -> Option<&'c str> {
    let managers = knowledge::managers();
    let kept = |id: &str| {
        let mut stores = managers.stores.get(id).into_iter().copied().flatten();
        stores.any(|store| paths.iter().any(|path| is_store(path, store)))
    };
    let holds =
        |manager: &&knowledge::Manager| kept(manager.id) || (manager.runtime == "node" && paths.iter().any(holds_installed));
    let names = managers.manager.iter().filter(holds).flat_map(|manager| manager.lockfiles).copied();
    let mut found = case.facts.files.known()?.named_one_of(names);
    found.next().filter(|_| found.next().is_none())
}

/// Whether a path holds the installed packages themselves.
fn holds_installed(path: &UploadPath) -> bool {
    path.written.trim_end_matches('/').ends_with("node_modules")
}

/// Whether a part of a key is another one on each leg of a matrix, or may be.
fn tells_apart(read: &ReadAt, axis: &str) -> bool {
    match read.read {
        Read::Axis => read.name.eq_ignore_ascii_case(axis),
        Read::Run(fact) => fact == RunFact::Os,
        Read::Variable | Read::StepOutput | Read::JobOutput | Read::Unknown => true,
        _ => false,
    }
}
