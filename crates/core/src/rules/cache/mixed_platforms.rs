//! One cache for several operating systems.

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::pen::{self, Ask};
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.mixed-platforms",
    severity: Severity::Warning,
    title: "Several operating systems share one cache",
    why: "Packages may hold programs that were built for one system. Brought back on another they do not start.",
    needs: &[],
    bad: &[r#"
== jobs
  build:
    strategy:
      matrix:
        ‹os: [ubuntu-latest, macos-latest]›
    runs-on: ${{ matrix.os }}
    steps:
      - uses: actions/cache@v4
        with: {path: node_modules, key: "«modules-${{ hashFiles('package-lock.json') }}»"}
"#],
    good: &[
        r#"
== jobs
  build:
    strategy:
      matrix:
        os: [ubuntu-latest, macos-latest]
    runs-on: ${{ matrix.os }}
    steps:
      - uses: actions/cache@v4
        with: {path: node_modules, key: "${{ runner.os }}-${{ hashFiles('package-lock.json') }}"}
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "${{ matrix.os }}-${{ hashFiles('package-lock.json') }}"}
"#,
        r#"
== jobs
  build:
    strategy:
      matrix:
        os: [ubuntu-22.04, ubuntu-24.04]
    runs-on: ${{ matrix.os }}
    steps:
      - uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ hashFiles('package-lock.json') }}"}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case).into_iter().filter(|cache| super::holds_packages(cache.paths)) {
        let job = &case.pipeline.jobs[cache.job];
        let Some((axis, values)) = job.machine.runners.iter().find_map(|runner| case.axis_in(cache.job, runner)) else {
            continue;
        };
        let mut systems: Vec<&str> = values.iter().map(|value| value.value.split('-').next().unwrap_or_default()).collect();
        systems.sort_unstable();
        systems.dedup();
        let tells = cache.reads(case).is_none_or(|reads| reads.iter().any(|read| super::tells_apart(read, &axis)));
        if systems.len() > 1 && !tells {
            let Some(matrix) = &job.matrix else { continue };
            out.add(
                cache.key_at(),
                format!("{} share this cache, and packages built for one fail on the other", systems.join(" and ")),
            )
            .witness(at(matrix.at), "the job runs on each of them")
            .mend(pen::write(case, &Ask::KeyWithSystem));
        }
    }
}
