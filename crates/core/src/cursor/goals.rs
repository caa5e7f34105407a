//! Where a thing is said, and where it is used.

use super::spots::{Spot, What, at, file_of, spots};
use crate::carrier::{Copies, Kind};
use crate::case::Case;
use crate::effects::{Effect, EffectAt};
use crate::facts::{Named, Origin};
use crate::model::Work;
use crate::project::{Project, Read};
use crate::text::{FileId, Place, Span};

/// What several places mean alike.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Meaning {
    /// A job of a pipeline, by their numbers.
    Job(usize, usize),
    /// A step of a job, by their numbers.
    Step(usize, usize, usize),
    /// Something that is handed from job to job in a pipeline, by its name.
    Artifact(usize, String),
    /// A stage of a pipeline, by its name.
    Stage(usize, String),
    /// A secret or a variable of the forge, by its name.
    Held(String),
    /// A script of the package of a folder.
    Script(String, String),
    /// Another file.
    File(FileId),
    /// An environment, by its name.
    Environment(String),
}

/// What stands somewhere means, and the words for it.
struct Found {
    at: Place,
    meaning: Meaning,
    /// It is said here rather than used.
    says: bool,
}

fn meaning(case: &Case<'_>, spot: &Spot) -> Option<Found> {
    let own = case.index;
    let found = |meaning, says| Some(Found { at: spot.at, meaning, says });
    match &spot.what {
        What::Job(job) => found(Meaning::Job(own, *job), true),
        What::JobName(job) => found(Meaning::Job(own, (*job)?), false),
        What::StepId(job, step) => found(Meaning::Step(own, *job, *step), true),
        What::StepName(named) => (*named).and_then(|(job, step)| found(Meaning::Step(own, job, step), false)),
        What::Artifact(name, gives) => found(Meaning::Artifact(own, name.clone()), *gives),
        What::Stage(name) => {
            let declared = case.pipeline.stages.iter().flatten().any(|stage| stage.inner() == spot.at);
            found(Meaning::Stage(own, name.clone()), declared)
        }
        What::Read(number) => {
            let read = case.reads.get(*number)?;
            let held = matches!(read.read, Read::Secret | Read::ForgeVariable | Read::Unheld);
            held.then(|| Meaning::Held(read.name.clone())).and_then(|meaning| found(meaning, false))
        }
        What::Script(dir, name) => found(Meaning::Script(dir.clone(), name.clone()), false),
        What::Environment(name) => found(Meaning::Environment(name.clone()), false),
        What::Action(..) | What::Call(_) | What::File(_) => found(Meaning::File(file_of(case, &spot.what)?), false),
        _ => None,
    }
}

/// What stands at a byte of a file means.
fn meaning_at(project: &Project<'_>, file: FileId, offset: usize) -> Option<Found> {
    let of_pipelines = super::cases(project, file).find_map(|case| {
        let meant = spots(&case, file).into_iter().filter(|spot| meaning(&case, spot).is_some()).collect();
        at(meant, offset).and_then(|spot| meaning(&case, &spot))
    });
    of_pipelines.or_else(|| of_settings(project, file, offset)).or_else(|| of_package(project, file, offset))
}

fn holds(place: Place, file: FileId, offset: usize) -> bool {
    place.file == file && place.span.start as usize <= offset && offset <= place.span.end as usize
}

/// A name that dulk.toml declares.
fn of_settings(project: &Project<'_>, file: FileId, offset: usize) -> Option<Found> {
    let found = held(project).find(|named| holds(named.at, file, offset))?;
    Some(Found { at: found.at, meaning: Meaning::Held(found.name.clone()), says: true })
}

fn held<'p>(project: &'p Project<'_>) -> impl Iterator<Item = &'p Named> {
    let forge = &project.facts.settings.forge;
    let of_environments = forge.environments.values().flat_map(|one| one.secrets.iter().chain(&one.variables));
    forge.secrets.iter().chain(&forge.variables).chain(of_environments).flatten()
}

/// A script of a package.json.
fn of_package(project: &Project<'_>, file: FileId, offset: usize) -> Option<Found> {
    let (dir, package) = project.facts.packages.iter().find(|(_, package)| package.file == file)?;
    let script = package.scripts.iter().flatten().find(|script| holds(script.at, file, offset))?;
    Some(Found { at: script.at, meaning: Meaning::Script(dir.clone(), script.name.clone()), says: true })
}

/// Where what stands at a byte of a file is said.
pub fn definitions(project: &Project<'_>, file: FileId, offset: usize) -> Vec<Place> {
    if let Some(at) = anchored(project, file, offset) {
        return vec![at];
    }
    if let Some(at) = configured(project, file, offset) {
        return vec![at];
    }
    let Some(found) = meaning_at(project, file, offset) else { return Vec::new() };
    said(project, &found.meaning)
}

/// Where a thing is said.
fn said(project: &Project<'_>, meaning: &Meaning) -> Vec<Place> {
    match meaning {
        Meaning::Held(name) => held(project).filter(|named| named.name == *name).map(|named| named.at).collect(),
        Meaning::Script(dir, name) => {
            let package = project.facts.package_for(dir).map(|(_, package)| package);
            package.and_then(|package| package.script(name)).map(|script| script.at).into_iter().collect()
        }
        Meaning::File(file) => vec![Place { file: *file, span: Span::default() }],
        _ => everywhere(project, meaning).into_iter().filter(|found| found.says).map(|found| found.at).collect(),
    }
}

/// Where what stands at a byte of a file is used; with `said_too` also where it is said.
pub fn references(project: &Project<'_>, file: FileId, offset: usize, said_too: bool) -> Vec<Place> {
    let Some(found) = meaning_at(project, file, offset) else { return Vec::new() };
    let mut places: Vec<Place> = Vec::new();
    if said_too {
        places.extend(said(project, &found.meaning));
    }
    let used = everywhere(project, &found.meaning).into_iter().filter(|one| !one.says).map(|one| one.at);
    places.extend(used);
    places.sort();
    places.dedup();
    places
}

/// Every place of the pipelines that means a thing.
fn everywhere(project: &Project<'_>, wanted: &Meaning) -> Vec<Found> {
    let only = match wanted {
        Meaning::Job(own, ..) | Meaning::Step(own, ..) | Meaning::Artifact(own, _) | Meaning::Stage(own, _) => Some(*own),
        _ => None,
    };
    let looked_at = (0..project.prepared.len()).filter(|index| only.is_none_or(|only| only == *index));
    let mut all = Vec::new();
    for index in looked_at {
        let case = project.case(index);
        for file in files_of(&case) {
            let found = spots(&case, file).into_iter().filter_map(|spot| meaning(&case, &spot));
            all.extend(found.filter(|found| same(&found.meaning, wanted, project)));
        }
    }
    all
}

/// Whether two mean the same; a script is that of the package which its folder belongs to.
fn same(one: &Meaning, other: &Meaning, project: &Project<'_>) -> bool {
    match (one, other) {
        (Meaning::Script(dir, name), Meaning::Script(other_dir, other_name)) => {
            let package = |dir: &str| project.facts.package_for(dir).map(|(dir, _)| dir.to_owned());
            name == other_name && package(dir) == package(other_dir)
        }
        _ => one == other,
    }
}

/// The files that a pipeline is written in.
fn files_of(case: &Case<'_>) -> Vec<FileId> {
    let jobs = case.pipeline.jobs.iter().map(|job| job.id.at.file);
    let mut files: Vec<FileId> = std::iter::once(case.pipeline.file).chain(jobs).collect();
    files.sort_unstable();
    files.dedup();
    files
}

/// Where the anchor of an alias stands.
fn anchored(project: &Project<'_>, file: FileId, offset: usize) -> Option<Place> {
    let format = project.prepared[project.in_file(file)?].pipeline.format;
    let source = project.sources.get(file);
    if !source.line_at(Span::new(offset, offset).start).contains('*') {
        return None;
    }
    let tree = format.parse(&source.text, &Copies::default());
    let alias = tree
        .ids()
        .map(|id| tree.node(id))
        .find(|node| matches!(node.kind, Kind::Alias(Some(_))) && holds(Place { file, span: node.span }, file, offset))?;
    let Kind::Alias(Some(target)) = alias.kind else { return None };
    Some(Place { file, span: tree.node(target).span })
}

/// Where the folder of a build is set: the generator's configuration, when a command that builds stands here, or the folder that one makes.
fn configured(project: &Project<'_>, file: FileId, offset: usize) -> Option<Place> {
    super::cases(project, file).find_map(|case| {
        let builds = |spot: &Spot| matches!(spot.what, What::Build(..) | What::Folder(..));
        let effect = match at(spots(&case, file).into_iter().filter(builds).collect(), offset)?.what {
            What::Build(job, step, effect) => &case.effects.jobs[job][step].effects[effect],
            What::Folder(job, folder) => built_in(&case, job, &folder)?,
            _ => return None,
        };
        match &effect.effect {
            Effect::Build { origin: Origin::At(at) | Origin::Silent(at), .. } => Some(*at),
            _ => None,
        }
    })
}

/// The build that makes a folder: in the job itself, or else in any other.
pub(super) fn built_in<'c>(case: &'c Case<'_>, job: usize, folder: &str) -> Option<&'c EffectAt> {
    let makes = |effect: &&EffectAt| matches!(&effect.effect, Effect::Build { output: Some(output), .. } if output == folder);
    let own = case.effects.of_job(job).map(|(_, effect)| effect).find(makes);
    own.or_else(|| case.all_effects().map(|(.., effect)| effect).find(makes))
}

/// What a rename would change: every place where the thing at a byte of a file is named, and the name as it stands there. Only jobs and
/// artifacts are renamed: all that names those stands in the pipeline.
pub fn renamed(project: &Project<'_>, file: FileId, offset: usize) -> Option<(Place, Vec<Place>)> {
    let found = meaning_at(project, file, offset)?;
    let name = project.sources.slice(found.at).to_owned();
    let (Meaning::Job(own, _) | Meaning::Artifact(own, _)) = &found.meaning else { return None };
    let case = project.case(*own);
    let places: Vec<Place> = everywhere(project, &found.meaning).into_iter().map(|one| one.at).collect();
    // What is written otherwise, or in a way that is not understood, would be left behind.
    let all_alike = places.iter().all(|at| project.sources.slice(*at) == name);
    let is_whole = case.prepared.whole && !case.pipeline.partial && !names_by_other_means(&case, &found.meaning, &name, &places);
    (all_alike && is_whole && !name.is_empty()).then_some((found.at, places))
}

/// Whether something of the same kind as what stands at a byte of a file has a name already.
pub fn is_taken(project: &Project<'_>, file: FileId, offset: usize, name: &str) -> bool {
    match meaning_at(project, file, offset).map(|found| found.meaning) {
        Some(Meaning::Job(own, job)) => project.prepared[own].pipeline.job(name).is_some_and(|other| other != job),
        Some(Meaning::Artifact(own, before)) => {
            let case = project.case(own);
            let is_name = |effect: &Effect| matches!(effect, Effect::Upload { name: given, .. } if given.known() == Some(name));
            before != name && case.all_effects().any(|(.., effect)| is_name(&effect.effect))
        }
        _ => false,
    }
}

/// Whether a scalar of the pipeline's files is this name and is none of the known places: what it means is not known.
fn names_by_other_means(case: &Case<'_>, meaning: &Meaning, name: &str, known: &[Place]) -> bool {
    let mut known: Vec<Place> = known.to_vec();
    for file in files_of(case) {
        known.extend(spots(case, file).into_iter().filter(|spot| means_another(case, spot, meaning)).map(|spot| spot.at));
    }
    let steps = case.pipeline.jobs.iter().flat_map(|job| &job.steps);
    let scripts = steps.clone().filter_map(|step| match &step.work {
        Work::Runs { script, .. } => Some(script.at),
        _ => None,
    });
    // Commands and titles name nothing of the pipeline.
    known.extend(scripts.chain(steps.filter_map(|step| step.name.as_ref()).map(|name| name.at)));
    files_of(case).into_iter().any(|file| {
        let source = case.sources.get(file);
        let tree = case.pipeline.format.parse(&source.text, &Copies::default());
        tree.ids().any(|id| {
            let at = Place { file, span: tree.node(id).span };
            let own = matches!(tree.node(id).kind, Kind::Scalar(..)) && tree.scalar(id) == Some(name);
            own && !known.iter().any(|known| at.holds(*known) || known.holds(at))
        })
    })
}

/// Whether a spot is known to mean something else than what is renamed.
fn means_another(case: &Case<'_>, spot: &Spot, wanted: &Meaning) -> bool {
    !matches!(spot.what, What::Step(..)) && meaning(case, spot).is_none_or(|found| found.meaning != *wanted)
}
