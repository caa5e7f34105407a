//! The site itself: scripts, lockfile, configuration.

pub(in crate::rules) mod absent_folder;
pub(in crate::rules) mod absent_front_page;
pub(in crate::rules) mod absent_lockfile;
pub(in crate::rules) mod absent_package;
pub(in crate::rules) mod absent_script;
pub(in crate::rules) mod absent_server;
pub(in crate::rules) mod base_path;
pub(in crate::rules) mod closed_bucket;
pub(in crate::rules) mod localhost;
pub(in crate::rules) mod lost_domain;
pub(in crate::rules) mod needs_server;
pub(in crate::rules) mod no_dev_tools;
pub(in crate::rules) mod no_fallback;
pub(in crate::rules) mod no_index;
pub(in crate::rules) mod no_install;
pub(in crate::rules) mod no_manager;
pub(in crate::rules) mod no_program;
pub(in crate::rules) mod no_server;
pub(in crate::rules) mod no_submodules;
pub(in crate::rules) mod not_executable;
pub(in crate::rules) mod other_folder;
pub(in crate::rules) mod other_manager;
pub(in crate::rules) mod other_preset;
pub(in crate::rules) mod other_target;
pub(in crate::rules) mod outside_files;
pub(in crate::rules) mod runtime_mismatch;
pub(in crate::rules) mod sample_address;
pub(in crate::rules) mod shallow_history;
pub(in crate::rules) mod stale_lockfile;
pub(in crate::rules) mod underscore;
pub(in crate::rules) mod unreadable;

use crate::case::{Case, Published};
use crate::effects::{Effect, Serving};
use crate::rehearsal::Answer;
use crate::rules::family;
use crate::text::{Place, Span};

family![
    absent_package,
    absent_script,
    absent_lockfile,
    unreadable,
    stale_lockfile,
    other_manager,
    no_manager,
    no_install,
    runtime_mismatch,
    absent_folder,
    no_submodules,
    base_path,
    no_fallback,
    no_index,
    absent_front_page,
    closed_bucket,
    lost_domain,
    underscore,
    other_folder,
    needs_server,
    no_server,
    localhost,
    shallow_history,
    no_dev_tools,
    other_target,
    no_program,
    sample_address,
    other_preset,
    outside_files,
    not_executable,
    absent_server,
];

/// The publish that a build's site surely or maybe goes online by: in the same job, or in one that waits for it.
fn publish_of<'c>(case: &'c Case<'_>, job: usize) -> Option<Published<'c>> {
    let waits = |other: usize| !case.pipeline.jobs[other].needs.is_empty() && case.pipeline.waits_for(other, job);
    let reaches = |published: &Published<'_>| published.job == job || waits(published.job);
    let goes = |published: &Published<'_>| {
        published.place.is_some()
            && (case.pipeline.is_called() || case.played().any(|(_, rehearsal)| case.happens(published, rehearsal) > Answer::No))
    };
    case.published().find(|published| reaches(published) && goes(published))
}

/// What is said of the place that a publish goes to.
fn serving_of(published: &Published<'_>) -> Option<Serving> {
    match &published.effect.effect {
        Effect::Publish { serving, .. } => serving.as_deref().copied(),
        _ => None,
    }
}

/// Whether an action tells the generator by itself under which path the site is served.
fn tells_generator(case: &Case<'_>) -> bool {
    case.known_uses().any(|(used, known)| known.base_input.is_some_and(|input| used.inputs.get(input).is_some()))
}

/// Whether the site has a domain of its own, as far as files tell.
fn has_own_domain(case: &Case<'_>) -> bool {
    let tracked = case.facts.files.known().is_some_and(|files| files.named("CNAME").next().is_some());
    let told = case.texts().iter().any(|(_, text)| text.value.contains("CNAME") || text.value.contains("cname"));
    let input = case.pipeline.jobs.iter().flat_map(|job| &job.steps).any(|step| match &step.work {
        crate::model::Work::Uses { inputs, .. } => inputs
            .entries
            .iter()
            .any(|(name, _)| name.value.eq_ignore_ascii_case("cname") || name.value.eq_ignore_ascii_case("fqdn")),
        _ => false,
    });
    let writes = case
        .all_effects()
        .any(|(_, _, effect)| matches!(&effect.effect, Effect::Write { path: Some(path) } if path.ends_with("CNAME")));
    tracked || told || input || writes
}

/// The one place in a command where a word stands by itself: between spaces, or these other characters.
fn word_in(case: &Case<'_>, command: Place, word: &str, beside: &[char]) -> Option<Place> {
    let text = case.sources.slice(command);
    let ends = |c: char| c.is_whitespace() || beside.contains(&c);
    let mut places = text.match_indices(word).filter(|(index, _)| {
        let before = text[..*index].chars().next_back();
        let after = text[index + word.len()..].chars().next();
        before.is_none_or(ends) && after.is_none_or(ends)
    });
    let (index, _) = places.next()?;
    let start = command.span.start + u32::try_from(index).ok()?;
    let span = Span { start, end: start + u32::try_from(word.len()).ok()? };
    places.next().is_none().then_some(Place { file: command.file, span })
}
