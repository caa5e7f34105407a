//! The files of a repository as a sorted list.

use std::collections::{HashMap, HashSet};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use crate::knowledge::hash_of;
use crate::text::file_name;

/// Paths relative to the root, with `/`, sorted by bytes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct FileList {
    paths: Arc<Vec<String>>,
    untracked: Vec<String>,
    /// Those that may be run by their paths; nothing where that is not known.
    executable: Option<Vec<String>>,
    names: Names,
}

/// The names in a list of files, once somebody asks: hundreds of pipelines ask for the same few.
#[derive(Debug, Default)]
struct Names {
    /// A hash of the last part of every path, with the number of the file as they are gone through; sorted.
    by_name: OnceLock<Vec<(u32, u32)>>,
    /// Every part of every path, as a whole and up to its first dot.
    parts: OnceLock<HashSet<String>>,
    /// What was asked of all files, with the answer.
    asked: Mutex<HashMap<String, bool>>,
}

impl Clone for Names {
    fn clone(&self) -> Self {
        Self { by_name: self.by_name.clone(), parts: self.parts.clone(), asked: Mutex::default() }
    }
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
        Self { untracked, ..Self::of_sorted(Arc::new(paths)) }
    }

    /// Takes paths that are sorted by bytes, each of them once, which somebody else looks things up in too.
    pub fn of_sorted(paths: Arc<Vec<String>>) -> Self {
        Self { paths, ..Self::default() }
    }

    /// The same, with those that may be run by their paths as git keeps it, in any order.
    pub fn with_executable(mut self, mut executable: Vec<String>) -> Self {
        executable.sort_unstable();
        self.executable = Some(executable);
        self
    }

    /// The same, with other files that exist, are not ignored, and may be added before the push; in any order.
    pub fn with_untracked(self, mut untracked: Vec<String>) -> Self {
        untracked.sort_unstable();
        Self { untracked, names: Names::default(), ..self }
    }

    /// The same, with more of these.
    pub fn and_untracked(self, more: Vec<String>) -> Self {
        let untracked = self.untracked.iter().cloned().chain(more).collect();
        self.with_untracked(untracked)
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
        self.numbers_named(name).filter_map(|number| self.at(number))
    }

    /// The files of any of some names, in any folder, in the order of the list.
    pub fn named_one_of<'n>(&self, names: impl IntoIterator<Item = &'n str>) -> impl Iterator<Item = &str> {
        let names: Vec<&str> = names.into_iter().collect();
        let mut numbers: Vec<u32> = if self.len() < names.len() {
            // Few files are gone through faster than many names are looked up.
            let has_one = |(path, _): &(&str, u32)| names.contains(&file_name(path));
            self.iter().zip(0..).filter(has_one).map(|(_, number)| number).collect()
        } else {
            names.into_iter().flat_map(|name| self.numbers_named(name)).collect()
        };
        numbers.sort_unstable();
        numbers.dedup();
        numbers.into_iter().filter_map(|number| self.at(number))
    }

    /// Whether a file or a folder has a name, with or without an ending.
    pub fn has_part(&self, name: &str) -> bool {
        let parts = || {
            let all = self.iter().flat_map(|path| path.split('/'));
            all.flat_map(|part| [part, part.split('.').next().unwrap_or_default()]).map(str::to_owned).collect()
        };
        self.names.parts.get_or_init(parts).contains(name)
    }

    fn at(&self, number: u32) -> Option<&str> {
        let number = number as usize;
        self.paths.get(number).or_else(|| self.untracked.get(number - self.paths.len())).map(String::as_str)
    }

    fn numbers_named(&self, name: &str) -> impl Iterator<Item = u32> {
        let files = self.names.by_name.get_or_init(|| {
            let mut files: Vec<(u32, u32)> = self.iter().map(|path| hash_of(file_name(path))).zip(0..).collect();
            files.sort_unstable();
            files
        });
        let hash = hash_of(name);
        let start = files.partition_point(|(known, _)| *known < hash);
        let alike = files[start..].iter().take_while(move |(known, _)| *known == hash).map(|(_, number)| *number);
        alike.filter(move |number| self.at(*number).is_some_and(|path| file_name(path) == name))
    }

    /// Whether a file fits a question, gone through once for every question: hundreds of pipelines ask the same. The question's words
    /// stand for it, and hold all that the answer hangs on.
    pub fn any(&self, question: &str, fits: impl Fn(&str) -> bool) -> bool {
        let known = self.names.asked.lock().unwrap_or_else(PoisonError::into_inner).get(question).copied();
        known.unwrap_or_else(|| {
            let answer = self.iter().any(fits);
            self.names.asked.lock().unwrap_or_else(PoisonError::into_inner).insert(question.to_owned(), answer);
            answer
        })
    }

    /// Whether a folder holds any file; the root always does.
    pub fn has_folder(&self, dir: &str) -> bool {
        let dir = dir.trim_matches('/');
        if dir.is_empty() || dir == "." {
            return true;
        }
        let prefix = [dir, "/"].concat();
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
        assert_eq!(list.named_one_of(["sail.test.js", "CNAME"]).next(), Some("CNAME"));
        assert_eq!(list.named_one_of(["sail.test.js", "CNAME", "CNAME"]).count(), 4);
        assert!(list.any("a pier", |path| path.starts_with("quay/")) && list.any("a pier", |_| false));
        assert_eq!(list.named("quay").count() + list.named("sail").count(), 0);
        assert!(["quay", "sail", "sail.test.js", "new"].iter().all(|name| list.has_part(name)));
        assert!(!list.has_part("test") && !list.has_part("quay/CNAME"));
    }
}
