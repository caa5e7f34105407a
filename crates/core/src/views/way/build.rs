//! The ways of one pipeline, job by job.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::rc::Rc;

use indexmap::IndexMap;

use super::end::end_of;
use super::leg::{belongs_to, leg};
use super::parcels::parcels;
use super::{Break, End, Leg, PERHAPS, StopAt, StopKind, Way};
use crate::case::{Case, Published};
use crate::effects::Effect;
use crate::finding::{Finding, Severity};
use crate::project::{Project, columns};
use crate::rehearsal::{Answer, Occasion, Rehearsal};
use crate::text::Place;
use crate::trail::in_order;

/// Every way to a published site, file by file.
pub fn ways(project: &Project<'_>) -> Vec<Way> {
    let occasions = columns(project);
    let mut errors = Errors { project, known: HashMap::new() };
    (0..project.prepared.len()).flat_map(|index| ways_of(project, index, &occasions, &mut errors)).collect()
}

/// What keeps sites from going online, pipeline by pipeline; looked for once in each.
struct Errors<'p> {
    project: &'p Project<'p>,
    known: HashMap<usize, Rc<Vec<Finding>>>,
}

impl Errors<'_> {
    fn of(&mut self, index: usize) -> Rc<Vec<Finding>> {
        let project = self.project;
        let look = || Rc::new(crate::check(project, index).into_iter().filter(stops_site).collect());
        Rc::clone(self.known.entry(index).or_insert_with(look))
    }

    /// The first in a pipeline that calls this one, or calls one that does.
    fn of_callers(&mut self, index: usize) -> Option<Break> {
        let mut seen = HashSet::from([index]);
        let mut open = vec![index];
        while let Some(callee) = open.pop() {
            for (caller, _) in self.project.callers(callee) {
                if seen.insert(*caller) {
                    open.push(*caller);
                    if let Some(first) = self.of(*caller).first() {
                        return Some(Break::of(first));
                    }
                }
            }
        }
        None
    }
}

fn ways_of(project: &Project<'_>, index: usize, occasions: &[Occasion], errors: &mut Errors<'_>) -> Vec<Way> {
    let case = project.case(index);
    let published = case.publishes();
    let handed = handed_out(&case).filter(|_| published.is_empty());
    if published.is_empty() && handed.is_none() {
        return Vec::new();
    }
    let ground = Ground::of(&case, occasions, errors);
    let mut by_job: IndexMap<usize, Vec<Published<'_>>> = IndexMap::new();
    published.into_iter().for_each(|one| by_job.entry(one.job).or_default().push(one));
    let mut found = Vec::new();
    for (job, published) in by_job {
        let happens = |outcome: &Rehearsal| published.iter().map(|one| case.happens(one, outcome)).max().unwrap_or(Answer::No);
        let ends = published.iter().map(|one| (end_of(&case, one), Some(one.effect.at))).collect();
        found.push(ground.way(job, ends, &happens));
    }
    if let Some(job) = handed {
        let happens = |outcome: &Rehearsal| outcome.jobs[job].answer.min(outcome.starts.answer);
        let ends = vec![("whatever runs this build takes it from here".to_owned(), None)];
        found.push(ground.way(job, ends, &happens));
    }
    found
}

/// The job that hands the site to whoever runs the pipeline.
fn handed_out(case: &Case<'_>) -> Option<usize> {
    let hands = |job: &usize| case.effects.of_job(*job).any(|(_, effect)| effect.effect.goes_online());
    (0..case.pipeline.jobs.len()).find(hands).filter(|_| case.pipeline.customs.hands_out_site)
}

/// What all ways of a pipeline have in common.
struct Ground<'g> {
    case: &'g Case<'g>,
    /// By event, what comes of it.
    outcomes: Vec<(String, &'g Rehearsal)>,
    /// By job, its place in an order in which each comes after those that it waits for.
    ranks: Vec<usize>,
    /// What keeps a site from going online, by the job that it stands in.
    breaks: BTreeMap<usize, Vec<Finding>>,
    /// What stands in no job.
    broken: Option<Break>,
    /// What breaks a pipeline that calls this one.
    in_callers: Option<Break>,
}

impl<'g> Ground<'g> {
    fn of(case: &'g Case<'g>, occasions: &[Occasion], errors: &mut Errors<'_>) -> Self {
        let count = case.pipeline.jobs.len();
        let mut ranks = vec![0; count];
        for (rank, job) in in_order(case.pipeline).into_iter().enumerate() {
            ranks[job] = rank;
        }
        let mut breaks: BTreeMap<usize, Vec<Finding>> = BTreeMap::new();
        let mut broken = None;
        for finding in errors.of(case.index).iter() {
            let mut jobs = (0..count).filter(|job| belongs_to(case, *job, finding.at)).peekable();
            if jobs.peek().is_none() {
                broken = broken.or_else(|| Some(Break::of(finding)));
            }
            jobs.for_each(|job| breaks.entry(job).or_default().push(finding.clone()));
        }
        let outcome = |occasion: &Occasion| Some((occasion.told(), case.project.outcome(case.index, occasion)?));
        let in_callers = errors.of_callers(case.index);
        Self { case, outcomes: occasions.iter().filter_map(outcome).collect(), ranks, breaks, broken, in_callers }
    }

    /// The way that ends in a job.
    fn way(&self, last: usize, ends: Vec<(String, Option<Place>)>, happens: &dyn Fn(&Rehearsal) -> Answer) -> Way {
        let jobs = self.jobs(last);
        let waves = self.waves(&jobs);
        let none = Vec::new();
        let mut legs: Vec<Leg> = jobs
            .iter()
            .map(|job| leg(self.case, *job, &waves, self.breaks.get(job).unwrap_or(&none)))
            .filter(|leg| !leg.stops.is_empty())
            .collect();
        legs.sort_by_key(|leg| leg.wave);
        let events = self.outcomes.iter().filter_map(|(event, outcome)| match happens(outcome) {
            Answer::Yes => Some(event.clone()),
            Answer::Unsure => Some(format!("{PERHAPS}{event}")),
            Answer::No => None,
        });
        let ends = with_stops(ends, &legs, self.case.job_name(last));
        Way {
            pipeline: self.case.index,
            events: events.collect(),
            parcels: parcels(&legs),
            legs,
            ends,
            broken: self.broken.clone(),
            aside: self.aside(&waves),
        }
    }

    /// What breaks in a job that is not on the way, or in a pipeline that calls this one.
    fn aside(&self, on_way: &HashMap<usize, usize>) -> Option<Break> {
        let other = self.breaks.iter().find(|(job, _)| !on_way.contains_key(job));
        other.and_then(|(_, findings)| findings.first()).map(Break::of).or_else(|| self.in_callers.clone())
    }

    /// The jobs of a way, each once and after those that it waits for.
    fn jobs(&self, last: usize) -> Vec<usize> {
        let mut seen: HashSet<usize> = self.case.pipeline.upstream(last).into_iter().collect();
        // A job that hands on what this one takes belongs to the way, even when nothing makes this one wait for it.
        seen.extend(self.hands_to(last));
        seen.insert(last);
        let mut jobs: Vec<usize> = seen.into_iter().collect();
        jobs.sort_unstable_by_key(|job| self.ranks[*job]);
        jobs
    }

    /// Jobs whose artifacts this job takes.
    fn hands_to(&self, job: usize) -> Vec<usize> {
        let effects = self.case.effects;
        let takes: Vec<&str> =
            effects.of_job(job).filter_map(|(_, effect)| effect.effect.takes().and_then(|(name, _)| name.known())).collect();
        if takes.is_empty() {
            return Vec::new();
        }
        let is_taken = |effect: &Effect| matches!(effect, Effect::Upload { name, .. } if name.known().is_some_and(|name| takes.contains(&name)));
        let hands = |other: &usize| effects.of_job(*other).any(|(_, effect)| is_taken(&effect.effect));
        (0..self.case.pipeline.jobs.len()).filter(|other| *other != job).filter(hands).collect()
    }

    /// In which turn each job of a way runs: after all that it waits for.
    fn waves(&self, jobs: &[usize]) -> HashMap<usize, usize> {
        let mut known: HashMap<usize, usize> = HashMap::new();
        for job in jobs {
            let needs = self.case.pipeline.jobs[*job].needs.iter().filter_map(|need| self.case.pipeline.job(&need.value));
            // In a circle, one job comes before another that it waits for.
            let wave = needs.filter_map(|need| known.get(&need)).max().map_or(0, |last| last + 1);
            known.insert(*job, wave);
        }
        known
    }
}

fn stops_site(finding: &Finding) -> bool {
    finding.severity == Severity::Error && !crate::rules::find(finding.rule).is_some_and(|rule| rule.lets_site_through())
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
