//! What has gone stale since the example was written.

pub(in crate::rules) mod absent_runtime;
pub(in crate::rules) mod ageing_key;
pub(in crate::rules) mod gone_command;
pub(in crate::rules) mod gone_variable;
pub(in crate::rules) mod missing_input;
pub(in crate::rules) mod misspelt;
pub(in crate::rules) mod moving;
pub(in crate::rules) mod no_such_version;
pub(in crate::rules) mod old_system;
pub(in crate::rules) mod retired_action;
pub(in crate::rules) mod retired_command;
pub(in crate::rules) mod retired_input;
pub(in crate::rules) mod retired_runner;
pub(in crate::rules) mod retired_runtime;
pub(in crate::rules) mod unknown_input;
pub(in crate::rules) mod untagged_image;

use crate::case::{Case, Use};
use crate::knowledge::Action;
use crate::rules::family;

family![
    moving,
    retired_action,
    retired_runner,
    retired_runtime,
    absent_runtime,
    retired_command,
    gone_variable,
    ageing_key,
    misspelt,
    unknown_input,
    missing_input,
    retired_input,
    gone_command,
    no_such_version,
    old_system,
    untagged_image,
];

/// The steps with actions of which the inputs are known: a version that came out after the catalog was looked at may take others.
pub(in crate::rules) fn uses_with_known_inputs<'c, 'a>(
    case: &'c Case<'a>,
) -> impl Iterator<Item = (&'c Use<'a>, &'static Action)> {
    case.known_uses().filter(|(used, action)| !action.is_newer_than_known(used.version))
}
