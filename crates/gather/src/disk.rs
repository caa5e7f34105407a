//! Files on disk: which are pipelines, and how they are read without harm.

use std::fs::{self, File};
use std::path::{Component, Path, PathBuf};

use dulk_core::formats::{self, Spot};
use globset::{GlobBuilder, GlobSet, GlobSetBuilder};

use crate::GatherError;
use crate::gate::{self, plain};

/// A path of the call, made absolute.
pub(crate) fn existing(start: &Path, path: &Path) -> Result<PathBuf, GatherError> {
    let full = start.join(path);
    match fs::metadata(&full) {
        Ok(_) => Ok(full),
        Err(error) => {
            let reason = if error.kind() == std::io::ErrorKind::NotFound {
                "there is no such file or folder".to_owned()
            } else {
                plain(&error)
            };
            Err(GatherError::Path { path: path.display().to_string(), reason })
        }
    }
}

/// The top folder where there is no git: the nearest one above that holds a pipeline folder, dulk.toml or a broken `.git`.
pub(crate) fn root_without_git(start: &Path) -> PathBuf {
    let start = fs::canonicalize(start).unwrap_or_else(|_| start.to_owned());
    let is_root = |dir: &&Path| {
        let holds = |spot: Spot| match spot {
            Spot::Folder(folder) => dir.join(folder).is_dir(),
            Spot::File(_) => false,
        };
        formats::all().iter().flat_map(|format| format.spots()).any(holds)
            || dir.join(dulk_core::facts::SETTINGS_FILE).exists()
            || dir.join(".git").exists()
    };
    start.ancestors().find(is_root).unwrap_or(&start).to_owned()
}

/// A path as it is called from the root, with `/`.
pub(crate) fn relative(root: &Path, path: &Path) -> Result<String, GatherError> {
    let elsewhere = || GatherError::Elsewhere { path: path.display().to_string(), root: root.display().to_string() };
    // The last part stays as it is, so that a symbolic link keeps its own name.
    let (parent, name) = match (path.is_dir(), path.parent(), path.file_name()) {
        (false, Some(parent), Some(name)) => (parent, Some(name)),
        _ => (path, None),
    };
    let full = fs::canonicalize(parent).map_err(|_| elsewhere())?;
    let inside = full.strip_prefix(fs::canonicalize(root).map_err(|_| elsewhere())?).map_err(|_| elsewhere())?.to_owned();
    let whole = match name {
        Some(name) => inside.join(name),
        None => inside,
    };
    Ok(slashed(&whole))
}

/// With `/` between its parts on every system.
pub(crate) fn slashed(path: &Path) -> String {
    let parts = path.components().filter_map(|part| match part {
        Component::Normal(name) => Some(name.to_string_lossy()),
        _ => None,
    });
    parts.collect::<Vec<_>>().join("/")
}

/// The names of what lies directly in a folder, sorted. Whatever has a name counts, also what is no file: it is told.
pub(crate) fn names_in(root: &Path, folder: &str) -> Vec<String> {
    let Ok(entries) = gate::inside(root, folder).and_then(|folder| fs::read_dir(folder).map_err(|error| plain(&error))) else {
        return Vec::new();
    };
    let mut names: Vec<String> = entries.flatten().map(|entry| entry.file_name().to_string_lossy().into_owned()).collect();
    names.retain(|name| !is_left_over(name));
    names.sort_unstable();
    names
}

/// A walk through the files that git does not ignore. It follows no link, and reads nothing above the folder.
pub(crate) fn walk_in(folder: &Path) -> ignore::WalkBuilder {
    let mut walk = ignore::WalkBuilder::new(folder);
    walk.hidden(false).require_git(false).parents(false).git_global(false).git_exclude(gate::has_sound_exclude(folder));
    // The library reads these lists itself.
    if !gate::has_sound_ignores(folder) {
        walk.ignore(false).git_ignore(false);
    }
    walk.filter_entry(|entry| {
        let name = entry.file_name().to_str();
        let kept = !matches!(name, Some(".git" | "node_modules")) && !name.is_some_and(is_left_over);
        let is_folder = entry.depth() > 0 && entry.file_type().is_some_and(|kind| kind.is_dir());
        kept && (!is_folder || gate::has_sound_ignores(entry.path()))
    });
    walk
}

/// A pattern names no more files than this.
pub(crate) const MATCHES: usize = 200;

/// Files that a pattern with `*` and `**` fits, from the root.
pub(crate) fn matching(root: &Path, pattern: &str) -> Vec<String> {
    let Ok(glob) = globset::GlobBuilder::new(pattern).literal_separator(true).build() else { return Vec::new() };
    let matcher = glob.compile_matcher();
    let fixed = pattern.split('*').next().unwrap_or_default();
    let start = fixed.rsplit_once('/').map_or("", |(dir, _)| dir);
    if gate::climbs_out(pattern) || gate::inside(root, start).is_err() {
        return Vec::new();
    }
    let paths = walk_in(&root.join(start))
        .max_depth(Some(8))
        .build()
        .flatten()
        .filter(|entry| entry.file_type().is_some_and(|kind| kind.is_file()));
    let names = paths.map(|entry| slashed(entry.path().strip_prefix(root).unwrap_or(entry.path())));
    let mut found: Vec<String> = names.filter(|name| matcher.is_match(name)).take(MATCHES).collect();
    found.sort_unstable();
    found
}

/// Reads a text of the repository.
pub(crate) fn read(root: &Path, name: &str) -> Result<String, String> {
    gate::read(root, name).and_then(text_of)
}

/// The first bytes of an ordinary file as text, up to the last whole character.
pub(crate) fn begins(root: &Path, name: &str, bytes: usize) -> Option<String> {
    // A link, a pipe or a device is never opened for a look.
    let mut head = gate::begins(root, name, bytes)?;
    let whole = std::str::from_utf8(&head).map_or_else(|error| error.valid_up_to(), str::len);
    head.truncate(whole);
    String::from_utf8(head).ok()
}

/// Bytes as text.
pub(crate) fn text_of(bytes: Vec<u8>) -> Result<String, String> {
    String::from_utf8(bytes).map_err(|error| {
        let valid = error.utf8_error().valid_up_to();
        let line = error.as_bytes()[..valid].iter().filter(|byte| **byte == b'\n').count() + 1;
        format!("it is not UTF-8 text: a byte on line {line} belongs to no character")
    })
}

/// How the name of a file begins and ends that is about to take the place of another one.
pub(crate) const LEFT_OVER: (&str, &str) = (".dulk-", ".tmp");

/// Whether a name is that of a file that a killed run left behind.
pub(crate) fn is_left_over(name: &str) -> bool {
    name.starts_with(LEFT_OVER.0) && name.ends_with(LEFT_OVER.1)
}

/// Removes what killed runs left behind in a folder: files of such a name that no run holds.
pub fn remove_left_over(folder: &Path) {
    for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
        let is_ours = entry.file_name().to_str().is_some_and(is_left_over) && entry.file_type().is_ok_and(|kind| kind.is_file());
        if is_ours && File::open(entry.path()).is_ok_and(|file| file.try_lock().is_ok()) {
            let _ = fs::remove_file(entry.path());
        }
    }
}

/// A file that is about to take the place of another one, in the same folder.
pub(crate) fn new_beside(path: &Path) -> std::io::Result<tempfile::NamedTempFile> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    remove_left_over(folder);
    let new = tempfile::Builder::new().prefix(LEFT_OVER.0).suffix(LEFT_OVER.1).tempfile_in(folder)?;
    // As long as this is held, no other run takes it for one that was left behind.
    let _ = new.as_file().try_lock();
    Ok(new)
}

/// A text, whole on the disk, that is about to get a path in the same folder; without a mode it gets the usual one.
fn whole_beside(path: &Path, text: &str, mode: Option<fs::Permissions>) -> std::io::Result<tempfile::NamedTempFile> {
    use std::io::Write;
    let mut new = new_beside(path)?;
    new.write_all(text.as_bytes())?;
    let file = new.as_file();
    match mode {
        Some(mode) => file.set_permissions(mode)?,
        None => set_usual_mode(file)?,
    }
    file.sync_all()?;
    Ok(new)
}

/// Puts a text in the place of a file, so that a crash leaves the old or the new one whole. The file's mode stays.
///
/// # Errors
/// When the folder cannot be written, or the file is read-only or no ordinary one; in plain words.
pub fn replace(path: &Path, text: &str) -> Result<(), String> {
    let old = fs::symlink_metadata(path).ok();
    if old.as_ref().is_some_and(|metadata| !metadata.is_file()) {
        return Err("it is no ordinary file".into());
    }
    if old.as_ref().is_some_and(|metadata| metadata.permissions().readonly()) {
        return Err("it is read-only".into());
    }
    let new = whole_beside(path, text, old.map(|metadata| metadata.permissions())).map_err(|error| plain(&error))?;
    new.persist(path).map(drop).map_err(|error| plain(&error.error))
}

/// Puts a new file below a root, with the folders on the way to it. Nothing that is there is written over.
pub(crate) fn create(root: &Path, name: &str, text: &str) -> Result<(), String> {
    let path = root.join(name);
    if fs::symlink_metadata(&path).is_ok() {
        return Err("it is there already".into());
    }
    let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
    // What is there of the way has to lie in the repository; the rest is made there.
    let there = |part: &&str| fs::symlink_metadata(root.join(part)).is_ok();
    if let Some(last) = ways(folder).filter(there).last() {
        let real = gate::inside(root, last)?;
        if !real.is_dir() {
            return Err(format!("{last} is no folder"));
        }
    }
    fs::create_dir_all(root.join(folder)).map_err(|error| plain(&error))?;
    let new = whole_beside(&path, text, None).map_err(|error| plain(&error))?;
    new.persist_noclobber(&path).map(drop).map_err(|error| plain(&error.error))
}

/// `a`, `a/b` and `a/b/c` of `a/b/c`.
fn ways(folder: &str) -> impl Iterator<Item = &str> {
    let ends = folder.match_indices('/').map(|(index, _)| index).chain([folder.len()]);
    ends.map(|end| &folder[..end]).filter(|way| !way.is_empty())
}

/// A temporary file is for its owner alone; a new file of the repository is for all to read.
#[cfg(unix)]
fn set_usual_mode(file: &File) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    file.set_permissions(fs::Permissions::from_mode(0o644))
}

#[cfg(not(unix))]
fn set_usual_mode(_: &File) -> std::io::Result<()> {
    Ok(())
}

/// Patterns of dulk.toml; one that is no pattern fits nothing.
pub(crate) fn glob_set(patterns: &[String]) -> GlobSet {
    let mut builder = GlobSetBuilder::new();
    for glob in patterns.iter().filter_map(|pattern| GlobBuilder::new(pattern).literal_separator(true).build().ok()) {
        builder.add(glob);
    }
    builder.build().unwrap_or_default()
}
