//! A cache of packages whose key does not look at the lockfile.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::Rule;

use super::{holds_packages, restored};

pub const RULE: Rule = Rule {
    id: "cache.blind-key",
    severity: Severity::Advice,
    title: "A cache of packages does not look at the lockfile",
    why: "Which packages are installed stands in the lockfile. A key made of other files brings back the old packages after an \
          update, or throws them away without need.",
    needs: &[],
    bad: &[
        r#"
== steps
      - uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ «hashFiles('package.json')» }}"}
"#,
        r"
== gitlab
build:
  cache:
    key:
      files: [«package.json»]
    paths: [node_modules/]
  script:
    - npm ci
    - npm run build
",
    ],
    good: &[
        r#"
== steps
      - uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ hashFiles('**/package-lock.json', 'patches/**') }}"}
      - uses: actions/cache@v4
        with: {path: .cache, key: "x-${{ hashFiles('src/**') }}"}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "x-${{ hashFiles('**') }}"}
"#,
        r"
== gitlab
build:
  cache:
    key:
      files: [package.json, package-lock.json]
    paths: [.npm/]
  script:
    - npm ci --cache .npm
    - npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let lockfiles: Vec<&str> =
        knowledge::managers().manager.iter().flat_map(|manager| manager.lockfiles.iter().map(String::as_str)).collect();
    let mut spoken = Vec::new();
    for cache in restored(case).into_iter().filter(|cache| holds_packages(cache.paths)) {
        for hash in cache.hashes {
            let Some(patterns) = hash.patterns.as_ref().filter(|_| !spoken.contains(&hash.at)) else { continue };
            if patterns.iter().all(|pattern| pattern.rsplit('/').next() == Some("package.json")) {
                spoken.push(hash.at);
                out.add(hash.at, "this key looks at package.json, and not at the lockfile")
                    .witness(WitnessSource::Catalog, format!("which packages are installed stands in {}", lockfiles.join(", ")))
                    .mend(Mend::by_hand("hash the lockfile instead"));
            }
        }
    }
}
