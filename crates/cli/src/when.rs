//! `dulk when`.

use std::path::{Component, Path, PathBuf};

use anyhow::bail;
use dulk_core::knowledge::Date;
use dulk_core::mask::mask;
use dulk_core::project::{Project, columns};
use dulk_core::rehearsal::{Occasion, parse_occasion};
use dulk_core::views::{GridJob, GridPipeline, grid as grid_of};
use dulk_gather::Repository;
use dulk_snapshot::Snapshot;
use serde::Serialize;

use crate::Outcome;
use crate::args::{Format, WhenOptions};
use crate::render::{detail, grid};
use crate::screen::{Screen, complain};

/// Runs the command.
///
/// # Errors
/// When an event or a path does not parse, or dulk.toml is wrong.
pub fn run(options: &WhenOptions, today: Option<Date>, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    let snapshot = Snapshot::of_disk(&start, &[], today)?;
    let repository = snapshot.repository();
    let changed = changed(&options.changed, &start, repository)?;
    let project = snapshot.project();
    let asked: Vec<Occasion> = options
        .events
        .iter()
        .map(|event| parse_occasion(event, &repository.facts))
        .collect::<Result<_, _>>()
        .map_err(anyhow::Error::msg)?;
    let mut occasions = if asked.is_empty() { columns(&project) } else { asked };
    for occasion in &mut occasions {
        occasion.changed.clone_from(&changed);
    }
    for strange in
        occasions.iter().filter(|_| !options.events.is_empty()).filter_map(|occasion| occasion.unknown_branch(&repository.facts))
    {
        complain(&format!("there is no branch {strange} here; this is what would happen if there were"));
    }
    if options.format == Format::Json {
        return show_json(&project, &occasions, now(today), screen);
    }
    if project.prepared.is_empty() {
        screen.line("No pipeline file found here, so nothing starts.");
    } else if options.events.is_empty() {
        grid::show(&project, &occasions, now(today), screen);
    } else {
        occasions.iter().for_each(|occasion| detail::show(&project, occasion, screen));
    }
    Ok(Outcome::Clean)
}

/// Seconds since 1970 from which the clock is looked at.
fn now(today: Option<Date>) -> i64 {
    let midnight = today.and_then(|date| format!("{date}T00:00:00Z").parse::<jiff::Timestamp>().ok());
    midnight.unwrap_or_else(jiff::Timestamp::now).as_second()
}

/// Paths as they are typed, from the repository's root.
fn changed(paths: &[PathBuf], start: &Path, repository: &Repository) -> anyhow::Result<Option<Vec<String>>> {
    if paths.is_empty() {
        return Ok(None);
    }
    let start = std::fs::canonicalize(start)?;
    let root = std::fs::canonicalize(&repository.root)?;
    let mut found = Vec::new();
    for path in paths {
        let mut whole = PathBuf::new();
        for part in start.join(path).components() {
            match part {
                Component::ParentDir => {
                    whole.pop();
                }
                Component::CurDir => {}
                part => whole.push(part),
            }
        }
        match whole.strip_prefix(&root) {
            Ok(inside) => found.push(inside.to_string_lossy().replace('\\', "/")),
            Err(_) => bail!("{} is not in this repository", path.display()),
        }
    }
    Ok(Some(found))
}

#[derive(Serialize)]
struct Report<'r> {
    schema: u32,
    pipelines: Vec<JsonPipeline<'r>>,
}

#[derive(Serialize)]
struct JsonPipeline<'r> {
    file: &'r str,
    /// Where its file holds more than one.
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<String>,
    events: Vec<JsonEvent>,
}

#[derive(Serialize)]
struct JsonEvent {
    event: String,
    starts: &'static str,
    because: String,
    jobs: Vec<JsonJob>,
}

#[derive(Serialize)]
struct JsonJob {
    id: String,
    runs: &'static str,
    because: String,
}

fn show_json(project: &Project<'_>, occasions: &[Occasion], now: i64, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let grid = grid_of(project, occasions, now);
    let job = |row: &GridJob, column: usize| JsonJob {
        id: mask(&row.id).into_owned(),
        runs: row.cells[column].verdict.answer.word(),
        because: reason(&row.cells[column].verdict.because),
    };
    let event = |pipeline: &GridPipeline, column: usize| JsonEvent {
        event: occasions[column].written(),
        starts: pipeline.starts[column].answer.word(),
        because: mask(&pipeline.starts[column].because).into_owned(),
        jobs: pipeline.jobs.iter().map(|row| job(row, column)).collect(),
    };
    let pipelines = grid.pipelines.iter().map(|pipeline| JsonPipeline {
        file: project.path(pipeline.index),
        name: project.name_in_file(pipeline.index).map(|name| mask(name).into_owned()),
        events: (0..occasions.len()).map(|column| event(pipeline, column)).collect(),
    });
    let report = Report { schema: 1, pipelines: pipelines.collect() };
    screen.data(&serde_json::to_string_pretty(&report)?);
    Ok(Outcome::Clean)
}

fn reason(because: &str) -> String {
    let words = if because.is_empty() { "nothing keeps it from running" } else { because };
    mask(words).into_owned()
}
