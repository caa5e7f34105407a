//! A job that takes what another makes, and does not wait for it.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::{ArtifactName, Effect};
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Job, Then, Work};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;

use super::made::Made;

pub const RULE: Rule = Rule {
    id: "order.unordered-use",
    severity: Severity::Error,
    title: "A job takes what another job makes, without waiting for it",
    why: "Jobs run side by side unless one waits for the other. A job that takes an artifact or an output too early finds \
          nothing: it fails, or publishes an empty site.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/upload-artifact@v4›
        with: {name: site, path: dist}
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: «site», path: dist}
",
        r"
== gitlab
build:
  script:
    - npx vite build
  artifacts:
    paths: [‹dist›]
«publish»:
  dependencies: [build]
  script:
    - npx gh-pages -d dist
",
    ],
    good: &[
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    outputs: {page: a}
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  test:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: [test, build]
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: site, path: dist}
      - run: echo ${{ needs.build.outputs.page }}
",
        // Artifacts reach as far as jobs wait for each other, near or far.
        r"
== pipeline
on: push
permissions:
  contents: read
  pages: write
  id-token: write
concurrency: pages
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-pages-artifact@v3
        with: {path: dist}
  test:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: test
    environment: {name: github-pages}
    runs-on: ubuntu-latest
    steps:
      - uses: actions/deploy-pages@v4
",
        r"
== gitlab
build:
  stage: build
  script:
    - npx vite build
  artifacts:
    paths: [dist]
publish:
  stage: deploy
  dependencies: [build]
  script:
    - npx gh-pages -d dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    artifacts(case, out);
    not_started(case, out);
    outputs(case, out);
}

fn artifacts(case: &Case<'_>, out: &mut Findings) {
    let made = Made::of(case);
    let mut unclear: HashMap<usize, bool> = HashMap::new();
    for (job, _, effect) in case.all_effects() {
        let Some((name, false)) = effect.effect.takes() else { continue };
        let Some(wanted) = name.known() else { continue };
        let Some(makers) = made.by_name.get(wanted) else { continue };
        let Some((maker, _, upload)) = makers.first() else { continue };
        let reachable = |maker: usize| maker == job || case.pipeline.waits_for(job, maker);
        if *unclear.entry(job).or_insert_with(|| waits_for_others(case, job))
            || makers.iter().any(|(maker, ..)| reachable(*maker))
        {
            continue;
        }
        // What stands in a call is waited for by waiting for the call.
        let call = case.pipeline.jobs[*maker].within.as_ref().and_then(|call| case.pipeline.job(&call.value));
        let (waits, named) = (case.pipeline.jobs[job].within.is_none(), call.unwrap_or(*maker));
        let (taker, maker_name) = (case.job_name(job), case.job_name(named));
        out.add(
            taken_at(name, effect.at),
            format!("`{taker}` takes the artifact `{wanted}` without waiting for `{maker_name}`, which makes it"),
        )
        .witness(at(upload.at), format!("`{maker_name}` makes it here, and nothing makes `{taker}` wait"))
        .mend(match waits {
            true => pen::write(case, &Ask::WaitFor { job, other: named }),
            false => Mend::by_hand(format!("let the job that calls `{taker}` wait for `{maker_name}`")),
        });
    }
}

/// Whether a job may wait for more than the file says, or for a job that is not there.
fn waits_for_others(case: &Case<'_>, job: usize) -> bool {
    let of_job = &case.pipeline.jobs[job];
    of_job.needs_unknown
        || of_job.needs.iter().any(|need| case.pipeline.job(&need.value).is_none())
        || reachable_unknown(case, job, &case.pipeline.upstream(job))
}

/// A job that takes what another one makes, and does not wait for the click that starts that one: where only stages order them, a job
/// that somebody has to start holds nothing up.
/// Source: the format's page "CI/CD YAML syntax reference", `when: manual` and `allow_failure`.
fn not_started(case: &Case<'_>, out: &mut Findings) {
    for (index, job) in case.pipeline.jobs.iter().enumerate().filter(|(_, job)| job.when.by_stage && job.when.then != Then::Hand)
    {
        let holds_up = |other: &Job| other.may_fail.as_ref().is_some_and(|text| text.value != "true");
        let taken = case.effects.of_job(index).filter_map(|(_, effect)| effect.effect.takes()?.0.known());
        let by_hand = taken.filter_map(|name| case.pipeline.job_named(name)).find(|other| {
            let other = &case.pipeline.jobs[*other];
            other.when.then == Then::Hand && !holds_up(other)
        });
        let Some(other) = by_hand.map(|other| &case.pipeline.jobs[other]) else { continue };
        let message = format!(
            "`{}` takes what `{}` makes, and does not wait until somebody has started that",
            job.id.value, other.id.value
        );
        out.add(job.id.at, message)
            .witness(
                at(other.when.then_at.unwrap_or(other.id.at)),
                "somebody has to start it, and until then it counts as passed over",
            )
            .mend(Mend::by_hand(format!("let `{}` run by itself, or write `allow_failure: false` for it", other.id.value)));
    }
}

/// Something before the job, or in it, may hand on artifacts in a way that is not understood.
fn reachable_unknown(case: &Case<'_>, job: usize, upstream: &[usize]) -> bool {
    upstream.iter().chain([&job]).any(|job| may_hand_on(case, *job))
}

/// Whether a job may hand on an artifact of any name: it calls another pipeline, or takes an action that nobody here knows.
pub fn may_hand_on(case: &Case<'_>, job: usize) -> bool {
    let steps = case.pipeline.jobs[job].steps.iter().zip(case.effects.jobs.get(job).into_iter().flatten());
    let mut unknown_actions = steps.filter(|(step, effects)| {
        matches!(step.work, Work::Uses { .. }) && effects.effects.iter().any(|effect| matches!(effect.effect, Effect::Unknown(_)))
    });
    case.pipeline.jobs[job].call.is_some() || unknown_actions.next().is_some()
}

fn taken_at(name: &ArtifactName, step: Place) -> Place {
    name.given.as_ref().map_or(step, |text| text.inner())
}

/// `needs.X` holds only the jobs that the job itself names in `needs`; of any other, every value is empty.
fn outputs(case: &Case<'_>, out: &mut Findings) {
    let mut found: Vec<(usize, usize, Place)> = Vec::new();
    case.references(&mut |job, path, text| {
        let (Some(job), [(context, start), (name, _), ..]) = (job, path) else { return };
        let Some(other) = case.pipeline.job(name) else { return };
        let waits = case.pipeline.jobs[job].needs.iter().any(|need| need.value.eq_ignore_ascii_case(name));
        if context.eq_ignore_ascii_case("needs") && !waits && other != job && !case.pipeline.jobs[job].needs_unknown {
            let end = path.last().map_or(start.end, |(_, range)| range.end);
            found.push((job, other, text.place(start.start..end)));
        }
    });
    for (job, other, place) in found {
        let (reader, maker) = (case.job_name(job), case.job_name(other));
        out.add(place, format!("this is always empty: `{reader}` reads from `{maker}` without waiting for it"))
            .witness(
                at(case.pipeline.jobs[other].id.at),
                format!("only jobs that `{reader}` waits for can be read, and `{maker}` is not one"),
            )
            .mend(pen::write(case, &Ask::WaitFor { job, other }));
    }
}
