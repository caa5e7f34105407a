//! A key that is made of more files than the format takes.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.too-many-files",
    severity: Severity::Error,
    title: "The key of a cache is made of too many files",
    why: "A key can be made of the contents of a few files only. With more, the forge refuses the whole file, and nothing runs.",
    needs: &[],
    bad: &[r"
== gitlab
build:
  cache:
    key:
      files: [«package-lock.json», package.json, .nvmrc]
    paths: [.npm/]
  script:
    - npm ci --cache .npm
"],
    good: &[
        r"
== gitlab
build:
  cache:
    key:
      files: [package-lock.json, .nvmrc]
    paths: [.npm/]
  script:
    - npm ci --cache .npm
",
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: npm-${{ hashFiles('package-lock.json', 'package.json', '.nvmrc') }}
      - run: npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(most) = case.pipeline.customs.most_hashed else { return };
    let mut spoken = Vec::new();
    for hash in restored(case).into_iter().flat_map(|cache| cache.hashes) {
        let count = hash.patterns.as_ref().map_or(0, Vec::len);
        if count > most && !spoken.contains(&hash.at) {
            spoken.push(hash.at);
            out.add(hash.at, format!("this key is made of {count} files, so this file is refused and nothing in it runs"))
                .witness(WitnessSource::Catalog, format!("a key takes {most} files at most"))
                .mend(Mend::by_hand("leave the lockfile, and whatever else the packages hang on most"));
        }
    }
}
