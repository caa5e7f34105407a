//! Reads the disk and git into the values that core works on. It runs nothing of the repository and touches no network.

mod commit;
mod demo;
mod disk;
mod files;
mod gate;
mod git;
mod heaps;
mod hook;
mod shelf;

use std::path::{Path, PathBuf};

pub use demo::demo_repository;
pub use disk::{remove_left_over, replace};
pub use git::{changed_lines, changed_paths, has_commit, mark_of_references};
pub use heaps::grow_heaps;
pub use hook::{HookOptions, HookState, hook_off, hook_on, hook_status, is_fetched_for_one_call};

use dulk_core::facts::Shelf as _;
use dulk_core::facts::{Fact, Facts, FileList, Found, GitFacts, Origin, Settings, read_facts, read_settings};
use dulk_core::formats::{self, AskedFor, FilesError, PipelineFile, pipeline_files};
use dulk_core::text::{FileId, SourceFile, Sources};

use commit::Commit;
use shelf::Shelf;
pub use shelf::Unsaved;

/// A repository as it was read.
#[derive(Debug)]
pub struct Repository {
    /// Its top folder.
    pub root: PathBuf,
    /// All texts that were read.
    pub sources: Sources,
    /// The pipeline files, in the order of their paths.
    pub pipelines: Vec<PipelineFile>,
    /// What is known.
    pub facts: Facts,
}

/// Why nothing can be said at all.
#[derive(Debug, thiserror::Error)]
pub enum GatherError {
    /// A path of the call does not exist.
    #[error("{path}: {reason}")]
    Path {
        /// As it was given.
        path: String,
        /// In plain words.
        reason: String,
    },
    /// A path of the call lies in another repository than the first.
    #[error("{path} does not lie in {root}; check one repository at a time")]
    Elsewhere {
        /// As it was given.
        path: String,
        /// The first path's repository.
        root: String,
    },
    /// dulk.toml is wrong.
    #[error("dulk.toml:{line}: {reason}")]
    Settings {
        /// From 1.
        line: u32,
        /// In plain words.
        reason: String,
    },
    /// dulk.toml cannot be read.
    #[error("dulk.toml cannot be read: {0}")]
    UnreadSettings(String),
}

/// What is looked for as a pipeline, for telling where nothing was found.
pub fn places() -> Vec<String> {
    formats::all().iter().flat_map(|format| format.looked_for()).collect()
}

/// Reads the repository around `start`. With `paths`, only the pipeline files that they name or hold.
///
/// # Errors
/// When a path does not exist, or dulk.toml is wrong. Everything else that cannot be read becomes a finding or an unknown fact.
pub fn gather(start: &Path, paths: &[PathBuf]) -> Result<Repository, GatherError> {
    gather_with(start, paths, &Unsaved::new())
}

/// The same with texts that are not yet saved in the place of those on the disk, by their paths from the repository's root.
///
/// # Errors
/// As [`gather`].
pub fn gather_with(start: &Path, paths: &[PathBuf], unsaved: &Unsaved) -> Result<Repository, GatherError> {
    let paths = paths.iter().map(|path| disk::existing(start, path)).collect::<Result<Vec<_>, _>>()?;
    let first = paths.first().map_or(start, |path| if path.is_dir() { path } else { path.parent().unwrap_or(start) });
    let git = git::open(first);
    let root = git.as_ref().ok().and_then(git::work_tree).unwrap_or_else(|| disk::root_without_git(first));
    let files = with_unsaved(files::list(git.as_ref().ok(), &root), unsaved);
    let facts = match &git {
        Ok(repository) => git::facts(repository),
        Err(reason) => git::unknown(reason),
    };
    read_from(&Shelf::Disk(root.clone(), unsaved), root, &paths, files, facts)
}

/// A text that is not yet saved may be a pipeline under a name that says nothing for sure, which is only looked for among known files.
fn with_unsaved(files: Fact<FileList>, unsaved: &Unsaved) -> Fact<FileList> {
    let Fact::Known(list, origin) = files else { return files };
    let is_new = |path: &&String| !list.has(path) && formats::may_be_read(path);
    let new: Vec<String> = unsaved.keys().filter(is_new).cloned().collect();
    let list = if new.is_empty() { list } else { list.and_untracked(new) };
    Fact::Known(list, origin)
}

/// Reads the files of a commit from git's objects, as `gather` reads those of the disk. `branches` are about to exist. The repository is the
/// one that git names to the programs it runs, or else the one around the folder.
///
/// # Errors
/// When the commit is not there, or dulk.toml is wrong.
pub fn gather_commit(start: &Path, revision: &str, branches: &[&str]) -> Result<Repository, GatherError> {
    let absent = |reason: String| GatherError::Path { path: revision.to_owned(), reason };
    let repository = git::open_as_git_says(start).map_err(absent)?;
    let root = git::work_tree(&repository).unwrap_or_else(|| start.to_owned());
    let commit = Commit::of(&repository, revision).map_err(absent)?;
    let files = FileList::of_sorted(commit.paths.clone()).with_executable(commit.executable.clone());
    let files = Fact::Known(files, Origin::Files);
    let mut facts = git::facts(&repository);
    if let Fact::Known(known, _) = &mut facts.branches {
        known.extend(branches.iter().map(|branch| (*branch).to_owned()));
        known.sort_unstable();
        known.dedup();
    }
    read_from(&Shelf::Commit(commit), root, &[], files, facts)
}

fn read_from(
    shelf: &Shelf<'_>,
    root: PathBuf,
    paths: &[PathBuf],
    files: Fact<FileList>,
    git: GitFacts,
) -> Result<Repository, GatherError> {
    let mut sources = Sources::default();
    let settings = settings(shelf, &mut sources)?;
    let pipelines = pipelines(shelf, paths, (&settings, &files), &mut sources)?;
    let mut found = Found { settings, git, ..Found::default() };
    // Where there is no pipeline, people are told what is seen there; the hook, which looks at a commit, has nothing to ask.
    let is_asked = !pipelines.is_empty() || (paths.is_empty() && shelf.root().is_some());
    if let Some(list) = files.known().filter(|_| is_asked) {
        let made_of: Vec<FileId> = pipelines.iter().flat_map(|one| one.parts.iter().copied().chain([one.file])).collect();
        read_facts(list, shelf, &made_of, &mut found, &mut sources);
    }
    found.files = files;
    let facts = Facts::from_found(found, &sources);
    Ok(Repository { root, sources, pipelines, facts })
}

/// The text of a file, by its path from the root: one that is not yet saved, or else what lies on the disk now.
///
/// # Errors
/// Why it cannot be read, in plain words.
pub fn read_over(root: &Path, path: &str, unsaved: &Unsaved) -> Result<String, String> {
    unsaved_text(path, unsaved).unwrap_or_else(|| disk::read(root, path))
}

/// The text that is laid over a file, when one is.
fn unsaved_text(path: &str, unsaved: &Unsaved) -> Option<Result<String, String>> {
    let text = unsaved.get(path)?;
    Some(gate::fits(text.len() as u64).map(|()| text.clone()))
}

/// Puts a new file into the repository, with the folders on the way to it, whole or not at all. Nothing that is there is written over.
///
/// # Errors
/// When something is there already, or the way leads out of the repository; in plain words.
pub fn create(root: &Path, path: &str, text: &str) -> Result<(), String> {
    disk::create(root, path, text)
}

/// dulk.toml of the repository around a folder.
///
/// # Errors
/// When it is wrong.
pub fn settings_of(start: &Path) -> Result<Settings, GatherError> {
    settings(&Shelf::Disk(root_around(start), &Unsaved::new()), &mut Sources::default())
}

/// The formats of which the repository around a folder has a file where its forge reads it, by their short names.
pub fn formats_of(start: &Path) -> Vec<&'static str> {
    formats::formats_read(&Shelf::Disk(root_around(start), &Unsaved::new()))
}

fn root_around(start: &Path) -> PathBuf {
    let git = git::open(start);
    git.as_ref().ok().and_then(git::work_tree).unwrap_or_else(|| disk::root_without_git(start))
}

fn settings(shelf: &Shelf<'_>, sources: &mut Sources) -> Result<Settings, GatherError> {
    const NAME: &str = dulk_core::facts::SETTINGS_FILE;
    if !shelf.has(NAME) {
        return Ok(Settings::default());
    }
    let text = shelf.read(NAME).map_err(GatherError::UnreadSettings)?;
    let file = sources.add(SourceFile::new(NAME, text));
    read_settings(file, sources.get(file)).map_err(|error| GatherError::Settings { line: error.line, reason: error.reason })
}

fn pipelines(
    shelf: &Shelf<'_>,
    paths: &[PathBuf],
    (settings, files): (&Settings, &Fact<FileList>),
    sources: &mut Sources,
) -> Result<Vec<PipelineFile>, GatherError> {
    let skipped = disk::glob_set(&settings.files.skip);
    let (mut named, mut folders): (Vec<String>, Vec<String>) = Default::default();
    for path in paths {
        let Some(root) = shelf.root() else { continue };
        let relative = disk::relative(root, path)?;
        match (path.is_dir(), relative.is_empty()) {
            (true, true) => folders.push(relative),
            (true, false) => folders.push(format!("{relative}/")),
            (false, _) => named.push(relative),
        }
    }
    let asked = if paths.is_empty() { AskedFor::Everything } else { AskedFor::Only { files: &named, folders: &folders } };
    let skips = |path: &str| skipped.is_match(path);
    pipeline_files(shelf, files.known(), asked, (settings, &skips), sources).map_err(|error| match error {
        FilesError::Unclaimed { path, reason } => GatherError::Path { path, reason },
        FilesError::Settings { at, reason } => {
            GatherError::Settings { line: sources.get(at.file).position(at.span.start).line, reason }
        }
    })
}

#[cfg(test)]
mod tests;
