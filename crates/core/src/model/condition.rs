//! When something runs.

use super::{FilterOf, Pattern, Text, Variables};
use crate::expression::{Expr, ExprError, ExprKind, Operator};
use crate::text::Place;

/// A condition as it is written.
#[derive(Clone, Debug)]
pub struct Condition {
    /// The text, holes included.
    pub text: Text,
    pub(super) expression: Option<Expr>,
    error: Option<ExprError>,
    /// It says "never" as it is written, or hangs on a switch of whoever calls.
    pub(super) off: bool,
}

/// How a condition is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Language {
    /// Contexts and functions, with or without `${{ }}` round them.
    Contexts,
    /// Variables: `$NAME == "text"`, `=~ /pattern/`.
    Variables,
    /// Words: `branch = main AND type IN (push, api)`.
    Phrases,
    /// The tests of a shell: `$NAME = text && -n $OTHER`.
    ShellTest,
}

impl Condition {
    /// Reads the text once; whatever asks later finds what came out.
    pub fn new(text: Text) -> Self {
        let read = match text.language {
            Language::Variables => crate::expression::parse_variables(&text.value).map_err(Some),
            Language::Phrases => crate::expression::parse_phrases(&text.value).map_err(Some),
            Language::ShellTest => crate::expression::parse_shell_test(&text.value).map_err(Some),
            Language::Contexts => contexts(&text).ok_or(None),
        };
        let (expression, error) = match read {
            Ok(expression) => (Some(expression), None),
            Err(error) => (None, error),
        };
        let off = expression.as_ref().is_some_and(|expression| says_never(&expression.kind));
        Self { text, expression, error, off }
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

    /// Why it cannot be read, by bytes of its text; nothing for contexts, whose holes are looked at where they stand.
    pub fn error(&self) -> Option<&ExprError> {
        self.error.as_ref()
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

/// What must hold, in one form for all formats and languages.
#[derive(Clone, Debug)]
pub enum Cond {
    /// What the file says in its own language.
    Asks(Box<Condition>),
    /// One of the changed paths fits one of these.
    Changed(Vec<Pattern>),
    /// One of the repository's files fits one of these.
    Exists(Vec<Pattern>),
    /// The branch or the tag of the run fits one of these; nothing that is not of this kind does.
    Named {
        /// Branches or tags.
        of: FilterOf,
        /// Their names.
        patterns: Vec<Pattern>,
    },
    /// All of these hold; without any, it always does.
    All(Vec<Cond>),
    /// One of these holds.
    Any(Vec<Cond>),
    /// This does not hold.
    Not(Box<Cond>),
    /// Something that is not understood stands here.
    Opaque(Place),
}

impl Cond {
    /// What the file says in its own language.
    pub fn asks(condition: Condition) -> Self {
        Self::Asks(Box::new(condition))
    }

    /// It holds whatever happens.
    pub fn always() -> Self {
        Self::All(Vec::new())
    }

    /// What says that all of these hold; nothing where there are none.
    pub fn all_of(conds: impl IntoIterator<Item = Self>) -> Option<Self> {
        let mut all: Vec<Self> = conds.into_iter().collect();
        if all.len() > 1 { Some(Self::All(all)) } else { all.pop() }
    }

    /// Whether it holds whatever happens, as it is written.
    pub fn holds_anyway(&self) -> bool {
        matches!(self, Self::All(all) if all.iter().all(Self::holds_anyway))
    }

    /// Everything in it that is no composition, in the order it is written.
    pub fn leaves(&self) -> Leaves<'_> {
        Leaves { next: Some(self), later: Vec::new() }
    }

    /// What it asks in the file's own language.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        self.leaves().filter_map(|leaf| match leaf {
            Self::Asks(condition) => Some(&**condition),
            _ => None,
        })
    }

    /// What it asks in the file's own language, as far as each of these must hold.
    pub fn demands(&self) -> Box<dyn Iterator<Item = &Condition> + '_> {
        match self {
            Self::Asks(condition) => Box::new(std::iter::once(&**condition)),
            Self::All(inner) => Box::new(inner.iter().flat_map(Self::demands)),
            _ => Box::new(std::iter::empty()),
        }
    }

    /// The first place where it is written.
    pub fn at(&self) -> Option<Place> {
        let first = |patterns: &[Pattern]| patterns.first().map(|pattern| pattern.text.at);
        match self {
            Self::Asks(condition) => Some(condition.text.at),
            Self::Changed(patterns) | Self::Exists(patterns) | Self::Named { patterns, .. } => first(patterns),
            Self::All(inner) | Self::Any(inner) => inner.iter().find_map(Self::at),
            Self::Not(inner) => inner.at(),
            Self::Opaque(place) => Some(*place),
        }
    }
}

/// The parts of a condition that are no composition.
pub struct Leaves<'c> {
    next: Option<&'c Cond>,
    later: Vec<&'c Cond>,
}

impl<'c> Iterator for Leaves<'c> {
    type Item = &'c Cond;

    fn next(&mut self) -> Option<Self::Item> {
        loop {
            match self.next.take().or_else(|| self.later.pop())? {
                Cond::All(inner) | Cond::Any(inner) => {
                    let mut inner = inner.iter();
                    self.next = inner.next();
                    self.later.extend(inner.rev());
                }
                Cond::Not(inner) => self.next = Some(inner),
                leaf => return Some(leaf),
            }
        }
    }
}

/// When a job runs.
#[derive(Clone, Debug)]
pub struct When {
    /// What must hold; nothing where it says nothing, or `choices` does.
    pub cond: Option<Cond>,
    /// When it runs, as a list of which the first that fits decides; without any, `cond` alone does.
    pub choices: Vec<Choice>,
    /// It runs only when someone starts it, or never, whatever else is said.
    pub then: Then,
    /// Where it says that it runs in another way than after success, when it does.
    pub then_at: Option<Place>,
    /// It waits for all jobs of earlier stages, whether they run or not.
    pub by_stage: bool,
    /// It only goes with others: when nothing else runs, the pipeline does not start.
    pub goes_along: bool,
}

impl Default for When {
    fn default() -> Self {
        Self { cond: None, choices: Vec::new(), then: Then::Run, then_at: None, by_stage: false, goes_along: false }
    }
}

impl When {
    /// A condition in the file's own language, and no more.
    pub fn asks(condition: Option<Condition>) -> Self {
        Self { cond: condition.map(Cond::asks), ..Self::default() }
    }

    /// The condition that it is, where it is one in the file's own language and no more.
    pub fn condition(&self) -> Option<&Condition> {
        asked(self.cond.as_ref())
    }

    /// The conditions that decide of it.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        self.cond.iter().flat_map(Cond::conditions).chain(of_choices(&self.choices))
    }
}

/// A condition in the file's own language and no more.
pub(super) fn asked(cond: Option<&Cond>) -> Option<&Condition> {
    match cond {
        Some(Cond::Asks(condition)) => Some(condition),
        _ => None,
    }
}

/// One of several conditions, of which the first that fits decides.
#[derive(Clone, Debug)]
pub struct Choice {
    /// Where it stands.
    pub at: Place,
    /// It fits when this holds.
    pub cond: Cond,
    /// What follows.
    pub then: Then,
    /// Where that is written; nothing where what is usual follows.
    pub then_at: Option<Place>,
    /// Variables that it sets.
    pub variables: Variables,
    /// Its failure does not fail the run.
    pub may_fail: bool,
}

impl Choice {
    /// A choice of which no more is written than what it asks and what follows.
    pub fn new(at: Place, cond: Cond, then: Then) -> Self {
        Self { at, cond, then, then_at: None, variables: Variables::default(), may_fail: false }
    }

    /// What it asks in the file's own language.
    pub fn condition(&self) -> Option<&Condition> {
        self.cond.conditions().next()
    }

    /// It asks whether files are there.
    pub fn asks_for_files(&self) -> bool {
        self.cond.leaves().any(|leaf| matches!(leaf, Cond::Exists(_)))
    }

    /// The changed paths that it asks for.
    pub fn changes(&self) -> Option<&[Pattern]> {
        self.cond.leaves().find_map(|leaf| match leaf {
            Cond::Changed(patterns) => Some(patterns.as_slice()),
            _ => None,
        })
    }
}

/// What follows when something may run.
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

/// The conditions of a list of choices.
pub(super) fn of_choices(choices: &[Choice]) -> impl Iterator<Item = &Condition> {
    choices.iter().flat_map(|choice| choice.cond.conditions())
}
