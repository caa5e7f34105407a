//! Which job comes first, and what waits for what.

pub(in crate::rules) mod absent_environment;
pub(in crate::rules) mod absent_job;
pub(in crate::rules) mod absent_output;
pub(in crate::rules) mod absent_stage;
mod beside;
pub(in crate::rules) mod cut_short;
pub(in crate::rules) mod cycle;
pub(in crate::rules) mod held_machine;
pub(in crate::rules) mod image_not_pushed;
pub(in crate::rules) mod late_approval;
pub(in crate::rules) mod left_out_need;
mod made;
pub(in crate::rules) mod no_agent;
pub(in crate::rules) mod no_checkout;
pub(in crate::rules) mod own_lock;
pub(in crate::rules) mod publishes_after_failure;
pub(in crate::rules) mod races;
pub(in crate::rules) mod repeated_publish;
pub(in crate::rules) mod same_target;
pub(in crate::rules) mod step_too_early;
pub(in crate::rules) mod unbounded;
pub(in crate::rules) mod unknown_result;
pub(in crate::rules) mod unordered_use;
pub(in crate::rules) mod untested;
pub(in crate::rules) mod wide_lock;

use crate::case::{Case, Published};
use crate::rehearsal::Answer;
use crate::rules::family;

pub(in crate::rules) use unordered_use::may_hand_on;

family![
    absent_job,
    absent_stage,
    left_out_need,
    no_checkout,
    no_agent,
    held_machine,
    cycle,
    unknown_result,
    unordered_use,
    absent_output,
    step_too_early,
    untested,
    late_approval,
    image_not_pushed,
    publishes_after_failure,
    own_lock,
    races,
    cut_short,
    wide_lock,
    repeated_publish,
    same_target,
    unbounded,
    absent_environment,
];

/// The publish of this pipeline that a push to the default branch, or another event, makes.
fn made_by_some_event<'c>(case: &'c Case<'_>) -> Vec<Published<'c>> {
    let happens = |published: &Published<'_>| {
        published.place.is_some() && case.played().any(|(_, rehearsal)| case.happens(published, rehearsal) > Answer::No)
    };
    case.published().filter(happens).collect()
}
