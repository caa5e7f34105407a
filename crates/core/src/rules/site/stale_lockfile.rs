//! A lockfile that lacks a package.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.stale-lockfile",
    severity: Severity::Error,
    title: "The lockfile does not hold what package.json names",
    why: "An installation that follows the lockfile to the letter stops when package.json names a package that is not in it. On \
          the developer's own machine nothing is wrong: there the package is installed already.",
    needs: &[Need::Package],
    bad: &[
        r#"
== package.json
{"dependencies": {"tide": "1", «"chart"»: "2"}}
== package-lock.json
{"lockfileVersion": 3, "packages": {"": {"dependencies": {"tide": "1"}}, "node_modules/tide": {}}}
== steps
      - uses: actions/checkout@v5
      - run: ‹npm ci›
"#,
        r#"
== package.json
{"devDependencies": {«"vite"»: "7"}}
== package-lock.json
{"lockfileVersion": 3, "packages": {"": {"devDependencies": {}}}}
== gitlab
build:
  script:
    - ‹npm ci›
"#,
    ],
    good: &[
        r#"
== package.json
{"dependencies": {"tide": "1"}, "devDependencies": {"chart": "2"}}
== package-lock.json
{"packages": {"": {"dependencies": {"tide": "1"}, "devDependencies": {"chart": "2"}}}}
== steps
      - uses: actions/checkout@v5
      - run: npm ci
"#,
        r#"
== package.json
{"dependencies": {"tide": "1"}}
== package-lock.json
{"lockfileVersion": 1, "dependencies": {}}
== steps
      - uses: actions/checkout@v5
      - run: npm ci
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== package-lock.json
{"lockfileVersion": 3, "packages": {"": {"devDependencies": {"vite": "7"}}, "node_modules/vite": {"version": "7.0.0"}}}
== gitlab
build:
  script:
    - npm ci
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::Install { manager, frozen: true, dir: Some(dir), .. } = &effect.effect else { continue };
        let (Some(locked), Some(package)) = (case.facts.locked.get(dir), case.facts.packages.get(dir)) else { continue };
        if manager != "npm" || effect.perhaps || !case.has_own_root(job, step) {
            continue;
        }
        if let Some((name, place)) = package.installed.iter().find(|(name, _)| !locked.contains(name)) {
            out.add(
                *place,
                format!("`{}` fails: package.json names {name}, and package-lock.json does not hold it", case.job_name(job)),
            )
            .witness(at(effect.at), "npm ci wants the two to agree")
            .mend(Mend::by_hand("run npm install, and commit package-lock.json"));
            return;
        }
    }
}
