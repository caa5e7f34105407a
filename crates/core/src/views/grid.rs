//! The grid of events and jobs.

use crate::case::Case;
use crate::project::Project;
use crate::rehearsal::{Answer, Occasion, Rehearsal, Verdict, clock_words, next_times, read_clock};

/// Which jobs run on which event.
#[derive(Clone, Debug)]
pub struct Grid {
    /// The columns.
    pub events: Vec<Occasion>,
    /// The rows, by pipeline; parts that pipelines run in a step have none.
    pub pipelines: Vec<GridPipeline>,
}

/// The rows of a pipeline.
#[derive(Clone, Debug)]
pub struct GridPipeline {
    /// Its number in the project.
    pub index: usize,
    /// What people know it by.
    pub label: String,
    /// By event: whether it starts.
    pub starts: Vec<Verdict>,
    /// Its jobs in the order they are written.
    pub jobs: Vec<GridJob>,
    /// By time of its clock: that time in words where those are short, and the next times, in UTC.
    pub clocks: Vec<(Option<String>, Vec<String>)>,
}

/// The row of a job.
#[derive(Clone, Debug)]
pub struct GridJob {
    /// Its id.
    pub id: String,
    /// By event.
    pub cells: Vec<Cell>,
}

/// What comes of a job on an event.
#[derive(Clone, Debug)]
pub struct Cell {
    /// Whether it runs, why, and the place that decides.
    pub verdict: Verdict,
    /// Whether it puts something online.
    pub publishes: Answer,
}

/// What a cell says in one word.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CellKind {
    /// It runs and puts the site online.
    Publishes,
    /// It runs.
    Runs,
    /// Only known when it runs.
    Maybe,
    /// It waits for a person.
    ByHand,
    /// It does not run.
    Not,
}

impl CellKind {
    /// All, in the order of a legend.
    pub const ALL: [Self; 5] = [Self::Publishes, Self::Runs, Self::Maybe, Self::ByHand, Self::Not];

    /// The word.
    pub fn word(self) -> &'static str {
        match self {
            Self::Publishes => "publishes",
            Self::Runs => "runs",
            Self::Maybe => "maybe",
            Self::ByHand => "by hand",
            Self::Not => "–",
        }
    }

    /// What the word means.
    pub fn meaning(self) -> &'static str {
        match self {
            Self::Publishes => "runs and puts the site online",
            Self::Runs => "runs, everything before it taken to succeed",
            Self::Maybe => "only known when it runs",
            Self::ByHand => "waits for someone who starts it",
            Self::Not => "does not run",
        }
    }
}

impl Cell {
    /// The word for it.
    pub fn kind(&self) -> CellKind {
        match (self.verdict.answer, self.publishes) {
            _ if self.verdict.is_by_hand() => CellKind::ByHand,
            (Answer::Yes, Answer::Yes) => CellKind::Publishes,
            (Answer::Yes, _) => CellKind::Runs,
            (Answer::Unsure, _) => CellKind::Maybe,
            (Answer::No, _) => CellKind::Not,
        }
    }
}

/// Plays events against all pipelines. `now`, in seconds since 1970, is where the clock is looked at from.
pub fn grid(project: &Project<'_>, events: &[Occasion], now: i64) -> Grid {
    let played: Vec<Vec<Rehearsal>> = events.iter().map(|occasion| project.rehearse(occasion)).collect();
    let of = |index: usize| {
        let own: Vec<&Rehearsal> = played.iter().map(|all| &all[index]).collect();
        let case = project.case(index);
        GridPipeline {
            index,
            label: project.label(index),
            starts: own.iter().map(|rehearsal| rehearsal.starts.clone()).collect(),
            jobs: jobs(&case, &own),
            clocks: clocks(&case, now),
        }
    };
    Grid { events: events.to_vec(), pipelines: project.standalone().into_iter().map(of).collect() }
}

fn jobs(case: &Case<'_>, played: &[&Rehearsal]) -> Vec<GridJob> {
    let publishes = case.publishes();
    let cell = |job: usize, rehearsal: &Rehearsal| {
        let own = publishes.iter().filter(|published| published.job == job);
        Cell {
            verdict: rehearsal.jobs.get(job).cloned().unwrap_or_else(|| Verdict::new(Answer::Unsure, "", None)),
            publishes: own.map(|published| case.happens(published, rehearsal)).max().unwrap_or(Answer::No),
        }
    };
    let row = |(job, of_job): (usize, &crate::model::Job)| GridJob {
        id: of_job.id.value.clone(),
        cells: played.iter().map(|rehearsal| cell(job, rehearsal)).collect(),
    };
    case.pipeline.jobs.iter().enumerate().map(row).collect()
}

/// How many of the next times are told.
const TIMES: usize = 3;

fn clocks(case: &Case<'_>, now: i64) -> Vec<(Option<String>, Vec<String>)> {
    let written = case.pipeline.triggers.iter().flat_map(|trigger| &trigger.times);
    let read = written.filter_map(|written| {
        let time = read_clock(written.known()?).ok()?;
        Some((clock_words(&written.value), next_times(&time, now, TIMES)))
    });
    read.collect()
}
