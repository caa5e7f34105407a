//! The one gate through which the repository's files are read: every part of a path is followed, and whatever leads out of the repository, or
//! is no ordinary file, is refused before it is opened.

use std::fs::{self, File, Metadata};
use std::io::Read;
use std::path::{Component, Path, PathBuf};

/// A larger file was not written by a person, and forges refuse it long before.
pub(crate) const SIZE_LIMIT: u64 = 4 << 20;
/// A larger list of what git ignores is none.
const IGNORE_LIMIT: u64 = 1 << 20;
/// git's references lie no deeper than this.
const REFS_DEPTH: usize = 12;

/// Why a file is not opened when a link on the way to it leads elsewhere.
pub(crate) const LEADS_OUT: &str = "it is a symbolic link that leads out of the repository";

/// The same of a folder on the way.
pub(crate) const WAY_LEADS_OUT: &str = "a folder on the way to it is a symbolic link that leads out of the repository";

/// Where a path of the repository really is.
///
/// # Errors
/// When nothing is there, or it leads out of the repository or into git's own files; in plain words.
pub(crate) fn inside(root: &Path, name: &str) -> Result<PathBuf, String> {
    find(root, name).map(|(path, _)| path)
}

/// The same, with what the system says of it.
fn find(root: &Path, name: &str) -> Result<(PathBuf, Metadata), String> {
    if climbs_out(name) {
        return Err("it lies outside the repository".into());
    }
    if let Some(found) = without_links(root, name, "")? {
        return Ok(found);
    }
    let path = through_links(root, name)?;
    let found = fs::metadata(&path).map_err(|error| plain(&error))?;
    Ok((path, found))
}

/// Files of a repository that are read one after the other: the way to the folder of the last one is not looked at again.
pub(crate) struct InTurn<'r> {
    root: &'r Path,
    /// The last folder with no link on the way to it.
    plain_folder: String,
}

impl<'r> InTurn<'r> {
    /// Of the repository with this root.
    pub fn of(root: &'r Path) -> Self {
        Self { root, plain_folder: String::new() }
    }

    /// The bytes of a file.
    ///
    /// # Errors
    /// When it is not there, lies elsewhere, is no ordinary file or is too large; in plain words.
    pub fn read(&mut self, name: &str) -> Result<Vec<u8>, String> {
        let found = if climbs_out(name) { None } else { without_links(self.root, name, &self.plain_folder)? };
        let Some(found) = found else { return read(self.root, name) };
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        if folder != self.plain_folder {
            folder.clone_into(&mut self.plain_folder);
        }
        read_found(found)
    }
}

/// Where a path of the repository really is, when links stand on the way.
fn through_links(root: &Path, name: &str) -> Result<PathBuf, String> {
    let path = root.join(name);
    let is_link = || fs::symlink_metadata(&path).is_ok_and(|found| found.is_symlink());
    let full = fs::canonicalize(&path).map_err(|error| match is_link() {
        true => "it is a symbolic link that leads nowhere".to_owned(),
        false => plain(&error),
    })?;
    // The root is mostly resolved already.
    let inner = match full.strip_prefix(root) {
        Ok(inner) => Some(inner.to_owned()),
        Err(_) => {
            let root = fs::canonicalize(root).map_err(|error| plain(&error))?;
            full.strip_prefix(root).ok().map(Path::to_owned)
        }
    };
    match inner {
        Some(inner) if inner.starts_with(".git") => Err("it is a symbolic link into git's own files".into()),
        Some(_) => Ok(full),
        None if is_link() => Err(LEADS_OUT.into()),
        None => Err(WAY_LEADS_OUT.into()),
    }
}

/// A path below a root with what the system says of it, when every part of it is written as it is called and none is a link: then it
/// leads nowhere else. `None` when that has to be looked at more closely. The same is known of `plain_folder` already, or it is "".
///
/// # Errors
/// When nothing is there; in plain words.
fn without_links(root: &Path, name: &str, plain_folder: &str) -> Result<Option<(PathBuf, Metadata)>, String> {
    let below = name.strip_prefix(plain_folder).and_then(|below| below.strip_prefix('/')).filter(|_| !plain_folder.is_empty());
    let mut path = if below.is_some() { root.join(plain_folder) } else { root.to_owned() };
    let mut last = None;
    for part in Path::new(below.unwrap_or(name)).components() {
        let Component::Normal(part) = part else { return Ok(None) };
        // On some disks the name of git's own folder may stand in other letters.
        if last.is_none() && below.is_none() && part.eq_ignore_ascii_case(".git") {
            return Ok(None);
        }
        path.push(part);
        let found = fs::symlink_metadata(&path).map_err(|error| plain(&error))?;
        if found.is_symlink() {
            return Ok(None);
        }
        last = Some(found);
    }
    Ok(last.map(|found| (path, found)))
}

/// Whether a path leads above the folder that it starts in, or starts at none.
pub(crate) fn climbs_out(name: &str) -> bool {
    let mut depth = 0_usize;
    for part in Path::new(name).components() {
        match part {
            Component::Normal(_) => depth += 1,
            Component::CurDir => {}
            Component::ParentDir if depth > 0 => depth -= 1,
            Component::ParentDir | Component::RootDir | Component::Prefix(_) => return true,
        }
    }
    false
}

/// Whether something is at a path of the repository, and a link on the way to it leads out.
pub(crate) fn leads_out(root: &Path, name: &str) -> bool {
    fs::symlink_metadata(root.join(name)).is_ok() && inside(root, name).is_err()
}

/// The bytes of a file of the repository.
///
/// # Errors
/// When it is not there, lies elsewhere, is no ordinary file or is too large; in plain words.
pub(crate) fn read(root: &Path, name: &str) -> Result<Vec<u8>, String> {
    read_found(find(root, name)?)
}

/// The same of a file that is no longer than this many bytes; nothing when it is longer or not there.
pub(crate) fn read_small(root: &Path, name: &str, limit: u64) -> Option<Result<Vec<u8>, String>> {
    let found = find(root, name).ok().filter(|(_, data)| data.len() <= limit)?;
    Some(read_found(found))
}

fn read_found(found: (PathBuf, Metadata)) -> Result<Vec<u8>, String> {
    let (file, length) = open(found)?;
    fits(length)?;
    let mut bytes = Vec::with_capacity(usize::try_from(length).unwrap_or_default());
    file.take(SIZE_LIMIT + 1).read_to_end(&mut bytes).map_err(|error| plain(&error))?;
    Ok(bytes)
}

/// Whether a file of so many bytes is read.
///
/// # Errors
/// When it is too large; in plain words.
pub(crate) fn fits(length: u64) -> Result<(), String> {
    if length > SIZE_LIMIT {
        return Err(format!("it is {} MB large; no more than {} MB are read", length.div_ceil(1 << 20), SIZE_LIMIT >> 20));
    }
    Ok(())
}

/// The first bytes of an ordinary file that is no link itself.
pub(crate) fn begins(root: &Path, name: &str, bytes: usize) -> Option<Vec<u8>> {
    if fs::symlink_metadata(root.join(name)).ok()?.is_symlink() {
        return None;
    }
    let (file, _) = open(find(root, name).ok()?).ok()?;
    let mut head = Vec::with_capacity(bytes);
    file.take(bytes as u64).read_to_end(&mut head).ok()?;
    Some(head)
}

/// Opens an ordinary file; devices, pipes and folders are refused unopened.
fn open((path, data): (PathBuf, Metadata)) -> Result<(File, u64), String> {
    ordinary(&data)?;
    let file = File::open(&path).map_err(|error| plain(&error))?;
    // Something else may have taken its place in the meantime.
    let metadata = file.metadata().map_err(|error| plain(&error))?;
    ordinary(&metadata)?;
    Ok((file, metadata.len()))
}

fn ordinary(metadata: &Metadata) -> Result<(), String> {
    match (metadata.is_dir(), metadata.is_file()) {
        (true, _) => Err("it is a folder, not a file".into()),
        (false, true) => Ok(()),
        (false, false) => Err("it is no ordinary file".into()),
    }
}

/// Whether the lists of what is ignored in a folder are ordinary files, or not there: a library reads them.
pub(crate) fn has_sound_ignores(folder: &Path) -> bool {
    [".gitignore", ".ignore"].iter().all(|name| is_sound(&folder.join(name), IGNORE_LIMIT))
}

/// The same of the list that only this clone has.
pub(crate) fn has_sound_exclude(root: &Path) -> bool {
    is_sound(&root.join(".git/info/exclude"), IGNORE_LIMIT)
}

/// Nothing is there, or an ordinary file of no more than so many bytes that is no link.
fn is_sound(path: &Path, limit: u64) -> bool {
    fs::symlink_metadata(path).map_or(true, |found| found.is_file() && found.len() <= limit)
}

/// Looks at git's own files before the library opens them: it would wait for a pipe, and read a device, for ever.
///
/// # Errors
/// The name of the first file that is no ordinary one.
pub(crate) fn git_is_sound(git: &Path) -> Result<(), String> {
    const FILES: [&str; 12] = [
        "HEAD",
        "config",
        "config.worktree",
        "packed-refs",
        "index",
        "commondir",
        "gitdir",
        "shallow",
        "info/exclude",
        "info/attributes",
        "objects/info/alternates",
        "objects/info/commit-graph",
    ];
    let named = |name: &str| format!("{name} in git's own folder is no ordinary file");
    for name in FILES {
        // Here a link is usual; what matters is what it leads to.
        if fs::metadata(git.join(name)).is_ok_and(|found| !found.is_file()) {
            return Err(named(name));
        }
    }
    let mut open = vec![(git.join("refs"), 0)];
    while let Some((folder, depth)) = open.pop() {
        for entry in fs::read_dir(&folder).into_iter().flatten().flatten() {
            let Ok(kind) = entry.file_type() else { continue };
            let path = entry.path();
            match () {
                () if kind.is_dir() && depth < REFS_DEPTH => open.push((path, depth + 1)),
                () if kind.is_file() => {}
                () if kind.is_symlink() && fs::metadata(&path).is_ok_and(|found| found.is_file()) => {}
                () => return Err(named(&format!("a reference ({})", entry.file_name().to_string_lossy()))),
            }
        }
    }
    Ok(())
}

/// An error of the system without its number.
pub(crate) fn plain(error: &std::io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_lowercase()
}
