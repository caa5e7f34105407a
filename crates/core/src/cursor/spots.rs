//! Everything in a file that an editor can speak of, with its place.

use crate::case::Case;
use crate::effects::Effect;
use crate::knowledge::Declared;
use crate::model::{Callee, GrantKind, Work};
use crate::text::{FileId, Place};

/// Something that stands in a file; numbers are those of the pipeline.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum What {
    /// The name of a job, where it is declared.
    Job(usize),
    /// The name of a job, where another one or an expression uses it; nothing where there is none of that name.
    JobName(Option<usize>),
    /// An event that starts the pipeline.
    Event(usize),
    /// A filter of one, by its number there.
    Filter(usize, usize),
    /// A pattern of that.
    Pattern(usize, usize, usize),
    /// A step as a whole.
    Step(usize, usize),
    /// The name by which others read what a step gives.
    StepId(usize, usize),
    /// The same where it is read; nothing where there is no such step.
    StepName(Option<(usize, usize)>),
    /// Something that is read when it runs, by its number.
    Read(usize),
    /// The name of an action.
    Action(usize, usize),
    /// An input of one, by its name.
    Input(usize, usize, String),
    /// The key of a cache.
    CacheKey(usize, usize, usize),
    /// The name of something that is handed from job to job, and whether it is handed on here.
    Artifact(String, bool),
    /// A command that runs a script of a package: the folder and the script.
    Script(String, String),
    /// A comment that accepts something, by its number.
    Acceptance(usize),
    /// A called pipeline.
    Call(usize),
    /// Another file of the repository, by its path.
    File(String),
    /// A stage.
    Stage(String),
    /// An environment that is deployed to.
    Environment(String),
    /// What a token may do: the scope and the level.
    Grant(String, String),
    /// A command that builds a site: the job, the step and the effect.
    Build(usize, usize, usize),
    /// A folder that is handed on or published: the job, and its path from the root.
    Folder(usize, String),
}

/// Something with its place.
#[derive(Clone, Debug)]
pub(super) struct Spot {
    pub at: Place,
    pub what: What,
}

/// All that stands in one file of a pipeline.
pub(super) fn spots(case: &Case<'_>, file: FileId) -> Vec<Spot> {
    let mut found = Found { case, file, spots: Vec::new() };
    found.starts();
    for job in 0..case.pipeline.jobs.len() {
        found.job(job);
    }
    found.reads();
    found.names_in_expressions();
    for (index, one) in case.prepared.acceptances.iter().enumerate() {
        found.add(one.at, What::Acceptance(index));
    }
    for named in &case.pipeline.named_files {
        found.add(named.path.inner(), What::File(named.path.value.trim_start_matches('/').to_owned()));
    }
    for stage in case.pipeline.stages.iter().flatten() {
        found.add(stage.inner(), What::Stage(stage.value.clone()));
    }
    found.grant(case.pipeline.permissions.as_ref());
    found.spots
}

/// The smallest one that holds a byte; of two alike, the one that says more.
pub(super) fn at(spots: Vec<Spot>, offset: usize) -> Option<Spot> {
    let holds = |spot: &Spot| spot.at.span.start as usize <= offset && offset <= spot.at.span.end as usize;
    // A step as a whole is what is left when nothing in it is meant.
    let rank = |spot: &Spot| (matches!(spot.what, What::Step(..)), spot.at.span.end - spot.at.span.start);
    spots.into_iter().filter(holds).min_by_key(rank)
}

struct Found<'c, 'p> {
    case: &'c Case<'p>,
    file: FileId,
    spots: Vec<Spot>,
}

impl Found<'_, '_> {
    fn add(&mut self, at: Place, what: What) {
        if at.file == self.file && !at.span.is_empty() {
            self.spots.push(Spot { at, what });
        }
    }

    fn starts(&mut self) {
        for (number, trigger) in self.case.pipeline.triggers.iter().enumerate() {
            self.add(trigger.name.at, What::Event(number));
            for (index, filter) in trigger.filters.iter().enumerate() {
                self.add(filter.key.at, What::Filter(number, index));
                for (place, pattern) in filter.patterns.iter().enumerate() {
                    self.add(pattern.text.inner(), What::Pattern(number, index, place));
                }
            }
        }
    }

    fn job(&mut self, number: usize) {
        let case = self.case;
        let job = &case.pipeline.jobs[number];
        // What stands in a called pipeline's place has its own file.
        self.add(job.id.inner(), What::Job(number));
        for need in job.needs.iter().chain(&job.takes_from) {
            self.add(need.inner(), What::JobName(case.pipeline.job(&need.value)));
        }
        if let Some(call) = &job.call {
            self.add(call.target.inner(), What::Call(number));
        }
        if let Some(stage) = &job.stage {
            self.add(stage.inner(), What::Stage(stage.value.clone()));
        }
        if let Some(environment) = &job.environment {
            self.add(environment.inner(), What::Environment(environment.value.clone()));
        }
        self.grant(job.permissions.as_ref());
        for step in 0..job.steps.len() {
            self.step(number, step);
        }
    }

    fn grant(&mut self, grant: Option<&crate::model::Grant>) {
        let Some(GrantKind::Scopes(scopes)) = grant.map(|grant| &grant.kind) else { return };
        for (scope, level) in scopes {
            let what = || What::Grant(scope.value.clone(), level.value.clone());
            self.add(scope.inner(), what());
            self.add(level.inner(), what());
        }
    }

    fn step(&mut self, job: usize, number: usize) {
        let step = &self.case.pipeline.jobs[job].steps[number];
        self.add(step.at, What::Step(job, number));
        if let Some(id) = &step.id {
            self.add(id.inner(), What::StepId(job, number));
        }
        if let Work::Uses { action, inputs, .. } = &step.work {
            self.add(action.inner(), What::Action(job, number));
            for (name, _) in &inputs.entries {
                self.add(name.at, What::Input(job, number, name.value.clone()));
            }
        }
        for (index, effect) in self.case.effects.jobs[job][number].effects.iter().enumerate() {
            let folders = match &effect.effect {
                Effect::Upload { paths, .. } => paths.as_slice(),
                Effect::Publish { folder: Some(folder), .. } => std::slice::from_ref(folder),
                _ => &[],
            };
            for path in folders.iter().filter(|path| self.case.sources.slice(path.at) == path.written) {
                if let Some(folder) = path.folder.clone() {
                    self.add(path.at, What::Folder(job, folder));
                }
            }
            match &effect.effect {
                Effect::RestoreCache { key: Some(key), .. } | Effect::SaveCache { key: Some(key), .. } => {
                    self.add(key.inner(), What::CacheKey(job, number, index));
                }
                Effect::Upload { name, .. } => self.artifact(name, true),
                Effect::Download { name, .. } => self.artifact(name, false),
                Effect::Publish { artifact: Some(name), .. } => self.artifact(name, false),
                Effect::RunScript { name, dir: Some(dir), .. } => {
                    self.add(effect.at, What::Script(dir.clone(), name.clone()));
                }
                Effect::Build { .. } => self.add(effect.at, What::Build(job, number, index)),
                _ => {}
            }
        }
    }

    fn artifact(&mut self, name: &crate::effects::ArtifactName, gives: bool) {
        if let Some(given) = name.given.as_ref().filter(|given| given.known().is_some()) {
            self.add(given.inner(), What::Artifact(given.value.clone(), gives));
        }
    }

    fn reads(&mut self) {
        let case = self.case;
        for (number, read) in case.reads.iter().enumerate() {
            self.add(read.at, What::Read(number));
        }
    }

    /// The names of jobs and steps inside of paths such as `needs.build.outputs.page`.
    fn names_in_expressions(&mut self) {
        let case = self.case;
        let names = &case.pipeline.format.grammar().names;
        let mut found = Vec::new();
        case.references(&mut |job, path, text| {
            let [(context, _), (name, range), ..] = path else { return };
            let what = match names.declared(context) {
                Some(Declared::Jobs) => What::JobName(case.pipeline.job(name)),
                Some(Declared::Steps) => What::StepName(job.and_then(|job| Some((job, step_named(case, job, name)?)))),
                _ => return,
            };
            found.push((text.place(range.clone()), what));
        });
        found.into_iter().for_each(|(at, what)| self.add(at, what));
    }
}

/// The step of a job that is known by a name; upper and lower case do not matter.
fn step_named(case: &Case<'_>, job: usize, name: &str) -> Option<usize> {
    let is_it = |step: &crate::model::Step| step.id.as_ref().is_some_and(|id| id.value.eq_ignore_ascii_case(name));
    case.pipeline.jobs[job].steps.iter().position(is_it)
}

/// Words of a file that lead to another one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Link {
    /// The words.
    pub at: Place,
    /// The file that they lead to.
    pub to: FileId,
}

/// Every file of the repository that is named in a file: actions, called pipelines, parts, own scripts.
pub fn links(project: &crate::project::Project<'_>, file: FileId) -> Vec<Link> {
    let mut links: Vec<Link> = Vec::new();
    for case in super::cases(project, file) {
        for spot in spots(&case, file) {
            let Some(to) = file_of(&case, &spot.what) else { continue };
            let link = Link { at: spot.at, to };
            if to != file && !links.contains(&link) {
                links.push(link);
            }
        }
    }
    links
}

/// The file of the repository that something leads to.
pub(super) fn file_of(case: &Case<'_>, what: &What) -> Option<FileId> {
    let project = case.project;
    match what {
        What::Action(job, step) => match &case.pipeline.jobs[*job].steps[*step].work {
            Work::Uses { found: found @ (Callee::Workspace(_) | Callee::Repository(_)), .. } => {
                project.action(found).map(|action| action.file)
            }
            _ => None,
        },
        What::Call(job) => {
            let callee = project.callee(case.pipeline.jobs[*job].call.as_ref()?)?;
            Some(project.prepared[callee].pipeline.file)
        }
        What::File(path) => project.sources.find(path),
        _ => None,
    }
}
