//! Secrets and variables that the pipeline reads.

pub(in crate::rules) mod bad_name;
pub(in crate::rules) mod dumped;
pub(in crate::rules) mod filled_early;
pub(in crate::rules) mod handed_whole;
pub(in crate::rules) mod misnamed;
pub(in crate::rules) mod missing;
pub(in crate::rules) mod misspelt;
pub(in crate::rules) mod no_key;
pub(in crate::rules) mod not_asked_for;
pub(in crate::rules) mod not_filled_in;
pub(in crate::rules) mod not_secret;
pub(in crate::rules) mod out_of_reach;
pub(in crate::rules) mod plain;
pub(in crate::rules) mod printed;
pub(in crate::rules) mod published;
pub(in crate::rules) mod to_strangers;
pub(in crate::rules) mod too_broad;
pub(in crate::rules) mod undeclared;
pub(in crate::rules) mod unfetched;
pub(in crate::rules) mod unset_variable;
pub(in crate::rules) mod wrong_step;

use crate::case::Case;
use crate::effects::{Effect, StepEffects, UploadPath, WantedCredential};
use crate::facts::Reach;
use crate::knowledge;
use crate::model::{Credential, Step, Text, Work};
use crate::rules::family;
use crate::text::Place;

family![
    undeclared,
    misnamed,
    misspelt,
    out_of_reach,
    wrong_step,
    missing,
    unfetched,
    not_asked_for,
    not_filled_in,
    filled_early,
    plain,
    printed,
    dumped,
    published,
    to_strangers,
    too_broad,
    not_secret,
    bad_name,
    handed_whole,
    unset_variable,
    no_key,
];

/// What a step is given and runs.
fn texts_of(step: &Step) -> impl Iterator<Item = &Text> {
    let values = step.variables.entries.iter().map(|(_, value)| value);
    values.chain(step.conditions().map(|condition| &condition.text)).chain(step.work.texts())
}

/// Whether a text reads a variable by its name: `$NAME`, `${NAME`, `%NAME%`, `$env:NAME`, `env.NAME`.
fn reads_variable(text: &str, name: &str) -> bool {
    text.match_indices(name).any(|(index, _)| {
        let ends = !text[index + name.len()..].starts_with(|c: char| c.is_ascii_alphanumeric() || c == '_');
        let before = &text[..index];
        ends && knowledge::names().lists.variable_reads.iter().any(|start| before.ends_with(start))
    })
}

/// The first words of all names that a text may read as variables: what [`reads_variable`] says yes to is among them with its own.
fn words_read(text: &str) -> impl Iterator<Item = &str> {
    let starts = &knowledge::names().lists.variable_reads;
    starts.iter().flat_map(move |start| text.match_indices(start).map(move |(index, _)| first_word(&text[index + start.len()..])))
}

/// The letters, digits and underscores at the beginning.
fn first_word(text: &str) -> &str {
    &text[..text.find(|c: char| !c.is_ascii_alphanumeric() && c != '_').unwrap_or(text.len())]
}

/// Variables of any name may come from elsewhere than the file: the forge sets them, or a part of it is not known.
fn may_come_from_elsewhere(case: &Case<'_>, job: usize) -> bool {
    case.pipeline.customs.variables_of_forge && !case.facts.settings.forge.is_whole() || part_is_unknown(case, job)
}

/// Some of what is set for a job is written elsewhere, or not to be read.
fn part_is_unknown(case: &Case<'_>, job: usize) -> bool {
    let job = &case.pipeline.jobs[job];
    case.pipeline.partial
        || job.variables_from_others
        || job.variables.open
        || case.pipeline.variables.open
        || job.steps.iter().any(|step| step.variables.open)
}

/// Whether a step of a job sets a variable for those after it, or may: by a line whose name is known, or in another way.
fn may_be_announced(case: &Case<'_>, job: usize, name: &str) -> bool {
    let files = &case.pipeline.customs.variable_files;
    let mentions = |step: &Step| -> usize {
        let count = |text: &Text| files.iter().map(|file| text.value.matches(file).count()).sum::<usize>();
        texts_of(step).map(count).sum()
    };
    case.pipeline.jobs[job].steps.iter().zip(&case.effects.jobs[job]).any(|(step, effects)| {
        mentions(step) > effects.announced.len()
            || effects.announced.iter().any(|one| one.as_deref().is_none_or(|one| one == name))
    })
}

/// What a step that the format does by itself signs in with.
fn signs_in_with(step: &Step) -> &[Credential] {
    match &step.work {
        crate::model::Work::ByItself(own) => &own.credentials,
        _ => &[],
    }
}

/// What publishers want and nobody gives them: job, step, and the credential.
fn lacking<'c>(case: &'c Case<'_>) -> Vec<(usize, usize, &'c WantedCredential)> {
    let mut found = Vec::new();
    for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
        if case.pipeline.is_part || part_is_unknown(case, job) {
            continue;
        }
        let forge = &case.facts.settings.forge;
        let by_forge = case.pipeline.customs.variables_of_forge;
        let unknown = |step: usize| case.effects.jobs[job].iter().take(step).any(StepEffects::may_do_anything);
        for (step, effects) in case.effects.jobs[job].iter().enumerate() {
            for wanted in &effects.wants {
                // A credential stands among the secrets; what a program of the repository reads may be any variable.
                let declared = if wanted.read_at.is_none() { forge.secrets.is_some() } else { forge.is_whole() };
                if by_forge && !declared {
                    continue;
                }
                let layers = case.layers(job, step);
                let given = wanted.variables.iter().any(|name| {
                    layers.iter().any(|layer| layer.get(name).is_some())
                        || of_job.is_handed(name)
                        || assigned(&of_job.steps[step], name)
                        || case.is_held_for(job, name)
                        || signed_in_before(case, job, step, name)
                        || may_be_announced(case, job, name)
                });
                let is_command = matches!(of_job.steps[step].work, crate::model::Work::Runs { .. });
                let by_other_means = match wanted.read_at {
                    Some(_) => may_set_variables(case, job, step),
                    None => is_command && unknown(step),
                };
                if !given && !by_other_means {
                    found.push((job, step, wanted));
                }
            }
        }
    }
    found
}

/// Whether a step up to this one signs in by other means, with an action that leaves the variable, or a command that names it.
fn signed_in_before(case: &Case<'_>, job: usize, step: usize, name: &str) -> bool {
    let lower = name.to_ascii_lowercase();
    case.pipeline.jobs[job].steps.iter().take(step + 1).any(|step| match &step.work {
        Work::Uses { action, .. } => {
            // What an action of the repository leaves behind is not looked into here.
            let Some(used) = crate::effects::UsedAction::of(&action.value) else { return true };
            used.action().is_some_and(|known| known.gives.contains(&name))
        }
        Work::Runs { script, .. } => script.value.to_ascii_lowercase().contains(&format!("set {lower}")),
        _ => false,
    })
}

/// Whether a step before may set variables for those after it: an action that is not known or does nothing else that is, or a program
/// that knows the file by which it is done.
fn may_set_variables(case: &Case<'_>, job: usize, step: usize) -> bool {
    let files = &case.pipeline.customs.variable_files;
    let steps = case.pipeline.jobs[job].steps.iter().zip(&case.effects.jobs[job]).take(step);
    steps.into_iter().any(|(step, effects)| {
        let is_action = matches!(step.work, Work::Uses { .. });
        effects.effects.iter().any(|effect| match &effect.effect {
            Effect::Unknown(Reach::Anything) | Effect::Nothing => is_action,
            Effect::Unknown(reach) => files.iter().any(|file| reach.knows(file)),
            _ => false,
        })
    })
}

/// `NAME=value command`, or `export NAME=value`, in the script itself.
fn assigned(step: &crate::model::Step, name: &str) -> bool {
    matches!(&step.work, crate::model::Work::Runs { script, .. } if script.value.contains(&format!("{name}=")))
}

/// Another step of the job that is given one of these variables.
fn given_elsewhere<'c>(case: &'c Case<'_>, job: usize, step: usize, names: &[String]) -> Option<(&'c str, Place)> {
    let others = case.pipeline.jobs[job].steps.iter().enumerate().filter(|(number, _)| *number != step);
    others
        .flat_map(|(_, other)| &other.variables.entries)
        .find_map(|(name, _)| names.contains(&name.value).then_some((name.value.as_str(), name.at)))
}

/// The folders that a job puts online or hands on to go online, from a step on, and where it does; not the whole workspace.
fn put_online<'c>(case: &'c Case<'_>, job: usize, step: usize) -> impl Iterator<Item = (&'c str, Place)> {
    case.effects.of_job(job).filter(move |(number, _)| *number >= step).flat_map(|(_, effect)| {
        let paths: &[UploadPath] = match &effect.effect {
            Effect::Publish { folder: Some(folder), .. } => std::slice::from_ref(folder),
            Effect::Upload { paths, goes_online: true, .. } => paths,
            _ => &[],
        };
        paths
            .iter()
            .filter_map(|path| path.folder.as_deref())
            .filter(|folder| !folder.is_empty())
            .map(|folder| (folder, effect.at))
    })
}
