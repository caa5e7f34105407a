//! What all jobs of a pipeline do.

use std::cell::Cell;

use rayon::prelude::*;

use super::scene::Scene;
use super::{ArtifactName, Effect, EffectAt, Folder, StepEffects, UploadPath, WorkTree, by_itself, git, image, of_step};
use crate::facts::Facts;
use crate::knowledge;
use crate::model::{Callee, Inputs, Job, Pipeline, Step, Work};

/// The effects of all jobs' steps.
#[derive(Clone, Debug, Default)]
pub struct PipelineEffects {
    /// By job, then by step.
    pub jobs: Vec<Vec<StepEffects>>,
    /// By job: the first step that brings this repository to the root of the workspace.
    pub own_root: Vec<Option<usize>>,
    /// Every publish: its job, its step, and its number among the effects of that; in their order.
    pub publishes: Vec<(usize, usize, usize)>,
}

impl PipelineEffects {
    /// Works them out; of scripts, recipes and actions that steps run, no more comes than `followed` effects.
    pub fn of<'p>(
        pipeline: &Pipeline,
        facts: &Facts,
        actions: &(dyn Fn(&Callee) -> Option<&'p Pipeline> + Sync),
        followed: usize,
    ) -> Self {
        // A thread of the pool has neighbours that are busy, and must not be given other work while somebody waits for this.
        let jobs = match pipeline.count_steps() >= PARALLEL_FROM && rayon::current_thread_index().is_none() {
            true => at_the_same_time(pipeline, facts, actions, followed),
            false => None,
        };
        let jobs = jobs.unwrap_or_else(|| one_after_another(pipeline, facts, actions, followed));
        let own_root = jobs.iter().map(|steps| steps.iter().position(StepEffects::bring_own_root)).collect();
        let mut found = Self { jobs, own_root, publishes: Vec::new() };
        if pipeline.customs.hands_out_site {
            found.hand_out_site(facts);
        }
        found.publishes = found.find_publishes();
        found
    }

    /// What is handed on without a name goes online by whoever runs the pipeline: it publishes nothing itself, and no server is made of it.
    fn hand_out_site(&mut self, facts: &Facts) {
        let all = || self.jobs.iter().flatten().flat_map(|step| &step.effects);
        let publishes = all().any(|one| matches!(one.effect, Effect::Publish { .. }));
        let files = &knowledge::names().lists.server_files;
        let serves = facts.files.known().is_some_and(|known| files.iter().any(|file| known.has(file) || known.has_folder(file)));
        if publishes || serves {
            return;
        }
        for one in self.jobs.iter_mut().flatten().flat_map(|step| &mut step.effects) {
            if let Effect::Upload { name: ArtifactName { given: None, .. }, goes_online, .. } = &mut one.effect {
                *goes_online = true;
            }
        }
    }

    fn find_publishes(&self) -> Vec<(usize, usize, usize)> {
        let mut found = Vec::new();
        for (job, steps) in self.jobs.iter().enumerate() {
            for (step, effects) in steps.iter().enumerate() {
                let publishes = |one: &EffectAt| matches!(one.effect, Effect::Publish { .. });
                let numbers = effects.effects.iter().enumerate().filter(|(_, one)| publishes(one)).map(|(number, _)| number);
                found.extend(numbers.map(|number| (job, step, number)));
            }
        }
        found
    }

    /// All effects of a job with the number of their step.
    pub fn of_job(&self, job: usize) -> impl Iterator<Item = (usize, &EffectAt)> {
        self.jobs
            .get(job)
            .into_iter()
            .flatten()
            .enumerate()
            .flat_map(|(step, effects)| effects.effects.iter().map(move |effect| (step, effect)))
    }
}

/// With fewer steps, asking other threads takes longer than it saves.
const PARALLEL_FROM: usize = 100;

/// Every job with what the ones before it have left of the limits.
fn one_after_another<'p>(
    pipeline: &Pipeline,
    facts: &Facts,
    actions: &dyn Fn(&Callee) -> Option<&'p Pipeline>,
    followed: usize,
) -> Vec<Vec<StepEffects>> {
    let left = Cell::new(ACTION_LIMIT);
    let around = Around { facts, actions, depth: 0, left: &left, effects_left: &Cell::new(followed) };
    pipeline.jobs.iter().map(|job| of_job(job, pipeline, &around)).collect()
}

/// Every job for itself. Nothing where all together come to a limit: then it matters which of them comes first.
fn at_the_same_time<'p>(
    pipeline: &Pipeline,
    facts: &Facts,
    actions: &(dyn Fn(&Callee) -> Option<&'p Pipeline> + Sync),
    followed: usize,
) -> Option<Vec<Vec<StepEffects>>> {
    let one = |job: &Job| {
        let (left, effects_left) = (Cell::new(ACTION_LIMIT), Cell::new(followed));
        let around = Around { facts, actions, depth: 0, left: &left, effects_left: &effects_left };
        let effects = of_job(job, pipeline, &around);
        (effects, ACTION_LIMIT - left.get(), followed - effects_left.get())
    };
    let all: Vec<_> = pipeline.jobs.par_iter().map(one).collect();
    let opened: usize = all.iter().map(|(_, opened, _)| opened).sum();
    let came: usize = all.iter().map(|(_, _, came)| came).sum();
    (opened < ACTION_LIMIT && came < followed).then(|| all.into_iter().map(|(effects, ..)| effects).collect())
}

/// What is around a job.
struct Around<'r, 'p> {
    facts: &'r Facts,
    /// Composite actions of the repository, by the path that a step names.
    actions: &'r dyn Fn(&Callee) -> Option<&'p Pipeline>,
    /// How many composite actions this stands in.
    depth: usize,
    /// How many more may be opened in all, so that actions that take each other over and over come to an end.
    left: &'r Cell<usize>,
    /// How many more effects may come of what the steps of the pipeline run.
    effects_left: &'r Cell<usize>,
}

/// So many effects may come of what the steps of all pipelines run, shared out among them: a script that a thousand jobs run counts a
/// thousand times.
pub(super) const FOLLOWED: usize = 50_000;
/// So many every pipeline may have.
const FOLLOWED_AT_LEAST: usize = 1_000;

/// How many effects may come of what the steps of one pipeline run, where there are so many pipelines.
pub fn followed_of_each(pipelines: usize) -> usize {
    (FOLLOWED / pipelines.max(1)).max(FOLLOWED_AT_LEAST)
}

/// Composite actions that take composite actions: deeper is a circle.
const ACTION_DEPTH: usize = 8;
/// More composite actions are opened by no honest pipeline.
const ACTION_LIMIT: usize = 300;

fn of_job(job: &Job, pipeline: &Pipeline, around: &Around<'_, '_>) -> Vec<StepEffects> {
    let facts = around.facts;
    let mut own_root = around.depth > 0;
    let run = pipeline.run();
    let chosen = pipeline.choices.iter().chain(&job.when.choices).flat_map(|choice| &choice.variables.entries);
    let legs = job.matrix.iter().filter(|_| pipeline.customs.reads_variables).flat_map(|matrix| &matrix.names);
    let unsure: Vec<&str> = chosen.map(|(name, _)| name).chain(legs).map(|name| name.value.as_str()).collect();
    let announced: Vec<&str> = announced(job, pipeline.customs).collect();
    let mut trees: Vec<WorkTree> = Vec::new();
    let mut made: Vec<(String, String)> = Vec::new();
    let mut packed: Vec<(String, UploadPath)> = Vec::new();
    let mut ready = false;
    let mut ended_in: Option<Folder> = None;
    let step = |step: &Step| {
        let variables = [&step.variables, &job.variables, &pipeline.variables];
        let scene = Scene {
            facts,
            directory: step.directory.as_deref(),
            goes_on_in: ended_in.as_ref().filter(|_| step.same_shell),
            variables: &variables,
            own_root,
            hosted: job.starts_empty() && job.machine.image.is_none() && !pipeline.customs.signed_in_by_role,
            unsure: &unsure,
            announced: &announced,
            trees: &trees,
            made: &made,
            packed: &packed,
            run,
            customs: pipeline.customs,
            effects_left: around.effects_left,
        };
        let mut effects = of_composite(step, around).unwrap_or_else(|| of_step(&scene, step));
        // A machine is made ready when the first step that runs on it begins.
        let image = step.machine.as_ref().map_or_else(
            || job.machine.image.as_ref().filter(|_| !std::mem::replace(&mut ready, true)),
            |own| own.image.as_ref(),
        );
        if let Some(brought) = image.and_then(|image| by_itself::brought_by(&scene, image)) {
            effects.effects.insert(0, brought);
        }
        // Inside an action nobody else sees what its own steps are given.
        let is_given = |name: &String| scene.variables.iter().any(|layer| layer.get(name).is_some());
        effects.wants.retain(|wanted| around.depth == 0 || !wanted.variables.iter().any(is_given));
        own_root |= effects.bring_own_root();
        trees.extend(effects.trees.iter().cloned());
        trees.extend(effects.effects.iter().filter_map(git::checked_out_beside));
        made.extend(effects.effects.iter().flat_map(image::made));
        packed.extend(effects.packed.iter().cloned());
        if effects.ends_in.is_some() {
            ended_in.clone_from(&effects.ends_in);
        }
        effects
    };
    job.steps.iter().map(step).collect()
}

/// The scripts of a job that write into a file by which the steps after them get variables.
fn announced<'j>(job: &'j Job, customs: &'static knowledge::Customs) -> impl Iterator<Item = &'j str> {
    let scripts = job.steps.iter().filter_map(|step| match &step.work {
        Work::Runs { script, .. } => Some(script.value.as_str()),
        _ => None,
    });
    scripts.filter(|script| customs.variable_files.iter().any(|file| script.contains(file)))
}

/// What a composite action of the repository does, as if the step did it, each thing at its own place in the action's file.
fn of_composite(step: &Step, around: &Around<'_, '_>) -> Option<StepEffects> {
    let Work::Uses { found, inputs, .. } = &step.work else { return None };
    let pipeline = (around.actions)(found)
        .filter(|_| around.depth < ACTION_DEPTH && around.left.get() > 0 && around.effects_left.get() > 0)?;
    around.left.set(around.left.get() - 1);
    let declared = pipeline.interface.as_ref().map(|interface| interface.inputs.as_slice()).unwrap_or_default();
    let pipeline = &Inputs::of_action(declared, inputs).fill(pipeline);
    let inner = Around { depth: around.depth + 1, ..*around };
    let mut out = StepEffects::default();
    for found in of_job(pipeline.jobs.first()?, pipeline, &inner) {
        out.take(found);
    }
    around.effects_left.set(around.effects_left.get().saturating_sub(out.effects.len()));
    let conditional = step.when.is_some() || step.may_fail.is_some();
    out.effects.iter_mut().for_each(|effect| effect.perhaps |= conditional);
    Some(out)
}
