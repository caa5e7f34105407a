//! Packages installed by another manager than the lockfile's.

use crate::case::Case;
use crate::effects::Effect;
use crate::facts::lockfiles;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.other-manager",
    severity: Severity::Warning,
    title: "Packages are installed by another manager than the lockfile's",
    why: "Another manager does not read the lockfile that is there. It picks the newest versions that fit, others than everybody \
          tests with, and one day the build breaks by itself.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
pnpm-lock.yaml
== steps
      - uses: actions/checkout@v5
      - run: «npm install»
",
        r"
== files
package.json
pnpm-lock.yaml
== gitlab
build:
  image: node:22
  script:
    - «npm install»
",
    ],
    good: &[
        r"
== files
pnpm-lock.yaml
== steps
      - uses: actions/checkout@v5
      - uses: pnpm/action-setup@v4
        with: {version: 10}
      - run: pnpm install
      - run: npm install -g serve
",
        r"
== files
x
== steps
      - uses: actions/checkout@v5
      - run: npm install
",
        r"
== files
package.json
pnpm-lock.yaml
== gitlab
build:
  image: node:22
  script:
    - corepack enable
    - pnpm install --frozen-lockfile
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::Install { manager, frozen, dir: Some(dir), .. } = &effect.effect else { continue };
        // A frozen installation without its lockfile fails, and another rule says so.
        let goes_on = knowledge::managers().get(manager).is_some_and(|known| !(*frozen && known.frozen_needs_lockfile));
        if !goes_on || effect.perhaps || !case.has_own_root(job, step) {
            continue;
        }
        // A package by its name is added to what is there.
        let command = case.sources.slice(effect.at);
        let names_package = command.split_whitespace().skip(2).any(|word| !word.starts_with('-'));
        let locks = lockfiles(case.facts, dir);
        let Some((other, file)) = locks.first().filter(|_| !names_package && locks.iter().all(|(id, _)| id != manager)) else {
            continue;
        };
        out.add(effect.at, format!("{manager} does not read {file}: it installs other versions than everybody has"))
            .witness(WitnessSource::Files, format!("{file} is {other}'s, and {manager} has no lockfile here"))
            .mend(Mend::by_hand(format!("install with {other}")));
    }
}
