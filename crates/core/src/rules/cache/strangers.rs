//! A publish that reads a cache which strangers can write.

use std::collections::{HashMap, HashSet};

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::project::{Project, StrangersCache, StrangersCaches};
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
    let published: Vec<usize> = case.published().map(|published| published.job).collect();
    let own = restored(case);
    let mut reads: HashSet<usize> = HashSet::new();
    for job in published {
        if reads.insert(job) {
            reads.extend(case.pipeline.upstream(job));
        }
    }
    let mut by_key = HashMap::new();
    for cache in own.iter().filter(|cache| reads.contains(&cache.job)) {
        by_key.entry(cache.shared_by()).or_insert(cache);
    }
    if by_key.is_empty() {
        return;
    }
    let theirs = case.project.strangers_caches(|| all_theirs(case.project));
    let found = by_key.into_iter().flat_map(|(key, cache)| theirs.get(&key).into_iter().flatten().map(move |one| (one, cache)));
    let mut found: Vec<_> = found.collect();
    found.sort_by_key(|(one, _)| **one);
    for (one, cache) in found {
        let job = case.project.case(one.pipeline).job_name(one.job).to_owned();
        out.add(cache.at.at, "this publish brings back a cache that anybody's pull request can write")
            .witness(at(one.at), format!("`{job}` saves it after it ran a stranger's code"))
            .mend(Mend::by_hand("give the publish a key of its own, or leave the cache out of the other run"));
    }
}

/// Every cache of a job that runs a stranger's code, in whatever pipeline.
fn all_theirs(project: &Project<'_>) -> StrangersCaches {
    let mut found = StrangersCaches::new();
    for pipeline in 0..project.prepared.len() {
        let case = project.case(pipeline);
        let mut are_theirs: HashMap<usize, bool> = HashMap::new();
        for (number, cache) in restored(&case).into_iter().enumerate() {
            let job = cache.job;
            if *are_theirs.entry(job).or_insert_with(|| runs_strangers_code::is_theirs(&case, job)) {
                found.entry(cache.shared_by()).or_default().push(StrangersCache { pipeline, job, number, at: cache.at.at });
            }
        }
    }
    found
}
