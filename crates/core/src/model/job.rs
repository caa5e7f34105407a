//! Jobs.

use thin_vec::ThinVec;

use super::{Callee, Condition, Grant, Machine, Matrix, Step, Text, Variables, When, Workspace};
use crate::text::Place;

/// A job, or the call of another pipeline in its place.
#[derive(Clone, Debug)]
pub struct Job {
    /// The name by which others wait for it.
    pub id: Text,
    /// The job of the caller that it stands in, where it is a job of a called pipeline.
    pub within: Option<Box<Text>>,
    /// All that is written of it under its id.
    pub body: Place,
    /// The ids of the jobs it waits for.
    pub needs: Vec<Text>,
    /// Names among those that are slips of an id, as they are written; what is meant stands in their place.
    pub slipped_needs: ThinVec<Text>,
    /// The ids of the jobs whose artifacts it takes, where it lists them apart from those it waits for.
    pub takes_from: ThinVec<Text>,
    /// Where they stand, when anything is written.
    pub needs_at: Option<Place>,
    /// Some of what it waits for is only known when it runs.
    pub needs_unknown: bool,
    /// When it runs.
    pub when: When,
    /// Its stage, where the format has stages and the job names one.
    pub stage: Option<Box<Text>>,
    /// What its token may do; replaces the file's grant whole.
    pub permissions: Option<Grant>,
    /// The environment it deploys to.
    pub environment: Option<Box<Text>>,
    /// What keeps runs apart.
    pub lock: Option<Lock>,
    /// Variables of all its steps.
    pub variables: Variables,
    /// Names and values it hands to jobs that wait for it.
    pub outputs: ThinVec<(Text, Text)>,
    /// It runs once for each combination of these.
    pub matrix: Option<Box<Matrix>>,
    /// What its steps run on, those left out that have a machine of their own.
    pub machine: Machine,
    /// The files that its steps share.
    pub workspace: Workspace,
    /// In the order they run.
    pub steps: Vec<Step>,
    /// The pipeline it calls, when it is a call.
    pub call: Option<Box<Call>>,
    /// Its failure does not fail the run.
    pub may_fail: Option<Box<Text>>,
    /// Where the time is written after which it is stopped.
    pub time_limit: Option<Place>,
    /// Variables whose values the forge makes for the run: identity tokens and values of an outside safe.
    pub handed: ThinVec<Text>,
    /// Other jobs may hand it variables whose names stand in a file that they make.
    pub variables_from_others: bool,
}

impl Job {
    /// A job of which nothing but its name and its place is known yet.
    pub fn empty(id: Text, body: Place) -> Self {
        Self {
            id,
            within: None,
            body,
            needs: Vec::new(),
            slipped_needs: ThinVec::new(),
            takes_from: ThinVec::new(),
            needs_at: None,
            needs_unknown: false,
            when: When::default(),
            stage: None,
            permissions: None,
            environment: None,
            lock: None,
            variables: Variables::default(),
            outputs: ThinVec::new(),
            matrix: None,
            machine: Machine::default(),
            workspace: Workspace::Kept,
            steps: Vec::new(),
            call: None,
            may_fail: None,
            time_limit: None,
            handed: ThinVec::new(),
            variables_from_others: false,
        }
    }

    /// Whether the forge makes the value of a variable for the run, or gets it from a safe.
    pub fn is_handed(&self, name: &str) -> bool {
        self.handed.iter().any(|handed| handed.value == name)
    }

    /// Its folder is empty at the start, and the steps are all that fills it.
    pub fn starts_empty(&self) -> bool {
        self.workspace == Workspace::Fresh
    }

    /// What a step of it runs on.
    pub fn machine_of(&self, step: usize) -> &Machine {
        self.steps.get(step).and_then(|step| step.machine.as_deref()).unwrap_or(&self.machine)
    }

    /// Whether what one step installs on its machine is there for another: both run on the job's.
    pub fn share_machine(&self, step: usize, other: usize) -> bool {
        let alone = |number: usize| self.steps.get(number).is_some_and(|step| step.machine.is_some());
        step == other || !alone(step) && !alone(other)
    }

    /// Its condition, where it is one in the file's own language and no more.
    pub fn condition(&self) -> Option<&Condition> {
        self.when.condition()
    }

    /// The conditions that decide of it: its own, and those of its rules.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        self.when.conditions()
    }

    /// The same, and those of its steps.
    pub fn all_conditions(&self) -> impl Iterator<Item = &Condition> {
        self.conditions().chain(self.steps.iter().flat_map(Step::conditions))
    }
}

/// A call of another pipeline.
#[derive(Clone, Debug)]
pub struct Call {
    /// The path or address of the pipeline.
    pub target: Text,
    /// Where that is.
    pub found: Callee,
    /// Values handed in.
    pub inputs: Variables,
    /// Secrets handed in by name.
    pub secrets: Variables,
    /// All secrets are handed in.
    pub all_secrets: bool,
}

/// What keeps two runs from going on at once.
#[derive(Clone, Debug)]
pub struct Lock {
    /// Where it stands.
    pub at: Place,
    /// Runs of the same group wait for each other.
    pub group: Text,
    /// A new run ends the one that goes on.
    pub cancels: Option<Text>,
}

impl Lock {
    /// Whether it says in so many words that a new run ends the one that goes on.
    pub fn ends_what_goes_on(&self) -> bool {
        self.cancels.as_ref().is_some_and(|cancels| cancels.value == "true")
    }
}
