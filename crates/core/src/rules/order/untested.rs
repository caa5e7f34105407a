//! A site that is published although its tests fail.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::model::StepOrder;
use crate::pen::{self, Ask};
use crate::rehearsal::Answer;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "order.untested",
    severity: Severity::Warning,
    title: "The publish does not wait for the tests",
    why: "Jobs that do not wait for each other run side by side. The tests may turn red, and the site is online all the same.",
    needs: &[],
    bad: &[
        r"
== git
main default
== jobs
  test:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ‹npx vitest run›
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: «npx gh-pages -d public»
",
        r"
== git
main default
== gitlab
look:
  stage: test
  script:
    - ‹npx vitest run›
«pages»:
  stage: deploy
  needs: []
  script:
    - make
  artifacts: {paths: [public]}
",
        r"
== git
main default
== .travis.yml
language: node_js
node_js: '24'
install: skip
stages: [publish, check]
jobs:
  include:
    - stage: check
      script: ‹npx vitest run›
    - stage: publish
      script: make
      deploy:
        provider: «s3»
        edge: true
        access_key_id: $TARNSAY_KEY_ID
        secret_access_key: $TARNSAY_KEY
        bucket: tarnsay-timetable
        local_dir: dist
        on: {branch: main}
",
        // Steps that do not wait for each other.
        r#"
== git
main default
== dulk.toml
[[starts]]
file = "cloudbuild.yaml"
push = ["main"]
== cloudbuild.yaml
steps:
  - id: install
    name: node:24
    entrypoint: npm
    args: [ci]
  - id: test
    name: node:24
    entrypoint: ‹npx›
    args: [vitest, run]
    waitFor: [install]
  - id: publish
    name: gcr.io/cloud-builders/gsutil
    args: [«-m, rsync, -r, public, 'gs://tarnsay-timetable'»]
    ‹waitFor: [install]›
"#,
    ],
    good: &[
        r"
== git
main default
== jobs
  test:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vitest run
  publish:
    needs: test
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        // Tests of what is online come after it.
        r"
== git
main default
== jobs
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
  look:
    needs: publish
    runs-on: ubuntu-latest
    steps:
      - run: npx playwright test
",
        r"
== git
main default
== gitlab
look:
  stage: test
  script:
    - npx vitest run
pages:
  stage: deploy
  script:
    - make
  artifacts: {paths: [public]}
",
        r"
== git
main default
== .travis.yml
language: node_js
node_js: '24'
install: skip
stages: [check, publish]
jobs:
  include:
    - stage: check
      script: npx vitest run
    - stage: publish
      script: make
      deploy:
        provider: s3
        edge: true
        access_key_id: $TARNSAY_KEY_ID
        secret_access_key: $TARNSAY_KEY
        bucket: tarnsay-timetable
        local_dir: dist
        on: {branch: main}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(pushed) = case.on_default_push() else { return };
    let tests: Vec<(usize, &EffectAt, &str)> = case
        .all_effects()
        .filter_map(|(job, _, effect)| match &effect.effect {
            Effect::Test { tool } if !effect.perhaps && !effect.forgiven => Some((job, effect, tool.as_str())),
            _ => None,
        })
        .filter(|(.., tool)| knowledge::commands().kind_of(tool) != Some("other"))
        .collect();
    let runs = |job: usize| pushed.jobs[job].answer == Answer::Yes && pushed.starts.answer > Answer::No;
    for published in case.published() {
        if published.place.is_none() || pushed.step(published.job, published.step) != Answer::Yes {
            continue;
        }
        if beside(case, published.job, (published.step, published.effect.at), out) {
            continue;
        }
        let later = |job: usize| case.pipeline.waits_for(job, published.job);
        let test = tests.iter().find(|(job, _, tool)| {
            let of_job = &case.pipeline.jobs[*job];
            // Whatever looks at the site that is online comes after it.
            let comes_after = || (knowledge::commands().looks_online(tool) || !of_job.when.by_stage) && later(*job);
            *job != published.job
                && runs(*job)
                && of_job.may_fail.as_ref().is_none_or(|text| text.value == "false")
                && !of_job.needs_unknown
                && !case.pipeline.waits_for(published.job, *job)
                && !comes_after()
        });
        let Some((job, effect, _)) = test.copied().filter(|_| !case.pipeline.jobs[published.job].needs_unknown) else { continue };
        let (id, name) = (case.job_name(published.job), case.job_name(job));
        let later = later(job);
        let (why, when) = match later {
            true => ("that one comes in a later stage", "when it is online already"),
            false => ("it does not wait for it", "at the same time"),
        };
        let stage = case.pipeline.jobs[job].stage.as_ref().filter(|_| later);
        let stage = stage.map(|stage| format!(", in the stage {}", stage.value)).unwrap_or_default();
        out.add(published.effect.at, format!("`{id}` publishes even when `{name}` fails: {why}"))
            .witness(at(effect.at), format!("`{name}` looks at the site here{stage}, {when}"))
            .mend(pen::write(case, &Ask::WaitFor { job: published.job, other: job }));
    }
}

/// A step of the same job that tests, and that may still run when the publish begins.
fn beside(case: &Case<'_>, job: usize, (step, publish): (usize, Place), out: &mut Findings) -> bool {
    let steps = &case.pipeline.jobs[job].steps;
    let Some(said) = steps.get(step).and_then(|step| step.waits.at()) else { return false };
    let order = StepOrder::of(steps);
    let test = case.effects.of_job(job).find(|(other, effect)| {
        let Effect::Test { tool } = &effect.effect else { return false };
        knowledge::commands().kind_of(tool) != Some("other")
            && !effect.perhaps
            && !effect.forgiven
            && order.are_beside(*other, step)
    });
    let Some((_, test)) = test else { return false };
    out.add(publish, "this publishes even when the tests fail: it does not wait for them")
        .witness(at(test.at), "the site is tested here, at the same time")
        .witness(at(said), "what it waits for stands here")
        .mend(Mend::by_hand("let it wait for the step that tests, too"));
    true
}
