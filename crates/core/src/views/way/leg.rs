//! A job on the way: its steps that the site passes, what they need, and where it breaks.

use std::collections::HashMap;

use super::needs::Needs;
use super::told::{Told, told};
use super::{Break, Leg, Stop, StopKind};
use crate::case::Case;
use crate::effects::Effect;
use crate::finding::Finding;
use crate::model::{Job, Step, Work};
use crate::text::Place;

/// Whether a place belongs to a job: it stands in its text, or in a file that nothing but its steps come from.
pub(super) fn belongs_to(case: &Case<'_>, job: usize, place: Place) -> bool {
    let of_job = &case.pipeline.jobs[job];
    let elsewhere = place.file != case.pipeline.file && of_job.steps.iter().any(|step| step.at.file == place.file);
    elsewhere || of_job.body.holds(place) || of_job.id.at == place
}

/// One job of a way; `waves` are the turns of all jobs of it, and `errors` what breaks in this one.
pub(super) fn leg(case: &Case<'_>, job: usize, waves: &HashMap<usize, usize>, errors: &[Finding]) -> Leg {
    let own = &case.pipeline.jobs[job];
    let mut breaks: HashMap<Option<usize>, Vec<&Finding>> = HashMap::new();
    for finding in errors {
        breaks.entry(step_of(own, finding.at)).or_default().push(finding);
    }
    let mut all_needs = Needs::of(case, job);
    let mut stops: Vec<Stop> = Vec::new();
    let mut broken = breaks.get(&None).and_then(|findings| findings.first()).map(|finding| Break::of(finding));
    for (number, step) in own.steps.iter().enumerate() {
        let first = stops.len();
        pass(case, (job, number), &mut stops);
        let breaks = breaks.get(&Some(number)).map_or(&[][..], Vec::as_slice);
        let needs = all_needs.take_of_step(number);
        if stops.len() == first && (!breaks.is_empty() || !needs.is_empty()) {
            stops.push(Stop { at: title_at(step), ..Stop::new(StopKind::Step, title(step), step.at) });
        }
        let here = &mut stops[first..];
        // Each error is told at a stop of its own step as long as there are some, or else with the job.
        let mut free = here.iter_mut();
        for finding in breaks {
            match free.next() {
                Some(stop) => stop.broken = Some(Break::of(finding)),
                None => broken = broken.or_else(|| Some(Break::of(finding))),
            }
        }
        // What goes online needs more than what is built before it.
        let needing = here.iter().position(|stop| stop.kind == StopKind::Publish).unwrap_or(0);
        if let Some(stop) = here.get_mut(needing) {
            stop.needs = needs;
        }
    }
    let waits_for = own
        .needs
        .iter()
        .filter(|need| case.pipeline.job(&need.value).is_some_and(|need| waves.contains_key(&need)))
        .map(|need| need.value.clone())
        .collect();
    let times = own.matrix.as_ref().and_then(|matrix| matrix.legs).filter(|legs| *legs > 1);
    Leg { id: own.id.value.clone(), wave: waves[&job], waits_for, stops, needs: all_needs.of_job, times, broken }
}

/// The step that a place stands in; the job's name is none of a step, though what a format does by itself has no other place.
fn step_of(job: &Job, place: Place) -> Option<usize> {
    if place == job.id.at {
        return None;
    }
    job.steps.iter().position(|step| step.at.holds(place))
}

/// What one step does with the site, in order.
pub(crate) fn stops_of(case: &Case<'_>, job: usize, step: usize) -> Vec<Stop> {
    let mut stops = Vec::new();
    pass(case, (job, step), &mut stops);
    stops
}

/// Adds what one step does with the site; the same thing twice in a row is told once.
fn pass(case: &Case<'_>, (job, step): (usize, usize), stops: &mut Vec<Stop>) {
    let mut last_place = None;
    for effect in &case.effects.jobs[job][step].effects {
        let Some(Told { kind, text, certain, hand }) = told(case, job, step, effect) else { continue };
        let place = match &effect.effect {
            Effect::Publish { place, .. } => place.as_ref(),
            _ => None,
        };
        if stops.last().is_none_or(|last| last.text != text || last.kind != kind || last_place != place) {
            stops.push(Stop { certain, hand, ..Stop::new(kind, text, effect.at) });
        }
        last_place = place;
    }
}

/// What people know a step by: its name, its action, or the first line of its script.
pub(crate) fn title(step: &Step) -> String {
    let first_line = |script: &str| script.lines().map(str::trim).find(|line| !line.is_empty()).unwrap_or_default().to_owned();
    match (&step.name, &step.work) {
        (Some(name), _) => name.value.clone(),
        (None, Work::Uses { action, .. }) => action.value.clone(),
        (None, Work::Runs { script, .. }) => first_line(&script.value),
        (None, Work::ByItself(_)) => "done by the service itself".to_owned(),
        (None, _) => "a step without a name".to_owned(),
    }
}

/// Where that stands.
pub(crate) fn title_at(step: &Step) -> Place {
    match (&step.name, &step.work) {
        (Some(name), _) => name.at,
        (None, Work::Uses { action, .. }) => action.at,
        (None, Work::Runs { script, .. }) => script.at,
        (None, _) => step.at,
    }
}
