//! Files that are gone before they are fetched.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Text, Then};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.expires",
    severity: Severity::Warning,
    title: "What is handed on may be gone before it is fetched",
    why: "A job that waits for a click may run days after the build. When the built folder is kept for an hour, there is nothing \
          left to publish by then.",
    needs: &[],
    bad: &[r"
== gitlab
build:
  stage: build
  script:
    - make
  artifacts:
    paths: [dist]
    expire_in: «1 hour»
live:
  stage: deploy
  script:
    - make live
  when: ‹manual›
"],
    good: &[
        r"
== gitlab
build:
  stage: build
  script:
    - make
  artifacts:
    paths: [dist]
    expire_in: 1 week
live:
  stage: deploy
  script:
    - make live
  when: manual
",
        r"
== gitlab
build:
  stage: build
  script:
    - make
  artifacts:
    paths: [dist]
    expire_in: 30 min
live:
  stage: deploy
  script:
    - make live
",
    ],
    check,
};

/// Minutes within which somebody is sure to have clicked.
const A_DAY: u64 = 24 * 60;

fn check(case: &Case<'_>, out: &mut Findings) {
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        let Some(expires) = expires(case, index).filter(|text| minutes(&text.value).is_some_and(|minutes| minutes < A_DAY))
        else {
            continue;
        };
        let waits = case.pipeline.jobs.iter().enumerate().find(|(other, later)| {
            let by_hand = later.when.then == Then::Hand || later.when.choices.iter().any(|choice| choice.then == Then::Hand);
            by_hand && *other != index && fetches(case, *other, &job.id.value)
        });
        let Some((_, later)) = waits else { continue };
        out.add(
            expires.inner(),
            format!("`{}` waits for a click, and what it fetches is gone after {}", later.id.value, expires.value),
        )
        .witness(at(later.when.then_at.unwrap_or(later.id.at)), format!("`{}` runs when somebody starts it", later.id.value))
        .mend(Mend::by_hand("keep it for some days, such as 1 week"));
    }
}

/// How long what a job hands on is kept.
fn expires<'c>(case: &'c Case<'_>, job: usize) -> Option<&'c Text> {
    case.effects.of_job(job).find_map(|(_, at)| match &at.effect {
        Effect::Upload { expires, .. } => expires.as_deref(),
        _ => None,
    })
}

fn fetches(case: &Case<'_>, job: usize, name: &str) -> bool {
    case.effects.of_job(job).any(|(_, at)| at.effect.takes().is_some_and(|(taken, _)| taken.known() == Some(name)))
}

/// `30 min`, `1 hour`, `2 hrs 20 min`; nothing for what is not understood.
fn minutes(text: &str) -> Option<u64> {
    let mut sum = 0;
    let words: Vec<&str> = text.split_whitespace().collect();
    if words.is_empty() || !words.len().is_multiple_of(2) {
        return None;
    }
    for pair in words.chunks(2) {
        let number: u64 = pair[0].parse().ok()?;
        let unit = match pair[1] {
            "min" | "mins" | "minute" | "minutes" => 1,
            "h" | "hr" | "hrs" | "hour" | "hours" => 60,
            "s" | "sec" | "second" | "seconds" => 0,
            "day" | "days" | "d" => A_DAY,
            "week" | "weeks" => 7 * A_DAY,
            "month" | "months" | "mo" | "mos" => 30 * A_DAY,
            "year" | "years" | "yr" => 365 * A_DAY,
            _ => return None,
        };
        sum += number * unit;
    }
    Some(sum)
}
