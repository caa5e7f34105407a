//! A job or a publishing step whose condition is never true.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, listed};
use crate::model::Then;
use crate::rehearsal::{Answer, Rehearsal, possible};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "order.never-reached",
    severity: Severity::Error,
    title: "A job or step can never run",
    why: "A condition that no event of the file makes true skips its job every time, and all jobs that wait for it. The run is \
          green, and what should have happened has not.",
    needs: &[],
    bad: &[r"
== pipeline
‹on›:
  push:
    branches: [main]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: «github.event_name == 'release'»
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"],
    good: &[
        r"
== pipeline
on: [push, release]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.event_name == 'release'
    runs-on: x
    steps:
      - run: npx gh-pages -d public
",
        r"
== pipeline
on: [push, issues]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    if: github.event_name == 'issue_comment'
    runs-on: x
    steps: [{run: ls}]
",
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
        if let Some(condition) =
            job.condition.as_ref().filter(|condition| !runs_ever(index) && is_meant_to_run(&condition.text.value))
        {
            let by_itself = played.iter().all(|rehearsal| rehearsal.jobs[index].at == Some(condition.text.at));
            if by_itself && job.then == Then::Run {
                let waiting: Vec<&str> = (0..case.pipeline.jobs.len())
                    .filter(|other| case.pipeline.upstream(*other).contains(&index))
                    .map(|other| case.job_name(other))
                    .collect();
                let rest = if waiting.is_empty() {
                    String::new()
                } else {
                    format!(", nor does what waits for it: {}", listed(&waiting))
                };
                speak(case, condition.text.inner(), &format!("`{}` never runs{rest}", job.id.value), out);
            }
            continue;
        }
        for (number, step) in job.steps.iter().enumerate() {
            let Some(condition) = step.condition.as_ref().filter(|condition| is_meant_to_run(&condition.text.value)) else {
                continue;
            };
            let publishes = case.effects.jobs[index][number]
                .effects
                .iter()
                .any(|effect| matches!(effect.effect, Effect::Publish { .. } | Effect::Build { .. }));
            let never = played.iter().all(|rehearsal| rehearsal.steps[index][number] == Answer::No);
            if publishes && never && runs_ever(index) {
                speak(case, condition.text.inner(), "this step never runs", out);
            }
        }
    }
}

/// Not switched off in so many words, and not waiting for a failure.
fn is_meant_to_run(condition: &str) -> bool {
    let inside = condition.trim().trim_start_matches("${{").trim_end_matches("}}").trim();
    !matches!(inside, "false" | "'false'" | "0") && !inside.contains("failure()") && !inside.contains("cancelled()")
}

fn speak(case: &Case<'_>, place: Place, message: &str, out: &mut Findings) {
    let Some(on) = case.pipeline.triggers_at.or_else(|| case.pipeline.triggers.first().map(|trigger| trigger.name.at)) else {
        return;
    };
    let mut events: Vec<&str> = case.pipeline.triggers.iter().map(|trigger| trigger.name.value.as_str()).collect();
    events.dedup();
    out.add(place, format!("{message}: no event that starts this file makes the condition true"))
        .witness(at(on), format!("it is started by {}", listed(&events)))
        .mend(Mend::by_hand("change the condition, or add the event that it waits for"));
}
