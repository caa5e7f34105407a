//! A cache of packages whose key does not look at the lockfile.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::project::Read;
use crate::rules::Rule;
use crate::text::Place;

use super::{Restored, holds_installed, holds_packages, restored};

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
        r#"
== files
package-lock.json
== steps
      - uses: actions/checkout@v5
      - id: modules
        uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ «hashFiles('package.json')» }}"}
      - if: ‹steps.modules.outputs.cache-hit != 'true'›
        run: npm ci
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
        knowledge::managers().manager.iter().flat_map(|manager| manager.lockfiles.iter().copied()).collect();
    let mut spoken = Vec::new();
    for cache in restored(case).into_iter().filter(|cache| holds_packages(cache.paths)) {
        for hash in cache.hashes {
            let Some(patterns) = hash.patterns.as_ref().filter(|_| !spoken.contains(&hash.at)) else { continue };
            if patterns.iter().all(|pattern| pattern.rsplit('/').next() == Some("package.json")) {
                spoken.push(hash.at);
                let skipped = skipped_install(case, &cache);
                let message = match skipped {
                    Some(_) => {
                        "a change of the lockfile alone never arrives: this key looks at package.json, and a hit skips the install"
                    }
                    None => "this key looks at package.json, and not at the lockfile",
                };
                let finding = out.add(hash.at, message);
                finding
                    .witness(WitnessSource::Catalog, format!("which packages are installed stands in {}", lockfiles.join(", ")));
                if let Some(place) = skipped {
                    finding
                        .severity(Severity::Warning)
                        .witness(at(place), "the install is left out here when the cache was found");
                }
                finding.mend(Mend::by_hand("hash the lockfile instead"));
            }
        }
    }
}

/// The condition of a later install in the same job that asks whether this cache of installed packages was found.
fn skipped_install(case: &Case<'_>, cache: &Restored<'_>) -> Option<Place> {
    let steps = &case.pipeline.jobs[cache.job].steps;
    let has_lockfile = || {
        let files = case.facts.files.known()?;
        let is_lockfile = |path: &str| knowledge::managers().of_lockfile(path).next().is_some();
        Some(files.any("a lockfile", is_lockfile))
    };
    if has_lockfile() != Some(true) {
        return None;
    }
    let id = steps[cache.step].id.as_ref().filter(|_| cache.paths.iter().any(holds_installed))?;
    let installs = |step: usize| {
        let effects = &case.effects.jobs[cache.job][step].effects;
        effects.iter().any(|effect| matches!(effect.effect, Effect::Install { .. }))
    };
    (cache.step + 1..steps.len()).filter(|step| installs(*step)).find_map(|step| {
        let condition = &steps[step].condition()?.text;
        let asks = |read: &&crate::project::ReadAt| read.read == Read::StepOutput && read.name.eq_ignore_ascii_case(&id.value);
        case.reads_of(condition).into_iter().any(|read| asks(&read)).then_some(condition.at)
    })
}
