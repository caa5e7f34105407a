//! Which file the hook is, and whose.

use std::fs;
use std::path::{Path, PathBuf};

use gix::Repository;
use gix::bstr::ByteSlice;

use super::{NAME, is_there, packages};
use crate::gate::plain;

/// The folder of hooks that a manager of hooks writes again at each install; each calls the script of its own name in the folder above, which
/// people write. Source: the managers' own pages name this folder as `core.hooksPath`, 2026-11.
const WRITTEN_AGAIN: &str = "_";
/// A line by which ours is known among what this clone ignores.
const LEFT_OUT: &str = "# put here by dulk guard on: the hook below is this clone's alone";

/// Whose hook it would be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Reach {
    /// This clone's.
    Clone,
    /// That of everybody who has the repository.
    Tracked,
    /// That of all repositories of a person, or of a machine.
    AllRepositories,
}

impl Reach {
    /// Why it is not put there unasked.
    pub fn told(self, file: &Path) -> Option<String> {
        let file = file.display();
        match self {
            Self::Clone => None,
            Self::Tracked => Some(format!("git tracks {file}: the guard in it would be everybody's")),
            Self::AllRepositories => Some(format!("{file} is a hook of more repositories than this one")),
        }
    }
}

/// Where the hook is.
pub(super) struct Place {
    /// Its file.
    pub file: PathBuf,
    /// Whose it is.
    pub reach: Reach,
    /// It is people's script, which a manager of hooks runs.
    pub managed: bool,
    /// The top of the work tree, without links.
    top: Option<PathBuf>,
    /// Its path from the top, when it lies among the repository's files.
    inside: Option<String>,
    /// The list of what only this clone ignores.
    exclude: PathBuf,
}

impl Place {
    /// Whether our lines go into the script that is there: it is people's own, and not a hook to be kept aside.
    pub fn is_written_into(&self) -> bool {
        self.managed || self.reach != Reach::Clone || self.inside.is_some()
    }

    /// Whether the script is the repository's as much as this clone's, so that it must not say where this machine has its program.
    pub fn is_for_everybody(&self, shared: bool) -> bool {
        self.reach == Reach::Tracked || shared && self.reach == Reach::Clone && self.inside.is_some()
    }

    /// Whether a script is there that people write, and that is not hidden from git for that.
    pub fn holds_peoples(&self) -> bool {
        let left_out = || fs::read_to_string(&self.exclude).is_ok_and(|list| list.contains(LEFT_OUT));
        self.inside.is_some() && is_there(&self.file) && !left_out()
    }

    /// The folder whose installed packages a program is one of. Without it, what a repository calls installed is never run.
    pub fn packages_of(&self, program: &Path) -> Option<String> {
        packages::folder_of(&resolved(program), self.top.as_ref()?)
    }

    /// Keeps git from taking a hook that is new and this clone's alone into a commit.
    ///
    /// # Errors
    /// When the list cannot be written.
    pub fn leave_out(&self) -> Result<(), String> {
        let Some(path) = self.inside.as_ref().filter(|_| self.reach == Reach::Clone) else { return Ok(()) };
        let old = fs::read_to_string(&self.exclude).unwrap_or_default();
        if old.contains(LEFT_OUT) {
            return Ok(());
        }
        let gap = if old.is_empty() || old.ends_with('\n') { "" } else { "\n" };
        self.set_left_out(&format!("{old}{gap}{LEFT_OUT}\n/{path}\n"))
    }

    /// Takes that back.
    ///
    /// # Errors
    /// When the list cannot be written.
    pub fn forget(&self) -> Result<(), String> {
        let old = fs::read_to_string(&self.exclude).unwrap_or_default();
        let Some((before, after)) = old.split_once(LEFT_OUT) else { return Ok(()) };
        let after = after.trim_start_matches('\n').split_once('\n').map_or("", |(_, rest)| rest);
        self.set_left_out(&format!("{before}{after}"))
    }

    fn set_left_out(&self, text: &str) -> Result<(), String> {
        let failed = |reason: String| format!("{} cannot be written: {reason}", self.exclude.display());
        if let Some(folder) = self.exclude.parent() {
            fs::create_dir_all(folder).map_err(|error| failed(plain(&error)))?;
        }
        crate::replace(&self.exclude, text).map_err(failed)
    }
}

/// Where git takes the hook from: `core.hooksPath`, or the folder of git's own data that work trees share.
///
/// # Errors
/// Outside git.
pub(super) fn of(start: &Path) -> Result<Place, String> {
    crate::git::sound(start)?;
    // The user's own settings count here: git itself looks for hooks by them.
    let repository = gix::ThreadSafeRepository::discover_with_environment_overrides(start)
        .map_err(|_| "this is no git repository".to_owned())?
        .to_thread_local();
    let top = repository.workdir().map_or_else(|| repository.git_dir().to_owned(), Path::to_owned);
    let (folder, of_this) = match named(&repository) {
        Some((folder, of_this)) => (resolved(&top.join(folder)), of_this),
        None => (resolved(&repository.common_dir().join("hooks")), true),
    };
    let files = repository.workdir().map(resolved);
    let shown_by = |path: &Path| files.as_ref().and_then(|files| path.strip_prefix(files).ok().map(crate::disk::slashed));
    let in_git = folder.starts_with(resolved(repository.common_dir()));
    let managed = folder.file_name().is_some_and(|name| name == WRITTEN_AGAIN) && shown_by(&folder).is_some() && !in_git;
    let folder = if managed { folder.parent().map_or(folder.clone(), Path::to_owned) } else { folder };
    let mut file = folder.join(NAME);
    let tracked = |path: &Path| shown_by(path).is_some_and(|path| is_tracked(&repository, &path));
    let mut reach = match (in_git || shown_by(&folder).is_some(), tracked(&file)) {
        (_, true) => Reach::Tracked,
        (true, false) if of_this => Reach::Clone,
        (_, false) => Reach::AllRepositories,
    };
    // What is written into is the script itself, not the link to it.
    if managed || reach != Reach::Clone {
        file = fs::canonicalize(&file).unwrap_or(file);
        if tracked(&file) {
            reach = Reach::Tracked;
        }
    }
    let inside = if in_git { None } else { shown_by(&file) };
    Ok(Place { top: files, inside, file, reach, managed, exclude: repository.common_dir().join("info/exclude") })
}

/// The folder of hooks that the settings name, and whether the repository's own settings do.
fn named(repository: &Repository) -> Option<(PathBuf, bool)> {
    let config = repository.config_snapshot();
    let folder = config.trusted_path("core.hooksPath").ok().flatten()?;
    let own =
        |meta: &gix::config::file::Metadata| matches!(meta.source, gix::config::Source::Local | gix::config::Source::Worktree);
    let of_this = config.plumbing().string_filter("core.hooksPath", own).is_some();
    Some((folder, of_this))
}

fn is_tracked(repository: &Repository, path: &str) -> bool {
    repository.index_or_empty().is_ok_and(|index| index.entry_by_path(path.as_bytes().as_bstr()).is_some())
}

/// A path without links, as far as it is there.
fn resolved(path: &Path) -> PathBuf {
    let there = path.ancestors().find_map(|part| Some((part, fs::canonicalize(part).ok()?)));
    match there {
        Some((part, full)) => full.join(path.strip_prefix(part).unwrap_or(Path::new(""))),
        None => path.to_owned(),
    }
}
