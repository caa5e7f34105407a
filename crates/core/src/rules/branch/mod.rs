//! Branches and tags that the pipeline names.

pub(in crate::rules) mod absent;
pub(in crate::rules) mod all_go_live;
pub(in crate::rules) mod bare_compare;
pub(in crate::rules) mod cancelled;
pub(in crate::rules) mod fits_none;
mod in_scripts;
pub(in crate::rules) mod never_matches;
pub(in crate::rules) mod no_landing;
pub(in crate::rules) mod only_in_fork;
pub(in crate::rules) mod other_remote;
pub(in crate::rules) mod own_sources;
pub(in crate::rules) mod refused;
pub(in crate::rules) mod trial_goes_live;
pub(in crate::rules) mod wrong_case;

use crate::case::Case;
use crate::model::{Event, FilterOf, FilterSide};
use crate::rules::family;

family![
    absent,
    never_matches,
    fits_none,
    cancelled,
    bare_compare,
    wrong_case,
    refused,
    no_landing,
    only_in_fork,
    other_remote,
    trial_goes_live,
    all_go_live,
    own_sources
];

/// Whether every push filter of the pipeline lists only branches that do not exist: other rules of this family say so.
pub(in crate::rules) fn waits_for_nothing(case: &Case<'_>) -> bool {
    let Some(branches) = case.facts.git.branches.known() else { return false };
    let mut pushes = case.pipeline.triggers.iter().filter(|trigger| trigger.event == Event::Push).peekable();
    let absent = |name: &str| !branches.iter().any(|branch| branch == name);
    pushes.peek().is_some()
        && pushes.all(|trigger| {
            trigger.filter(FilterOf::Branches, FilterSide::Include).is_some_and(|filter| {
                filter.patterns.iter().all(|pattern| {
                    pattern.literal().is_some_and(absent) || never_matches::oddity(pattern, case.pipeline.customs).is_some()
                })
            })
        })
}
