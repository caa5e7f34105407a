//! What starts the pipeline.

pub(in crate::rules) mod absent_callee;
pub(in crate::rules) mod absent_upstream;
pub(in crate::rules) mod blind_path;
pub(in crate::rules) mod callee_mismatch;
pub(in crate::rules) mod clashing_filters;
pub(in crate::rules) mod dead_clock;
pub(in crate::rules) mod dead_path;
pub(in crate::rules) mod double_start;
pub(in crate::rules) mod empty_value;
pub(in crate::rules) mod hasty_clock;
pub(in crate::rules) mod r#loop;
pub(in crate::rules) mod never_reached;
pub(in crate::rules) mod publishes_proposals;
pub(in crate::rules) mod runs_strangers_code;
pub(in crate::rules) mod shadowed;
pub(in crate::rules) mod silent;
pub(in crate::rules) mod strangers_text;
pub(in crate::rules) mod stray_filter;
pub(in crate::rules) mod undetected;
pub(in crate::rules) mod unknown_event;
pub(in crate::rules) mod unknown_word;
pub(in crate::rules) mod unpublished;

use crate::case::Case;
use crate::model::Condition;
use crate::project::Read;
use crate::rules::{branch, family, words};

/// Whether a condition reads or compares something that is not there, so that another rule says why it never holds.
pub(in crate::rules) fn names_nothing(case: &Case<'_>, condition: &Condition) -> bool {
    let at = condition.text.at;
    let form = case.prepared.form.iter().any(|issue| at.holds(issue.at));
    let reads = || case.reads.iter().any(|read| matches!(read.read, Read::Gone | Read::Misnamed) && at.holds(read.at));
    let strange = || condition.expression().is_some_and(|expression| words::stand_in(case, &condition.text, expression));
    form || reads() || strange() || branch::absent::waits_for_nobody(case, condition).is_some()
}

family![
    unknown_event,
    silent,
    undetected,
    unknown_word,
    never_reached,
    empty_value,
    shadowed,
    stray_filter,
    clashing_filters,
    dead_clock,
    hasty_clock,
    dead_path,
    blind_path,
    absent_upstream,
    absent_callee,
    callee_mismatch,
    publishes_proposals,
    runs_strangers_code,
    strangers_text,
    r#loop,
    double_start,
    unpublished,
];
