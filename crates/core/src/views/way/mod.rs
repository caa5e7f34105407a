//! The way of a site, for drawing: the jobs in the order they run, what each does with the folder, and where it ends.

mod build;
mod end;
mod leg;
mod needs;
mod parcels;
mod told;

pub use build::ways;
pub(crate) use leg::{stops_of, title, title_at};

use crate::finding::{Finding, listed};
use crate::text::Place;

/// What stands before an event that may end online, and may not.
pub const PERHAPS: &str = "perhaps ";

/// What is said where there is no way.
pub const NO_WAY: &str = "No step here is known to put a site online.";

/// A thing that is done with the site's files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StopKind {
    /// The sources come.
    Sources,
    /// Packages are installed.
    Install,
    /// The site is built.
    Build,
    /// Folders are copied or moved.
    Move,
    /// A folder is handed to other jobs.
    HandOn,
    /// What another job handed on is fetched.
    Fetch,
    /// It goes online.
    Publish,
    /// A step that does nothing with them, and needs something or fails.
    Step,
}

impl StopKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Sources => "sources",
            Self::Install => "install",
            Self::Build => "build",
            Self::Move => "move",
            Self::HandOn => "hand on",
            Self::Fetch => "fetch",
            Self::Publish => "publish",
            Self::Step => "step",
        }
    }
}

/// What breaks the way.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Break {
    /// The rule that says so.
    pub rule: &'static str,
    /// Its words.
    pub message: String,
    /// Where.
    pub at: Place,
}

impl Break {
    fn of(finding: &Finding) -> Self {
        Self { rule: finding.rule, message: finding.message.clone(), at: finding.at }
    }
}

/// The kinds of what a step needs beside the site's files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NeedKind {
    /// A credential that the forge keeps.
    Secret,
    /// What an earlier run has kept, to save time.
    Cache,
    /// Something that the job's token must be allowed.
    Permission,
}

impl NeedKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Secret => "secret",
            Self::Cache => "cache",
            Self::Permission => "permission",
        }
    }
}

/// Something that a step needs beside the site's files.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Need {
    /// Its kind.
    pub kind: NeedKind,
    /// The secret's name, the cache's key, or the permission with its level.
    pub name: String,
}

/// What a stop has to do with things that go from job to job.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Hand {
    /// Nothing.
    #[default]
    None,
    /// It hands something on.
    Gives {
        /// Under this name; nothing where it has none that is known.
        name: Option<String>,
        /// The folders, as they are written.
        holds: String,
    },
    /// It takes what is handed on under this name; nothing where the name is not known.
    Takes(Option<String>),
    /// It takes all that was handed on before it.
    TakesAll,
}

/// One thing that is done, where, and whether the way breaks there.
#[derive(Clone, Debug)]
pub struct Stop {
    /// What is done.
    pub kind: StopKind,
    /// To which folder or artifact, in words.
    pub text: String,
    /// Where it is written.
    pub at: Place,
    /// It is known that the folder is there.
    pub certain: bool,
    /// What it hands on, or takes.
    pub hand: Hand,
    /// What it needs beside the files.
    pub needs: Vec<Need>,
    /// What breaks the way here.
    pub broken: Option<Break>,
}

impl Stop {
    /// One that is certain, and of which no more is known.
    fn new(kind: StopKind, text: String, at: Place) -> Self {
        Self { kind, text, at, certain: true, hand: Hand::None, needs: Vec::new(), broken: None }
    }
}

/// A job on the way.
#[derive(Clone, Debug)]
pub struct Leg {
    /// Its name.
    pub id: String,
    /// Jobs of the same number run side by side.
    pub wave: usize,
    /// The jobs of the way that it waits for.
    pub waits_for: Vec<String>,
    /// In their order.
    pub stops: Vec<Stop>,
    /// What the job as a whole needs.
    pub needs: Vec<Need>,
    /// How often it runs, once for each leg of its matrix; nothing for once.
    pub times: Option<usize>,
    /// What breaks in the job itself rather than in one of its steps.
    pub broken: Option<Break>,
}

impl Leg {
    /// The first thing that breaks it: what breaks in the job itself keeps all its steps from running.
    fn first_break(&self) -> Option<&Break> {
        self.broken.as_ref().or_else(|| self.stops.iter().find_map(|stop| stop.broken.as_ref()))
    }

    /// Whether the way breaks in this job.
    pub fn breaks(&self) -> bool {
        self.first_break().is_some()
    }
}

/// A stop of a way, by the number of its job there and its own in that.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct StopAt {
    /// The job.
    pub leg: usize,
    /// The stop in it.
    pub stop: usize,
}

/// Something that is handed from job to job.
#[derive(Clone, Debug)]
pub struct Parcel {
    /// Its name; nothing where it has none that is known.
    pub name: Option<String>,
    /// The folders in it, as they are written.
    pub holds: String,
    /// Who hands it on.
    pub from: StopAt,
    /// Who takes it.
    pub to: Vec<StopAt>,
}

/// Where a way ends.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct End {
    /// The address or place, in words.
    pub text: String,
    /// The stop that puts the site there; nothing where that is told as one with another.
    pub at: Option<StopAt>,
}

/// The way from the sources to the addresses that its last job publishes to.
#[derive(Clone, Debug)]
pub struct Way {
    /// The pipeline's number in its project.
    pub pipeline: usize,
    /// The events on which it ends online, in words; those that are not certain begin with [`PERHAPS`].
    pub events: Vec<String>,
    /// Wave by wave.
    pub legs: Vec<Leg>,
    /// What goes from job to job, in the order it is handed on.
    pub parcels: Vec<Parcel>,
    /// Where it ends; there is at least one, and each place stands there once.
    pub ends: Vec<End>,
    /// What keeps the whole pipeline from running.
    pub broken: Option<Break>,
    /// What is wrong beside the way, in another job or in a pipeline that calls this one. It may keep the whole of it from running, as a
    /// file that the forge refuses.
    pub aside: Option<Break>,
}

impl Way {
    /// The events on which it ends online, as people list them.
    pub fn told_events(&self) -> String {
        if self.events.is_empty() { "no event that is known".to_owned() } else { listed(&self.events) }
    }

    /// Where it ends, as people list it.
    pub fn told_ends(&self) -> String {
        listed(&self.ends.iter().map(|end| end.text.as_str()).collect::<Vec<_>>())
    }

    /// The first thing that breaks it, in the order of work.
    pub fn first_break(&self) -> Option<&Break> {
        self.broken.as_ref().or_else(|| self.legs.iter().find_map(Leg::first_break))
    }

    /// What makes it doubtful where nothing breaks it.
    pub fn doubt(&self) -> Option<&Break> {
        self.aside.as_ref().filter(|_| !self.breaks())
    }

    /// Whether nothing new comes to its end.
    pub fn breaks(&self) -> bool {
        self.first_break().is_some()
    }
}
