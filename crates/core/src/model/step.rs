//! Steps, and what they do.

use thin_vec::ThinVec;

use super::{Callee, Cond, Condition, Machine, Text, Variables, Waits};
use crate::effects::{Effect, EffectAt, WantedCredential};
use crate::text::Place;

/// One step of a job.
#[derive(Clone, Debug)]
pub struct Step {
    /// Where it stands, from its first key to its end.
    pub at: Place,
    /// The name by which others read its outputs.
    pub id: Option<Box<Text>>,
    /// Its title.
    pub name: Option<Text>,
    /// When it runs.
    pub when: Option<Cond>,
    /// What it does.
    pub work: Work,
    /// Variables of this step alone.
    pub variables: Variables,
    /// The folder it works in, file and job defaults included.
    pub directory: Option<Box<Text>>,
    /// Its failure does not fail the job.
    pub may_fail: Option<Box<Text>>,
    /// How what comes before it in the job must have ended, where no condition of its own says so.
    pub after: Outcome,
    /// Where that is said.
    pub after_at: Option<Place>,
    /// Where it runs after failures too: those of this step of the job on, and of no earlier one.
    pub survives_from: usize,
    /// Its script goes on in the shell of the one before, in the folder where that has ended.
    pub same_shell: bool,
    /// Before it, all that git does not track is taken away, or it does not look at that; where this is said, or not turned off.
    pub cleans: Option<Place>,
    /// It is switched off, and where.
    pub off: Option<Place>,
    /// Which steps must have ended before it begins.
    pub waits: Waits,
    /// Where the time is written after which it is stopped.
    pub time_limit: Option<Place>,
    /// The machine that it runs on alone; nothing where it shares that of its job.
    pub machine: Option<Box<Machine>>,
    /// The names of credentials that the forge keeps and that it is given.
    pub keys: ThinVec<Text>,
    /// The program that its script is handed to, where it is named and must be on the machine.
    pub program: Option<Box<Text>>,
}

impl Step {
    /// The conditions of which each must hold for it to run.
    pub fn demands(&self) -> impl Iterator<Item = &Condition> {
        self.when.iter().flat_map(Cond::demands)
    }

    /// The conditions in the file's own language that decide of it.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        self.when.iter().flat_map(Cond::conditions)
    }

    /// Its condition, where it is one in the file's own language and no more.
    pub fn condition(&self) -> Option<&Condition> {
        super::condition::asked(self.when.as_ref())
    }

    /// A step that does something, and of which no more is written.
    pub fn new(at: Place, work: Work) -> Self {
        Self {
            at,
            id: None,
            name: None,
            when: None,
            work,
            variables: Variables::default(),
            directory: None,
            may_fail: None,
            after: Outcome::Success,
            after_at: None,
            survives_from: 0,
            same_shell: false,
            cleans: None,
            off: None,
            waits: Waits::ForAll,
            time_limit: None,
            machine: None,
            keys: ThinVec::new(),
            program: None,
        }
    }

    /// A program that is run with its words in an image of its own, without a shell.
    pub fn program(at: Place, image: Text, words: &[Text]) -> Self {
        let machine = Machine { image: Some(image), ..Machine::default() };
        let work = Work::Runs { script: Text::of_words(words, at), shell: Shell::Posix };
        Self { machine: Some(Box::new(machine)), ..Self::new(at, work) }
    }

    /// The same inside a scope: what the step says itself holds before what is said round it.
    pub fn within(mut self, scope: &Scope) -> Self {
        self.directory = self.directory.or_else(|| scope.directory.clone());
        let around = scope.variables.entries.iter().filter(|(name, _)| self.variables.get(&name.value).is_none());
        let around: Vec<(Text, Text)> = around.cloned().collect();
        self.variables.entries.extend(around);
        self.variables.open |= scope.variables.open;
        self.time_limit = self.time_limit.or(scope.time_limit);
        self.may_fail = self.may_fail.or_else(|| scope.may_fail.clone());
        self
    }
}

impl Step {
    /// The name of the repository's own action that it runs out of the workspace.
    pub fn own_action(&self) -> Option<&Text> {
        match &self.work {
            Work::Uses { action, found: Callee::Workspace(_), .. } => action.known().map(|_| action),
            _ => None,
        }
    }
}

/// How something ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// Well.
    Success,
    /// Not well.
    Failure,
    /// In whatever way.
    Any,
}

/// What is said once round several steps.
#[derive(Clone, Debug, Default)]
pub struct Scope {
    /// The folder that they work in, where they name none.
    pub directory: Option<Box<Text>>,
    /// Variables and credentials that they see.
    pub variables: Variables,
    /// The time after which they are stopped.
    pub time_limit: Option<Place>,
    /// Their failure is caught.
    pub may_fail: Option<Box<Text>>,
}

/// What a format does around a job's steps without a step being written.
#[derive(Clone, Debug, Default)]
pub struct ByItself {
    /// What is done, in order, with paths as they are written.
    pub effects: Vec<EffectAt>,
    /// The texts among it that the runner fills variables into.
    pub texts: Vec<Text>,
    /// Credentials that it needs and that nothing beside it gives.
    pub wants: ThinVec<WantedCredential>,
    /// Values that it signs in with.
    pub credentials: Vec<Credential>,
}

impl ByItself {
    /// One thing that is surely done.
    pub fn of(effect: Effect, at: Place) -> Self {
        Self { effects: vec![EffectAt::sure(effect, at)], ..Self::default() }
    }
}

/// A value that something signs in with.
#[derive(Clone, Debug)]
pub struct Credential {
    /// The key that it stands under.
    pub name: Text,
    /// As it is written.
    pub value: Text,
    /// Nobody else may read it.
    pub secret: bool,
}

/// What a step does.
#[derive(Clone, Debug)]
pub enum Work {
    /// Runs a ready-made action.
    Uses {
        /// The action with its version.
        action: Text,
        /// Where it is.
        found: Callee,
        /// What it is given.
        inputs: Variables,
    },
    /// Runs a script.
    Runs {
        /// The commands.
        script: Text,
        /// What runs them.
        shell: Shell,
    },
    /// Runs what the image of its machine runs, with these words behind it and without a shell.
    RunsImage {
        /// The words.
        words: Vec<Text>,
    },
    /// The format itself does this around the job's steps.
    ByItself(ByItself),
    /// Waits until a person lets the job go on.
    Gate,
    /// More than one thing is written where the format takes one: what it does is not known.
    Unclear,
    /// Nothing is written, which is a fault of form.
    Nothing,
}

impl Work {
    /// What it is given or runs, in the order it stands; what a format does by itself has texts of its own.
    pub fn texts(&self) -> impl Iterator<Item = &Text> {
        let (inputs, words): (&[(Text, Text)], &[Text]) = match self {
            Self::Uses { inputs, .. } => (&inputs.entries, &[]),
            Self::Runs { script, .. } => (&[], std::slice::from_ref(script)),
            Self::RunsImage { words } => (&[], words),
            Self::ByItself(_) | Self::Gate | Self::Unclear | Self::Nothing => (&[], &[]),
        };
        inputs.iter().map(|(_, value)| value).chain(words)
    }
}

/// Programs that take a script of their own language, which is looked into.
const SHELLS: [&str; 6] = ["bash", "sh", "dash", "zsh", "ash", "ksh"];

impl Shell {
    /// Whether a program, by its name or its path, is a shell whose scripts are looked into.
    pub fn is_posix(program: &str) -> bool {
        SHELLS.contains(&program.rsplit('/').next().unwrap_or(program))
    }

    /// Whether a script begins with the name of a program that is no such shell.
    pub fn is_foreign(script: &str) -> bool {
        let Some(first) = script.trim_start().lines().next().and_then(|line| line.strip_prefix("#!")) else { return false };
        !first.split(['/', ' ']).any(Self::is_posix)
    }
}

/// The language of a script.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shell {
    /// `sh`, `bash` and their kin: the only one that is looked into.
    Posix,
    /// PowerShell.
    PowerShell,
    /// The command prompt of Windows.
    Cmd,
    /// Another one, or not known.
    Other,
}
