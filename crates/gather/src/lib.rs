//! Reads the disk and git into the values that core works on. It runs nothing of the repository and touches no network.

mod demo;
mod disk;
mod files;
mod git;
mod hook;
mod shelf;

use std::path::{Path, PathBuf};

pub use demo::demo_repository;
pub use disk::replace;
pub use git::{changed_lines, changed_paths};
pub use hook::{HookState, hook_off, hook_on, hook_status};

use dulk_core::facts::Shelf as _;
use dulk_core::facts::{Fact, Facts, FileList, Found, GitFacts, Origin, Settings, read_facts, read_settings};
use dulk_core::knowledge;
use dulk_core::model::Dialect;
use dulk_core::read::{dialect_of, is_pipeline, is_read, misplaced, moved_along};
use dulk_core::text::{FileId, SourceFile, Sources};

use shelf::{Commit, Shelf};

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

/// A pipeline file.
#[derive(Debug)]
pub struct PipelineFile {
    /// Its text; empty when it could not be read.
    pub file: FileId,
    /// The format.
    pub dialect: Dialect,
    /// Why it could not be read.
    pub refused: Option<String>,
    /// The local files that it includes.
    pub parts: Vec<FileId>,
    /// Something that it includes is not there.
    pub missing: bool,
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

/// The folders that pipeline files are looked for in, for telling where nothing was found.
pub fn places() -> Vec<String> {
    knowledge::workflow().host.iter().map(|host| host.folder.clone()).collect()
}

/// Reads the repository around `start`. With `paths`, only the pipeline files that they name or hold.
///
/// # Errors
/// When a path does not exist, or dulk.toml is wrong. Everything else that cannot be read becomes a finding or an unknown fact.
pub fn gather(start: &Path, paths: &[PathBuf]) -> Result<Repository, GatherError> {
    let paths = paths.iter().map(|path| disk::existing(start, path)).collect::<Result<Vec<_>, _>>()?;
    let first = paths.first().map_or(start, |path| if path.is_dir() { path } else { path.parent().unwrap_or(start) });
    let git = git::open(first);
    let root = git.as_ref().ok().and_then(git::work_tree).unwrap_or_else(|| disk::root_without_git(first));
    let files = files::list(git.as_ref().ok(), &root);
    let facts = match &git {
        Ok(repository) => git::facts(repository),
        Err(reason) => git::unknown(reason),
    };
    read_from(&Shelf::Disk(root.clone()), root, &paths, files, facts)
}

/// Reads the files of a commit from git's objects, as `gather` reads those of the disk. `branch` is one that is about to exist.
///
/// # Errors
/// When the commit is not there, or dulk.toml is wrong.
pub fn gather_commit(start: &Path, revision: &str, branch: Option<&str>) -> Result<Repository, GatherError> {
    let absent = |reason: String| GatherError::Path { path: revision.to_owned(), reason };
    let repository = git::open(start).map_err(absent)?;
    let root = git::work_tree(&repository).unwrap_or_else(|| start.to_owned());
    let commit = Commit::of(&repository, revision).map_err(absent)?;
    let files = Fact::Known(FileList::new(commit.paths.clone(), Vec::new()), Origin::Files);
    let mut facts = git::facts(&repository);
    if let (Fact::Known(branches, _), Some(branch)) = (&mut facts.branches, branch)
        && !branches.iter().any(|known| known == branch)
    {
        branches.push(branch.to_owned());
        branches.sort_unstable();
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
    let mut found = Found { settings, git, files, ..Found::default() };
    if let Some(list) = found.files.known().filter(|_| !pipelines.is_empty()).cloned() {
        read_facts(&list, shelf, &mut found, &mut sources);
    }
    let facts = Facts::from_found(found, &sources);
    Ok(Repository { root, sources, pipelines, facts })
}

/// dulk.toml of the repository around a folder.
///
/// # Errors
/// When it is wrong.
pub fn settings_of(start: &Path) -> Result<Settings, GatherError> {
    let git = git::open(start);
    let root = git.as_ref().ok().and_then(git::work_tree).unwrap_or_else(|| disk::root_without_git(start));
    settings(&Shelf::Disk(root), &mut Sources::default())
}

fn settings(shelf: &Shelf<'_>, sources: &mut Sources) -> Result<Settings, GatherError> {
    const NAME: &str = "dulk.toml";
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
    let mut names: Vec<String> = Vec::new();
    if paths.is_empty() {
        names = shelf.pipeline_names();
        names.extend(files.known().map(|files| beside(shelf, files)).unwrap_or_default());
    }
    for path in paths {
        let Some(root) = shelf.root() else { continue };
        let relative = disk::relative(root, path)?;
        if path.is_dir() {
            let prefix = if relative.is_empty() { String::new() } else { format!("{relative}/") };
            names.extend(shelf.pipeline_names().into_iter().filter(|name| name.starts_with(&prefix)));
        } else {
            names.push(relative);
        }
    }
    let skipped = disk::glob_set(&settings.files.skip);
    names.retain(|name| paths.iter().any(|path| path.is_file()) || !skipped.is_match(name));
    names.sort_unstable();
    names.dedup();
    Ok(names.into_iter().map(|name| pipeline(shelf, name, sources)).collect())
}

/// The second format's one file.
const GITLAB: &str = ".gitlab-ci.yml";
/// Files that one file includes, and those that they include; more are no honest pipeline.
const PARTS_LIMIT: usize = 60;

/// The local files that a pipeline includes, over and over, each once; and whether one of them is not there.
fn parts(shelf: &Shelf<'_>, text: &str, sources: &mut Sources) -> (Vec<FileId>, bool) {
    let mut missing = false;
    let mut seen: Vec<String> = vec![GITLAB.to_owned()];
    let mut found = Vec::new();
    let mut open = dulk_core::read::local_includes(text);
    while let Some(pattern) = open.pop() {
        let pattern = pattern.trim_start_matches('/').to_owned();
        let names = if pattern.contains('*') { shelf.matching(&pattern) } else { vec![pattern] };
        for name in names {
            if seen.contains(&name) {
                continue;
            }
            if found.len() >= PARTS_LIMIT {
                return (found, true);
            }
            match shelf.read(&name) {
                Ok(text) => {
                    open.extend(dulk_core::read::local_includes(&text));
                    found.push(sources.add(SourceFile::new(name.clone(), text)));
                }
                Err(_) => missing = true,
            }
            seen.push(name);
        }
    }
    (found, missing)
}

/// More composite actions, or files under slipped names, than this are not looked at.
const BESIDE_LIMIT: usize = 64;

/// Composite actions, and pipeline files where no forge reads them.
fn beside(shelf: &Shelf<'_>, files: &FileList) -> Vec<String> {
    let is_action = |path: &str| {
        let name = path.rsplit('/').next().unwrap_or_default();
        matches!(name, "action.yml" | "action.yaml") && !path.contains("node_modules/")
    };
    let read = files.iter().any(is_read);
    let may_be = |path: &str| misplaced(path).is_some() || !read && moved_along(path).is_some();
    let slipped = |path: &&str| may_be(path) && shelf.read(path).is_ok_and(|text| is_pipeline(&dulk_core::tree::parse(&text)));
    files.iter().filter(|path| is_action(path) || slipped(path)).take(BESIDE_LIMIT).map(str::to_owned).collect()
}

fn pipeline(shelf: &Shelf<'_>, name: String, sources: &mut Sources) -> PipelineFile {
    let dialect = dialect_of(&name);
    let (text, refused) = match shelf.read(&name) {
        Ok(text) => (text, None),
        Err(reason) => (String::new(), Some(reason)),
    };
    let (parts, missing) = if dialect == Dialect::Gitlab { parts(shelf, &text, sources) } else { (Vec::new(), false) };
    PipelineFile { file: sources.add(SourceFile::new(name, text)), dialect, refused, parts, missing }
}

#[cfg(test)]
mod tests;
