//! The way of a site, for drawing: the jobs in the order they run, what each does with the folder, and where it ends.

mod end;
mod leg;
mod needs;
mod parcels;
mod told;

use std::collections::{HashMap, HashSet};

use end::end_of;
use leg::{belongs_to, leg};
use parcels::parcels;

use indexmap::IndexMap;

use crate::case::{Case, Published};
use crate::effects::Effect;
use crate::finding::{Finding, Severity};
use crate::project::{Project, columns};
use crate::rehearsal::{Answer, Occasion, Rehearsal};
use crate::text::Place;
use crate::trail::in_order;

/// What stands before an event that may end online, and may not.
pub const PERHAPS: &str = "perhaps ";

/// A thing that is done with the site's files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StopKind {
    /// The sources come.
    Sources,
    /// Packages are installed.
    Install,
    /// The site is built.
    Build,
    /// Folders are copied or moved.
    Move,
    /// A folder is handed to other jobs.
    HandOn,
    /// What another job handed on is fetched.
    Fetch,
    /// It goes online.
    Publish,
    /// A step that does nothing with them, and needs something or fails.
    Step,
}

impl StopKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Sources => "sources",
            Self::Install => "install",
            Self::Build => "build",
            Self::Move => "move",
            Self::HandOn => "hand on",
            Self::Fetch => "fetch",
            Self::Publish => "publish",
            Self::Step => "step",
        }
    }
}

/// What breaks the way.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Break {
    /// The rule that says so.
    pub rule: &'static str,
    /// Its words.
    pub message: String,
    /// Where.
    pub at: Place,
}

impl Break {
    fn of(finding: &Finding) -> Self {
        Self { rule: finding.rule, message: finding.message.clone(), at: finding.at }
    }
}

/// The kinds of what a step needs beside the site's files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NeedKind {
    /// A credential that the forge keeps.
    Secret,
    /// What an earlier run has kept, to save time.
    Cache,
    /// Something that the job's token must be allowed.
    Permission,
}

impl NeedKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Secret => "secret",
            Self::Cache => "cache",
            Self::Permission => "permission",
        }
    }
}

/// Something that a step needs beside the site's files.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Need {
    /// Its kind.
    pub kind: NeedKind,
    /// The secret's name, the cache's key, or the permission with its level.
    pub name: String,
}

/// What a stop has to do with things that go from job to job.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Hand {
    /// Nothing.
    #[default]
    None,
    /// It hands something on.
    Gives {
        /// Under this name; nothing where it has none that is known.
        name: Option<String>,
        /// The folders, as they are written.
        holds: String,
    },
    /// It takes what is handed on under this name; nothing where the name is not known.
    Takes(Option<String>),
    /// It takes all that was handed on before it.
    TakesAll,
}

/// One thing that is done, where, and whether the way breaks there.
#[derive(Clone, Debug)]
pub struct Stop {
    /// What is done.
    pub kind: StopKind,
    /// To which folder or artifact, in words.
    pub text: String,
    /// Where it is written.
    pub at: Place,
    /// It is known that the folder is there.
    pub certain: bool,
    /// What it hands on, or takes.
    pub hand: Hand,
    /// What it needs beside the files.
    pub needs: Vec<Need>,
    /// What breaks the way here.
    pub broken: Option<Break>,
}

impl Stop {
    /// One that is certain, and of which no more is known.
    fn new(kind: StopKind, text: String, at: Place) -> Self {
        Self { kind, text, at, certain: true, hand: Hand::None, needs: Vec::new(), broken: None }
    }
}

/// A job on the way.
#[derive(Clone, Debug)]
pub struct Leg {
    /// Its name.
    pub id: String,
    /// Jobs of the same number run side by side.
    pub wave: usize,
    /// The jobs of the way that it waits for.
    pub waits_for: Vec<String>,
    /// In their order.
    pub stops: Vec<Stop>,
    /// What the job as a whole needs.
    pub needs: Vec<Need>,
    /// How often it runs, once for each leg of its matrix; nothing for once.
    pub times: Option<usize>,
    /// What breaks in the job itself rather than in one of its steps.
    pub broken: Option<Break>,
}

impl Leg {
    /// The first thing that breaks it: what breaks in the job itself keeps all its steps from running.
    fn first_break(&self) -> Option<&Break> {
        self.broken.as_ref().or_else(|| self.stops.iter().find_map(|stop| stop.broken.as_ref()))
    }

    /// Whether the way breaks in this job.
    pub fn breaks(&self) -> bool {
        self.first_break().is_some()
    }
}

/// A stop of a way, by the number of its job there and its own in that.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct StopAt {
    /// The job.
    pub leg: usize,
    /// The stop in it.
    pub stop: usize,
}

/// Something that is handed from job to job.
#[derive(Clone, Debug)]
pub struct Parcel {
    /// Its name; nothing where it has none that is known.
    pub name: Option<String>,
    /// The folders in it, as they are written.
    pub holds: String,
    /// Who hands it on.
    pub from: StopAt,
    /// Who takes it.
    pub to: Vec<StopAt>,
}

/// Where a way ends.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct End {
    /// The address or place, in words.
    pub text: String,
    /// The stop that puts the site there; nothing where that is told as one with another.
    pub at: Option<StopAt>,
}

/// The way from the sources to the addresses that its last job publishes to.
#[derive(Clone, Debug)]
pub struct Way {
    /// The pipeline's number in its project.
    pub pipeline: usize,
    /// The events on which it ends online, in words; those that are not certain begin with [`PERHAPS`].
    pub events: Vec<String>,
    /// Wave by wave.
    pub legs: Vec<Leg>,
    /// What goes from job to job, in the order it is handed on.
    pub parcels: Vec<Parcel>,
    /// Where it ends; there is at least one, and each place stands there once.
    pub ends: Vec<End>,
    /// What keeps the whole pipeline from running.
    pub broken: Option<Break>,
}

impl Way {
    /// The first thing that breaks it, in the order of work.
    pub fn first_break(&self) -> Option<&Break> {
        self.broken.as_ref().or_else(|| self.legs.iter().find_map(Leg::first_break))
    }

    /// Whether nothing new comes to its end.
    pub fn breaks(&self) -> bool {
        self.first_break().is_some()
    }
}

/// Every way to a published site, file by file.
pub fn ways(project: &Project<'_>) -> Vec<Way> {
    let occasions = columns(project);
    (0..project.prepared.len()).flat_map(|index| ways_of(project, index, &occasions)).collect()
}

fn ways_of(project: &Project<'_>, index: usize, occasions: &[Occasion]) -> Vec<Way> {
    let case = project.case(index);
    let published = case.publishes();
    let handed = handed_out(&case).filter(|_| published.is_empty());
    if published.is_empty() && handed.is_none() {
        return Vec::new();
    }
    let stops = |finding: &Finding| {
        finding.severity == Severity::Error && !crate::rules::find(finding.rule).is_some_and(|rule| rule.lets_site_through())
    };
    let errors: Vec<Finding> = crate::check(project, index).into_iter().filter(stops).collect();
    let mut by_job: IndexMap<usize, Vec<Published<'_>>> = IndexMap::new();
    published.into_iter().for_each(|one| by_job.entry(one.job).or_default().push(one));
    let mut found = Vec::new();
    for (job, published) in by_job {
        let happens = |outcome: &Rehearsal| published.iter().map(|one| case.happens(one, outcome)).max().unwrap_or(Answer::No);
        let ends = published.iter().map(|one| (end_of(&case, one), Some(one.effect.at))).collect();
        found.push(way(&case, (job, ends), &happens, &errors, occasions));
    }
    if let Some(job) = handed {
        let happens = |outcome: &Rehearsal| outcome.jobs[job].answer.min(outcome.starts.answer);
        let ends = vec![("whatever runs this build takes it from here".to_owned(), None)];
        found.push(way(&case, (job, ends), &happens, &errors, occasions));
    }
    found
}

/// The job that hands the site to whoever runs the pipeline.
fn handed_out(case: &Case<'_>) -> Option<usize> {
    let hands = |job: &usize| case.effects.of_job(*job).any(|(_, effect)| effect.effect.goes_online());
    (0..case.pipeline.jobs.len()).find(hands).filter(|_| case.pipeline.customs.hands_out_site)
}

fn way(
    case: &Case<'_>,
    (last, ends): (usize, Vec<(String, Option<Place>)>),
    happens: &dyn Fn(&Rehearsal) -> Answer,
    errors: &[Finding],
    occasions: &[Occasion],
) -> Way {
    let mut jobs = case.pipeline.upstream(last);
    // A job that hands on what this one takes belongs to the way, even when nothing makes this one wait for it.
    jobs.extend(hands_to(case, last, &jobs));
    jobs.push(last);
    let mut seen = HashSet::new();
    jobs.retain(|job| seen.insert(*job));
    let waves = waves(case, &jobs);
    let mut legs: Vec<Leg> = jobs.iter().map(|job| leg(case, *job, &jobs, waves[job], errors)).collect();
    legs.retain(|leg| !leg.stops.is_empty());
    legs.sort_by_key(|leg| leg.wave);
    let events = occasions.iter().filter_map(|occasion| {
        let outcome = case.project.outcome(case.index, occasion)?;
        match happens(outcome) {
            Answer::Yes => Some(occasion.told()),
            Answer::Unsure => Some(format!("{PERHAPS}{}", occasion.told())),
            Answer::No => None,
        }
    });
    let in_steps = |finding: &&Finding| (0..case.pipeline.jobs.len()).any(|job| belongs_to(case, job, finding.at));
    let broken = errors.iter().find(|finding| !in_steps(finding)).map(Break::of);
    let ends = with_stops(ends, &legs, case.job_name(last));
    Way { pipeline: case.index, events: events.collect(), parcels: parcels(&legs), legs, ends, broken }
}

/// Jobs whose artifacts this job takes without waiting for them.
fn hands_to(case: &Case<'_>, job: usize, known: &[usize]) -> Vec<usize> {
    let takes: Vec<&str> =
        case.effects.of_job(job).filter_map(|(_, effect)| effect.effect.takes().and_then(|(name, _)| name.known())).collect();
    let hands = |other: &usize| {
        case.effects.of_job(*other).any(|(_, effect)| matches!(&effect.effect, Effect::Upload { name, .. } if name.known().is_some_and(|name| takes.contains(&name))))
    };
    (0..case.pipeline.jobs.len()).filter(|other| *other != job && !known.contains(other)).filter(hands).collect()
}

/// In which turn each job of a way runs: after all that it waits for.
fn waves(case: &Case<'_>, jobs: &[usize]) -> HashMap<usize, usize> {
    let mut known: HashMap<usize, usize> = HashMap::new();
    let ours: HashSet<usize> = jobs.iter().copied().collect();
    for job in in_order(case.pipeline).into_iter().filter(|job| ours.contains(job)) {
        let needs = case.pipeline.jobs[job].needs.iter().filter_map(|need| case.pipeline.job(&need.value));
        // In a circle, one job comes before another that it waits for.
        let wave = needs.filter_map(|need| known.get(&need)).max().map_or(0, |last| last + 1);
        known.insert(job, wave);
    }
    known
}

/// The ends of a way with the stops that come there: what publishes at that place in the file, or the last that hands on where nothing
/// does.
fn with_stops(ends: Vec<(String, Option<Place>)>, legs: &[Leg], id: &str) -> Vec<End> {
    let mut found: Vec<End> = Vec::new();
    let leg = legs.iter().position(|leg| leg.id == id);
    let stop_at = |written: Option<Place>| {
        let stops = &legs[leg?].stops;
        let stop = match written {
            Some(at) => stops.iter().position(|stop| stop.kind == StopKind::Publish && stop.at == at),
            None => stops.iter().rposition(|stop| stop.kind == StopKind::HandOn),
        };
        Some(StopAt { leg: leg?, stop: stop? })
    };
    for (text, written) in ends {
        if found.iter().all(|end| end.text != text) {
            found.push(End { at: stop_at(written), text });
        }
    }
    found
}
