//! Stages: one job for each stretch of them on one agent, whose workspace they share, with their steps one after the other.
//!
//! After the page "Pipeline syntax", stages, parallel and agent, 2026-11: a stage without an agent runs on that of what is around it; an
//! agent of its own starts with the files of the repository.

use std::collections::{BTreeMap, HashSet};

use super::agents::{Agent, agent};
use super::environment::{Given, environment};
use super::language::{Block, Statement};
use super::post;
use super::steps::{self, Around, set_up};
use super::text::Words;
use super::when;
use crate::effects::{Effect, EffectAt};
use crate::form::{FormIssue, FormIssueKind};
use crate::model::{ByItself, Cond, Job, Machine, Outcome, Step, Text, Variables, Waits, Work, Workspace};
use crate::text::Place;

/// Stages in stages: deeper is no honest file.
const DEPTH: usize = 20;

/// The number that stands for no stage: what the format does by itself.
const BY_ITSELF: usize = usize::MAX;
/// The same of what runs behind all stages.
const OF_ALL: usize = usize::MAX - 1;

/// What a stage has from what is around it.
#[derive(Clone, Default)]
pub(super) struct Surroundings {
    /// The number of the agent.
    agent: Option<usize>,
    /// The container in its workspace.
    container: Option<Option<Text>>,
    given: Given,
    time_limit: Option<Place>,
    conds: Vec<Cond>,
    /// The files of the repository do not come by themselves.
    no_checkout: bool,
    /// It is said that there is no agent.
    says_none: bool,
}

impl Surroundings {
    /// The variables, which are then left to somebody else.
    pub fn take_variables(&mut self) -> Variables {
        std::mem::take(&mut self.given.variables)
    }
}

/// A job that is being made.
struct Draft {
    agent: Option<usize>,
    job: Job,
    /// The number of the stage of each step.
    stages: Vec<usize>,
}

/// Steps that run beside those of other branches.
#[derive(Clone, Copy)]
struct Branch {
    at: Place,
    job: usize,
    before: Option<usize>,
}

/// Makes jobs of stages.
pub(super) struct Builder<'t> {
    words: Words<'t>,
    jobs: Vec<Draft>,
    /// What an agent is, by its number.
    machines: Vec<Machine>,
    /// The last job on each agent.
    last_on: BTreeMap<usize, usize>,
    /// The jobs that the next one waits for.
    frontier: Vec<usize>,
    branch: Option<Branch>,
    stashed: &'t [(String, Option<String>, bool)],
    /// The names of all stages, with what each waits for to be true.
    stages: Vec<(Text, Option<Cond>)>,
    pub issues: Vec<FormIssue>,
    depth: usize,
}

impl<'t> Builder<'t> {
    pub fn new(words: Words<'t>, stashed: &'t [(String, Option<String>, bool)]) -> Self {
        Self {
            words,
            jobs: Vec::new(),
            machines: Vec::new(),
            last_on: BTreeMap::new(),
            frontier: Vec::new(),
            branch: None,
            stashed,
            stages: Vec::new(),
            issues: Vec::new(),
            depth: 0,
        }
    }

    /// What the directives of a pipeline or a stage say, for what is inside it.
    pub fn inside(&mut self, body: &Block, around: &Surroundings) -> Surroundings {
        let words = self.words;
        let mut own = around.clone();
        match body.get("agent").map(|statement| agent(words, statement)) {
            Some(Agent::None) => (own.agent, own.container, own.says_none) = (None, None, true),
            Some(Agent::Own(machine)) => {
                own.agent = Some(self.machines.len());
                own.container = None;
                self.machines.push(machine);
            }
            Some(Agent::Inside(image)) if own.agent.is_some() => own.container = Some(image),
            Some(Agent::Inside(image)) => {
                own.agent = Some(self.machines.len());
                self.machines.push(Machine { image, ..Machine::default() });
            }
            None => {}
        }
        if let Some(block) = body.block("environment") {
            own.given = environment(words, block).within(&around.given);
        }
        if let Some(options) = body.block("options") {
            own.no_checkout |= options
                .get("skipDefaultCheckout")
                .is_some_and(|option| !option.arguments.iter().any(|argument| words.written(&argument.value.range()) == "false"));
            let limit = options.get("timeout").and_then(|option| option.argument("time").or_else(|| option.first()));
            own.time_limit = limit.and_then(|value| words.value(value)).map(|text| text.at).or(around.time_limit);
        }
        if let Some(block) = body.block("when") {
            own.conds.extend(when::conditions(words, block));
        }
        own
    }

    /// The stages of a block, one after the other.
    pub fn stages(&mut self, block: &Block, around: &Surroundings) {
        block.all("stage").for_each(|statement| self.stage(statement, around));
    }

    fn stage(&mut self, statement: &Statement, around: &Surroundings) {
        let Some(body) = statement.block.as_ref().filter(|_| self.depth < DEPTH) else { return };
        self.depth += 1;
        self.stage_of(statement, body, around);
        self.depth -= 1;
    }

    fn stage_of(&mut self, statement: &Statement, body: &Block, around: &Surroundings) {
        let words = self.words;
        let name = statement.first().and_then(|value| words.value(value)).unwrap_or_else(|| words.name(&statement.name_at));
        let own = self.inside(body, around);
        let number = self.stages.len();
        self.stages.push((name.clone(), Cond::all_of(own.conds.clone())));
        // Where the stage begins in the job that goes on with it; a new job begins with it.
        let jobs = self.jobs.len();
        let begins = own.agent.and_then(|agent| self.last_on.get(&agent)).map_or(0, |job| self.jobs[*job].job.steps.len());
        self.beginning(body, (number, &name), &own, around);
        if let Some(block) = body.block("steps") {
            self.leaf(block, (number, &name), &own);
        }
        if let Some(stages) = body.block("stages") {
            self.stages(stages, &own);
        }
        if let Some(matrix) = body.block("matrix") {
            let mut each = self.inside(matrix, &own);
            // Each cell sets the axes.
            each.given.variables.open = true;
            matrix.block("stages").into_iter().for_each(|stages| self.stages(stages, &each));
        }
        if let Some(parallel) = body.get("parallel") {
            self.parallel(parallel, &own);
        }
        if let Some(block) = body.block("post") {
            let first = if jobs == self.jobs.len() { begins } else { 0 };
            self.post(block, (number, &name), &own, first);
        }
    }

    /// Tools that are made ready, and a person who is asked, before the steps of a stage.
    fn beginning(&mut self, body: &Block, (number, name): (usize, &Text), own: &Surroundings, around: &Surroundings) {
        let words = self.words;
        if let Some(input) = body.get("input") {
            // It is asked for before the stage gets an agent of its own.
            let gate = Step::new(words.at(&input.name_at), Work::Gate);
            let place = if body.get("agent").is_some() { around } else { own };
            self.add(vec![gate], (number, name), &Surroundings { container: None, ..place.clone() });
        }
        let found = body.block("tools").and_then(|tools| self.tools(tools)).into_iter().collect();
        self.add(found, (number, name), own);
    }

    /// The runtimes among `tools`.
    pub fn tools(&self, tools: &Block) -> Option<Step> {
        let words = self.words;
        let one = |statement: &Statement| {
            let tool = if statement.name == "nodejs" { "node" } else { return None };
            let name = statement.first().and_then(|value| words.value(value))?;
            Some(EffectAt::sure(set_up(tool, &name), name.inner()))
        };
        let effects: Vec<EffectAt> = tools.statements.iter().filter_map(one).collect();
        let at = words.at(&tools.range);
        (!effects.is_empty()).then(|| Step::new(at, Work::ByItself(ByItself { effects, ..ByItself::default() })))
    }

    fn around(&self, own: &Surroundings) -> Around<'t> {
        Around {
            words: self.words,
            given: own.given.clone(),
            directory: None,
            time_limit: None,
            may_fail: None,
            perhaps: None,
            stashed: self.stashed,
        }
    }

    fn leaf(&mut self, block: &Block, (number, name): (usize, &Text), own: &Surroundings) {
        if own.agent.is_none()
            && own.says_none
            && let Some(step) = steps::needs_machine(block)
        {
            let kind = FormIssueKind::NoMachine { stage: name.value.clone(), step: step.name.clone() };
            self.issues.push(FormIssue { at: name.inner(), kind });
        }
        let found = steps::steps(block, &self.around(own));
        self.add(found, (number, name), own);
    }

    fn parallel(&mut self, statement: &Statement, own: &Surroundings) {
        let Some(block) = &statement.block else { return };
        let at = self.words.at(&statement.name_at);
        let (outer, base) = (self.branch, self.frontier.clone());
        let job = own.agent.and_then(|agent| self.last_on.get(&agent)).copied();
        let before = job.and_then(|job| self.jobs[job].job.steps.len().checked_sub(1));
        // The agent begins before its branches do.
        let (job, before) = match (job, own.agent) {
            (None, Some(_)) => {
                let made = self.job_for(own, at);
                (Some(made), self.jobs[made].job.steps.len().checked_sub(1))
            }
            _ => (job, before),
        };
        let base = if job.is_some() && base.is_empty() { self.frontier.clone() } else { base };
        let mut after = Vec::new();
        for stage in block.all("stage") {
            self.frontier.clone_from(&base);
            self.branch = job.map(|job| Branch { at, job, before });
            self.stage(stage, own);
            after.extend(self.frontier.iter().copied());
        }
        after.sort_unstable();
        after.dedup();
        self.frontier = if after.is_empty() { base } else { after };
        self.branch = outer;
    }

    /// What runs behind a stage or the whole.
    pub fn post(&mut self, block: &Block, (number, name): (usize, &Text), own: &Surroundings, first: usize) {
        let found = post::steps(block, &self.around(own), first);
        self.add(found, (number, name), own);
    }

    /// The post of the whole pipeline, on its agent where it has one.
    pub fn post_of_all(&mut self, block: &Block, own: &Surroundings, at: Place) {
        let Some(agent) = own.agent else { return };
        if !self.last_on.contains_key(&agent) {
            return;
        }
        let name = Text::fixed("post", at);
        self.post(block, (OF_ALL, &name), own, 0);
    }

    /// The job that goes on on the agent, or a new one.
    fn job_for(&mut self, own: &Surroundings, at: Place) -> usize {
        let last = self.jobs.len().checked_sub(1);
        if let Some(last) = last.filter(|last| own.agent.is_some() && self.jobs[*last].agent == own.agent) {
            return last;
        }
        if let Some(branch) = self.branch.filter(|branch| own.agent.is_some() && self.jobs[branch.job].agent == own.agent) {
            return branch.job;
        }
        let earlier = own.agent.and_then(|agent| self.last_on.get(&agent)).copied();
        let number = self.jobs.len();
        let id = Text::fixed(&format!("{number}"), at);
        let mut job = Job::empty(id, at);
        job.machine = own.agent.map(|agent| self.machines[agent].clone()).unwrap_or_default();
        job.workspace = earlier.map_or(Workspace::Kept, Workspace::Of);
        let mut stages = Vec::new();
        if earlier.is_none() && own.agent.is_some() && !own.no_checkout {
            let sources = ByItself::of(Effect::own_sources(None, None), at);
            job.steps.push(Step::new(at, Work::ByItself(sources)));
            stages.push(BY_ITSELF);
        }
        job.needs = self.frontier.iter().map(|index| self.jobs[*index].job.id.clone()).collect();
        self.jobs.push(Draft { agent: own.agent, job, stages });
        self.frontier = vec![number];
        if let Some(agent) = own.agent {
            self.last_on.insert(agent, number);
        }
        number
    }

    /// Adds steps of a stage to the job that they run in.
    fn add(&mut self, found: Vec<Step>, (number, name): (usize, &Text), own: &Surroundings) {
        if found.is_empty() {
            return;
        }
        // A stage without an agent goes on where it began.
        let began = self.jobs.last().is_some_and(|last| last.agent.is_none() && last.stages.last() == Some(&number));
        let job = match self.jobs.len().checked_sub(1).filter(|_| began && own.agent.is_none()) {
            Some(last) => last,
            None => self.job_for(own, name.at),
        };
        for mut step in found {
            step.name = step.name.or_else(|| Some(name.clone()));
            step.time_limit = step.time_limit.or(own.time_limit);
            if let Some(container) = &own.container {
                step.machine = Some(Box::new(Machine { image: container.clone(), ..Machine::default() }));
            }
            let index = self.jobs[job].job.steps.len();
            if let Some(branch) = self.branch.as_mut().filter(|branch| branch.job == job) {
                step.waits = Waits::For { steps: branch.before.into_iter().collect(), at: branch.at };
                branch.before = Some(index);
            }
            self.jobs[job].job.steps.push(step);
            self.jobs[job].stages.push(number);
        }
        self.frontier = vec![job];
    }

    /// The finished jobs: each has the name of its stages, and what a stage waits for stands at the job or at the steps.
    pub fn finish(self) -> Vec<Job> {
        let mut names: BTreeMap<String, Text> = BTreeMap::new();
        let mut taken: HashSet<String> = HashSet::new();
        let mut done: Vec<Job> = Vec::new();
        for Draft { mut job, stages, .. } in self.jobs {
            let mut own: Vec<usize> = stages.iter().copied().filter(|stage| *stage < OF_ALL).collect();
            own.dedup();
            let of = |stage: &usize| self.stages[*stage].0.clone();
            let id = match own.as_slice() {
                [] => job.id.clone(),
                [only] => of(only),
                [first, .., last] => Text::fixed(&format!("{} to {}", of(first).value, of(last).value), of(first).at),
            };
            let only = own.first().filter(|first| stages.iter().all(|stage| stage == *first || *stage == BY_ITSELF));
            match only {
                Some(stage) => job.when.cond.clone_from(&self.stages[*stage].1),
                None => {
                    for (step, stage) in job.steps.iter_mut().zip(&stages) {
                        let cond = self.stages.get(*stage).and_then(|(_, cond)| cond.clone());
                        step.when = Cond::all_of(cond.into_iter().chain(step.when.take()));
                    }
                }
            }
            let id = if taken.insert(id.value.clone()) { id } else { Text::fixed(&format!("{}, again", id.value), id.at) };
            names.insert(job.id.value.clone(), id.clone());
            for need in &mut job.needs {
                if let Some(name) = names.get(&need.value) {
                    *need = name.clone();
                }
            }
            if job
                .steps
                .iter()
                .all(|step| step.after == Outcome::Success && step.time_limit.is_some() || matches!(step.work, Work::ByItself(_)))
            {
                job.time_limit = job.steps.iter().find_map(|step| step.time_limit);
            }
            job.id = id;
            done.push(job);
        }
        done
    }
}
