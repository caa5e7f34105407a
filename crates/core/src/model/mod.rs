//! The neutral model of a pipeline. Every dialect is read into it, and nothing after that knows a format's keys.

mod inputs;
mod matrix;
mod text;
mod trigger;

pub use inputs::Inputs;
pub use matrix::{Leg, Matrix};
pub use text::{Text, TextMap};
pub use trigger::{Event, Filter, FilterOf, FilterSide, Input, Pattern, PatternSyntax, Trigger};

use crate::expression::{Expr, ExprKind, Operator};
use crate::formats::Format;
use crate::knowledge::{Customs, Run};
use crate::text::{FileId, Place, Span};

/// A whole pipeline file.
#[derive(Clone, Debug)]
pub struct Pipeline {
    /// The file it stands in.
    pub file: FileId,
    /// The format.
    pub format: &'static dyn Format,
    /// It is a part that other pipelines run in a step of theirs, and no pipeline of its own.
    pub is_part: bool,
    /// What the format does by itself where the forge runs it that reads the file.
    pub customs: &'static Customs,
    /// Its title.
    pub name: Option<Text>,
    /// What starts it.
    pub triggers: Vec<Trigger>,
    /// Where they are written.
    pub triggers_at: Option<Place>,
    /// The stages in their order, where the file names them.
    pub stages: Option<Vec<Text>>,
    /// Names that a job builds on and that are not there, with the names that are.
    pub absent_parents: Vec<(Text, Vec<String>)>,
    /// Files of this repository that it is made of or starts, as they are named; those left out that a condition or a pattern chooses.
    pub named_files: Vec<NamedFile>,
    /// Keys that the format keeps for old files only, with those that new files use.
    pub ageing_keys: Vec<(Text, &'static str)>,
    /// Parts of it are written elsewhere, and not known.
    pub partial: bool,
    /// What its jobs' tokens may do, where a job does not say.
    pub permissions: Option<Grant>,
    /// Variables of all jobs.
    pub variables: Variables,
    /// Whether a run starts at all, as a list of which the first that fits decides; without any, the triggers alone do.
    pub choices: Vec<Choice>,
    /// What keeps runs apart.
    pub lock: Option<Lock>,
    /// In the order they are written.
    pub jobs: Vec<Job>,
    /// What it takes from a caller, and gives it; nothing when it cannot be called.
    pub interface: Option<Interface>,
}

impl Step {
    /// A step that the format itself does.
    pub fn given(at: Place, given: Vec<Given>) -> Self {
        Self {
            at,
            id: None,
            name: None,
            condition: None,
            work: Work::Given(given),
            variables: Variables::default(),
            directory: None,
            may_fail: None,
        }
    }
}

impl Pipeline {
    /// Nothing but the file.
    pub fn empty(file: FileId, format: &'static dyn Format, customs: &'static Customs) -> Self {
        Self {
            file,
            format,
            is_part: false,
            customs,
            name: None,
            triggers: Vec::new(),
            triggers_at: None,
            stages: None,
            absent_parents: Vec::new(),
            named_files: Vec::new(),
            ageing_keys: Vec::new(),
            partial: false,
            permissions: None,
            variables: Variables::default(),
            choices: Vec::new(),
            lock: None,
            jobs: Vec::new(),
            interface: None,
        }
    }

    /// What a run of it knows of itself.
    pub fn run(&self) -> &'static Run {
        self.format.run()
    }

    /// The conditions of its own rules, which decide of the whole run.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        of_choices(&self.choices)
    }

    /// Where it says what starts it.
    pub fn started_at(&self) -> Option<Place> {
        self.triggers_at.or_else(|| self.triggers.first().map(|trigger| trigger.name.at))
    }

    /// The events that start it, as they are written, each once.
    pub fn event_names(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.triggers.iter().map(|trigger| trigger.name.value.as_str()).collect();
        names.dedup();
        names
    }

    /// The number of the job that is called exactly so.
    pub fn job_named(&self, id: &str) -> Option<usize> {
        self.jobs.iter().position(|job| job.id.value == id)
    }

    /// The job of an id; ids do not mind upper and lower case.
    pub fn job(&self, id: &str) -> Option<usize> {
        self.jobs.iter().position(|job| job.id.value.eq_ignore_ascii_case(id))
    }

    /// Whether other pipelines start it as one of their jobs.
    pub fn is_called(&self) -> bool {
        self.triggers.iter().any(|trigger| trigger.event == Event::Called)
    }

    /// Whether nothing comes to it from another pipeline that runs it: no artifact, no folder that is there already.
    pub fn stands_alone(&self) -> bool {
        !self.is_called() && !self.is_part
    }

    /// The values that whoever starts it may give; nothing when it takes none, or they are not known.
    pub fn inputs(&self) -> Option<Vec<&Input>> {
        let starts = self.triggers.iter().filter(|trigger| matches!(trigger.event, Event::Hand | Event::Called));
        let own = self.interface.iter().filter(|_| self.is_part).flat_map(|interface| &interface.inputs);
        let inputs: Vec<&Input> = starts.flat_map(|trigger| &trigger.inputs).chain(own).collect();
        (!inputs.is_empty()).then_some(inputs)
    }

    /// Whether values may be handed to it in a way that is not understood.
    pub fn takes_values(&self) -> bool {
        !self.is_part && self.triggers.iter().all(|trigger| matches!(trigger.event, Event::Unknown(_)))
    }

    /// The jobs that a job waits for, near and far, itself left out. Unknown names are passed over; cycles end.
    pub fn upstream(&self, job: usize) -> Vec<usize> {
        let mut seen = vec![false; self.jobs.len()];
        let mut queue = vec![job];
        let mut found = Vec::new();
        while let Some(current) = queue.pop() {
            for need in &self.jobs[current].needs {
                let Some(next) = self.job(&need.value) else { continue };
                if !seen[next] && next != job {
                    seen[next] = true;
                    found.push(next);
                    queue.push(next);
                }
            }
        }
        found
    }
}

/// A file of the repository that a pipeline names.
#[derive(Clone, Debug)]
pub struct NamedFile {
    /// Its path from the repository's root, perhaps with a slash before it.
    pub path: Text,
    /// The job that starts it as a pipeline of its own; nothing for a part of the pipeline itself.
    pub started_by: Option<usize>,
}

/// What a pipeline takes from its caller, and gives it.
#[derive(Clone, Debug, Default)]
pub struct Interface {
    /// The key that says so.
    pub at: Option<Place>,
    /// Values handed in.
    pub inputs: Vec<Input>,
    /// Secrets handed in, and whether each is needed.
    pub secrets: Vec<(Text, bool)>,
    /// Values given back: name and value.
    pub outputs: Vec<(Text, Option<Text>)>,
}

/// A job, or the call of another pipeline in its place.
#[derive(Clone, Debug)]
pub struct Job {
    /// The name by which others wait for it.
    pub id: Text,
    /// The job of the caller that it stands in, where it is a job of a called pipeline.
    pub within: Option<Text>,
    /// All that is written of it under its id.
    pub body: Place,
    /// The ids of the jobs it waits for.
    pub needs: Vec<Text>,
    /// Names among those that are slips of an id, as they are written; what is meant stands in their place.
    pub slipped_needs: Vec<Text>,
    /// The ids of the jobs whose artifacts it takes, where it lists them apart from those it waits for.
    pub takes_from: Vec<Text>,
    /// Where they stand, when anything is written.
    pub needs_at: Option<Place>,
    /// Some of what it waits for is only known when it runs.
    pub needs_unknown: bool,
    /// It waits for all jobs of earlier stages, whether they run or not.
    pub needs_by_stage: bool,
    /// Where it says that it runs in another way than after success, when it does.
    pub then_at: Option<Place>,
    /// It only goes with others: when nothing else runs, the pipeline does not start.
    pub goes_along: bool,
    /// Its stage, where the format has stages and the job names one.
    pub stage: Option<Text>,
    /// When it runs.
    pub condition: Option<Condition>,
    /// When it runs, as a list of which the first that fits decides; without any, `condition` alone does.
    pub choices: Vec<Choice>,
    /// It runs only when someone starts it, or never, whatever else is said.
    pub then: Then,
    /// What its token may do; replaces the file's grant whole.
    pub permissions: Option<Grant>,
    /// The environment it deploys to.
    pub environment: Option<Text>,
    /// What keeps runs apart.
    pub lock: Option<Lock>,
    /// Variables of all its steps.
    pub variables: Variables,
    /// Names and values it hands to jobs that wait for it.
    pub outputs: Vec<(Text, Text)>,
    /// It runs once for each combination of these.
    pub matrix: Option<Matrix>,
    /// The machines it asks for.
    pub runners: Vec<Text>,
    /// It starts with an empty folder, so that nothing is there but what its steps bring; not so where that is not known.
    pub starts_empty: bool,
    /// In the order they run.
    pub steps: Vec<Step>,
    /// The pipeline it calls, when it is a call.
    pub call: Option<Call>,
    /// Runs inside an image of its own.
    pub container: Option<Text>,
    /// Its failure does not fail the run.
    pub may_fail: Option<Text>,
    /// Time limit.
    pub time_limit: Option<Text>,
    /// Variables whose values the forge makes for the run: identity tokens and values of an outside safe.
    pub handed: Vec<String>,
    /// Other jobs may hand it variables whose names stand in a file that they make.
    pub variables_from_others: bool,
}

impl Job {
    /// The conditions that decide of it: its own, and those of its rules.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        self.condition.iter().chain(of_choices(&self.choices))
    }
}

fn of_choices(choices: &[Choice]) -> impl Iterator<Item = &Condition> {
    choices.iter().filter_map(|choice| choice.condition.as_ref())
}

/// A condition as it is written.
#[derive(Clone, Debug)]
pub struct Condition {
    /// The text, holes included.
    pub text: Text,
    expression: Option<Expr>,
    /// It says "never" as it is written, or hangs on a switch of whoever calls.
    off: bool,
}

/// How a condition is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Language {
    /// Contexts and functions, with or without `${{ }}` round them.
    Contexts,
    /// Variables: `$NAME == "text"`, `=~ /pattern/`.
    Variables,
}

impl Condition {
    /// Reads the text once; whatever asks later finds what came out.
    pub fn new(text: Text) -> Self {
        let expression = match text.language {
            Language::Variables => crate::expression::parse_variables(&text.value).ok(),
            Language::Contexts => contexts(&text),
        };
        let off = expression.as_ref().is_some_and(|expression| says_never(&expression.kind));
        Self { text, expression, off }
    }

    /// It says "never" in so many words.
    pub fn is_switched_off(&self) -> bool {
        self.off
    }

    /// It asks whether something before it has failed, was called off or passed over.
    pub fn waits_for_failing(&self) -> bool {
        let Some(expression) = self.expression() else { return false };
        let is = |word: &str, words: &[&str]| words.iter().any(|one| one.eq_ignore_ascii_case(word));
        let (mut asks, mut reads_result) = (false, false);
        expression.walk(&mut |part| match &part.kind {
            ExprKind::Call(name, _) => asks |= is(name, &["failure", "cancelled"]),
            ExprKind::Property(_, name, _) => reads_result |= is(name, &["result", "outcome", "conclusion", "status"]),
            _ => {}
        });
        if reads_result {
            // Anything but `== 'success'` may speak of another end.
            expression.walk(&mut |part| match &part.kind {
                ExprKind::Text(word) => asks |= is(word, &["failure", "cancelled", "skipped"]),
                ExprKind::Not(_) | ExprKind::Binary(Operator::NotEqual, ..) => asks = true,
                _ => {}
            });
        }
        asks
    }

    /// The expression; nothing when it cannot be read, or holes stand inside a longer text.
    pub fn expression(&self) -> Option<&Expr> {
        self.expression.as_ref()
    }
}

fn says_never(kind: &ExprKind) -> bool {
    match kind {
        ExprKind::Bool(value) => !value,
        ExprKind::Text(text) => text == "false",
        ExprKind::Number(number) => *number == 0.0,
        _ => false,
    }
}

fn contexts(text: &Text) -> Option<Expr> {
    if !text.is_dynamic() {
        return crate::expression::parse(&text.value, 0..text.value.len()).ok();
    }
    let mut holes = text.holes().into_iter();
    let only = holes.next().filter(|hole| holes.next().is_none() && hole.range.len() == text.value.trim().len())?;
    only.inside.ok()
}

/// One of several conditions, of which the first that fits decides.
#[derive(Clone, Debug)]
pub struct Choice {
    /// Where it stands.
    pub at: Place,
    /// It fits when this is true; without one, always.
    pub condition: Option<Condition>,
    /// And when one of these paths changed.
    pub changes: Option<Vec<Pattern>>,
    /// And when one of these files is there.
    pub exists: Option<Vec<Pattern>>,
    /// What follows.
    pub then: Then,
    /// Where that is written; nothing where what is usual follows.
    pub then_at: Option<Place>,
    /// Variables that it sets.
    pub variables: Variables,
    /// Its failure does not fail the run.
    pub may_fail: bool,
}

/// When a job runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Then {
    /// After those it waits for have succeeded.
    Run,
    /// Whatever happened before.
    Always,
    /// Only after a failure.
    OnFailure,
    /// When someone starts it.
    Hand,
    /// After a while.
    Later,
    /// Never.
    Never,
}

/// A call of another pipeline.
#[derive(Clone, Debug)]
pub struct Call {
    /// The path or address of the pipeline.
    pub target: Text,
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

/// One step of a job.
#[derive(Clone, Debug)]
pub struct Step {
    /// Where it stands, from its first key to its end.
    pub at: Place,
    /// The name by which others read its outputs.
    pub id: Option<Text>,
    /// Its title.
    pub name: Option<Text>,
    /// When it runs.
    pub condition: Option<Condition>,
    /// What it does.
    pub work: Work,
    /// Variables of this step alone.
    pub variables: Variables,
    /// The folder it works in, file and job defaults included.
    pub directory: Option<Text>,
    /// Its failure does not fail the job.
    pub may_fail: Option<Text>,
}

/// What a format does around a job's script without a step being written.
#[derive(Clone, Debug)]
pub enum Given {
    /// Brings the sources.
    Checkout {
        /// Whether submodules come too, as written.
        submodules: Option<Text>,
        /// How many commits come with them, as written; nothing where that is a setting of the forge.
        depth: Option<Text>,
        /// The job.
        at: Place,
    },
    /// The image that the job runs in.
    Image(Text),
    /// Fetches what a job handed on, into the places that it had there.
    Fetch {
        /// The job's name.
        name: Text,
        /// The job that fetches.
        at: Place,
    },
    /// Brings a cache back.
    Cache {
        /// Its key, when it is a text.
        key: Option<Text>,
        /// The files that its key is made of.
        files: Vec<Text>,
        /// What it holds.
        paths: Vec<Text>,
        /// How it is used, where that is said: brought back, saved, or both.
        policy: Option<Text>,
        /// The whole of it.
        at: Place,
    },
    /// Hands files on under the job's name.
    HandOn {
        /// The job's name.
        name: Text,
        /// The files.
        paths: Vec<Text>,
        /// How long they are kept, as written.
        expires: Option<Text>,
        /// Where it says that every file which git does not track is handed on too.
        untracked: Option<Place>,
    },
    /// Puts a folder online as the forge's pages.
    Publish {
        /// The folder.
        folder: Text,
        /// Beside the site, not in its place.
        preview: bool,
        /// It goes online only when it is handed on too.
        needs_hand_on: bool,
    },
}

impl Given {
    /// The texts that the runner fills variables into.
    pub fn texts(&self) -> Vec<&Text> {
        match self {
            Self::Checkout { submodules, depth, .. } => submodules.iter().chain(depth).collect(),
            // The job's own container, and a job's name, which is no value.
            Self::Image(_) | Self::Fetch { .. } => Vec::new(),
            Self::Cache { key, files, paths, .. } => key.iter().chain(files).chain(paths).collect(),
            Self::HandOn { paths, .. } => paths.iter().collect(),
            Self::Publish { folder, .. } => vec![folder],
        }
    }
}

/// What a step does.
#[derive(Clone, Debug)]
pub enum Work {
    /// Runs a ready-made action.
    Uses {
        /// The action with its version.
        action: Text,
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
    /// The format itself does this around the job's script.
    Given(Vec<Given>),
    /// More than one thing is written where the format takes one: what it does is not known.
    Unclear,
    /// Nothing is written, which is a fault of form.
    Nothing,
}

/// Names with values, in the order they are written.
#[derive(Clone, Debug, Default)]
pub struct Variables {
    /// The pairs.
    pub entries: Vec<(Text, Text)>,
    /// There may be more than stands here.
    pub open: bool,
}

impl Variables {
    /// The value of a name; upper and lower case do not matter, as for a step's inputs.
    pub fn get(&self, name: &str) -> Option<&Text> {
        self.entries.iter().find(|(key, _)| key.value.eq_ignore_ascii_case(name)).map(|(_, value)| value)
    }
}

/// What a token may do.
#[derive(Clone, Debug)]
pub struct Grant {
    /// The value, or the block.
    pub at: Place,
    /// The key before it.
    pub key: Place,
    /// What it says.
    pub kind: GrantKind,
}

/// The ways to grant.
#[derive(Clone, Debug)]
pub enum GrantKind {
    /// One level for all scopes.
    All(Level),
    /// A level for each scope that is named, none for all others.
    Scopes(Vec<(Text, Text)>),
    /// Written in a way that is not understood.
    Unknown,
}

/// How much may be done.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// Nothing.
    None,
    /// Look.
    Read,
    /// Look and change.
    Write,
}

impl Level {
    /// The level of a word.
    pub fn of(word: &str) -> Option<Self> {
        match word {
            "none" => Some(Self::None),
            "read" => Some(Self::Read),
            "write" => Some(Self::Write),
            _ => None,
        }
    }

    /// The word of a level.
    pub fn word(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Read => "read",
            Self::Write => "write",
        }
    }
}

/// How a name begins that is a path from the repository's root.
const LOCAL: &str = "./";

/// How a name begins that is a path in the repository of the pipeline file, whatever was checked out. It is met in pipelines that
/// run, and its page was not at hand: it is followed where it leads to a file, and nothing is said where it does not.
const BESIDE: &str = "$/";

/// The path from the repository's root that the name of an action or of a called pipeline stands for, when it is one of this
/// repository.
pub fn local_path(name: &str) -> Option<&str> {
    name.strip_prefix(LOCAL)
}

/// The same, for names that are found without the workspace as well.
pub fn own_path(name: &str) -> Option<&str> {
    local_path(name).or_else(|| name.strip_prefix(BESIDE))
}

/// A path from the repository's root, as the name of an action or of a called pipeline.
pub fn as_local_path(path: &str) -> String {
    format!("{LOCAL}{path}")
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

impl Step {
    /// The name of the repository's own action that it runs out of the workspace.
    pub fn own_action(&self) -> Option<&Text> {
        match &self.work {
            Work::Uses { action, .. } => action.known().and_then(local_path).map(|_| action),
            _ => None,
        }
    }
}

/// A place of nothing but its file, for what has no better one.
pub fn whole_file(file: FileId) -> Place {
    Place { file, span: Span::default() }
}
