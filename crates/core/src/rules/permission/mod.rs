//! What a job's token may do.

pub(in crate::rules) mod bad_level;
pub(in crate::rules) mod borrowed_token;
pub(in crate::rules) mod callee_needs_more;
pub(in crate::rules) mod kept_credential;
pub(in crate::rules) mod no_credential;
pub(in crate::rules) mod no_identity;
pub(in crate::rules) mod strangers;
pub(in crate::rules) mod too_narrow;
pub(in crate::rules) mod too_wide;
pub(in crate::rules) mod unknown_scope;
pub(in crate::rules) mod unstated;

use crate::model::{GrantKind, Level, Step, Text, Variables, Work};
use crate::project::Read;
use std::collections::BTreeMap;

use crate::case::Case;
use crate::knowledge;
use crate::rules::family;

family![
    too_narrow,
    too_wide,
    unstated,
    unknown_scope,
    bad_level,
    callee_needs_more,
    borrowed_token,
    strangers,
    kept_credential,
    no_identity,
    no_credential,
];

/// The key or token that a checkout leaves for later pushes, when it is another one than the job's own token.
pub(in crate::rules) fn has_own_credential(step: &Step) -> Option<&Text> {
    let Work::Uses { inputs, .. } = &step.work else { return None };
    let names = &knowledge::names().lists.credential_inputs;
    names.iter().filter_map(|name| inputs.get(name)).find(|text| crate::effects::own_token(text) != Some(true))
}

/// Whether git may have another credential than the job's own token when a step begins, or in it: one of a checkout, or one that a
/// script sets up.
pub(in crate::rules) fn may_have_other_credential(case: &Case<'_>, job: usize, step: usize) -> bool {
    let steps = &case.pipeline.jobs[job].steps;
    steps.iter().take(step + 1).any(|step| has_own_credential(step).is_some() || sets_credential(case, job, step))
}

fn sets_credential(case: &Case<'_>, job: usize, step: &Step) -> bool {
    let gives = |text: &str| knowledge::commands().gives_git_a_credential(text);
    let layers = [&step.variables, &case.pipeline.jobs[job].variables, &case.pipeline.variables];
    let by_variable = layers.iter().flat_map(|layer| &layer.entries).any(|(name, _)| gives(&name.value));
    let Work::Runs { script, .. } = &step.work else { return by_variable };
    let mut from = 0;
    by_variable
        || script.value.split_inclusive('\n').any(|line| {
            let range = from..from + line.len();
            from = range.end;
            gives(line) && !reads_own_token(case, &layers, script, &range)
        })
}

/// Whether a part of a script reads the job's own token, by itself or by a variable that is nothing else.
fn reads_own_token(case: &Case<'_>, layers: &[&Variables], script: &Text, part: &std::ops::Range<usize>) -> bool {
    let is_it = |text: &Text| case.reads_of(text).iter().any(|read| read.read == Read::OwnToken && read.is_all_of(text));
    let direct = case.reads_of(script).iter().any(|read| read.read == Read::OwnToken && part.contains(&read.range.start));
    let by_variable = || {
        let names = crate::shell::variable_reads(&script.value[part.clone()], true).into_iter().map(|(name, _)| name);
        names.filter_map(|name| layers.iter().find_map(|layer| layer.get(name))).any(is_it)
    };
    direct || by_variable()
}

/// What a block grants for a scope; nothing when it is only known when it runs.
fn level_of(kind: &GrantKind, scope: &str) -> Option<Level> {
    match kind {
        GrantKind::All(level) => Some(*level),
        GrantKind::Scopes(scopes) => match scopes.iter().find(|(name, _)| name.value == scope) {
            Some((_, text)) => Level::of(text.known()?),
            None => Some(Level::None),
        },
        GrantKind::Unknown => None,
    }
}

/// What the steps of a job need of its token.
struct Needs<'c> {
    /// What they surely need.
    surely: BTreeMap<&'c str, Level>,
    /// Scopes that they may need beside.
    perhaps: Vec<&'c str>,
}

/// What the steps of a job need of its token; nothing when a step may need anything.
fn needs_of<'c>(case: &'c Case<'_>, job: usize) -> Option<Needs<'c>> {
    let of_job = &case.pipeline.jobs[job];
    if of_job.call.is_some() || of_job.steps.is_empty() {
        return None;
    }
    let mut needs = Needs { surely: BTreeMap::new(), perhaps: Vec::new() };
    for (number, (step, effects)) in of_job.steps.iter().zip(&case.effects.jobs[job]).enumerate() {
        let unknown = effects.may_do_anything();
        let is_script = matches!(step.work, Work::Runs { .. });
        if (unknown && !is_script) || !is_plain(case, (job, number), step) {
            return None;
        }
        // It is not known yet which token the forge's command line will be given.
        if effects.wants.iter().any(|wanted| wanted.variables == knowledge::commands().forge_cli.tokens)
            && effects.grants.is_empty()
        {
            return None;
        }
        if unknown {
            needs.perhaps.extend(WITHOUT_TOKEN);
        }
        for grant in &effects.grants {
            let level = needs.surely.entry(&grant.scope).or_insert(grant.level);
            *level = (*level).max(grant.level);
            needs.perhaps.extend(grant.or.iter().map(String::as_str));
        }
    }
    Some(needs)
}

/// What a command can use that is not given the token: git's kept credential, and an identity that is asked for by the run's variables.
/// Source: the pages "Workflow syntax", `permissions`, and "OpenID Connect", 2026-11.
const WITHOUT_TOKEN: [&str; 2] = ["contents", "id-token"];

/// Whether all that a step does with the token is in the catalog: a script that is given the token may do anything with it, and so
/// may an action whose manual is not known whole.
fn is_plain(case: &Case<'_>, (job, number): (usize, usize), step: &Step) -> bool {
    let by_name = |text: &Text| case.pipeline.customs.own_tokens.iter().any(|name| text.value.contains(name));
    let takes_token = |text: &Text| by_name(text) || case.reads_of(text).iter().any(|read| read.read == Read::OwnToken);
    match &step.work {
        Work::Runs { script, .. } => !takes_token(script) && !step.variables.entries.iter().any(|(_, value)| takes_token(value)),
        Work::Uses { .. } => {
            case.action_of(job, number).is_some_and(|known| !known.complete_for.is_empty())
                && !step.variables.entries.iter().any(|(_, value)| takes_token(value))
        }
        Work::RunsImage { .. } | Work::ByItself(_) | Work::Gate | Work::Unclear | Work::Nothing => true,
    }
}
