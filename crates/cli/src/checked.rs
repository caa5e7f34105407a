//! All pipeline files of a repository, read and checked.

use dulk_core::finding::{Finding, Severity, join_causes, sort};
use dulk_core::formats::{Prepared, prepare};
use dulk_core::knowledge::Date;
use dulk_core::project::Project;
use dulk_core::text::Sources;
use dulk_gather::Repository;
use rayon::prelude::*;

/// With fewer files, starting threads takes longer than it saves.
const PARALLEL_FROM: usize = 8;

/// All that a check gives.
pub struct Checked {
    /// What was read.
    pub repository: Repository,
    /// By pipeline file, in the order of the repository's list.
    pub files: Vec<CheckedFile>,
}

/// One file.
pub struct CheckedFile {
    /// Its text could be read to the end.
    pub whole: bool,
    /// Sorted by place.
    pub findings: Vec<Finding>,
}

impl Checked {
    /// The weightiest finding.
    pub fn worst(&self) -> Option<Severity> {
        self.files.iter().flat_map(|file| &file.findings).map(|finding| finding.severity).max()
    }
}

/// Reads every pipeline file, many at the same time.
pub fn prepare_all(repository: &Repository) -> Vec<Prepared> {
    prepare_with_texts(repository, &repository.sources)
}

fn prepare_with_texts(repository: &Repository, sources: &Sources) -> Vec<Prepared> {
    if repository.pipelines.len() < PARALLEL_FROM {
        repository.pipelines.iter().flat_map(|file| prepare(file, sources)).collect()
    } else {
        repository.pipelines.par_iter().flat_map_iter(|file| prepare(file, sources)).collect()
    }
}

/// What would be found with other texts in the place of those that were read.
pub fn findings_with(repository: &Repository, sources: &Sources, today: Date) -> Vec<Finding> {
    judge_all(repository, sources, today).into_iter().flat_map(|file| join_causes(file.findings)).collect()
}

/// Checks what was gathered, and tells each cause once.
pub fn check(repository: Repository, today: Date) -> Checked {
    let mut files = judge_all(&repository, &repository.sources, today);
    for file in &mut files {
        file.findings = join_causes(std::mem::take(&mut file.findings));
    }
    Checked { repository, files }
}

/// Reads and judges all files, many at the same time.
fn judge_all(repository: &Repository, sources: &Sources, today: Date) -> Vec<CheckedFile> {
    let prepared = prepare_with_texts(repository, sources);
    let project = Project::new(&prepared, &repository.facts, sources, Some(today));
    let judge = |index: usize| dulk_core::check(&project, index);
    let all = 0..prepared.len();
    let mut findings: Vec<Vec<Finding>> = if prepared.len() < PARALLEL_FROM {
        all.map(judge).collect()
    } else {
        // What rules ask of other files is there before the first of them asks, so that no thread waits for another.
        all.clone().into_par_iter().for_each(|index| project.prepare(index));
        all.into_par_iter().map(judge).collect()
    };
    dulk_core::settle(&project, &mut findings);
    let mut files: Vec<CheckedFile> = Vec::new();
    let mut last = None;
    for (one, mut findings) in prepared.iter().zip(findings) {
        // Pipelines of one file stand one after the other.
        match files.last_mut().filter(|_| last == Some(one.pipeline.file)) {
            Some(file) => {
                file.findings.append(&mut findings);
                sort(&mut file.findings);
            }
            None => files.push(CheckedFile { whole: one.whole, findings }),
        }
        last = Some(one.pipeline.file);
    }
    files
}
