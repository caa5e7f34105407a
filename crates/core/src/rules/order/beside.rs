//! What runs at the same time as something that it needs; told as a step that comes too early.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Findings, Mend};
use crate::model::StepOrder;
use crate::text::Place;
use crate::trail::Handover;

/// Looks at the steps of a job that do not wait for all before them.
pub(super) fn check(case: &Case<'_>, job: usize, out: &mut Findings) {
    let steps = &case.pipeline.jobs[job].steps;
    if steps.iter().all(|step| step.waits.at().is_none()) {
        return;
    }
    let order = StepOrder::of(steps);
    let elsewhere = case.trail.hosted.iter().chain(&case.trail.packed).filter(|handover| handover.job == job);
    for handover in case.trail.handed_on_by(job).iter().chain(elsewhere) {
        handed_on(case, handover, &order, out);
    }
    without_packages(case, job, &order, out);
}

/// A folder is handed on while the step that builds it still runs.
fn handed_on(case: &Case<'_>, handover: &Handover, order: &StepOrder, out: &mut Findings) {
    let Some(folder) = handover.path.folder.as_deref().filter(|folder| !folder.is_empty()) else { return };
    let builds = |effect: &EffectAt| matches!(&effect.effect, Effect::Build { output: Some(output), .. } if output == folder);
    let built: Vec<(usize, &EffectAt)> = case.effects.of_job(handover.job).filter(|(_, effect)| builds(effect)).collect();
    if built.iter().any(|(step, _)| order.is_before(*step, handover.step) || *step == handover.step) {
        return;
    }
    let Some((step, build)) = built.iter().find(|(step, _)| order.are_beside(*step, handover.step)) else { return };
    let Some(place) = said(case, handover.job, *step, handover.step) else { return };
    let finding = out.add(place, format!("`{}` is handed on while it is being built", handover.path.written));
    finding.witness(at(build.at), "it is built here").witness(at(handover.path.at), "it is handed on here, at the same time");
    finding.mend(Mend::by_hand("let it wait for the build: remove what lets the two run beside each other"));
}

/// A script of the package runs while its packages are being installed.
fn without_packages(case: &Case<'_>, job: usize, order: &StepOrder, out: &mut Findings) {
    let installs: Vec<(usize, &EffectAt, &str)> = case
        .effects
        .of_job(job)
        .filter_map(|(step, effect)| match &effect.effect {
            Effect::Install { dir: Some(dir), manager, .. } if crate::knowledge::managers().get(manager).is_some() => {
                Some((step, effect, dir.as_str()))
            }
            _ => None,
        })
        .collect();
    let mut told = None;
    for (step, effect) in case.effects.of_job(job) {
        let Effect::RunScript { dir: Some(dir), .. } = &effect.effect else { continue };
        let own = || installs.iter().filter(|(_, _, folder)| folder == dir);
        if told == Some(step) || effect.perhaps || own().any(|(other, ..)| order.is_before(*other, step) || *other == step) {
            continue;
        }
        let Some((other, install, _)) = own().find(|(other, ..)| order.are_beside(*other, step)) else { continue };
        let Some(place) = said(case, job, *other, step) else { continue };
        told = Some(step);
        let finding = out.add(place, "this runs while the packages that it needs are still being installed");
        finding.witness(at(install.at), "they are installed here").witness(at(effect.at), "they are used here, at the same time");
        finding.mend(Mend::by_hand("let it wait for the step that installs them"));
    }
}

/// Where it is said that one of two steps does not wait for the other: at the later one, or wherever it is said last before that.
fn said(case: &Case<'_>, job: usize, step: usize, other: usize) -> Option<Place> {
    let steps = &case.pipeline.jobs[job].steps;
    let (first, last) = (step.min(other), step.max(other));
    let of = |number: usize| steps.get(number).and_then(|step| step.waits.at());
    of(other).or_else(|| of(last)).or_else(|| (first + 1..last).find_map(of))
}
