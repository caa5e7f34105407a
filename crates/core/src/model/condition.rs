//! When something runs.

use super::{Pattern, Text, Variables};
use crate::expression::{Expr, ExprKind, Operator};
use crate::text::Place;

/// A condition as it is written.
#[derive(Clone, Debug)]
pub struct Condition {
    /// The text, holes included.
    pub text: Text,
    pub(super) expression: Option<Expr>,
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

/// The conditions of a list of choices.
pub(super) fn of_choices(choices: &[Choice]) -> impl Iterator<Item = &Condition> {
    choices.iter().filter_map(|choice| choice.condition.as_ref())
}
