//! A job or a publishing step whose condition is never true.

use crate::carrier::yaml::edit::in_flow;
use crate::case::{Case, at};
use crate::effects::Effect;
use crate::expression::ExprKind;
use crate::finding::{Edit, Findings, Mend, Severity, listed};
use crate::model::{Choice, Condition, Job, Then, Trigger};
use crate::rehearsal::{Answer, Rehearsal, all_hold};
use crate::rules::{Rule, words};
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
        r"
== git
main default
== .travis.yml
language: generic
‹branches›:
  only: [main]
script: make
deploy:
  provider: s3
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: dist
  on: {tags: «true»}
",
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
    for never in found(case) {
        match never {
            Never::Job { job, reasons } => {
                let message = format!("`{}` never runs{}", case.job_name(job), waiting_for(case, job));
                let of_job = &case.pipeline.jobs[job];
                let kind = of_job.condition().and_then(|condition| missing_kind(case, condition));
                speak(case, &reasons, kind, &message, out);
            }
            Never::Step { job, step } => {
                let Some(condition) = deciding(case, job, step) else { continue };
                let reasons = [Reason { at: condition.text.inner(), because: CONDITION.into() }];
                speak(case, &reasons, missing_kind(case, condition), "this step never runs", out);
            }
        }
    }
}

/// Something that no event of the file makes run.
pub(in crate::rules) enum Never {
    /// A job, with the places that decide, the nearest first.
    Job {
        /// Its number.
        job: usize,
        /// What keeps it from running; at least one.
        reasons: Vec<Reason>,
    },
    /// A step that publishes or builds, by its own condition.
    Step {
        /// Its job.
        job: usize,
        /// Its number in the job.
        step: usize,
    },
}

/// A place that decides that something never runs.
pub(in crate::rules) struct Reason {
    at: Place,
    because: String,
}

/// Why a condition keeps a job from running.
const CONDITION: &str = "no event that starts this file makes the condition true";

/// All that never runs though the file is started, and is meant to.
pub(in crate::rules) fn found(case: &Case<'_>) -> Vec<Never> {
    let Some(played) = case.project.possible_outcomes(case.index) else { return Vec::new() };
    // A run that is refused is told of as that.
    let mut all = played.iter().map(|(_, rehearsal)| rehearsal.as_ref()).chain(case.played().map(|(_, rehearsal)| rehearsal));
    if all.any(|rehearsal| rehearsal.refused.is_some()) {
        return Vec::new();
    }
    let started = played.iter().map(|(_, rehearsal)| rehearsal.as_ref()).filter(|rehearsal| rehearsal.starts.answer > Answer::No);
    let played: Vec<&Rehearsal> = started.collect();
    let runs_ever = |job: usize| played.iter().any(|rehearsal| rehearsal.jobs[job].answer > Answer::No);
    let mut found = Vec::new();
    // When nothing runs at all, another rule says so.
    if played.is_empty() || !(0..case.pipeline.jobs.len()).any(runs_ever) {
        return found;
    }
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        if !runs_ever(index) {
            let reasons = reasons(case, index, &played);
            // A job that waits for one which never runs is told of with that.
            let by_need = case.pipeline.upstream(index).into_iter().any(|before| !job.when.by_stage && !runs_ever(before));
            if !reasons.is_empty() && !by_need {
                found.push(Never::Job { job: index, reasons });
            }
            continue;
        }
        for (number, step) in job.steps.iter().enumerate() {
            if step.when.is_none() {
                continue;
            }
            let publishes = case.effects.jobs[index][number]
                .effects
                .iter()
                .any(|effect| matches!(effect.effect, Effect::Publish { .. } | Effect::Build { .. }));
            let never = || played.iter().all(|rehearsal| rehearsal.step(index, number) == Answer::No);
            let meant = || step.conditions().all(|condition| is_meant_to_run(case, condition));
            if publishes && never() && meant() {
                found.push(Never::Step { job: index, step: number });
            }
        }
    }
    found
}

/// Of the conditions of a step that never runs, the one that is false most often where its job runs; of several the last.
fn deciding<'c>(case: &'c Case<'_>, job: usize, step: usize) -> Option<&'c Condition> {
    let of_step = &case.pipeline.jobs[job].steps[step];
    let played = case.project.possible_outcomes(case.index)?;
    let running: Vec<&Rehearsal> =
        played.iter().map(|(_, rehearsal)| rehearsal.as_ref()).filter(|one| one.jobs[job].answer > Answer::No).collect();
    let falls = |condition: &Condition| {
        let Some(expression) = condition.expression() else { return 0 };
        let test = std::slice::from_ref(expression);
        running.iter().filter(|one| all_hold(case.pipeline, one, case.facts, job, test) == Answer::No).count()
    };
    of_step.conditions().max_by_key(|condition| falls(condition))
}

/// The places that decide on each event that a job does not run; nothing where one of them is so on purpose, or not known.
fn reasons(case: &Case<'_>, index: usize, played: &[&Rehearsal]) -> Vec<Reason> {
    let job = &case.pipeline.jobs[index];
    let mut found: Vec<Reason> = Vec::new();
    if !is_meant(case, job)
        || case.pipeline.upstream(index).into_iter().any(|before| !is_meant(case, &case.pipeline.jobs[before]))
    {
        return found;
    }
    let own = job.condition().map(|condition| &condition.text);
    for verdict in played.iter().map(|rehearsal| &rehearsal.jobs[index]) {
        let Some(at) = verdict.at else { return Vec::new() };
        // What an environment refuses is told of as that.
        if job.environment.as_ref().is_some_and(|environment| environment.at == at) {
            return Vec::new();
        }
        let by_choice = job.when.choices.iter().any(|choice| choice.at == at);
        let reason = match own {
            Some(text) if text.at == at => Reason { at: text.inner(), because: CONDITION.into() },
            _ if by_choice => match deciding_choice(job, at) {
                Some(reason) => reason,
                None => return Vec::new(),
            },
            _ => Reason { at, because: verdict.because.to_string() },
        };
        if found.iter().all(|known| known.at != reason.at) {
            found.push(reason);
        }
    }
    // The job's own condition is nearer than what it waits for.
    found.sort_by_key(|reason| reason.because != CONDITION);
    found
}

/// Of a list of rules: the rule that says never before one that would let it run, or the first that would.
fn deciding_choice(job: &Job, at: Place) -> Option<Reason> {
    let meant = |choice: &&Choice| matches!(choice.then, Then::Run | Then::Always | Then::Later);
    let first = job.when.choices.iter().position(|choice| meant(&choice))?;
    let never = job.when.choices[..first].iter().find(|choice| choice.at == at && choice.then == Then::Never);
    if let Some(never) = never {
        let place = never.condition().map_or(never.then_at.unwrap_or(never.at), |condition| condition.text.inner());
        return Some(Reason { at: place, because: "this rule says never before any other lets it run".into() });
    }
    let choice = &job.when.choices[first];
    let Some(condition) = choice.condition() else {
        let because = "none of the files that it asks for is there";
        return choice.asks_for_files().then(|| Reason { at: choice.at, because: because.into() });
    };
    Some(Reason { at: condition.text.inner(), because: CONDITION.into() })
}

/// Whether a job is meant to run after success, by itself.
fn is_meant(case: &Case<'_>, job: &Job) -> bool {
    let mut conditions = job.conditions();
    let lets = |choice: &Choice| matches!(choice.then, Then::Run | Then::Always | Then::Later);
    matches!(job.when.then, Then::Run | Then::Always | Then::Later)
        && (job.when.choices.is_empty() || job.when.choices.iter().any(lets))
        && conditions.all(|condition| is_meant_to_run(case, condition))
}

/// ", nor does what waits for it: …"
fn waiting_for(case: &Case<'_>, index: usize) -> String {
    let others = 0..case.pipeline.jobs.len();
    let waits = |other: &usize| !case.pipeline.jobs[*other].when.by_stage && case.pipeline.waits_for(*other, index);
    let names: Vec<&str> = others.filter(waits).map(|other| case.job_name(other)).collect();
    if names.is_empty() { String::new() } else { format!(", nor does what waits for it: {}", listed(&names)) }
}

/// Not switched off in so many words, and not waiting for a failure.
fn is_meant_to_run(case: &Case<'_>, condition: &Condition) -> bool {
    // What a caller gives is looked at with the call.
    let by_caller = case.pipeline.is_called() && condition.expression().is_some_and(words::reads_inputs);
    !by_caller && !super::names_nothing(case, condition) && !condition.is_switched_off() && !condition.waits_for_failing()
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
        let known = case.pipeline.format.grammar().kinds(&trigger.name.value);
        let missing =
            |word: &&&str| known.iter().any(|kind| *kind == **word) && trigger.types.iter().all(|kind| kind.value != **word);
        words.iter().find(missing).map(|word| (trigger, *word))
    })
}

fn speak(case: &Case<'_>, reasons: &[Reason], kind: Option<(&Trigger, &str)>, message: &str, out: &mut Findings) {
    let Some((first, others)) = reasons.split_first() else { return };
    if let Some((trigger, kind)) = kind {
        let named: Vec<&str> = trigger.types.iter().map(|kind| kind.value.as_str()).collect();
        let Some(last) = trigger.types.last() else { return };
        let title = format!("add {kind}");
        let mend = match in_flow(case.sources, last) {
            true => Mend::likely(title, [Edit::replace(last.at, format!("{}, {kind}", case.sources.slice(last.at)))]),
            false => Mend::by_hand(title),
        };
        out.add(first.at, format!("{message}: `{kind}` is not among the kinds of `{}` that start this file", trigger.name.value))
            .witness(at(trigger.types[0].at), format!("only {} start it", listed(&named)))
            .mend(mend);
        return;
    }
    let Some(on) = case.pipeline.started_at() else { return };
    let finding = out.add(first.at, format!("{message}: {}", first.because));
    // Somebody else may call it as well.
    if case.pipeline.is_called() {
        finding.severity(Severity::Warning);
    }
    finding.witness(at(on), format!("it is started by {}", listed(&case.pipeline.event_names())));
    for other in others {
        finding.witness(at(other.at), other.because.clone());
    }
    finding.mend(Mend::by_hand("change the condition, or add the event that it waits for"));
}
