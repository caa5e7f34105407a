//! An owned picture of a repository: what was gathered, read and checked, with texts that are not yet saved laid over the disk's. When one
//! file becomes another one, what hangs on it is worked out again, and nothing else.

mod again;
mod judge;

use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};

use dulk_core::finding::Finding;
use dulk_core::formats::Prepared;
use dulk_core::knowledge::Date;
use dulk_core::project::Project;
use dulk_core::text::Sources;
use dulk_gather::{GatherError, Repository, Unsaved, gather_commit, gather_with};

pub use again::Renewed;

/// A repository as it is now.
pub struct Snapshot {
    repository: Repository,
    prepared: Vec<Prepared>,
    /// What its pipelines copy, in weights.
    copied: usize,
    today: Option<Date>,
    read_from: ReadFrom,
    unsaved: Unsaved,
    judged: Mutex<judge::Judged>,
}

/// Where it was read from.
enum ReadFrom {
    /// The work tree round a folder, of which only some paths may be asked for.
    Disk { start: PathBuf, paths: Vec<PathBuf> },
    /// A commit, which never becomes another one.
    Commit,
}

/// What was found in one pipeline file.
#[derive(Clone, Debug)]
pub struct CheckedFile {
    /// Its text could be read to the end.
    pub whole: bool,
    /// Sorted by place, each cause told once.
    pub findings: Vec<Finding>,
}

impl Snapshot {
    /// Reads the repository round a folder; with `paths`, only the pipeline files that they name or hold. Without `today`, nothing goes
    /// out of use.
    ///
    /// # Errors
    /// When a path does not exist, or dulk.toml is wrong.
    pub fn of_disk(start: &Path, paths: &[PathBuf], today: Option<Date>) -> Result<Self, GatherError> {
        Self::of_texts(start, paths, Unsaved::new(), today)
    }

    /// The same with texts that are not yet saved laid over the disk's, by their paths from the repository's root.
    ///
    /// # Errors
    /// As [`Snapshot::of_disk`].
    pub fn of_texts(start: &Path, paths: &[PathBuf], unsaved: Unsaved, today: Option<Date>) -> Result<Self, GatherError> {
        let repository = gather_with(start, paths, &unsaved)?;
        Ok(Self::new(repository, today, ReadFrom::Disk { start: start.to_owned(), paths: paths.to_vec() }, unsaved))
    }

    /// Reads the files of a commit; `branches` are about to exist.
    ///
    /// # Errors
    /// When the commit is not there, or dulk.toml is wrong.
    pub fn of_commit(start: &Path, revision: &str, branches: &[&str], today: Option<Date>) -> Result<Self, GatherError> {
        Ok(Self::new(gather_commit(start, revision, branches)?, today, ReadFrom::Commit, Unsaved::new()))
    }

    fn new(repository: Repository, today: Option<Date>, read_from: ReadFrom, unsaved: Unsaved) -> Self {
        let judge::AllPrepared { prepared, copied } = judge::prepare_all(&repository, &repository.sources);
        Self { repository, prepared, copied, today, read_from, unsaved, judged: Mutex::default() }
    }

    /// What was gathered.
    pub fn repository(&self) -> &Repository {
        &self.repository
    }

    /// All texts.
    pub fn sources(&self) -> &Sources {
        &self.repository.sources
    }

    /// Every pipeline after reading.
    pub fn prepared(&self) -> &[Prepared] {
        &self.prepared
    }

    /// All pipelines together, with what was worked out before and still holds.
    pub fn project(&self) -> Project<'_> {
        let (facts, sources) = (&self.repository.facts, &self.repository.sources);
        let mut judged = self.judged();
        if let Some(kept) = &judged.kept {
            return Project::keeping(&self.prepared, facts, sources, self.today, kept);
        }
        let project = Project::new(&self.prepared, facts, sources, self.today);
        judged.kept = Some(project.keep());
        project
    }

    /// Checks what has not been checked yet, many pipelines at the same time: by pipeline file, in the order of the repository's list.
    pub fn check(&self) -> Vec<CheckedFile> {
        self.check_unless(&|| false).unwrap_or_default()
    }

    /// The same as long as `stop` says no, which is asked again and again; nothing where it said yes. What was checked by then is kept.
    pub fn check_unless(&self, stop: &(dyn Fn() -> bool + Sync)) -> Option<Vec<CheckedFile>> {
        if stop() {
            return None;
        }
        let project = self.project();
        let mut judged = self.judged();
        judged.settle(&project);
        judged.complete(&project, stop).then(|| judged.files(&project))
    }

    /// What [`Snapshot::check`] finds in a picture that is looked at only once, by a process that ends soon: nothing of what was found is kept, and what was
    /// worked out on the way is not given back, which would take a tenth of the time.
    pub fn check_once(&self) -> Vec<CheckedFile> {
        judge::Judged::once(&std::mem::ManuallyDrop::new(self.project()))
    }

    /// What is known; a thread that died while it held this left nothing that the next check would not do again.
    fn judged(&self) -> MutexGuard<'_, judge::Judged> {
        self.judged.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// So many pipelines would be checked now: those that changed, and those to which it matters.
    pub fn unchecked(&self) -> usize {
        let project = self.project();
        let mut judged = self.judged();
        judged.settle(&project);
        judged.unchecked(&project)
    }

    /// What would be found with other texts in the place of those that were read; nothing is kept of it.
    pub fn findings_with(&self, sources: &Sources) -> Vec<Finding> {
        let prepared = judge::prepare_all(&self.repository, sources).prepared;
        let project = Project::new(&prepared, &self.repository.facts, sources, self.today);
        judge::Judged::once(&project).into_iter().flat_map(|file| file.findings).collect()
    }
}

#[cfg(test)]
mod tests;
