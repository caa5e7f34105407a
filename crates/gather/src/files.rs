//! The files that a checkout brings, and the companions among them.

use std::path::Path;

use dulk_core::facts::{Fact, Facts, FileList, Found, Origin, config_names, is_page_source, is_settings_file};
use dulk_core::knowledge;
use dulk_core::text::{SourceFile, Sources};
use gix::Repository;

use crate::disk::slashed;
use crate::shelf::Shelf;

/// Without git, more files than this are not looked through.
const WALK_LIMIT: usize = 50_000;
/// Packages deeper in the repository are not looked at, and not more than this many.
const PACKAGE_DEPTH: usize = 4;
const PACKAGE_LIMIT: usize = 64;

/// All files: those that git tracks, or where it tracks none yet, those on disk that it does not ignore.
pub(crate) fn list(git: Option<&Repository>, root: &Path) -> Fact<FileList> {
    let tracked = git.and_then(|repository| {
        let index = repository.index_or_empty().ok()?;
        let paths: Vec<String> =
            index.entries().iter().filter_map(|entry| String::from_utf8(entry.path(&index).to_vec()).ok()).collect();
        (!paths.is_empty()).then_some(paths)
    });
    match tracked {
        Some(paths) => Fact::Known(with_new_files(git, root, paths), Origin::Files),
        None => walk(root).map_or_else(
            || Fact::Unknown("there are too many files to look through".into()),
            |paths| Fact::Known(FileList::new(paths, Vec::new()), Origin::Files),
        ),
    }
}

/// Adds companions that exist beside the tracked files and are not ignored: they are likely to be added before the push.
fn with_new_files(git: Option<&Repository>, root: &Path, paths: Vec<String>) -> FileList {
    let mut names: Vec<&str> = vec!["package.json", "requirements.txt", "pyproject.toml", "Pipfile.lock", "poetry.lock"];
    names.extend(knowledge::managers().manager.iter().flat_map(|manager| manager.lockfiles.iter().map(String::as_str)));
    names.extend(config_names());
    let list = FileList::new(paths.clone(), Vec::new());
    let new: Vec<String> =
        names.into_iter().filter(|name| !list.has(name) && root.join(name).is_file()).map(str::to_owned).collect();
    let new = new.into_iter().filter(|name| !git.is_some_and(|repository| is_ignored(repository, name))).collect();
    FileList::new(paths, new)
}

fn is_ignored(repository: &Repository, name: &str) -> bool {
    let Ok(index) = repository.index_or_empty() else { return false };
    let source = gix::worktree::stack::state::ignore::Source::WorktreeThenIdMappingIfNotSkipped;
    let Ok(mut stack) = repository.excludes(&index, None, source) else { return false };
    stack.at_entry(name, None).is_ok_and(|platform| platform.is_excluded())
}

fn walk(root: &Path) -> Option<Vec<String>> {
    let mut paths = Vec::new();
    let kept = |entry: &ignore::DirEntry| !matches!(entry.file_name().to_str(), Some(".git" | "node_modules"));
    for entry in ignore::WalkBuilder::new(root)
        .hidden(false)
        .require_git(false)
        .parents(false)
        .git_global(false)
        .filter_entry(kept)
        .build()
    {
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

fn is_project_file(path: &str) -> bool {
    let name = path.rsplit('/').next().unwrap_or_default();
    let typescript = name.starts_with("tsconfig") && name.ends_with(".json");
    (typescript || name.ends_with(".csproj")) && path.matches('/').count() <= PACKAGE_DEPTH && !path.contains("node_modules/")
}

/// More of the page's sources than this are not read, nor longer ones.
const PAGE_SOURCES: usize = 200;
const PAGE_SOURCE_BYTES: u64 = 200_000;

/// Reads the page's own sources, where a generator copies variables into them.
pub(crate) fn read_page_sources(shelf: &Shelf<'_>, found: &mut Found, sources: &mut Sources) {
    let packages: Vec<&str> = found
        .companions
        .iter()
        .map(|file| sources.get(*file))
        .filter(|source| source.path.ends_with("package.json"))
        .map(|source| source.text.as_str())
        .collect();
    let Some(files) = found.files.known().filter(|_| Facts::puts_variables_into_pages(&packages)) else { return };
    let small = |path: &&str| shelf.is_small(path, PAGE_SOURCE_BYTES);
    let wanted: Vec<String> = files
        .iter()
        .filter(|path| is_settings_file(path) || is_page_source(path))
        .filter(small)
        .take(PAGE_SOURCES)
        .map(str::to_owned)
        .collect();
    for path in wanted {
        if let Ok(text) = shelf.read(&path) {
            found.page_sources.push(sources.add(SourceFile::new(path, text)));
        }
    }
}

/// Reads package.json files and the configuration of generators beside them.
pub(crate) fn read_companions(shelf: &Shelf<'_>, found: &mut Found, sources: &mut Sources) {
    let Some(files) = found.files.known() else { return };
    let is_package = |path: &&str| {
        let name_fits = *path == "package.json" || path.ends_with("/package.json");
        name_fits && !path.contains("node_modules/") && path.matches('/').count() <= PACKAGE_DEPTH
    };
    let mut wanted: Vec<String> = files.iter().filter(is_package).map(str::to_owned).collect();
    wanted.sort_by_key(|path| path.matches('/').count());
    wanted.truncate(PACKAGE_LIMIT);
    let mut dirs: Vec<String> = wanted.iter().map(|path| path.trim_end_matches("package.json").to_owned()).collect();
    if !dirs.iter().any(String::is_empty) {
        dirs.push(String::new());
    }
    for dir in dirs {
        wanted.extend(Some(format!("{dir}package-lock.json")).filter(|path| files.has(path)));
        wanted.extend(config_names().map(|name| format!("{dir}{name}")).filter(|path| files.has(path)));
    }
    // Names that compilers' project files of templates use; they tell whether a compiler writes a folder.
    wanted.extend(files.iter().filter(|path| is_project_file(path)).take(PACKAGE_LIMIT).map(str::to_owned));
    wanted.sort_unstable();
    wanted.dedup();
    for path in wanted {
        match shelf.read(&path) {
            Ok(text) => found.companions.push(sources.add(SourceFile::new(path, text))),
            Err(reason) => found.unread.push((path, reason)),
        }
    }
}
