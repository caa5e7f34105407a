//! Names that are true here: of jobs, branches, folders and the like.

use std::collections::BTreeSet;

use super::{Desk, Offer, OfferKind, keep_first};
use crate::cursor::known_action;
use crate::effects::Effect;
use crate::knowledge;
use crate::model::{Callee, FilterOf, Level, Work, as_local_path};
use crate::project::Project;

/// So many names of one kind are offered.
const MOST: usize = 200;

/// What the events that people ask for most are, in the order in which they do.
const EVENTS: [(&str, &str); 8] = [
    ("push", "commits or a tag are pushed"),
    ("proposal", "a pull request is opened or changed"),
    ("hand", "somebody starts it by hand"),
    ("clock", "the clock"),
    ("release", "a release is made"),
    ("called", "another pipeline calls it as one of its jobs"),
    ("after-pipeline", "another pipeline has run"),
    ("privileged-proposal", "a pull request, run with the secrets and rights of the repository"),
];

/// The events that a pipeline can start on.
pub(super) fn events(desk: &Desk<'_>) -> Vec<Offer> {
    let rank = |is: Option<&str>| EVENTS.iter().position(|(word, _)| Some(*word) == is).unwrap_or(EVENTS.len());
    let mut all: Vec<(usize, &str)> = desk.grammar().event.iter().map(|(name, entry)| (rank(entry.is), name)).collect();
    all.sort_by_key(|(rank, _)| *rank);
    let meaning = |rank: usize| EVENTS.get(rank).map_or("an event of the forge", |(_, meaning)| meaning);
    all.into_iter().map(|(rank, name)| Offer::new(OfferKind::Event, name, meaning(rank))).collect()
}

/// Names for a filter: branches, tags or folders.
pub(super) fn for_filter(desk: &Desk<'_>, filter: &str) -> Vec<Offer> {
    match desk.grammar().filter.get(filter).map(|entry| entry.of) {
        Some(FilterOf::Branches) => branches(desk.project),
        Some(FilterOf::Tags) => {
            let tags = desk.project.facts.git.tags.known().map(Vec::as_slice).unwrap_or_default();
            tags.iter().rev().take(MOST).map(|tag| Offer::new(OfferKind::Name, tag, "a tag that exists")).collect()
        }
        Some(FilterOf::Paths) => {
            folders(desk).into_iter().map(|offer| Offer { insert: format!("{}/**", offer.insert), ..offer }).collect()
        }
        None => Vec::new(),
    }
}

pub(super) fn branches(project: &Project<'_>) -> Vec<Offer> {
    let git = &project.facts.git;
    let default = git.default_branch.known();
    let names = default.into_iter().chain(git.branches.known().into_iter().flatten());
    let meaning = |name: &String| if default == Some(name) { "the default branch" } else { "a branch that exists" };
    distinct(OfferKind::Name, names.map(|name| (name.clone(), meaning(name))))
}

/// Names of a kind of the catalog.
pub(super) fn of(desk: &Desk<'_>, kind: &str) -> Vec<Offer> {
    match kind {
        "jobs" => jobs(desk),
        "steps" => steps(desk),
        "stages" => desk
            .pipeline
            .stages
            .iter()
            .flatten()
            .map(|stage| Offer::new(OfferKind::Name, &stage.value, "a stage of this pipeline"))
            .collect(),
        "branches" => branches(desk.project),
        "artifacts" => artifacts(desk),
        "environments" => environments(desk),
        "levels" => [Level::Read, Level::Write, Level::None]
            .map(|level| Offer::new(OfferKind::Word, level.word(), level.meaning()))
            .into(),
        "scopes" => desk
            .pipeline
            .customs
            .scope
            .iter()
            .map(|scope| Offer::new(OfferKind::Name, scope.id, "what the job's token may touch"))
            .collect(),
        "machines" => machines(desk),
        "folders" => folders(desk),
        "actions" => actions(desk),
        "calls" => calls(desk),
        "inputs" => inputs(desk),
        _ => Vec::new(),
    }
}

/// The jobs that another one can wait for.
fn jobs(desk: &Desk<'_>) -> Vec<Offer> {
    let own = desk.own_job().map(|job| job.id.value.as_str());
    let others = desk.pipeline.jobs.iter().filter(|job| job.within.is_none() && Some(job.id.value.as_str()) != own);
    others.take(MOST).map(|job| Offer::new(OfferKind::Name, &job.id.value, "a job of this pipeline")).collect()
}

/// The steps that stand before the one that is being written, by their names.
fn steps(desk: &Desk<'_>) -> Vec<Offer> {
    let steps = desk.pipeline.jobs.iter().flat_map(|job| &job.steps);
    let before = steps.filter(|step| step.at.file == desk.pipeline.file && (step.at.span.end as usize) <= desk.offset);
    distinct(OfferKind::Name, before.filter_map(|step| step.id.as_ref()).map(|id| (id.value.clone(), "a step before this one")))
}

fn environments(desk: &Desk<'_>) -> Vec<Offer> {
    let declared = desk.project.facts.settings.forge.environments.keys().map(|name| (name.clone(), "dulk.toml names it"));
    let all = desk.project.prepared.iter().flat_map(|one| &one.pipeline.jobs).filter_map(|job| job.environment.as_ref());
    let used = all.filter_map(|name| name.known()).map(|name| (name.to_owned(), "used in this repository"));
    distinct(OfferKind::Name, declared.chain(used))
}

/// Names with what they mean, each once.
fn distinct<'m>(kind: OfferKind, names: impl Iterator<Item = (String, &'m str)>) -> Vec<Offer> {
    let mut offers = names.map(|(name, meaning)| Offer::new(kind, name, meaning)).collect();
    keep_first(&mut offers);
    offers.truncate(MOST);
    offers
}

fn machines(desk: &Desk<'_>) -> Vec<Offer> {
    let used = desk.project.prepared.iter().flat_map(|one| &one.pipeline.jobs).flat_map(|job| &job.machine.runners);
    let used = used.filter_map(|runner| runner.known()).map(|name| (name.to_owned(), "used in this repository"));
    let own = desk.pipeline.customs.machine.iter().map(|machine| (format!("{}latest", machine.starts), "a machine of the forge"));
    distinct(OfferKind::Name, own.filter(|(name, _)| name.ends_with("-latest")).chain(used))
}

/// The folders that are there, and those that a build makes.
pub(super) fn folders(desk: &Desk<'_>) -> Vec<Offer> {
    let mut built: Vec<(String, &str)> = Vec::new();
    let case = desk.project.case(desk.index);
    for (_, _, effect) in case.all_effects() {
        if let Effect::Build { output: Some(output), .. } = &effect.effect {
            built.push((output.clone(), "a folder that a build makes"));
        }
    }
    let mut there: BTreeSet<String> = BTreeSet::new();
    for path in desk.project.facts.files.known().into_iter().flat_map(|files| files.iter()) {
        let mut folder = path;
        while let Some((above, _)) = folder.rsplit_once('/') {
            // What is above a known folder is known as well.
            if there.len() >= MOST || !there.insert(above.to_owned()) {
                break;
            }
            folder = above;
        }
    }
    let there = there.into_iter().filter(|folder| !folder.starts_with('.')).map(|folder| (folder, "a folder of this repository"));
    distinct(OfferKind::Path, built.into_iter().chain(there))
}

/// The actions of this repository, those that are used here, and those that are known.
fn actions(desk: &Desk<'_>) -> Vec<Offer> {
    let own = desk.project.prepared.iter().filter(|one| one.pipeline.is_part).filter_map(|one| {
        let path = &desk.project.sources.get(one.pipeline.file).path;
        let (folder, _) = path.rsplit_once('/')?;
        Some(Offer::new(OfferKind::Action, as_local_path(folder), "an action of this repository"))
    });
    let known = knowledge::actions().names().filter_map(|name| {
        let newest = knowledge::actions().get(name)?.newest?;
        Some(Offer::new(OfferKind::Action, format!("{name}@v{newest}"), "the newest version known"))
    });
    own.chain(known).collect()
}

/// The pipelines of this repository that can be called.
fn calls(desk: &Desk<'_>) -> Vec<Offer> {
    let called = (0..desk.project.prepared.len()).filter(|index| desk.project.prepared[*index].pipeline.is_called());
    called
        .map(|index| {
            Offer::new(
                OfferKind::Action,
                as_local_path(desk.project.path(index)),
                "a pipeline of this repository that can be called",
            )
        })
        .collect()
}

/// Values of an input of the action of the step that a byte stands in.
pub(super) fn for_input(desk: &Desk<'_>, input: &str) -> Vec<Offer> {
    let Some(Work::Uses { action, .. }) = desk.own_step().map(|step| &step.work) else { return Vec::new() };
    let kind = known_action(&action.value).and_then(|(known, _)| known.kind_of_input(input));
    kind.map(|kind| of(desk, kind)).unwrap_or_default()
}

/// What is handed from job to job, by its names.
fn artifacts(desk: &Desk<'_>) -> Vec<Offer> {
    let case = desk.project.case(desk.index);
    let given = case.all_effects().filter_map(|(job, _, effect)| match &effect.effect {
        Effect::Upload { name, .. } => Some((name.known()?.to_owned(), job)),
        _ => None,
    });
    let of_job = |job: usize| format!("handed on by {}", case.pipeline.jobs[job].id.value);
    let mut offers = given.map(|(name, job)| Offer::new(OfferKind::Name, name, of_job(job))).collect();
    keep_first(&mut offers);
    offers.truncate(MOST);
    offers
}

/// The inputs of the action of the step that a byte stands in.
fn inputs(desk: &Desk<'_>) -> Vec<Offer> {
    let Some(Work::Uses { action, found, .. }) = desk.own_step().map(|step| &step.work) else { return Vec::new() };
    if let (Callee::Workspace(_) | Callee::Repository(_), Some(own)) = (found, desk.project.action(found)) {
        let declared = own.inputs().unwrap_or_default();
        return declared
            .into_iter()
            .map(|input| {
                let about = input.details.get("description").map(|text| text.value.clone()).unwrap_or_default();
                Offer::new(OfferKind::Key, &input.name.value, about)
            })
            .collect();
    }
    let Some((known, _)) = known_action(&action.value) else { return Vec::new() };
    let meaning = |input: &str| if known.required.contains(&input) { "must be given" } else { "an input of the action" };
    let mut inputs: Vec<&str> = known.inputs.to_vec();
    inputs.sort_by_key(|input| !known.required.contains(input));
    inputs.into_iter().map(|input| Offer::new(OfferKind::Key, input, meaning(input))).collect()
}
