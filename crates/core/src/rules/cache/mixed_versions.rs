//! One cache of installed packages for several versions of the runtime.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::pen::{self, Ask};
use crate::project::{Read, RunFact};
use crate::rules::Rule;
use crate::text::Place;

use super::{Restored, restored};

pub const RULE: Rule = Rule {
    id: "cache.mixed-versions",
    severity: Severity::Warning,
    title: "Several versions of the runtime share one cache",
    why: "Installed packages may hold parts that were built for one version of the runtime. Brought back under another they \
          fail, or are built anew each time.",
    needs: &[],
    bad: &[
        r#"
== jobs
  build:
    strategy:
      matrix:
        ‹node: [20, 22]›
    runs-on: ubuntu-latest
    steps:
      - uses: actions/setup-node@v5
        with: {node-version: '${{ matrix.node }}'}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "«m-${{ hashFiles('package-lock.json') }}»"}
"#,
        r"
== gitlab
lint:
  image: node:‹20›
  cache: &modules
    key: «modules»
    paths: [node_modules/]
  script:
    - npm ci
    - npm run lint
build:
  image: node:‹22›
  cache: *modules
  script:
    - npm ci
    - npm run build
",
        r#"
== gitlab
test:
  image: node:$NODE
  parallel:
    ‹matrix:
      - NODE: ["20", "22"]›
  cache:
    key: «modules»
    paths: [node_modules/]
  script:
    - npm ci
    - npm test
"#,
    ],
    good: &[
        r#"
== jobs
  build:
    strategy:
      matrix:
        node: [22, 24]
    runs-on: ubuntu-latest
    steps:
      - uses: actions/setup-node@v5
        with: {node-version: '${{ matrix.node }}'}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "m-${{ matrix.node }}-${{ hashFiles('package-lock.json') }}"}
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "m-${{ hashFiles('package-lock.json') }}"}
"#,
        r#"
== gitlab
lint:
  image: node:22
  cache: &modules
    key: modules-$CI_JOB_NAME
    paths: [node_modules/]
  script:
    - npm install
    - npm run lint
build:
  image: node:24
  cache: *modules
  script:
    - npm install
    - npm run build
test:
  image: node:$NODE
  parallel:
    matrix:
      - NODE: ["22", "24"]
  cache:
    key: modules-$NODE
    paths: [node_modules/]
  script:
    - npm install
    - npm test
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let all = restored(case);
    for cache in all.iter().filter(|cache| cache.paths.iter().any(super::holds_installed)) {
        legs(case, cache, out);
    }
    other_jobs(case, &all, out);
}

/// One job, once for each version.
fn legs(case: &Case<'_>, cache: &Restored<'_>, out: &mut Findings) {
    let Some(matrix) = &case.pipeline.jobs[cache.job].matrix else { return };
    let axis = case.effects.of_job(cache.job).find_map(|(_, effect)| match &effect.effect {
        Effect::SetUp { version: Some(version), .. } => {
            case.axis_in(cache.job, version).filter(|(_, values)| values.iter().any(|value| value.value != values[0].value))
        }
        _ => None,
    });
    let Some((axis, _)) = axis else { return };
    let tells = cache
        .reads(case)
        .is_none_or(|reads| reads.iter().any(|read| read.read != Read::Run(RunFact::Os) && super::tells_apart(read, &axis)));
    if !tells {
        out.add(cache.key_at(), format!("all versions in `{}` share these installed packages", axis))
            .witness(at(matrix.at), "the job runs with each of them")
            .mend(pen::write(case, &Ask::KeyWithAxis { axis: &axis }));
    }
}

/// Two jobs with different runtimes that share the installed packages.
fn other_jobs(case: &Case<'_>, all: &[Restored<'_>], out: &mut Findings) {
    let mut earlier: HashMap<_, Vec<&Restored<'_>>> = HashMap::new();
    for cache in all {
        let before = earlier.entry(cache.shared_by()).or_default();
        before.push(cache);
        let before = &before[..before.len() - 1];
        if !cache.paths.iter().any(super::holds_installed) {
            continue;
        }
        let own_name = |reads: &Vec<&crate::project::ReadAt>| reads.iter().all(|read| read.read != Read::Run(RunFact::Job));
        if !cache.reads(case).is_some_and(|reads| own_name(&reads)) {
            continue;
        }
        let Some((tool, version, place)) = runtime(case, cache.job) else { continue };
        let other = before.iter().filter(|other| other.job != cache.job).find_map(|other| {
            let (other_tool, other_version, other_place) = runtime(case, other.job)?;
            (other_tool == tool && other_version != version).then_some((other.job, other_version, other_place))
        });
        let Some((job, other_version, other_place)) = other else { continue };
        let (id, other_id) = (case.job_name(cache.job), case.job_name(job));
        out.add(
            cache.key_at(),
            format!("`{id}` with {tool} {version} and `{other_id}` with {tool} {other_version} share these installed packages"),
        )
        .witness(at(place), format!("`{id}` runs here"))
        .witness(at(other_place), format!("`{other_id}` runs here"))
        .mend(Mend::by_hand("give each of them a key of its own, or let both run with the same version"));
    }
}

/// The runtime that a job is given, with the first number of its version.
fn runtime<'c>(case: &'c Case<'_>, job: usize) -> Option<(&'c str, u32, Place)> {
    case.effects.of_job(job).find_map(|(_, effect)| match &effect.effect {
        Effect::SetUp { tool, version: Some(version), .. } => {
            Some((tool.as_str(), version.value.split('.').next()?.parse().ok()?, version.at))
        }
        _ => None,
    })
}
