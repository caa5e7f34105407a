//! A site that is published although its tests fail.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity};
use crate::knowledge;
use crate::pen::{self, Ask};
use crate::rehearsal::Answer;
use crate::rules::Rule;

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
    let runs = |job: usize| pushed.jobs[job].answer == Answer::Yes && pushed.starts.answer > Answer::No;
    for published in case.publishes() {
        if published.place.is_none() || pushed.step(published.job, published.step) != Answer::Yes {
            continue;
        }
        let before = case.pipeline.upstream(published.job);
        let later = |job: usize| case.pipeline.upstream(job).contains(&published.job);
        let test = case.all_effects().find(|(job, _, effect)| {
            let Effect::Test { tool } = &effect.effect else { return false };
            let of_job = &case.pipeline.jobs[*job];
            // Whatever looks at the site that is online comes after it.
            let comes_after = || (knowledge::commands().looks_online(tool) || !of_job.when.by_stage) && later(*job);
            knowledge::commands().kind_of(tool) != Some("other")
                && *job != published.job
                && runs(*job)
                && !effect.perhaps
                && !effect.forgiven
                && of_job.may_fail.as_ref().is_none_or(|text| text.value == "false")
                && !of_job.needs_unknown
                && !before.contains(job)
                && !comes_after()
        });
        let Some((job, _, effect)) = test.filter(|_| !case.pipeline.jobs[published.job].needs_unknown) else { continue };
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
