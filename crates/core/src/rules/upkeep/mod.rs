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

use crate::case::Case;
use crate::effects::UsedAction;
use crate::knowledge::Action;
use crate::model::{Text, Variables, Work};
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

/// A step that takes an action which the catalog knows.
pub(in crate::rules) struct KnownUse<'c> {
    pub written: &'c Text,
    pub inputs: &'c Variables,
    pub action: &'static Action,
    pub version: Option<&'c str>,
}

/// All of them, with the job they stand in.
pub(in crate::rules) fn known_uses<'c>(case: &Case<'c>) -> Vec<(usize, KnownUse<'c>)> {
    let mut found = Vec::new();
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        for step in &job.steps {
            let Work::Uses { action: written, inputs, .. } = &step.work else { continue };
            let Some(used) = UsedAction::of(&written.value) else { continue };
            let Some(action) = used.action() else { continue };
            found.push((index, KnownUse { written, inputs, action, version: used.version }));
        }
    }
    found
}

/// Those of which the inputs are known: a version that came out after the catalog was looked at may take others.
pub(in crate::rules) fn uses_with_known_inputs<'c>(case: &Case<'c>) -> Vec<(usize, KnownUse<'c>)> {
    let mut uses = known_uses(case);
    uses.retain(|(_, used)| !used.action.is_newer_than_known(used.version));
    uses
}
