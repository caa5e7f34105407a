//! Which job comes first, and what waits for what.

pub(in crate::rules) mod absent_environment;
pub(in crate::rules) mod absent_job;
pub(in crate::rules) mod absent_output;
pub(in crate::rules) mod absent_stage;
pub(in crate::rules) mod cut_short;
pub(in crate::rules) mod cycle;
pub(in crate::rules) mod never_reached;
pub(in crate::rules) mod no_checkout;
pub(in crate::rules) mod publishes_after_failure;
pub(in crate::rules) mod races;
pub(in crate::rules) mod repeated_publish;
pub(in crate::rules) mod same_target;
pub(in crate::rules) mod step_too_early;
pub(in crate::rules) mod unbounded;
pub(in crate::rules) mod unordered_use;
pub(in crate::rules) mod untested;
pub(in crate::rules) mod wide_lock;

use crate::case::{Case, Published};
use crate::finding::{Edit, Mend};
use crate::rehearsal::Answer;
use crate::rules::family;
use crate::text::{Place, Span};

pub(in crate::rules) use unordered_use::may_hand_on;

family![
    absent_job,
    absent_stage,
    no_checkout,
    cycle,
    unordered_use,
    absent_output,
    step_too_early,
    untested,
    publishes_after_failure,
    never_reached,
    races,
    cut_short,
    wide_lock,
    repeated_publish,
    same_target,
    unbounded,
    absent_environment,
];

/// Makes a job wait for another: the least edit that fits how it is written.
fn add_need(case: &Case<'_>, job: usize, other: usize) -> Mend {
    let (waiting, name) = (&case.pipeline.jobs[job], case.job_name(other));
    let title = format!("let `{}` wait: add {name} to its needs", waiting.id.value);
    if waiting.needs_unknown || case.pipeline.upstream(other).contains(&job) {
        return Mend::by_hand(title);
    }
    let source = case.sources.get(waiting.body.file);
    let Some(at) = waiting.needs_at else {
        let start = waiting.body.span.start;
        let Some(indent) = indentation(source, start) else { return Mend::by_hand(title) };
        return Mend::certain(title, [insert(waiting.body, start, format!("needs: {name}{indent}"))]);
    };
    let written = source.slice(at.span);
    if let Some(list) = written.strip_suffix(']') {
        let comma = if list.trim_end().ends_with(['[', ',']) { "" } else { ", " };
        return Mend::certain(title, [insert(at, at.span.end - 1, format!("{comma}{name}"))]);
    }
    match waiting.needs.as_slice() {
        [only] if written == only.value => Mend::certain(title, [Edit::replace(at, format!("[{written}, {name}]"))]),
        _ => Mend::by_hand(title),
    }
}

fn insert(at: Place, offset: u32, text: String) -> Edit {
    Edit::replace(Place { file: at.file, span: Span { start: offset, end: offset } }, text)
}

/// The line break and the spaces before a key that is the first thing on its line.
pub(in crate::rules) fn indentation(source: &crate::text::SourceFile, offset: u32) -> Option<String> {
    let before = &source.text[..offset as usize];
    let line = before.rfind('\n').map_or(before, |index| &before[index + 1..]);
    let line_break = if before.ends_with(&format!("\r\n{line}")) { "\r\n" } else { "\n" };
    (!line.is_empty() && line.bytes().all(|byte| byte == b' ')).then(|| format!("{line_break}{line}"))
}

/// Places that are filled file by file: two publishes at once, or one that is cut off, leave a mixture online. Others take a new
/// site whole or not at all.
pub(in crate::rules) fn is_filled_bit_by_bit(target: &str) -> bool {
    matches!(target, "ssh" | "ftp" | "bucket")
}

/// The publish of this pipeline that a push to the default branch, or another event, makes.
fn made_by_some_event<'c>(case: &'c Case<'_>) -> Vec<Published<'c>> {
    let happens = |published: &Published<'_>| {
        published.place.is_some() && case.played().any(|(_, rehearsal)| case.happens(published, rehearsal) > Answer::No)
    };
    case.publishes().into_iter().filter(happens).collect()
}
