//! What starts the pipeline.

pub(in crate::rules) mod absent_callee;
pub(in crate::rules) mod absent_upstream;
pub(in crate::rules) mod blind_path;
pub(in crate::rules) mod callee_mismatch;
pub(in crate::rules) mod clashing_filters;
pub(in crate::rules) mod dead_clock;
pub(in crate::rules) mod dead_path;
pub(in crate::rules) mod double_start;
pub(in crate::rules) mod hasty_clock;
pub(in crate::rules) mod r#loop;
pub(in crate::rules) mod never_reached;
pub(in crate::rules) mod publishes_proposals;
pub(in crate::rules) mod runs_strangers_code;
pub(in crate::rules) mod shadowed;
pub(in crate::rules) mod silent;
pub(in crate::rules) mod strangers_text;
pub(in crate::rules) mod stray_filter;
pub(in crate::rules) mod unknown_event;
pub(in crate::rules) mod unpublished;

use crate::rules::family;

family![
    unknown_event,
    silent,
    never_reached,
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
