//! The files of a repository as a sorted list.

/// Paths relative to the root, with `/`, sorted by bytes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct FileList {
    paths: Vec<String>,
    untracked: Vec<String>,
    /// Those that may be run by their paths; nothing where that is not known.
    executable: Option<Vec<String>>,
}

impl FileList {
    /// Takes paths in any order. `untracked` are files that exist, are not ignored, and may be added before the push: they
    /// prove nothing either way.
    pub fn new(mut paths: Vec<String>, mut untracked: Vec<String>) -> Self {
        paths.sort_unstable();
        paths.dedup();
        untracked.sort_unstable();
        Self { paths, untracked, executable: None }
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
        self.paths.binary_search_by(|known| known.as_str().cmp(path)).is_ok() || self.untracked.iter().any(|known| known == path)
    }

    /// Whether a folder holds any file; the root always does.
    pub fn has_folder(&self, dir: &str) -> bool {
        let dir = dir.trim_matches('/');
        if dir.is_empty() || dir == "." {
            return true;
        }
        let prefix = format!("{dir}/");
        let index = self.paths.partition_point(|path| path.as_str() < prefix.as_str());
        self.paths.get(index).is_some_and(|path| path.starts_with(&prefix))
            || self.untracked.iter().any(|path| path.starts_with(&prefix))
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
}
