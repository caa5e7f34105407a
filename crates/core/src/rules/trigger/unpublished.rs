//! A site that no push to the default branch publishes.

use crate::case::{Case, Published, at};
use crate::finding::{Findings, Mend, Severity, listed};
use crate::model::{Condition, Event};
use crate::rehearsal::{Answer, OTHER_BRANCH, Occasion, OccasionKind, Rehearsal, Verdict, all_hold};
use crate::rules::Rule;
use crate::rules::trigger::never_reached::{self, Never};

pub const RULE: Rule = Rule {
    id: "trigger.unpublished",
    severity: Severity::Advice,
    title: "A push to the default branch publishes nothing",
    why: "There is a job that publishes the site, and a push to the default branch does not run it. That may be meant, as with \
          releases; it is also what a copied condition looks like.",
    needs: &[],
    bad: &[
        r"
== git
main default
== pipeline
on:
  ‹workflow_dispatch›:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: «npx gh-pages -d public»
",
        r"
== git
main default
== gitlab
«pages»:
  script:
    - make
  artifacts: {paths: [public]}
  rules:
    - ‹if: $CI_COMMIT_TAG›
",
        r"
== git
main default
== .travis.yml
language: generic
branches:
  except: [‹main›]
script: make
deploy:
  provider: «s3»
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: dist
  on: {all_branches: true}
",
    ],
    good: &[
        r"
== git
main default
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== .github/workflows/other.yml
on:
  push:
    branches: [main]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
== pipeline
on: workflow_dispatch
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== gitlab
pages:
  script:
    - make
  artifacts: {paths: [public]}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // Another rule speaks of a pipeline that nobody tells of a push.
    let Some(default) = case.facts.git.default_branch.known().filter(|_| case.pipeline.undetected.is_none()) else { return };
    // Another rule speaks of a filter that lets no branch through.
    if case.project.publishes_on_push(default) || super::super::branch::waits_for_nothing(case) {
        return;
    }
    let Some(published) = case.published().find(|published| published.place.is_some()) else { return };
    let pushed = case.project.rehearse_one(case.index, &Occasion::new(OccasionKind::Push, Some(default)));
    if pushed.refused.is_some() || told_elsewhere(case, published.job) {
        return;
    }
    let verdict = match pushed.starts.answer {
        Answer::No => pushed.starts.clone(),
        _ if pushed.jobs[published.job].answer == Answer::No => pushed.jobs[published.job].clone(),
        _ => by_step(case, &pushed, &published).unwrap_or_else(|| pushed.jobs[published.job].clone()),
    };
    let Some(place) = verdict.at else { return };
    // What an environment refuses is told of as that.
    if case.pipeline.jobs[published.job].environment.as_ref().is_some_and(|environment| environment.at == place) {
        return;
    }
    let times_of = |answer: Answer| -> Vec<String> {
        let times = case.played().filter(|(_, rehearsal)| case.happens(&published, rehearsal) == answer);
        times.map(|(occasion, _)| occasion.told()).collect()
    };
    let (surely, perhaps) = (times_of(Answer::Yes), times_of(Answer::Unsure));
    let times: Vec<&String> = surely.iter().chain(&perhaps).collect();
    let finding = out.add(published.effect.at, format!("a push to {default} publishes nothing: {}", verdict.because));
    let only_proposals = !times.is_empty() && times.iter().all(|time| time.starts_with("a pull request"));
    // It goes online from any branch but the one that everybody pushes to.
    let from_others = case.played().any(|(occasion, rehearsal)| {
        occasion.kind == OccasionKind::Push
            && occasion.name.as_deref() == Some(OTHER_BRANCH)
            && case.happens(&published, rehearsal) == Answer::Yes
    });
    let off = case.pipeline.jobs[published.job].condition().is_some_and(Condition::is_switched_off);
    let outside = case.project.possible_outcomes(case.index).is_some_and(|outcomes| {
        let mut outside = outcomes.iter().filter(|(occasion, _)| occasion.is_outside());
        outside.any(|(_, rehearsal)| case.happens(&published, rehearsal) > Answer::No)
    });
    // Of what other pipelines and unknown events bring about nothing is said.
    let all_played = case
        .pipeline
        .triggers
        .iter()
        .all(|trigger| matches!(trigger.event, Event::Push | Event::Proposal | Event::Hand | Event::Clock | Event::Release));
    let started_for_nothing = times.is_empty() && !off && (pushed.starts.answer > Answer::No || all_played && !outside);
    if only_proposals || from_others || started_for_nothing {
        finding.severity(Severity::Warning);
    }
    finding.witness(
        at(place),
        match (surely.as_slice(), perhaps.as_slice()) {
            ([], []) => "nothing is known to publish it".to_owned(),
            ([], perhaps) => format!("it may be published on {}", listed(perhaps)),
            (surely, []) => format!("it is published on {}", listed(surely)),
            (surely, perhaps) => format!("it is published on {}, and perhaps on {}", listed(surely), listed(perhaps)),
        },
    );
    finding.mend(Mend::by_hand(format!("let a push to {default} run it, if the site should follow {default}")));
}

/// The condition of the step that publishes, where it is what decides.
fn by_step(case: &Case<'_>, pushed: &Rehearsal, published: &Published<'_>) -> Option<Verdict> {
    let step = case.pipeline.jobs[published.job].steps.get(published.step)?;
    let holds = |condition: &&Condition| {
        let test = std::slice::from_ref(condition.expression()?);
        Some(all_hold(case.pipeline, pushed, case.facts, published.job, test) == Answer::No)
    };
    let decides = step.demands().find(|condition| holds(condition) == Some(true))?;
    Some(Verdict::new(Answer::No, "its condition is false", Some(decides.text.inner())))
}

/// Whether another rule says why a job never runs: it names something that is not there, or no event lets it run.
fn told_elsewhere(case: &Case<'_>, job: usize) -> bool {
    let chain: Vec<usize> = std::iter::once(job).chain(case.pipeline.upstream(job)).collect();
    let of_jobs = chain.iter().flat_map(|index| case.pipeline.jobs[*index].all_conditions());
    let never = |never: &Never| match never {
        Never::Job { job, .. } | Never::Step { job, .. } => chain.contains(job),
    };
    let runs = |rehearsal: &Rehearsal| rehearsal.jobs.iter().any(|job| job.answer > Answer::No);
    let nothing_runs = || {
        let outcomes = case.project.possible_outcomes(case.index);
        outcomes.is_some_and(|outcomes| !outcomes.iter().any(|(_, rehearsal)| runs(rehearsal)))
    };
    nothing_runs()
        || case.pipeline.conditions().chain(of_jobs).any(|condition| super::names_nothing(case, condition))
        || never_reached::found(case).iter().any(never)
}
