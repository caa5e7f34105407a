//! `dulk check`.

use std::path::PathBuf;

use dulk_core::case::Project;
use dulk_core::finding::{Finding, Severity};
use dulk_core::knowledge::Date;
use dulk_core::read::{Prepared, prepare_with, refused};
use dulk_gather::{PipelineFile, Repository, gather, places};
use rayon::prelude::*;

use crate::Outcome;
use crate::args::{CheckOptions, Format};
use crate::render::{json, text};
use crate::screen::Screen;

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

/// Runs the command.
///
/// # Errors
/// When a path does not exist or dulk.toml is wrong.
pub fn run(options: &CheckOptions, paths: &[PathBuf], today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    let checked = check(gather(&start, paths)?, today);
    match options.format {
        Format::Text if checked.files.is_empty() => nothing_to_check(paths, screen),
        Format::Text => text::show(&checked, screen),
        Format::Json => json::show(&checked, screen)?,
    }
    let found = checked.worst().is_some_and(|worst| worst >= options.fail_on.severity());
    Ok(if found { Outcome::Found } else { Outcome::Clean })
}

/// Reads every pipeline file, many at the same time.
pub fn prepare_all(repository: &Repository) -> Vec<Prepared> {
    let read = |pipeline: &PipelineFile| match &pipeline.refused {
        Some(reason) => refused(pipeline.file, reason.clone(), pipeline.dialect),
        None => {
            let parts: Vec<_> = pipeline.parts.iter().map(|part| (*part, repository.sources.get(*part))).collect();
            prepare_with(pipeline.file, repository.sources.get(pipeline.file), pipeline.dialect, &parts, pipeline.missing)
        }
    };
    if repository.pipelines.len() < PARALLEL_FROM {
        repository.pipelines.iter().map(read).collect()
    } else {
        repository.pipelines.par_iter().map(read).collect()
    }
}

/// Checks what was gathered, many files at the same time.
pub fn check(repository: Repository, today: Date) -> Checked {
    let prepared = prepare_all(&repository);
    let project = Project::new(&prepared, &repository.facts, &repository.sources, Some(today));
    let judge = |index: usize| CheckedFile { whole: prepared[index].whole, findings: dulk_core::check(&project, index) };
    let files = if prepared.len() < PARALLEL_FROM {
        (0..prepared.len()).map(judge).collect()
    } else {
        (0..prepared.len()).into_par_iter().map(judge).collect()
    };
    drop(project);
    Checked { repository, files }
}

fn nothing_to_check(paths: &[PathBuf], screen: &mut Screen) {
    let places = places().iter().map(|place| format!("{place}/*.yml")).collect::<Vec<_>>().join(", ");
    let within = match paths {
        [] => "here".to_owned(),
        _ => format!("in {}", paths.iter().map(|path| path.display().to_string()).collect::<Vec<_>>().join(", ")),
    };
    screen.line(&format!("No pipeline file found {within}, so nothing was checked."));
    screen.line(&format!("Looked for {places} (and *.yaml)."));
}
