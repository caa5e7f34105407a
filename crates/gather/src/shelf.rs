//! Where the files of a repository are read from: the disk, or a commit in git's objects.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use gix::bstr::ByteSlice;

use crate::{disk, gate};

/// A place that files are read from, by their paths from the repository's root.
pub(crate) enum Shelf<'r> {
    /// The work tree, with texts that are not yet saved laid over it.
    Disk(PathBuf, &'r Unsaved),
    /// A commit.
    Commit(Commit<'r>),
}

/// Texts that are not yet saved, by their paths from the repository's root.
pub type Unsaved = BTreeMap<String, String>;

/// The files of a commit.
pub(crate) struct Commit<'r> {
    tree: gix::Tree<'r>,
    /// All of them, sorted.
    pub paths: Vec<String>,
    /// Those that may be run by their paths.
    pub executable: Vec<String>,
}

impl<'r> Commit<'r> {
    /// Lists the files of a commit; a tag that is an object stands for its commit.
    pub fn of(repository: &'r gix::Repository, revision: &str) -> Result<Self, String> {
        let absent = |_| format!("{revision} is not in this repository");
        let object = repository.rev_parse_single(revision).map_err(|_| absent(()))?.object().map_err(|_| absent(()))?;
        let tree = object.peel_to_tree().map_err(|_| format!("{revision} is no commit"))?;
        let records =
            tree.traverse().breadthfirst.files().map_err(|_| format!("the files of {revision} are not in this repository"))?;
        let (mut paths, mut executable) = (Vec::new(), Vec::new());
        for record in records.into_iter().filter(|record| record.mode.is_blob_or_symlink()) {
            let path = record.filepath.to_str_lossy().into_owned();
            if record.mode.is_executable() {
                executable.push(path.clone());
            }
            paths.push(path);
        }
        paths.sort_unstable();
        Ok(Self { tree, paths, executable })
    }

    fn read(&self, name: &str) -> Result<String, String> {
        let entry = self.tree.lookup_entry_by_path(name).ok().flatten().ok_or("it is not in the commit")?;
        if !entry.mode().is_blob() {
            return Err("it is no ordinary file".into());
        }
        let object = entry.object().map_err(|_| "git's objects do not hold it".to_owned())?;
        disk::text_of(object.data.clone())
    }
}

impl dulk_core::facts::Shelf for Shelf<'_> {
    fn read(&self, name: &str) -> Result<String, String> {
        match self {
            Self::Disk(root, unsaved) => unsaved.get(name).map_or_else(|| disk::read(root, name), |text| Ok(text.clone())),
            Self::Commit(commit) => commit.read(name),
        }
    }

    fn begins(&self, name: &str, bytes: usize) -> Option<String> {
        match self {
            Self::Disk(root, unsaved) if !unsaved.contains_key(name) => disk::begins(root, name, bytes),
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
            Self::Commit(_) => true,
        }
    }

    fn leads_out(&self, name: &str) -> bool {
        match self {
            Self::Disk(root, _) => gate::leads_out(root, name),
            Self::Commit(_) => false,
        }
    }

    fn has(&self, name: &str) -> bool {
        match self {
            Self::Disk(root, unsaved) => {
                unsaved.contains_key(name) || (!gate::climbs_out(name) && std::fs::symlink_metadata(root.join(name)).is_ok())
            }
            Self::Commit(commit) => commit.paths.binary_search_by(|path| path.as_str().cmp(name)).is_ok(),
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
            Self::Commit(commit) => {
                let inside = |path: &String| path.strip_prefix(folder)?.strip_prefix('/').map(str::to_owned);
                commit.paths.iter().filter_map(inside).filter(|name| !name.contains('/')).collect()
            }
        }
    }

    fn matching(&self, pattern: &str) -> Vec<String> {
        match self {
            Self::Disk(root, _) => disk::matching(root, pattern),
            Self::Commit(commit) => {
                let Ok(glob) = globset::GlobBuilder::new(pattern).literal_separator(true).build() else { return Vec::new() };
                let matcher = glob.compile_matcher();
                commit.paths.iter().filter(|path| matcher.is_match(path)).cloned().collect()
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
