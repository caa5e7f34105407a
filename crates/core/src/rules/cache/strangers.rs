//! A publish that reads a cache which strangers can write.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;
use crate::rules::trigger::runs_strangers_code;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.strangers",
    severity: Severity::Error,
    title: "A publish reads a cache that strangers can write",
    why: "A run with the repository's rights that runs a stranger's code also saves what that code left in its caches. A publish \
          that brings back a cache of the same key puts it online, or runs it with the site's credentials.",
    needs: &[],
    bad: &[r"
== git
main default
== .github/workflows/look.yml
on: pull_request_target
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
        with: {ref: '${{ github.event.pull_request.head.sha }}'}
      - uses: ‹actions/cache@v4›
        with: {path: node_modules, key: modules}
      - run: npm ci
== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: «actions/cache@v4»
        with: {path: node_modules, key: modules}
      - run: npx gh-pages -d public
"],
    good: &[
        r#"
== git
main default
== .github/workflows/look.yml
on: pull_request
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
== pipeline
on: push
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
      - run: npx gh-pages -d public -r $ADDRESS
"#,
        r#"
== git
main default
== .github/workflows/look.yml
on: pull_request_target
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "theirs-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
== pipeline
on: push
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
      - run: npx gh-pages -d public -r $ADDRESS
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let published: Vec<usize> = case.publishes().iter().map(|published| published.job).collect();
    let own = restored(case);
    let reads = |job: usize| published.iter().any(|publish| *publish == job || case.pipeline.upstream(*publish).contains(&job));
    let own: Vec<_> = own.iter().filter(|cache| reads(cache.job)).collect();
    if own.is_empty() {
        return;
    }
    for index in 0..case.project.prepared.len() {
        let other = case.project.case(index);
        for job in (0..other.pipeline.jobs.len()).filter(|job| runs_strangers_code::is_theirs(&other, *job)) {
            for theirs in restored(&other).iter().filter(|cache| cache.job == job) {
                let Some(cache) = own.iter().find(|cache| cache.shares_key(theirs)) else { continue };
                out.add(cache.at.at, "this publish brings back a cache that anybody's pull request can write")
                    .witness(at(theirs.at.at), format!("`{}` saves it after it ran a stranger's code", other.job_name(job)))
                    .mend(Mend::by_hand("give the publish a key of its own, or leave the cache out of the other run"));
            }
        }
    }
}
