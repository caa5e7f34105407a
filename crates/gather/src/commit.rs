//! The files of a commit, from git's objects: read as those of the work tree are, through links inside the repository and no others.

use std::cell::Cell;
use std::collections::BTreeSet;
use std::sync::Arc;

use gix::bstr::{ByteSlice, ByteVec};
use gix::odb::loose::{Options, Store};

use crate::{disk, gate, git};

/// Links that lead from one to the next; a system follows no more of them either.
const HOPS: usize = 40;

fn lost() -> String {
    "git's objects do not hold it".to_owned()
}

/// The files of a commit.
pub(crate) struct Commit<'r> {
    repository: &'r gix::Repository,
    tree: gix::Tree<'r>,
    /// All of them, also those that are links, sorted.
    pub paths: Arc<Vec<String>>,
    /// What git calls what each of them holds.
    ids: Vec<gix::ObjectId>,
    /// Those that may be run by their paths.
    pub executable: Vec<String>,
    links: BTreeSet<String>,
    /// One of its objects lay in no file of its own: those of a clone lie in packs, and most of the others then too.
    is_packed: Cell<bool>,
}

impl<'r> Commit<'r> {
    /// Lists the files of a commit; a tag that is an object stands for its commit.
    pub fn of(repository: &'r gix::Repository, revision: &str) -> Result<Self, String> {
        let tree = git::tree_of(repository, revision)?;
        // Folder by folder, they come in the order of their paths already.
        let mut listed = gix::traverse::tree::Recorder::default();
        tree.traverse().depthfirst(&mut listed).map_err(|_| format!("the files of {revision} are not in this repository"))?;
        let (mut files, mut executable, mut links) = (Vec::new(), Vec::new(), BTreeSet::new());
        for record in listed.records.into_iter().filter(|record| record.mode.is_blob_or_symlink()) {
            let path = Vec::from(record.filepath).into_string_lossy();
            if record.mode.is_executable() {
                executable.push(path.clone());
            }
            if record.mode.is_link() {
                links.insert(path.clone());
            }
            files.push((path, record.oid));
        }
        files.sort_unstable();
        // Two names that are no text may be read as the same one.
        files.dedup_by(|one, before| one.0 == before.0);
        let (paths, ids): (Vec<_>, _) = files.into_iter().unzip();
        Ok(Self { repository, tree, paths: Arc::new(paths), ids, executable, links, is_packed: Cell::new(false) })
    }

    /// The text of a file.
    ///
    /// # Errors
    /// When it is not there, a link leads out of the repository, or it is too large; in the words of the disk.
    pub fn read(&self, name: &str) -> Result<String, String> {
        let id = self.blob(name)?;
        if let Some(bytes) = self.opened_once(id, gate::SIZE_LIMIT) {
            return disk::text_of(bytes);
        }
        gate::fits(self.length(id)?)?;
        self.text(id)
    }

    /// The same of a file that is no longer than this many bytes; nothing when it is longer or not there.
    pub fn read_small(&self, name: &str, limit: u64) -> Option<Result<String, String>> {
        let id = self.blob(name).ok()?;
        if let Some(bytes) = self.opened_once(id, limit.min(gate::SIZE_LIMIT)) {
            return Some(disk::text_of(bytes));
        }
        let length = self.length(id).ok().filter(|length| *length <= limit)?;
        Some(gate::fits(length).and_then(|()| self.text(id)))
    }

    /// The size of a file in bytes.
    pub fn size(&self, name: &str) -> Option<u64> {
        self.length(self.blob(name).ok()?).ok()
    }

    /// An object in a file of its own, when it says of itself that it is no longer than this many bytes; nothing when it is longer, broken
    /// or lies elsewhere, where it is asked for its length first.
    fn opened_once(&self, id: gix::ObjectId, limit: u64) -> Option<Vec<u8>> {
        let store = self.repository.objects.store_ref();
        if self.is_packed.get() || store.replacements().next().is_some() {
            return None;
        }
        let limited = Options { alloc_limit_bytes: Some(usize::try_from(limit).ok()?), ..Options::default() };
        let mut bytes = Vec::new();
        let found =
            Store::at_opts(store.path(), self.repository.object_hash(), limited).try_find(&id, &mut bytes).ok()?.is_some();
        self.is_packed.set(!found);
        found.then_some(bytes)
    }

    /// How long an object is, in bytes: asked before it is unfolded.
    fn length(&self, id: gix::ObjectId) -> Result<u64, String> {
        Ok(self.repository.find_header(id).map_err(|_| lost())?.size())
    }

    fn text(&self, id: gix::ObjectId) -> Result<String, String> {
        disk::text_of(self.repository.find_object(id).map_err(|_| lost())?.detach().data)
    }

    fn blob(&self, name: &str) -> Result<gix::ObjectId, String> {
        let path = self.resolve(name)?;
        if let Ok(index) = self.paths.binary_search(&path)
            && !self.is_link(&path)
        {
            return Ok(self.ids[index]);
        }
        let entry = self.tree.lookup_entry_by_path(&path).ok().flatten();
        match entry {
            Some(entry) if entry.mode().is_tree() => Err("it is a folder, not a file".into()),
            Some(_) => Err("it is no ordinary file".into()),
            None if self.is_link(name) => Err("it is a symbolic link that leads nowhere".into()),
            None => Err("it is not in the commit".into()),
        }
    }

    /// Whether a path is that of a link.
    pub fn is_link(&self, name: &str) -> bool {
        self.links.contains(name)
    }

    /// Where a path leads when the links on the way to it are followed, and it itself when it is one.
    fn resolve(&self, name: &str) -> Result<String, String> {
        if gate::climbs_out(name) {
            return Err("it lies outside the repository".into());
        }
        let out = || if self.is_link(name) { gate::LEADS_OUT } else { gate::WAY_LEADS_OUT }.to_owned();
        let mut left: Vec<String> = name.split('/').rev().map(str::to_owned).collect();
        let mut done: Vec<String> = Vec::new();
        let mut hops = 0;
        while let Some(part) = left.pop() {
            match part.as_str() {
                "" | "." => continue,
                ".." => {
                    done.pop().ok_or_else(out)?;
                    continue;
                }
                _ => done.push(part),
            }
            let path = done.join("/");
            if self.is_link(&path) {
                let target = self.target(&path)?;
                hops += 1;
                if hops > HOPS {
                    return Err("it is a symbolic link that leads nowhere".into());
                }
                if target.starts_with('/') {
                    return Err(out());
                }
                done.pop();
                left.extend(target.split('/').rev().map(str::to_owned));
            }
        }
        match done.first().map(String::as_str) {
            Some(".git") => Err("it is a symbolic link into git's own files".into()),
            _ => Ok(done.join("/")),
        }
    }

    fn target(&self, link: &str) -> Result<String, String> {
        let entry = self.tree.lookup_entry_by_path(link).ok().flatten().ok_or_else(lost)?;
        gate::fits(self.length(entry.object_id())?)?;
        Ok(entry.object().map_err(|_| lost())?.data.to_str_lossy().into_owned())
    }

    /// Whether a file, a folder or a link is there.
    pub fn has(&self, name: &str) -> bool {
        let (folder, last) = name.rsplit_once('/').unwrap_or(("", name));
        let Ok(folder) = self.resolve(folder) else { return false };
        self.holds(&if folder.is_empty() { last.to_owned() } else { format!("{folder}/{last}") })
    }

    /// Whether a path without links on its way is a file's, a link's or a folder's.
    fn holds(&self, path: &str) -> bool {
        let below = format!("{path}/");
        let at = self.paths.partition_point(|known| known.as_str() < below.as_str());
        self.paths.binary_search_by(|known| known.as_str().cmp(path)).is_ok()
            || self.paths.get(at).is_some_and(|known| known.starts_with(&below))
    }

    /// Whether something is at a path, and a link on the way to it leads out, or nowhere.
    pub fn leads_out(&self, name: &str) -> bool {
        match self.resolve(name) {
            Ok(path) => self.is_link(name) && !self.holds(&path),
            Err(_) => !gate::climbs_out(name),
        }
    }

    /// The names of what lies directly in a folder, sorted.
    pub fn names_in(&self, folder: &str) -> Vec<String> {
        let Ok(folder) = self.resolve(folder) else { return Vec::new() };
        let below = if folder.is_empty() { String::new() } else { format!("{folder}/") };
        let from = self.paths.partition_point(|known| known.as_str() < below.as_str());
        let inside = self.paths[from..].iter().map_while(|path| path.strip_prefix(&below));
        let mut names: Vec<String> = inside.filter_map(|rest| rest.split('/').next()).map(str::to_owned).collect();
        // Names with signs before `/` part what lies in one folder.
        names.sort_unstable();
        names.dedup();
        names
    }
}
