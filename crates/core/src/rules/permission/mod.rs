//! What a job's token may do.

use crate::model::{Step, Text, Work};
use crate::rules::family;

family![too_narrow];

/// The key or token that a checkout leaves for later pushes, when it is another one than the job's own token.
pub(in crate::rules) fn has_own_credential(step: &Step) -> Option<&Text> {
    let Work::Uses { inputs, .. } = &step.work else { return None };
    ["token", "ssh-key", "ssh-private-key", "deploy_key", "app-id"]
        .iter()
        .filter_map(|name| inputs.get(name))
        .find(|text| crate::effects::own_token(text) != Some(true))
}
