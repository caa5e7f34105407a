//! A pipeline that nothing can start.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, listed};
use crate::model::{Condition, Event, FilterOf, FilterSide, Job, Then};
use crate::rehearsal::{Answer, Rehearsal};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "trigger.silent",
    severity: Severity::Error,
    title: "Nothing can start the pipeline",
    why: "The events are right, and the filters or conditions take all of them back: no push, no tag, no click ever runs a job. \
          Nothing turns red, and the site stays as it is.",
    needs: &[],
    bad: &[
        r"
== pipeline
«on»:
  push:
    ‹branches-ignore›: ['**']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r#"
== gitlab
«workflow»:
  rules:
    - ‹if: $CI_COMMIT_BRANCH == "main" && $CI_COMMIT_TAG›
site:
  script:
    - make
"#,
    ],
    good: &[
        r"
== pipeline
on:
  push:
    branches-ignore: [pages]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== pipeline
on: [push, pull_request]
jobs:
  build:
    if: github.event_name == 'pull_request'
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(outcomes) = case.project.possible_outcomes(case.index).filter(|_| !case.pipeline.jobs.is_empty()) else { return };
    // What a call brings about is looked at with the call.
    if case.pipeline.is_called() {
        return;
    }
    let Some(first) = case.pipeline.triggers.first() else { return };
    // A run that is refused is told of as that.
    if outcomes.iter().any(|(_, played)| played.refused.is_some()) {
        return;
    }
    let key = case.pipeline.triggers_at.unwrap_or(first.name.at);
    let mut reasons: Vec<(Place, String)> = Vec::new();
    if let Some(place) = shut_out(case) {
        reasons.push((place, "this takes every branch out".into()));
        speak(case, key, reasons, out);
        return;
    }
    // Most pipelines run on something, and nothing is put into words for them.
    if outcomes.iter().any(|(_, played)| played.starts.answer != Answer::No && !is_kept_back(case, played)) {
        return;
    }
    let follows_nothing = outcomes.iter().all(|(_, played)| played.starts.answer == Answer::No);
    reasons.extend(branches_followed(case).filter(|_| follows_nothing && case.pipeline.triggers.len() == 1));
    for (occasion, played) in outcomes {
        if played.starts.answer == Answer::No {
            // Filters by name are left to the rules that look at names.
            if !case.pipeline.choices.is_empty() {
                reasons.extend(played.starts.at.map(|place| (place, played.starts.because.to_string())));
            }
            continue;
        }
        let places = played.jobs.iter().filter_map(|verdict| Some((verdict.at?, verdict)));
        reasons.extend(places.map(|(place, verdict)| (place, format!("on {}, {}", occasion.told(), verdict.because))));
    }
    speak(case, key, reasons, out);
}

/// Whether every job is kept from running by something that is written, and by none that says "never".
fn is_kept_back(case: &Case<'_>, played: &Rehearsal) -> bool {
    let mut jobs = case.pipeline.jobs.iter().zip(&played.jobs);
    jobs.all(|(job, verdict)| verdict.answer == Answer::No && verdict.at.is_some() && !is_switched_off(job))
}

/// Whether a condition reads or compares what is not there, which is told of as that.
fn reads_nothing(case: &Case<'_>) -> bool {
    let mut conditions = case.pipeline.conditions().chain(case.pipeline.jobs.iter().flat_map(Job::conditions));
    conditions.any(|condition| super::names_nothing(case, condition))
}

fn speak(case: &Case<'_>, key: Place, mut reasons: Vec<(Place, String)>, out: &mut Findings) {
    reasons.sort_by_key(|(place, _)| *place);
    reasons.dedup_by_key(|(place, _)| *place);
    if reasons.is_empty() || reads_nothing(case) {
        return;
    }
    let finding = out.add(key, "nothing can start a job of this pipeline");
    for (place, reason) in reasons {
        finding.witness(at(place), reason);
    }
    finding.mend(Mend::by_hand("name the event that should run it, or remove what takes it back"));
}

/// The branches that a pipeline follows another one on.
fn branches_followed(case: &Case<'_>) -> impl Iterator<Item = (Place, String)> {
    let follows = case.pipeline.triggers.iter().filter(|trigger| trigger.event == Event::AfterPipeline);
    let filters = follows.flat_map(|trigger| trigger.filters.iter().zip(std::iter::repeat(trigger)));
    filters.filter(|(filter, _)| filter.of == FilterOf::Branches).map(|(filter, trigger)| {
        let names: Vec<&str> = trigger.after.iter().map(|name| name.value.as_str()).collect();
        (filter.key.at, format!("{} never runs on such a branch", listed(&names)))
    })
}

/// Someone wrote "never" in so many words.
fn is_switched_off(job: &Job) -> bool {
    let literal = job.condition().is_some_and(Condition::is_switched_off);
    literal
        || job.when.then == Then::Never
        || job.when.choices.iter().all(|choice| choice.then == Then::Never) && !job.when.choices.is_empty()
}

/// A filter that leaves out whatever there is.
fn shut_out(case: &Case<'_>) -> Option<Place> {
    let [only] = case.pipeline.triggers.as_slice() else { return None };
    let filter = only.filter(FilterOf::Branches, FilterSide::Exclude)?;
    let all = filter.patterns.iter().any(|pattern| pattern.text.known() == Some("**"));
    (all && only.filters.iter().all(|filter| filter.of != FilterOf::Tags)).then_some(filter.key.at)
}
