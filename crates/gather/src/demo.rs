//! Makes the demo a real git repository, without the program git.

use std::collections::BTreeMap;
use std::path::Path;

use gix::objs::tree::{Entry, EntryKind};
use gix::{ObjectId, Repository};

/// The branches of the demo, the default one first.
const BRANCHES: [&str; 2] = ["main", "winter-plan"];

/// Turns a folder that holds `files` into a repository with one commit, two branches and a remote named origin.
///
/// # Errors
/// When git's data cannot be written.
pub fn demo_repository(root: &Path, files: &[(&str, &str)]) -> Result<(), Box<dyn std::error::Error + Send + Sync>> {
    let repository = gix::init(root)?;
    let mut folders = Folder::default();
    for (name, text) in files {
        folders.insert(name, repository.write_blob(text.as_bytes())?.detach());
    }
    let tree = folders.write(&repository)?;
    let signature =
        gix::actor::SignatureRef { name: "Pier".into(), email: "pier@tarnsay.example".into(), time: "1767225600 +0000" };
    let commit = repository.write_object(&gix::objs::Commit {
        tree,
        parents: Default::default(),
        author: signature.to_owned()?,
        committer: signature.to_owned()?,
        encoding: None,
        message: "The timetable".into(),
        extra_headers: Vec::new(),
    })?;
    let git = repository.git_dir();
    let id = format!("{}\n", commit.detach());
    for branch in BRANCHES {
        for place in ["refs/heads", "refs/remotes/origin"] {
            std::fs::create_dir_all(git.join(place))?;
            std::fs::write(git.join(place).join(branch), &id)?;
        }
    }
    std::fs::write(git.join("HEAD"), format!("ref: refs/heads/{}\n", BRANCHES[0]))?;
    std::fs::write(git.join("refs/remotes/origin/HEAD"), format!("ref: refs/remotes/origin/{}\n", BRANCHES[0]))?;
    let config = std::fs::read_to_string(git.join("config"))?;
    let remote = "[remote \"origin\"]\n\turl = https://forge.example/tarnsay/timetable.git\n\tfetch = +refs/heads/*:refs/remotes/origin/*\n";
    std::fs::write(git.join("config"), config + remote)?;
    let mut index = repository.index_from_tree(&tree)?;
    index.write(gix::index::write::Options::default())?;
    Ok(())
}

/// A folder on the way to becoming a tree of git.
#[derive(Default)]
struct Folder {
    files: BTreeMap<String, ObjectId>,
    folders: BTreeMap<String, Folder>,
}

impl Folder {
    fn insert(&mut self, path: &str, id: ObjectId) {
        match path.split_once('/') {
            Some((folder, rest)) => self.folders.entry(folder.to_owned()).or_default().insert(rest, id),
            None => {
                self.files.insert(path.to_owned(), id);
            }
        }
    }

    fn write(&self, repository: &Repository) -> Result<ObjectId, Box<dyn std::error::Error + Send + Sync>> {
        let mut entries = Vec::new();
        for (name, id) in &self.files {
            entries.push(Entry { mode: EntryKind::Blob.into(), filename: name.as_str().into(), oid: *id });
        }
        for (name, folder) in &self.folders {
            entries.push(Entry { mode: EntryKind::Tree.into(), filename: name.as_str().into(), oid: folder.write(repository)? });
        }
        entries.sort();
        Ok(repository.write_object(&gix::objs::Tree { entries })?.detach())
    }
}
