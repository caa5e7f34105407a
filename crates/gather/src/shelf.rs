//! Where the files of a repository are read from: the disk, or a commit in git's objects.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use rayon::prelude::*;

use crate::commit::Commit;
use crate::{disk, gate};

/// A place that files are read from, by their paths from the repository's root.
pub(crate) enum Shelf<'r> {
    /// The work tree, with texts that are not yet saved laid over it.
    Disk(PathBuf, &'r Unsaved),
    /// A commit.
    Commit(Commit<'r>),
}

/// With fewer files, asking other threads takes longer than it saves.
const PARALLEL_FROM: usize = 64;
/// So many are read one after the other by one thread.
const AT_ONCE: usize = 16;

/// Texts that are not yet saved, by their paths from the repository's root.
pub type Unsaved = BTreeMap<String, String>;

impl dulk_core::facts::Shelf for Shelf<'_> {
    fn read(&self, name: &str) -> Result<String, String> {
        match self {
            Self::Disk(root, unsaved) => crate::read_over(root, name, unsaved),
            Self::Commit(commit) => commit.read(name),
        }
    }

    fn read_each(&self, names: &[String]) -> Vec<Result<String, String>> {
        match self {
            Self::Disk(root, unsaved) if names.len() >= PARALLEL_FROM => {
                crate::grow_heaps();
                let read = |some: &[String]| {
                    let mut files = gate::InTurn::of(root);
                    let mut read = |name| files.read(name).and_then(disk::text_of);
                    let texts = some.iter().map(|name| crate::unsaved_text(name, unsaved).unwrap_or_else(|| read(name)));
                    texts.collect::<Vec<_>>()
                };
                names.par_chunks(AT_ONCE).flat_map_iter(read).collect()
            }
            _ => names.iter().map(|name| dulk_core::facts::Shelf::read(self, name)).collect(),
        }
    }

    fn begins(&self, name: &str, bytes: usize) -> Option<String> {
        match self {
            Self::Disk(root, unsaved) if !unsaved.contains_key(name) => disk::begins(root, name, bytes),
            Self::Commit(commit) if commit.is_link(name) => None,
            _ => {
                let mut text = dulk_core::facts::Shelf::read(self, name).ok()?;
                text.truncate(text.floor_char_boundary(bytes));
                Some(text)
            }
        }
    }

    fn is_small(&self, name: &str, limit: u64) -> bool {
        match self {
            Self::Disk(root, unsaved) => match unsaved.get(name) {
                Some(text) => text.len() as u64 <= limit,
                None => gate::inside(root, name).is_ok_and(|path| std::fs::metadata(path).is_ok_and(|data| data.len() <= limit)),
            },
            Self::Commit(commit) => commit.size(name).is_some_and(|size| size <= limit),
        }
    }

    fn read_small(&self, name: &str, limit: u64) -> Option<Result<String, String>> {
        match self {
            Self::Disk(root, unsaved) if !unsaved.contains_key(name) => {
                Some(gate::read_small(root, name, limit)?.and_then(disk::text_of))
            }
            Self::Disk(..) => self.is_small(name, limit).then(|| dulk_core::facts::Shelf::read(self, name)),
            Self::Commit(commit) => commit.read_small(name, limit),
        }
    }

    fn leads_out(&self, name: &str) -> bool {
        match self {
            Self::Disk(root, _) => gate::leads_out(root, name),
            Self::Commit(commit) => commit.leads_out(name),
        }
    }

    fn has(&self, name: &str) -> bool {
        match self {
            Self::Disk(root, unsaved) => {
                unsaved.contains_key(name) || (!gate::climbs_out(name) && std::fs::symlink_metadata(root.join(name)).is_ok())
            }
            Self::Commit(commit) => commit.has(name),
        }
    }

    fn names_in(&self, folder: &str) -> Vec<String> {
        match self {
            Self::Disk(root, unsaved) => {
                let mut names = disk::names_in(root, folder);
                let inside = |path: &String| path.strip_prefix(folder)?.strip_prefix('/').map(str::to_owned);
                names.extend(unsaved.keys().filter_map(inside).filter(|name| !name.contains('/')));
                names.sort_unstable();
                names.dedup();
                names
            }
            Self::Commit(commit) => commit.names_in(folder),
        }
    }

    fn matching(&self, pattern: &str) -> Vec<String> {
        match self {
            Self::Disk(root, _) => disk::matching(root, pattern),
            Self::Commit(commit) => {
                let Ok(glob) = globset::GlobBuilder::new(pattern).literal_separator(true).build() else { return Vec::new() };
                let matcher = glob.compile_matcher();
                let files = commit.paths.iter().filter(|path| !commit.is_link(path));
                files.filter(|path| matcher.is_match(path)).take(disk::MATCHES).cloned().collect()
            }
        }
    }
}

impl Shelf<'_> {
    /// The root on the disk.
    pub fn root(&self) -> Option<&Path> {
        match self {
            Self::Disk(root, _) => Some(root),
            Self::Commit(_) => None,
        }
    }
}
