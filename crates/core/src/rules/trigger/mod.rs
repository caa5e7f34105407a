//! What starts the pipeline.

use crate::rules::family;

family![
    unknown_event,
    silent,
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
