//! What starts a pipeline.

use super::{Text, Variables};
use crate::text::Place;

/// A kind of event, across all formats.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Event {
    /// Commits or a tag are pushed.
    Push,
    /// A pull request is opened or changed.
    Proposal,
    /// The same, run with the base's secrets and write access.
    PrivilegedProposal,
    /// Someone starts it by hand.
    Hand,
    /// The clock.
    Clock,
    /// Another pipeline calls it as one of its jobs.
    Called,
    /// Another pipeline has run.
    AfterPipeline,
    /// A release is made.
    Release,
    /// Known to the format, and nothing more is said of it here.
    Other(String),
    /// A name that the format does not know.
    Unknown(String),
}

/// Where it is known from what starts a pipeline.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum StartsFrom {
    /// Its file says so.
    Written,
    /// It is what the format does where nothing is written.
    Usual,
    /// dulk.toml says so, at this place.
    Declared(Place),
    /// Not known, and why: every event may start it, or none.
    Unknown(String),
}

/// One event that starts a pipeline, with its filters.
#[derive(Clone, Debug)]
pub struct Trigger {
    /// The event.
    pub event: Event,
    /// Its name as it is written.
    pub name: Text,
    /// Name and filters together.
    pub at: Place,
    /// All filters must let an event through.
    pub filters: Vec<Filter>,
    /// The kinds of the event that count.
    pub types: Vec<Text>,
    /// Among them is the one that everybody thinks of: a pull request that is opened or changed, a release that is published.
    pub usual: bool,
    /// Times, for the clock.
    pub times: Vec<Text>,
    /// The names of pipelines it waits for.
    pub after: Vec<Text>,
    /// What it is given.
    pub inputs: Vec<Input>,
}

impl Trigger {
    /// Without filters.
    pub fn plain(event: Event, name: Text) -> Self {
        Self {
            event,
            at: name.at,
            name,
            filters: Vec::new(),
            types: Vec::new(),
            usual: true,
            times: Vec::new(),
            after: Vec::new(),
            inputs: Vec::new(),
        }
    }

    /// The filter of one kind, taking in or leaving out.
    pub fn filter(&self, of: FilterOf, side: FilterSide) -> Option<&Filter> {
        self.filters.iter().find(|filter| filter.of == of && filter.side == side)
    }
}

/// What a filter looks at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FilterOf {
    /// The branch; for a pull request, the one it goes into.
    Branches,
    /// The tag.
    Tags,
    /// The changed files.
    Paths,
}

/// Whether what matches is taken in or left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FilterSide {
    /// Only what matches.
    Include,
    /// All but what matches.
    Exclude,
}

/// A list of patterns.
#[derive(Clone, Debug)]
pub struct Filter {
    /// What it looks at.
    pub of: FilterOf,
    /// Taking in or leaving out.
    pub side: FilterSide,
    /// The key.
    pub key: Text,
    /// In order, which matters.
    pub patterns: Vec<Pattern>,
}

/// One pattern.
#[derive(Clone, Debug)]
pub struct Pattern {
    /// As written.
    pub text: Text,
    /// How it is read.
    pub syntax: PatternSyntax,
}

/// How a pattern is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PatternSyntax {
    /// `*`, `**`, `?`, `+`, `[]`, `!` and escapes.
    Glob,
    /// A regular expression.
    Regex {
        /// Upper and lower case are the same.
        any_case: bool,
    },
    /// The name itself.
    Exact,
    /// A shell pattern of paths: `*` stays in a folder, `**` goes through them, `{a,b}`.
    Paths,
}

impl Pattern {
    /// It takes names away rather than in.
    pub fn is_exception(&self) -> bool {
        self.syntax == PatternSyntax::Glob && self.text.value.starts_with('!')
    }

    /// The one name it stands for, when it stands for only one.
    pub fn literal(&self) -> Option<&str> {
        let text = self.text.known()?;
        match self.syntax {
            PatternSyntax::Exact => return Some(text),
            PatternSyntax::Regex { .. } => return None,
            PatternSyntax::Glob | PatternSyntax::Paths => {}
        }
        (!text.contains(['*', '?', '+', '[', ']', '!', '\\'])).then_some(text)
    }
}

/// A value that whoever starts the pipeline may or must give.
#[derive(Clone, Debug)]
pub struct Input {
    /// Its name.
    pub name: Text,
    /// Declared as needed.
    pub required: bool,
    /// What it is otherwise.
    pub default: Option<Text>,
    /// The only values that may be given, where those are listed.
    pub options: Option<Vec<Text>>,
    /// All that is declared of it.
    pub details: Variables,
}

impl Input {
    /// The kind that it is declared as.
    pub fn kind(&self) -> Option<&str> {
        self.details.get("type").and_then(Text::known)
    }

    /// It is a yes or no.
    pub fn is_boolean(&self) -> bool {
        self.kind() == Some("boolean")
    }

    /// Whether a word may be a value of its kind. In quotes as well: what a forge makes of those is not documented.
    pub fn takes(&self, word: &str) -> bool {
        match self.kind() {
            Some("boolean") => word.eq_ignore_ascii_case("true") || word.eq_ignore_ascii_case("false"),
            Some("number") => word.trim().parse::<f64>().is_ok(),
            _ => true,
        }
    }
}
