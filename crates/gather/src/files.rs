//! The files that a checkout brings.

use std::collections::HashMap;
use std::path::Path;

use dulk_core::facts::{Fact, FileList, Origin, config_names};
use dulk_core::knowledge;
use gix::Repository;

use crate::disk::{self, slashed};
use crate::gate;

/// Without git, more files than this are not looked through.
const WALK_LIMIT: usize = 50_000;

/// All files: those that git tracks, or where it tracks none yet, those on disk that it does not ignore.
pub(crate) fn list(git: Option<&Repository>, root: &Path) -> Fact<FileList> {
    let tracked = git.and_then(|repository| {
        let index = repository.index_or_empty().ok()?;
        let path = |entry: &gix::index::Entry| String::from_utf8(entry.path(&index).to_vec()).ok();
        let is_folder = |entry: &&gix::index::Entry| entry.mode == gix::index::entry::Mode::DIR;
        let mut paths: Vec<String> = index.entries().iter().filter(|entry| !is_folder(entry)).filter_map(path).collect();
        for folder in index.entries().iter().filter(is_folder) {
            paths.extend(in_folder(repository, folder.id, &path(folder)?)?);
        }
        let runs = |entry: &&gix::index::Entry| entry.mode == gix::index::entry::Mode::FILE_EXECUTABLE;
        let executable: Vec<String> = index.entries().iter().filter(runs).filter_map(path).collect();
        (!paths.is_empty()).then_some((paths, executable))
    });
    match tracked {
        Some((paths, executable)) => Fact::Known(with_new_files(git, root, paths).with_executable(executable), Origin::Files),
        None => walk(root).map_or_else(
            || Fact::Unknown("there are too many files to look through".into()),
            |paths| Fact::Known(FileList::new(paths, Vec::new()), Origin::Files),
        ),
    }
}

/// The files of a folder that a sparse index holds as one entry. Source: git's page "index-format", "Sparse directory entries", 2026-11.
fn in_folder(repository: &Repository, id: gix::ObjectId, folder: &str) -> Option<Vec<String>> {
    let tree = repository.find_tree(id).ok()?;
    let records = tree.traverse().breadthfirst.files().ok()?.into_iter().filter(|record| record.mode.is_blob_or_symlink());
    Some(records.map(|record| format!("{folder}{}", String::from_utf8_lossy(&record.filepath))).collect())
}

/// Adds companions that exist beside the tracked files and are not ignored: they are likely to be added before the push.
fn with_new_files(git: Option<&Repository>, root: &Path, paths: Vec<String>) -> FileList {
    let mut names: Vec<&str> = vec!["package.json", "requirements.txt", "pyproject.toml", "Pipfile.lock", "poetry.lock"];
    names.extend(knowledge::managers().manager.iter().flat_map(|manager| manager.lockfiles.iter().copied()));
    names.extend(config_names());
    let list = FileList::new(paths, Vec::new());
    let mut folders = Folders::of(root);
    let is_new =
        |name: &&str| folders.may_hold(name) && !list.has(name) && gate::inside(root, name).is_ok_and(|path| path.is_file());
    let new: Vec<&str> = names.into_iter().filter(is_new).collect();
    let kept = new.into_iter().filter(|name| !git.is_some_and(|repository| is_ignored(repository, root, name)));
    let kept = kept.map(str::to_owned).collect();
    list.with_untracked(kept)
}

/// What lies in the folders of a repository, each read once: most of the names that are asked for are in none.
struct Folders<'r> {
    root: &'r Path,
    /// What lies in the root, where nearly all of the names are looked for; sorted.
    top: Vec<String>,
    /// The same of the folders below it.
    below: HashMap<String, Vec<String>>,
}

impl<'r> Folders<'r> {
    fn of(root: &'r Path) -> Self {
        Self { root, top: disk::names_in(root, ""), below: HashMap::new() }
    }

    /// Whether something of a name lies in its folder. On a disk that takes upper and lower case for the same, a name in other letters is none.
    fn may_hold(&mut self, name: &str) -> bool {
        let holds = |names: &[String], wanted: &str| names.binary_search_by(|known| known.as_str().cmp(wanted)).is_ok();
        let Some((folder, last)) = name.rsplit_once('/') else { return holds(&self.top, name) };
        if !self.may_hold(folder) {
            return false;
        }
        holds(self.below.entry(folder.to_owned()).or_insert_with(|| disk::names_in(self.root, folder)), last)
    }
}

fn is_ignored(repository: &Repository, root: &Path, name: &str) -> bool {
    let folders = Path::new(name).ancestors().skip(1);
    if !folders.into_iter().all(|folder| gate::has_sound_ignores(&root.join(folder))) {
        return false;
    }
    let Ok(index) = repository.index_or_empty() else { return false };
    let source = gix::worktree::stack::state::ignore::Source::WorktreeThenIdMappingIfNotSkipped;
    let Ok(mut stack) = repository.excludes(&index, None, source) else { return false };
    stack.at_entry(name, None).is_ok_and(|platform| platform.is_excluded())
}

fn walk(root: &Path) -> Option<Vec<String>> {
    let mut paths = Vec::new();
    for entry in disk::walk_in(root).build() {
        let Ok(entry) = entry else { continue };
        if entry.file_type().is_some_and(|kind| kind.is_dir()) {
            continue;
        }
        if paths.len() >= WALK_LIMIT {
            return None;
        }
        paths.push(slashed(entry.path().strip_prefix(root).unwrap_or(entry.path())));
    }
    Some(paths)
}
