//! Secrets and variables that the pipeline reads.

pub(in crate::rules) mod bad_name;
pub(in crate::rules) mod handed_whole;
pub(in crate::rules) mod missing;
pub(in crate::rules) mod misspelt;
pub(in crate::rules) mod not_secret;
pub(in crate::rules) mod out_of_reach;
pub(in crate::rules) mod plain;
pub(in crate::rules) mod printed;
pub(in crate::rules) mod published;
pub(in crate::rules) mod to_strangers;
pub(in crate::rules) mod too_broad;
pub(in crate::rules) mod undeclared;
pub(in crate::rules) mod unset_variable;
pub(in crate::rules) mod wrong_step;

use crate::case::Case;
use crate::model::{Step, Text, Work};
use crate::rules::family;

family![
    undeclared,
    misspelt,
    out_of_reach,
    wrong_step,
    missing,
    plain,
    printed,
    published,
    to_strangers,
    too_broad,
    not_secret,
    bad_name,
    handed_whole,
    unset_variable,
];

/// What a step is given and runs.
fn texts_of(step: &Step) -> Vec<&Text> {
    let mut texts: Vec<&Text> = step.variables.entries.iter().map(|(_, value)| value).collect();
    texts.extend(step.condition.iter().map(|condition| &condition.text));
    match &step.work {
        Work::Uses { inputs, .. } => texts.extend(inputs.entries.iter().map(|(_, value)| value)),
        Work::Runs { script, .. } => texts.push(script),
        Work::Given(_) | Work::Unclear | Work::Nothing => {}
    }
    texts
}

/// Whether a text reads a variable by its name: `$NAME`, `${NAME`, `%NAME%`, `$env:NAME`, `env.NAME`.
fn reads_variable(text: &str, name: &str) -> bool {
    text.match_indices(name).any(|(index, _)| {
        let ends = !text[index + name.len()..].starts_with(|c: char| c.is_ascii_alphanumeric() || c == '_');
        let before = &text[..index];
        ends && ["$", "${", "%", "$env:", "env.", "vars.", "ENV[\"", "environ[\""].iter().any(|start| before.ends_with(start))
    })
}

/// Variables may come from elsewhere than the file: a step writes them for those after it, or the forge sets them.
fn may_come_from_elsewhere(case: &Case<'_>, job: usize) -> bool {
    let job = &case.pipeline.jobs[job];
    let writes = |step: &Step| texts_of(step).iter().any(|text| text.value.contains("GITHUB_ENV"));
    case.pipeline.open_variables && !case.facts.settings.forge.is_whole()
        || case.pipeline.partial
        || job.variables_from_others
        || job.variables.open
        || case.pipeline.variables.open
        || job.steps.iter().any(|step| step.variables.open || writes(step))
}
