//! The files of a repository as a sorted list.

use std::collections::{HashMap, HashSet};
use std::sync::OnceLock;

/// Paths relative to the root, with `/`, sorted by bytes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct FileList {
    paths: Vec<String>,
    untracked: Vec<String>,
    /// Those that may be run by their paths; nothing where that is not known.
    executable: Option<Vec<String>>,
    names: Names,
}

/// The names in a list of files, once somebody asks: hundreds of pipelines ask for the same few.
#[derive(Clone, Debug, Default)]
struct Names(OnceLock<Looked>);

#[derive(Clone, Debug)]
struct Looked {
    /// By the last part of their paths: the numbers of the files, as they are gone through.
    by_name: HashMap<String, Vec<usize>>,
    /// Every part of every path, as a whole and up to its first dot.
    parts: HashSet<String>,
}

// They follow from the paths.
impl PartialEq for Names {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

impl Eq for Names {}

impl FileList {
    /// Takes paths in any order. `untracked` are files that exist, are not ignored, and may be added before the push: they
    /// prove nothing either way.
    pub fn new(mut paths: Vec<String>, mut untracked: Vec<String>) -> Self {
        paths.sort_unstable();
        paths.dedup();
        untracked.sort_unstable();
        Self { paths, untracked, executable: None, names: Names::default() }
    }

    /// The same, with those that may be run by their paths as git keeps it, in any order.
    pub fn with_executable(mut self, mut executable: Vec<String>) -> Self {
        executable.sort_unstable();
        self.executable = Some(executable);
        self
    }

    /// Whether git keeps a tracked file as one that may be run by its path; nothing where that is not known.
    pub fn is_executable(&self, path: &str) -> Option<bool> {
        let executable = self.executable.as_ref()?;
        let tracked = self.paths.binary_search_by(|known| known.as_str().cmp(path)).is_ok();
        tracked.then(|| executable.binary_search_by(|known| known.as_str().cmp(path)).is_ok())
    }

    /// Whether a file is there, or may be by the time of the push.
    pub fn has(&self, path: &str) -> bool {
        self.paths.binary_search_by(|known| known.as_str().cmp(path)).is_ok()
            || self.untracked.binary_search_by(|known| known.as_str().cmp(path)).is_ok()
    }

    /// The files of a name, in any folder.
    pub fn named(&self, name: &str) -> impl Iterator<Item = &str> {
        let numbers = self.names().by_name.get(name).into_iter().flatten();
        numbers
            .filter_map(|number| self.paths.get(*number).or_else(|| self.untracked.get(number - self.paths.len())))
            .map(String::as_str)
    }

    /// Whether a file or a folder has a name, with or without an ending.
    pub fn has_part(&self, name: &str) -> bool {
        self.names().parts.contains(name)
    }

    fn names(&self) -> &Looked {
        self.names.0.get_or_init(|| {
            let mut looked = Looked { by_name: HashMap::new(), parts: HashSet::new() };
            for (number, path) in self.iter().enumerate() {
                let name = path.rsplit('/').next().unwrap_or_default();
                looked.by_name.entry(name.to_owned()).or_default().push(number);
                for part in path.split('/') {
                    for known in [part, part.split('.').next().unwrap_or_default()] {
                        if !looked.parts.contains(known) {
                            looked.parts.insert(known.to_owned());
                        }
                    }
                }
            }
            looked
        })
    }

    /// Whether a folder holds any file; the root always does.
    pub fn has_folder(&self, dir: &str) -> bool {
        let dir = dir.trim_matches('/');
        if dir.is_empty() || dir == "." {
            return true;
        }
        let prefix = format!("{dir}/");
        let begins = |paths: &[String]| {
            let index = paths.partition_point(|path| path.as_str() < prefix.as_str());
            paths.get(index).is_some_and(|path| path.starts_with(&prefix))
        };
        begins(&self.paths) || begins(&self.untracked)
    }

    /// All files, sorted, those that may be added last.
    pub fn iter(&self) -> impl Iterator<Item = &str> {
        self.paths.iter().chain(&self.untracked).map(String::as_str)
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.paths.len() + self.untracked.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn folders_are_prefixes_that_end_at_a_slash() {
        let list = FileList::new(vec!["docs-old/a".into(), "docs/b.md".into(), "z".into()], vec!["new/x".into()]);
        assert!(list.has_folder("docs") && list.has_folder("docs/") && list.has_folder("new") && list.has_folder("."));
        assert!(!list.has_folder("doc") && !list.has_folder("z") && !list.has_folder("docs/b.md"));
        assert!(list.has("z") && list.has("new/x") && !list.has("docs"));
    }

    #[test]
    fn names_are_found_in_every_folder() {
        let list = FileList::new(vec!["quay/CNAME".into(), "CNAME".into(), "src/sail.test.js".into()], vec!["new/CNAME".into()]);
        assert_eq!(list.named("CNAME").collect::<Vec<_>>(), ["CNAME", "quay/CNAME", "new/CNAME"]);
        assert_eq!(list.named("quay").count() + list.named("sail").count(), 0);
        assert!(["quay", "sail", "sail.test.js", "new"].iter().all(|name| list.has_part(name)));
        assert!(!list.has_part("test") && !list.has_part("quay/CNAME"));
    }
}
