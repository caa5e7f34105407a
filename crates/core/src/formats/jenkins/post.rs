//! `post`: what runs behind a stage or the whole, by how it has ended.
//!
//! After the page "Pipeline syntax", post, 2026-11: the conditions run in an order of their own, whatever order they are written in.

use super::language::Block;
use super::steps::{self, Around};
use crate::model::{Cond, Outcome, Step};

/// All conditions in the order in which they run, with what each asks of the end.
const ORDER: [(&str, Outcome, bool); 10] = [
    ("always", Outcome::Any, true),
    ("changed", Outcome::Any, false),
    ("fixed", Outcome::Success, false),
    ("regression", Outcome::Failure, true),
    ("aborted", Outcome::Failure, true),
    ("failure", Outcome::Failure, true),
    ("success", Outcome::Success, true),
    ("unstable", Outcome::Failure, true),
    ("unsuccessful", Outcome::Failure, true),
    ("cleanup", Outcome::Any, true),
];

/// The steps of the block, `first` being the first step of the job whose failure it looks at.
pub(super) fn steps(block: &Block, around: &Around<'_>, first: usize) -> Vec<Step> {
    let mut found = Vec::new();
    for (name, after, sure) in ORDER {
        let Some(statement) = block.get(name) else { continue };
        let Some(body) = &statement.block else { continue };
        let said = around.words.at(&statement.name_at);
        for mut step in steps::steps(body, around) {
            step.after = after;
            step.after_at = (after != Outcome::Success).then_some(said);
            step.survives_from = if after == Outcome::Any { first } else { 0 };
            if !sure {
                step.when = Cond::all_of(step.when.take().into_iter().chain([Cond::Opaque(said)]));
            }
            found.push(step);
        }
    }
    found
}
