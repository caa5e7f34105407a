//! A cache whose key is never the same twice.

use std::collections::HashMap;

use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::project::Read;
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.restless-key",
    severity: Severity::Warning,
    title: "A cache is never found again",
    why: "With the commit or the run's number in its key, a cache is saved every time and never found: each run packs it up for \
          nothing. A fallback, the beginning of the key, would find the one before.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: «npm-${{ github.sha }}»
",
        r"
== gitlab
build:
  cache:
    key: «npm-$CI_COMMIT_SHA»
    paths: [.npm/]
  script:
    - npm ci --cache .npm
    - npm run build
",
    ],
    good: &[
        r"
== steps
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: 'npm-${{ github.sha }}', restore-keys: npm-}
      - uses: actions/cache@v4
        with: {path: x, key: 'x-${{ github.ref }}'}
",
        // Another job of the same run brings it back.
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/cache@v4
        with: {path: dist, key: 'site-${{ github.sha }}'}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/cache@v4
        with: {path: dist, key: 'site-${{ github.sha }}'}
",
        r"
== gitlab
.npm: &npm
  key: npm-$CI_COMMIT_SHA
  paths: [.npm/]
install:
  stage: .pre
  cache: *npm
  script:
    - npm ci --cache .npm
build:
  cache: *npm
  script:
    - npm ci --cache .npm
    - npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let all = restored(case);
    let mut users: HashMap<_, usize> = HashMap::new();
    all.iter().for_each(|cache| *users.entry(cache.shared_by()).or_default() += 1);
    for cache in all.iter().filter(|cache| cache.fallback.is_none() && cache.saves == Some(true)) {
        let shared = users.get(&cache.shared_by()).is_some_and(|users| *users > 1);
        let (Some(key), Some(reads), false) = (cache.key, cache.reads(case), shared) else { continue };
        if reads.iter().any(|read| matches!(read.read, Read::Run(fact) if fact.is_new_each_time())) {
            out.add(key.inner(), "this cache is saved by every run and found by none: its key is another one each time")
                .witness(WitnessSource::Catalog, "the commit and the run's number are never the same twice")
                .mend(pen::write(case, &Ask::CacheFallback { key }));
        }
    }
}
