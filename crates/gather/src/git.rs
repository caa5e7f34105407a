//! git's branches, tags and remotes, by library: no program, hook, filter or helper runs.

use std::hash::{Hash, Hasher};
use std::path::{Path, PathBuf};

use dulk_core::facts::{Fact, GitFacts, Origin, Remote};
use gix::Repository;
use gix::bstr::ByteSlice;

use crate::gate;

/// A `.git` that names another folder holds no more than its path.
const POINTER_LIMIT: u64 = 1 << 16;

/// Opens the repository around a folder, whoever owns it, without the user's and the system's settings.
pub(crate) fn open(start: &Path) -> Result<Repository, String> {
    sound(start)?;
    let options = options();
    let mapping = gix::sec::trust::Mapping { full: options.clone(), reduced: options };
    match gix::ThreadSafeRepository::discover_opts(start, gix::discover::upwards::Options::default(), mapping) {
        Ok(repository) => Ok(repository.to_thread_local()),
        Err(_) if !start.ancestors().any(|dir| dir.join(".git").exists()) => Err("this is no git repository".into()),
        Err(_) => Err("git's own data is broken".into()),
    }
}

fn options() -> gix::open::Options {
    let mut options = gix::open::Options::isolated();
    // What git's settings name elsewhere is not read.
    options.permissions.config.includes = false;
    // git itself takes the index as it is, and adds up all of it only when it looks for damage. Source: the manual page git-config(1),
    // index.skipHash, 2026-11.
    options.config_overrides(["index.skipHash=true"])
}

/// Opens the repository that git pushes from when it runs us: GIT_DIR names it when it is not the one around the folder, and GIT_WORK_TREE
/// the folder of its files. Source: the manual page git(1), "Environment variables", 2026-11.
pub(crate) fn open_as_git_says(start: &Path) -> Result<Repository, String> {
    let named = |name: &str| std::env::var_os(name).filter(|value| !value.is_empty()).map(|value| start.join(value));
    let Some(git) = named("GIT_DIR") else { return open(start) };
    gate::git_is_sound(&git)?;
    let opened = gix::ThreadSafeRepository::open_opts(&git, options()).map_err(|_| "git's own data is broken".to_owned())?;
    let mut repository = opened.to_thread_local();
    if let Some(files) = named("GIT_WORK_TREE") {
        // A folder that is not there leaves the repository as it is.
        let _ = repository.set_workdir(Some(files));
    }
    Ok(repository)
}

/// Why names of references cannot be looked up: another form of keeping them than files. Source: the manual page git-config(1),
/// extensions.refStorage, 2026-11.
fn unread_references(repository: &Repository) -> Option<String> {
    let kept = repository.config_snapshot().string("extensions.refStorage")?.to_string();
    (kept != "files")
        .then(|| format!("its references are kept as {}, which Dulk does not read", kept.chars().take(20).collect::<String>()))
}

/// Whether what the library will open for a folder are ordinary files.
pub(crate) fn sound(start: &Path) -> Result<(), String> {
    let start = std::fs::canonicalize(start).map_err(|_| "this is no git repository".to_owned())?;
    for folder in start.ancestors() {
        let own = folder.join(".git");
        match std::fs::metadata(&own) {
            Ok(found) if found.is_dir() => return gate::git_is_sound(&own),
            Ok(found) if found.is_file() && found.len() <= POINTER_LIMIT => return pointed_to(folder, &own),
            Ok(_) => return Err(".git is no ordinary file".into()),
            Err(_) if folder.join("HEAD").exists() && folder.join("objects").is_dir() => return gate::git_is_sound(folder),
            Err(_) => {}
        }
    }
    Ok(())
}

/// A `.git` that names the folder of a worktree or a submodule, which names the folder that it shares.
fn pointed_to(folder: &Path, own: &Path) -> Result<(), String> {
    let Ok(text) = std::fs::read_to_string(own) else { return Ok(()) };
    let Some(named) = text.trim().strip_prefix("gitdir:") else { return Ok(()) };
    let git = folder.join(named.trim());
    gate::git_is_sound(&git)?;
    match std::fs::read_to_string(git.join("commondir")) {
        Ok(shared) => gate::git_is_sound(&git.join(shared.trim())),
        Err(_) => Ok(()),
    }
}

/// More references than this are not looked at one by one.
const REFERENCES_LOOKED_AT: usize = 5_000;

/// A number that becomes another one when the branches, tags, remotes or tracked files of the repository round a folder do, by the times
/// and lengths of git's own files; nothing where there is no git.
pub fn mark_of_references(start: &Path) -> Option<u64> {
    let repository = open(start).ok()?;
    let mut hasher = std::hash::DefaultHasher::new();
    let own = ["HEAD", "index"].map(|name| repository.git_dir().join(name));
    let common = ["packed-refs", "config"].map(|name| repository.common_dir().join(name));
    let mut open: Vec<PathBuf> = own.into_iter().chain(common).chain([repository.common_dir().join("refs")]).collect();
    let mut left = REFERENCES_LOOKED_AT;
    while let Some(path) = open.pop().filter(|_| left > 0) {
        left -= 1;
        let Ok(found) = std::fs::symlink_metadata(&path) else { continue };
        (&path, found.len(), found.modified().ok()).hash(&mut hasher);
        if found.is_dir() {
            open.extend(std::fs::read_dir(&path).into_iter().flatten().flatten().map(|entry| entry.path()));
        }
    }
    Some(hasher.finish())
}

/// The folder of the files; a bare repository has none.
pub(crate) fn work_tree(repository: &Repository) -> Option<PathBuf> {
    let folder = repository.workdir()?;
    Some(std::fs::canonicalize(folder).unwrap_or_else(|_| folder.to_owned()))
}

/// Nothing is known, and why.
pub(crate) fn unknown(reason: &str) -> GitFacts {
    GitFacts {
        branches: Fact::Unknown(reason.to_owned()),
        tags: Fact::Unknown(reason.to_owned()),
        default_branch: Fact::Unknown(reason.to_owned()),
        current_branch: Fact::Unknown(reason.to_owned()),
        remote: Fact::Unknown(reason.to_owned()),
        remotes: Vec::new(),
        elsewhere: Vec::new(),
        submodules: Fact::Unknown(reason.to_owned()),
    }
}

/// Reads everything; what cannot be read is unknown.
pub(crate) fn facts(repository: &Repository) -> GitFacts {
    let remote = main_remote(repository);
    let references = match unread_references(repository) {
        Some(reason) => unknown(&reason),
        None => of_references(repository, remote.as_deref()),
    };
    GitFacts {
        remote: remote
            .as_deref()
            .map_or_else(|| Fact::Unknown("there is no main remote".into()), |name| remote_facts(repository, name)),
        remotes: remotes(repository),
        submodules: submodules(repository),
        ..references
    }
}

/// What the references tell.
fn of_references(repository: &Repository, remote: Option<&str>) -> GitFacts {
    let current = repository.head_name().ok().flatten().map(|name| name.shorten().to_string());
    let branches = branches(repository, remote, current.as_deref());
    GitFacts {
        default_branch: default_branch(repository, remote, branches.known()),
        branches,
        tags: tags(repository, remote),
        current_branch: current
            .map_or_else(|| Fact::Unknown("no branch is checked out".into()), |name| Fact::Known(name, Origin::Git)),
        elsewhere: remote.map(|main| elsewhere(repository, main)).unwrap_or_default(),
        ..GitFacts::default()
    }
}

/// `origin`, or the only remote there is.
fn main_remote(repository: &Repository) -> Option<String> {
    let names: Vec<String> = repository.remote_names().into_iter().map(|name| name.to_string()).collect();
    match names.as_slice() {
        [only] => Some(only.clone()),
        _ => names.into_iter().find(|name| name == "origin"),
    }
}

fn branches(repository: &Repository, remote: Option<&str>, current: Option<&str>) -> Fact<Vec<String>> {
    if repository.is_shallow().unwrap_or(true) {
        return Fact::Unknown("this clone is shallow, and may not know all branches".into());
    }
    if let Some(name) = remote
        && !fetches_all(repository, name)
    {
        return Fact::Unknown(format!("this clone fetches only some branches of {name}"));
    }
    let Ok(references) = repository.references() else { return Fact::Unknown("git's references cannot be read".into()) };
    let mut names: Vec<String> = Vec::new();
    if let Ok(local) = references.local_branches() {
        names.extend(local.flatten().map(|reference| reference.name().shorten().to_string()));
    }
    if let Ok(far) = references.remote_branches() {
        for reference in far.flatten() {
            let full = reference.name().shorten().to_string();
            // Without a main remote, the branches of all of them count.
            let short = match remote {
                Some(remote) => full.strip_prefix(remote).and_then(|rest| rest.strip_prefix('/')),
                None => full.split_once('/').map(|(_, name)| name),
            };
            names.extend(short.filter(|name| *name != "HEAD").map(str::to_owned));
        }
    }
    // Before the first commit the branch has a name, and no reference yet.
    if names.is_empty() {
        names.extend(current.map(str::to_owned));
    }
    names.sort_unstable();
    names.dedup();
    Fact::Known(names, Origin::Git)
}

/// Branches that only remotes other than the main one have been seen to hold.
fn elsewhere(repository: &Repository, main: &str) -> Vec<(String, String)> {
    let others: Vec<String> =
        repository.remote_names().into_iter().map(|name| name.to_string()).filter(|name| name != main).collect();
    if others.is_empty() {
        return Vec::new();
    }
    let Ok(references) = repository.references() else { return Vec::new() };
    let mut found = Vec::new();
    for reference in references.remote_branches().into_iter().flatten().flatten() {
        let full = reference.name().shorten().to_string();
        let split = others.iter().find_map(|name| Some((name, full.strip_prefix(name.as_str())?.strip_prefix('/')?)));
        found.extend(split.filter(|(_, branch)| *branch != "HEAD").map(|(name, branch)| (name.clone(), branch.to_owned())));
    }
    found
}

/// Whether the remote is fetched with all its branches: one line takes them all in, and none leaves some out. Source: the manual page
/// git-fetch(1), "Configured remote-tracking branches" and `<refspec>`, 2026-11.
fn fetches_all(repository: &Repository, remote: &str) -> bool {
    let fetched = fetched(repository, remote);
    let takes = |of: &str| fetched.iter().any(|source| source == of);
    !fetched.iter().any(|source| source.starts_with('^')) && (takes("refs/heads/*") || takes("refs/*"))
}

/// What of a remote is fetched: the first half of each of its lines.
fn fetched(repository: &Repository, remote: &str) -> Vec<String> {
    let config = repository.config_snapshot();
    let lines = config.plumbing().raw_values(format!("remote.{remote}.fetch").as_str()).unwrap_or_default();
    let source = |line: &str| line.trim().trim_start_matches('+').split(':').next().unwrap_or_default().to_owned();
    lines.iter().map(|line| source(&line.to_str_lossy())).collect()
}

/// Why tags of a remote may be missing here. Source: the manual pages git-config(1), `remote.<name>.tagOpt`, and git-clone(1),
/// `--single-branch` and `--no-tags`, 2026-11.
fn misses_tags(repository: &Repository, remote: &str) -> Option<String> {
    let option = repository.config_snapshot().string(format!("remote.{remote}.tagOpt").as_str());
    let named = fetched(repository, remote).iter().any(|source| source == "refs/tags/*" || source == "refs/*");
    match option.map(|option| option.to_string()).as_deref() {
        _ if named => None,
        Some("--no-tags") => Some(format!("this clone fetches no tags of {remote}")),
        Some("--tags") => None,
        _ if !fetches_all(repository, remote) => {
            Some(format!("this clone fetches only some branches of {remote}, and no tags of the others"))
        }
        _ => None,
    }
}

fn default_branch(repository: &Repository, remote: Option<&str>, branches: Option<&Vec<String>>) -> Fact<String> {
    let head = remote.and_then(|remote| {
        let reference = repository.find_reference(format!("refs/remotes/{remote}/HEAD").as_str()).ok()?;
        let target = reference.target().try_name()?.shorten().to_string();
        target.strip_prefix(remote)?.strip_prefix('/').map(str::to_owned)
    });
    match (head, branches.map(Vec::as_slice)) {
        (Some(name), _) => Fact::Known(name, Origin::Git),
        (None, Some([only])) => Fact::Known(only.clone(), Origin::Git),
        _ => Fact::Unknown("the remote's default branch was not fetched".into()),
    }
}

fn tags(repository: &Repository, remote: Option<&str>) -> Fact<Vec<String>> {
    if repository.is_shallow().unwrap_or(true) {
        return Fact::Unknown("this clone is shallow, and may not know all tags".into());
    }
    if let Some(reason) = remote.and_then(|remote| misses_tags(repository, remote)) {
        return Fact::Unknown(reason);
    }
    let Ok(references) = repository.references() else { return Fact::Unknown("git's references cannot be read".into()) };
    let mut names: Vec<String> =
        references.tags().into_iter().flatten().flatten().map(|reference| reference.name().shorten().to_string()).collect();
    names.sort_unstable();
    Fact::Known(names, Origin::Git)
}

fn remotes(repository: &Repository) -> Vec<(String, Option<Remote>)> {
    let names = repository.remote_names().into_iter().map(|name| name.to_string());
    names.map(|name| (name.clone(), address(repository, &name))).collect()
}

fn remote_facts(repository: &Repository, name: &str) -> Fact<Remote> {
    let unknown = || Fact::Unknown(format!("the address of {name} names no forge"));
    address(repository, name).map_or_else(unknown, |remote| Fact::Known(remote, Origin::Git))
}

/// Host, owner and name in the address of a remote; nothing for a folder on this machine.
fn address(repository: &Repository, name: &str) -> Option<Remote> {
    let remote = repository.find_remote(name).ok()?;
    let url = remote.url(gix::remote::Direction::Fetch)?;
    let path = url.path.to_str_lossy().trim_matches('/').trim_end_matches(".git").to_owned();
    let (owner, repository) = path.rsplit_once('/')?;
    Some(Remote { host: url.host()?.to_owned(), owner: owner.to_owned(), name: repository.to_owned() })
}

/// Paths and addresses in `.gitmodules`.
fn submodules(repository: &Repository) -> Fact<Vec<(String, String)>> {
    let Some(root) = repository.workdir() else { return Fact::Unknown("a bare repository has no files".into()) };
    let Ok(text) = crate::disk::read(root, ".gitmodules") else { return Fact::Known(Vec::new(), Origin::Files) };
    let config =
        gix::config::File::from_bytes_no_includes(text.as_bytes(), gix::config::file::Metadata::api(), Default::default());
    let Ok(config) = config else { return Fact::Unknown(".gitmodules cannot be read".into()) };
    let mut found = Vec::new();
    for section in config.sections_by_name("submodule").into_iter().flatten() {
        let value = |key: &str| section.value(key).map(|value| value.to_str_lossy().into_owned());
        if let (Some(path), Some(url)) = (value("path"), value("url")) {
            found.push((path, url));
        }
    }
    Fact::Known(found, Origin::Files)
}

/// The lines of a text, from 1, that are not as in a commit: first and last of each part. `None` when the commit has no such file.
///
/// # Errors
/// When the revision is not found; in plain words.
pub fn changed_lines(root: &Path, revision: &str, path: &str, text: &str) -> Result<Option<Vec<(u32, u32)>>, String> {
    let repository = open(root)?;
    let Some(old) = blob(&repository, revision, path)? else { return Ok(None) };
    let old = String::from_utf8_lossy(&old).into_owned();
    let diff = similar::TextDiff::from_lines(old.as_str(), text);
    let line = |index: usize| u32::try_from(index).unwrap_or(u32::MAX);
    let changed = diff.ops().iter().filter(|op| op.tag() != similar::DiffTag::Equal);
    // Where lines were taken away, the next one counts.
    Ok(Some(changed.map(|op| (line(op.new_range().start + 1), line(op.new_range().end.max(op.new_range().start + 1)))).collect()))
}

/// Whether a name stands for a commit whose files are here.
///
/// # Errors
/// When it does not; in plain words.
pub fn has_commit(start: &Path, revision: &str) -> Result<(), String> {
    tree_of(&open(start)?, revision).map(drop)
}

/// The files of a commit, a tag or a tree that a name stands for.
pub(crate) fn tree_of<'r>(repository: &'r Repository, revision: &str) -> Result<gix::Tree<'r>, String> {
    let absent = || match unread_references(repository) {
        Some(reason) => format!("{revision} cannot be looked up: {reason}; the commit's own number can"),
        None => format!("{revision} is not in this repository"),
    };
    let object = repository.rev_parse_single(revision).map_err(|_| absent())?;
    let object = object.object().map_err(|_| absent())?;
    object.peel_to_tree().map_err(|_| format!("{revision} is no commit"))
}

/// The bytes of a file in a commit.
pub(crate) fn blob(repository: &Repository, revision: &str, path: &str) -> Result<Option<Vec<u8>>, String> {
    let tree = tree_of(repository, revision)?;
    let entry = tree.lookup_entry_by_path(path).map_err(|_| format!("the files of {revision} are not in this repository"))?;
    let Some(entry) = entry.filter(|entry| entry.mode().is_blob()) else { return Ok(None) };
    let object = entry.object().map_err(|_| format!("{path} of {revision} is not in this repository"))?;
    Ok(Some(object.data.clone()))
}

/// The paths that differ between two commits, sorted; a renamed file counts with both names.
///
/// # Errors
/// When a revision is not found, as in a shallow clone, or is no commit; in plain words.
pub fn changed_paths(root: &Path, from: &str, to: &str) -> Result<Vec<String>, String> {
    let repository = open_as_git_says(root)?;
    let (from, to) = (tree_of(&repository, from)?, tree_of(&repository, to)?);
    let mut recorder = gix::diff::tree::Recorder::default();
    let (before, after) = (
        gix::objs::TreeRefIter::from_bytes(&from.data, repository.object_hash()),
        gix::objs::TreeRefIter::from_bytes(&to.data, repository.object_hash()),
    );
    gix::diff::tree(before, after, gix::diff::tree::State::default(), &repository.objects, &mut recorder)
        .map_err(|_| "git's trees cannot be compared".to_owned())?;
    use gix::diff::tree::recorder::Change;
    let mut paths: Vec<String> = recorder
        .records
        .into_iter()
        .filter_map(|change| match change {
            Change::Addition { entry_mode, path, .. }
            | Change::Deletion { entry_mode, path, .. }
            | Change::Modification { entry_mode, path, .. } => (!entry_mode.is_tree()).then(|| path.to_str_lossy().into_owned()),
        })
        .collect();
    paths.sort_unstable();
    paths.dedup();
    Ok(paths)
}
