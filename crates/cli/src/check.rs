//! `dulk check`.

use std::path::PathBuf;

use dulk_core::case::Project;
use dulk_core::finding::{Finding, Severity, WitnessSource};
use dulk_core::knowledge::Date;
use dulk_core::read::{Prepared, prepare_with, refused};
use dulk_core::text::{FileId, Sources};
use dulk_gather::{PipelineFile, Repository, changed_lines, gather, places, replace};
use rayon::prelude::*;

use crate::Outcome;
use crate::args::{CheckFormat, CheckOptions};
use crate::render::{json, junit, sarif, text};
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
    let patience = Patience::begin();
    let mut checked = check(gather(&start, paths)?, today);
    drop(patience);
    if let Some(revision) = &options.since {
        only_since(&mut checked, revision)?;
    }
    match options.format {
        CheckFormat::Text if checked.files.is_empty() => nothing_to_check(paths, screen),
        CheckFormat::Text => text::show(&checked, screen),
        CheckFormat::Json => json::show(&checked, screen)?,
        CheckFormat::Sarif => screen.line(&sarif::log(&checked)?),
        CheckFormat::Junit => screen.line(&junit::report(&checked)),
    }
    if let Some(file) = &options.output {
        let text = screen.take_plain();
        let path = start.join(file);
        replace(&path, &text).map_err(|reason| anyhow::anyhow!("{} cannot be written: {reason}", file.display()))?;
    }
    let found = checked.worst().is_some_and(|worst| worst >= options.fail_on.severity());
    Ok(if found { Outcome::Found } else { Outcome::Clean })
}

/// Says on a terminal that a long check is still going on.
struct Patience {
    done: std::sync::mpsc::Sender<()>,
}

impl Patience {
    /// The words come after this long.
    const WAIT: std::time::Duration = std::time::Duration::from_secs(1);

    /// Starts to wait; dropping it ends the waiting.
    fn begin() -> Option<Self> {
        if !std::io::IsTerminal::is_terminal(&std::io::stderr()) {
            return None;
        }
        let (done, waits) = std::sync::mpsc::channel::<()>();
        std::thread::spawn(move || {
            if waits.recv_timeout(Self::WAIT) == Err(std::sync::mpsc::RecvTimeoutError::Timeout) {
                crate::screen::complain("still reading and checking; a repository with many pipeline files takes a moment");
            }
        });
        Some(Self { done })
    }
}

impl Drop for Patience {
    fn drop(&mut self) {
        // The waiting thread may have spoken and gone already.
        let _ = self.done.send(());
    }
}

/// Leaves what stands on changed lines, or what a witness on one speaks of.
fn only_since(checked: &mut Checked, revision: &str) -> anyhow::Result<()> {
    let sources = &checked.repository.sources;
    let mut changed: std::collections::BTreeMap<FileId, Option<Vec<(u32, u32)>>> = std::collections::BTreeMap::new();
    for file in &mut checked.files {
        let mut findings = std::mem::take(&mut file.findings);
        let mut failed = None;
        findings.retain(|finding| {
            let places = std::iter::once(finding.at).chain(finding.witnesses.iter().filter_map(|witness| match witness.source {
                WitnessSource::At(at) => Some(at),
                _ => None,
            }));
            places.into_iter().any(|at| {
                let lines = changed.entry(at.file).or_insert_with(|| {
                    let source = sources.get(at.file);
                    match changed_lines(&checked.repository.root, revision, &source.path, &source.text) {
                        Ok(lines) => lines,
                        Err(reason) => {
                            failed = Some(reason);
                            None
                        }
                    }
                });
                let range = sources.get(at.file).range(at.span);
                // A file that is new is changed as a whole.
                lines
                    .as_ref()
                    .is_none_or(|lines| lines.iter().any(|(from, to)| range.start.line <= *to && range.end.line >= *from))
            })
        });
        if let Some(reason) = failed {
            anyhow::bail!(reason);
        }
        file.findings = findings;
    }
    Ok(())
}

/// Reads every pipeline file, many at the same time.
pub fn prepare_all(repository: &Repository) -> Vec<Prepared> {
    prepare_with_texts(repository, &repository.sources)
}

fn prepare_with_texts(repository: &Repository, sources: &Sources) -> Vec<Prepared> {
    let read = |pipeline: &PipelineFile| match &pipeline.refused {
        Some(reason) => refused(pipeline.file, reason.clone(), pipeline.dialect),
        None => {
            let parts: Vec<_> = pipeline.parts.iter().map(|part| (*part, sources.get(*part))).collect();
            prepare_with(pipeline.file, sources.get(pipeline.file), pipeline.dialect, &parts, pipeline.missing)
        }
    };
    if repository.pipelines.len() < PARALLEL_FROM {
        repository.pipelines.iter().map(read).collect()
    } else {
        repository.pipelines.par_iter().map(read).collect()
    }
}

/// What would be found with other texts in the place of those that were read.
pub fn findings_with(repository: &Repository, sources: &Sources, today: Date) -> Vec<Finding> {
    let prepared = prepare_with_texts(repository, sources);
    let project = Project::new(&prepared, &repository.facts, sources, Some(today));
    (0..prepared.len()).flat_map(|index| dulk_core::check(&project, index)).collect()
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
