//! A value that no event of the file fills.

use std::collections::BTreeSet;
use std::sync::Arc;

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::project::{Read, ReadAt, ReadIn};
use crate::rehearsal::{Answer, Occasion, Rehearsal, Value, value_of};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "trigger.empty-value",
    severity: Severity::Warning,
    title: "A value is read that no event of this file fills",
    why: "Some values exist only on some events: the number of a pull request, the name of a tag. On all others they are empty, \
          without an error: a folder loses its name, a version its number, and the site goes where it should not.",
    needs: &[],
    bad: &[
        r"
== pipeline
‹on›: push
jobs:
  publish:
    runs-on: ubuntu-latest
    env:
      VERSION: ${{ «github.event.release.tag_name» }}
    steps:
      - run: npx gh-pages -d public
",
        r#"
== git
main default
== gitlab
‹pages›:
  script:
    - mv dist public/$«CI_MERGE_REQUEST_IID»
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
    ],
    good: &[
        r"
== pipeline
on: [push, release]
concurrency: pr-${{ github.event.pull_request.number }}
jobs:
  publish:
    runs-on: ubuntu-latest
    env:
      VERSION: ${{ github.event.release.tag_name }}
      NUMBER: ${{ github.event.pull_request.number || github.run_number }}
    steps:
      - uses: actions/checkout@v5
        with:
          ref: ${{ github.head_ref }}
      - run: npx gh-pages -d public
",
        r#"
== git
main default
== gitlab
pages:
  script:
    - if [ -n "$CI_MERGE_REQUEST_IID" ]; then mv dist public/$CI_MERGE_REQUEST_IID; fi
    - echo ${CI_COMMIT_TAG:-latest}
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if !case.pipeline.stands_alone() {
        return;
    }
    let mut reads = case
        .reads
        .iter()
        .filter(|read| read.plain && read.within != ReadIn::Condition && matches!(read.read, Read::Run(_)))
        .peekable();
    if reads.peek().is_none() {
        return;
    }
    let Some(played) = case.project.possible_outcomes(case.index) else { return };
    let Some(on) = case.pipeline.started_at() else { return };
    let free = free_texts(case);
    let may_be_empty = |read: &ReadAt| free.contains(&read.text_at) || read.within == ReadIn::Script && asks_first(case, read);
    for read in reads {
        // What stands above all jobs is read by each of them.
        let job = read.job.unwrap_or_default();
        let runs = |(_, rehearsal): &&(Occasion, Arc<Rehearsal>)| match read.job {
            Some(job) => rehearsal.jobs[job].answer > Answer::No,
            None => rehearsal.starts.answer > Answer::No,
        };
        let written = case.sources.slice(read.at);
        let path: Vec<&str> = written.split('.').collect();
        let mut times = played.iter().filter(runs).peekable();
        let empty = |rehearsal: &Rehearsal| match value_of(case.pipeline, rehearsal, case.facts, job, &path) {
            Value::Null => true,
            Value::Text(text) => text.is_empty(),
            _ => false,
        };
        if times.peek().is_none() || !times.all(|(_, rehearsal)| empty(rehearsal)) || may_be_empty(read) {
            continue;
        }
        let whenever = read.job.map_or_else(|| "this file".to_owned(), |job| format!("`{}`", case.job_name(job)));
        let finding = out.add(read.at, format!("`{written}` is empty whenever {whenever} runs"));
        finding.witness(
            at(on),
            format!("it is started by {}, and none of them fills it here", listed(&case.pipeline.event_names())),
        );
        if ends_image_name(case, read) {
            finding.severity(Severity::Error);
            finding.witness(
                WitnessSource::Catalog,
                "the name of an image cannot end in a colon: making, pushing and running it fail",
            );
        }
        finding.mend(Mend::by_hand("read a value that this event has, or let the event start it that fills this one"));
    }
}

/// Whether a read is the whole version of an image that its step makes, pushes or runs.
fn ends_image_name(case: &Case<'_>, read: &ReadAt) -> bool {
    let (Some(job), Some(step)) = (read.job, read.step) else { return false };
    let is_image = |effect: &EffectAt| {
        matches!(effect.effect, Effect::MakeImage { .. } | Effect::PushImage { .. } | Effect::RunImage { .. })
    };
    let source = &case.sources.get(read.at.file).text;
    let before = source[..read.at.span.start as usize].trim_end_matches('{').trim_end_matches('$');
    let after = source[read.at.span.end as usize..].trim_start_matches('}');
    let ends = after.chars().next().is_none_or(|next| next.is_whitespace() || matches!(next, '"' | '\'' | ',' | ']'));
    before.ends_with(':') && ends && case.effects.jobs[job][step].effects.iter().any(is_image)
}

/// Texts that may be empty: groups of runs, names of steps and what is checked out.
fn free_texts(case: &Case<'_>) -> BTreeSet<Place> {
    let jobs = &case.pipeline.jobs;
    let locks = case.pipeline.lock.iter().chain(jobs.iter().filter_map(|job| job.lock.as_ref())).map(|lock| lock.group.at);
    let names = jobs.iter().flat_map(|job| &job.steps).filter_map(|step| step.name.as_ref()).map(|name| name.at);
    let references = case.all_effects().filter_map(|(_, _, effect)| match &effect.effect {
        Effect::Checkout { reference, .. } => reference.as_ref().map(|text| text.at),
        _ => None,
    });
    locks.chain(names).chain(references).collect()
}

/// Whether the script that holds a read asks for the same name, or takes something else in the very line.
fn asks_first(case: &Case<'_>, read: &ReadAt) -> bool {
    let source = &case.sources.get(read.at.file).text;
    let start = source[..read.at.span.start as usize].rfind('\n').map_or(0, |index| index + 1);
    let line = source[start..].lines().next().unwrap_or_default();
    let asks = |line: &str| ["[", "test ", "case ", "if "].iter().any(|word| line.contains(word));
    let mut others = case.sources.slice(read.text_at).lines().filter(|line| line.contains(read.name.as_str()));
    asks(line) || line.contains("||") || line.contains("&&") || others.any(asks)
}
