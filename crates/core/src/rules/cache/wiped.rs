//! A cache that the installation deletes.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.wiped",
    severity: Severity::Warning,
    title: "The installation deletes what the cache brought back",
    why: "An installation that follows the lockfile to the letter deletes node_modules before it starts. What the cache unpacked \
          a moment ago is gone; worth keeping is the manager's own store of downloads.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/cache@v4
        with: {path: «node_modules», key: x}
      - run: ‹npm ci›
",
        r"
== gitlab
site:
  cache:
    key: npm
    paths: [«node_modules/»]
  script:
    - ‹npm ci›
",
    ],
    good: &[
        r#"
== steps
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
"#,
        r#"
== steps
      - uses: actions/cache@v4
        id: modules
        with: {path: node_modules, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - if: steps.modules.outputs.cache-hit != 'true'
        run: npm ci
"#,
        r"
== gitlab
site:
  cache:
    key: npm
    paths: [.npm/]
  script:
    - npm ci --cache .npm
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case) {
        for path in cache.paths {
            let Some(folder) = path.folder.as_deref().filter(|folder| folder.rsplit('/').next() == Some("node_modules")) else {
                continue;
            };
            let above = folder.strip_suffix("node_modules").unwrap_or_default().trim_end_matches('/');
            let wipes = case.effects.of_job(cache.job).filter(|(step, _)| *step > cache.step).find(|(_, effect)| {
                matches!(&effect.effect, Effect::Install { manager, frozen: true, dir: Some(dir), .. } if manager == "npm" && dir == above) && !effect.perhaps
            });
            if let Some((_, install)) = wipes {
                out.add(path.at, format!("`{}` is brought back, and the next installation deletes it", path.written))
                    .witness(at(install.at), "npm ci deletes node_modules before it installs")
                    .mend(Mend::by_hand("cache ~/.npm instead"));
            }
        }
    }
}
