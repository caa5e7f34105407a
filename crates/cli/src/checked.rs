//! A repository with all that was found in it, for showing.

use std::path::{Path, PathBuf};

use dulk_core::finding::Severity;
use dulk_core::knowledge::Date;
use dulk_gather::Repository;
use dulk_snapshot::{CheckedFile, Snapshot};

/// All that a check gives.
pub struct Checked {
    /// What was read.
    pub snapshot: Snapshot,
    /// By pipeline file, in the order of the repository's list.
    pub files: Vec<CheckedFile>,
}

impl Checked {
    /// Reads and checks the repository round a folder.
    ///
    /// # Errors
    /// When a path does not exist, or dulk.toml is wrong.
    pub fn of(start: &Path, paths: &[PathBuf], today: Date) -> anyhow::Result<Self> {
        let snapshot = Snapshot::of_disk(start, paths, Some(today))?;
        let files = snapshot.check_once();
        Ok(Self { snapshot, files })
    }

    /// The same, keeping what was worked out on the way for those who ask the snapshot for more.
    ///
    /// # Errors
    /// When dulk.toml is wrong.
    pub fn kept(start: &Path, today: Date) -> anyhow::Result<Self> {
        let snapshot = Snapshot::of_disk(start, &[], Some(today))?;
        let files = snapshot.check();
        Ok(Self { snapshot, files })
    }

    /// What was gathered.
    pub fn repository(&self) -> &Repository {
        self.snapshot.repository()
    }

    /// The weightiest finding.
    pub fn worst(&self) -> Option<Severity> {
        self.files.iter().flat_map(|file| &file.findings).map(|finding| finding.severity).max()
    }
}
