//! A job or a publishing step whose condition is never true.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::expression::ExprKind;
use crate::finding::{Edit, Findings, Mend, Severity, listed};
use crate::knowledge;
use crate::model::{Condition, Job, Then, Trigger};
use crate::pen;
use crate::rehearsal::{Answer, Rehearsal, possible};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "trigger.never-reached",
    severity: Severity::Error,
    title: "A job or step can never run",
    why: "A condition that no event of the file makes true skips its job every time, and all jobs that wait for it. The run is \
          green, and what should have happened has not.",
    needs: &[],
    bad: &[
        r"
== pipeline
on:
  pull_request:
    types: [‹opened›, synchronize]
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  take-down:
    if: «github.event.action == 'closed'»
    runs-on: ubuntu-latest
    steps:
      - run: echo gone
",
        r"
== pipeline
‹on›:
  push:
    branches: [main]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: build
    if: «github.event_name == 'release'»
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r#"
== git
main default
== gitlab
‹workflow›:
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
    - if: $CI_COMMIT_TAG
lint:
  script:
    - npm run lint
pages:
  stage: deploy
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: «$CI_COMMIT_BRANCH == "main"»
"#,
    ],
    good: &[
        r"
== pipeline
on: [push, release]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: build
    if: github.event_name == 'release'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== pipeline
on: [push, issues]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    if: github.event_name == 'issue_comment'
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r#"
== git
main default
== gitlab
workflow:
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
    - if: $CI_COMMIT_TAG
    - if: $CI_PIPELINE_SOURCE == "trigger"
lint:
  script:
    - npm run lint
pages:
  stage: deploy
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
nightly:
  script:
    - make check
  rules:
    - if: $CI_PIPELINE_SOURCE == "api"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(occasions) = possible(case.pipeline) else { return };
    let played: Vec<Rehearsal> = occasions
        .iter()
        .map(|occasion| case.project.rehearse_one(case.index, occasion))
        .filter(|rehearsal| rehearsal.starts.answer > Answer::No)
        .collect();
    let runs_ever = |job: usize| played.iter().any(|rehearsal| rehearsal.jobs[job].answer > Answer::No);
    // When nothing runs at all, another rule says so.
    if played.is_empty() || !(0..case.pipeline.jobs.len()).any(runs_ever) {
        return;
    }
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        if !runs_ever(index) {
            if let Some(place) = decides(case, job, &played, index) {
                let kind = job.condition.as_ref().and_then(|condition| missing_kind(case, condition));
                speak(case, place, kind, &format!("`{}` never runs{}", job.id.value, waiting_for(case, index)), out);
            }
            continue;
        }
        for (number, step) in job.steps.iter().enumerate() {
            let Some(condition) = step.condition.as_ref().filter(|condition| is_meant_to_run(case, condition)) else {
                continue;
            };
            let publishes = case.effects.jobs[index][number]
                .effects
                .iter()
                .any(|effect| matches!(effect.effect, Effect::Publish { .. } | Effect::Build { .. }));
            let never = played.iter().all(|rehearsal| rehearsal.steps[index][number] == Answer::No);
            if publishes && never && runs_ever(index) {
                speak(case, condition.text.inner(), missing_kind(case, condition), "this step never runs", out);
            }
        }
    }
}

/// The condition, or the first rule, by which a job runs, when it is that which keeps it from running on every event.
fn decides(case: &Case<'_>, job: &Job, played: &[Rehearsal], index: usize) -> Option<Place> {
    if job.then != Then::Run {
        return None;
    }
    if let Some(condition) = &job.condition {
        let by_itself = played.iter().all(|rehearsal| rehearsal.jobs[index].at == Some(condition.text.at));
        return Some(condition.text.inner()).filter(|_| by_itself && is_meant_to_run(case, condition));
    }
    let by_itself = played
        .iter()
        .all(|rehearsal| rehearsal.jobs[index].at.is_some_and(|place| job.choices.iter().any(|choice| choice.at == place)));
    let mut meant = job.choices.iter().filter(|choice| matches!(choice.then, Then::Run | Then::Always | Then::Later));
    let first = meant.find_map(|choice| choice.condition.as_ref()).filter(|_| by_itself)?;
    is_meant_to_run(case, first).then(|| first.text.inner())
}

/// ", nor does what waits for it: …"
fn waiting_for(case: &Case<'_>, index: usize) -> String {
    let others = 0..case.pipeline.jobs.len();
    let waits = |other: &usize| !case.pipeline.jobs[*other].needs_by_stage && case.pipeline.upstream(*other).contains(&index);
    let names: Vec<&str> = others.filter(waits).map(|other| case.job_name(other)).collect();
    if names.is_empty() { String::new() } else { format!(", nor does what waits for it: {}", listed(&names)) }
}

/// Not switched off in so many words, and not waiting for a failure.
fn is_meant_to_run(case: &Case<'_>, condition: &Condition) -> bool {
    !super::names_nothing(case, condition) && !condition.is_switched_off() && !condition.waits_for_failing()
}

/// A kind of an event that a condition names, and that the trigger's own list leaves out.
fn missing_kind<'c>(case: &'c Case<'_>, condition: &'c Condition) -> Option<(&'c Trigger, &'c str)> {
    let mut words: Vec<&str> = Vec::new();
    condition.expression()?.walk(&mut |part| {
        if let ExprKind::Text(word) = &part.kind {
            words.push(word);
        }
    });
    case.pipeline.triggers.iter().filter(|trigger| !trigger.types.is_empty()).find_map(|trigger| {
        let known = knowledge::kinds_of(case.pipeline.dialect, &trigger.name.value);
        let missing =
            |word: &&&str| known.iter().any(|kind| kind == **word) && trigger.types.iter().all(|kind| kind.value != **word);
        words.iter().find(missing).map(|word| (trigger, *word))
    })
}

fn speak(case: &Case<'_>, place: Place, kind: Option<(&Trigger, &str)>, message: &str, out: &mut Findings) {
    if let Some((trigger, kind)) = kind {
        let named: Vec<&str> = trigger.types.iter().map(|kind| kind.value.as_str()).collect();
        let Some(last) = trigger.types.last() else { return };
        let title = format!("add {kind}");
        let mend = match pen::in_flow(case, last) {
            true => Mend::likely(title, [Edit::replace(last.at, format!("{}, {kind}", case.sources.slice(last.at)))]),
            false => Mend::by_hand(title),
        };
        out.add(place, format!("{message}: `{kind}` is not among the kinds of `{}` that start this file", trigger.name.value))
            .witness(at(trigger.types[0].at), format!("only {} start it", listed(&named)))
            .mend(mend);
        return;
    }
    let Some(on) = case.pipeline.triggers_at.or_else(|| case.pipeline.triggers.first().map(|trigger| trigger.name.at)) else {
        return;
    };
    let mut events: Vec<&str> = case.pipeline.triggers.iter().map(|trigger| trigger.name.value.as_str()).collect();
    events.dedup();
    out.add(place, format!("{message}: no event that starts this file makes the condition true"))
        .witness(at(on), format!("it is started by {}", listed(&events)))
        .mend(Mend::by_hand("change the condition, or add the event that it waits for"));
}
