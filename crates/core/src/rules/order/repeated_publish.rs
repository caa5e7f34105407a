//! A publish that runs once for every leg of a matrix.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::project::{Read, ReadIn};
use crate::rehearsal::Answer;
use crate::rules::Rule;

use super::made_by_some_event;

pub const RULE: Rule = Rule {
    id: "order.repeated-publish",
    severity: Severity::Error,
    title: "The site is published once for every leg of the matrix",
    why: "All steps of a job with a matrix run once per leg, side by side. The legs publish over each other, and which one stays \
          online is chance.",
    needs: &[],
    bad: &[
        r"
== git
main default
== jobs
  build:
    strategy:
      matrix:
        ‹node: [20, 22]›
    runs-on: ubuntu-latest
    steps:
      - uses: actions/setup-node@v5
        with: {node-version: '${{ matrix.node }}'}
      - run: «npx gh-pages -d public»
",
        r"
== git
main default
== gitlab
«pages»:
  parallel: ‹2›
  script:
    - make public
  artifacts:
    paths: [public]
",
        r"
== git
main default
== .travis.yml
language: node_js
‹node_js›: ['22', '24']
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
  build:
    strategy:
      matrix:
        node: [22]
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== jobs
  build:
    strategy:
      matrix:
        node: [20, 22]
    runs-on: ubuntu-latest
    steps:
      - if: matrix.node == 22
        run: npx gh-pages -d public
",
        r"
== git
main default
== gitlab
test:
  parallel: 2
  script:
    - npm test
pages:
  stage: deploy
  script:
    - make public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for published in made_by_some_event(case) {
        let job = &case.pipeline.jobs[published.job];
        let Some(matrix) = job.matrix.as_ref().filter(|matrix| matrix.legs.is_some_and(|legs| legs > 1)) else { continue };
        let mut axes = case.reads.iter().filter(|read| read.read == Read::Axis && read.within != ReadIn::Script);
        let by_leg = axes.any(|read| read.job == Some(published.job) && read.step.is_none_or(|step| step == published.step));
        let surely = case.played().any(|(_, rehearsal)| case.happens(&published, rehearsal) == Answer::Yes);
        if by_leg || !surely {
            continue;
        }
        let legs = matrix.legs.unwrap_or_default();
        out.add(published.effect.at, format!("`{}` publishes {legs} times over, once for each leg of its matrix", job.id.value))
            .witness(at(matrix.at), format!("this makes {legs} legs, and all of them run every step"))
            .mend(Mend::by_hand("move the publish to a job of its own that needs this one, or let one leg do it by a condition"));
    }
}
