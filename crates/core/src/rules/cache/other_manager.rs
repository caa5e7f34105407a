//! A cache for another package manager than the one that installs.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "cache.other-manager",
    severity: Severity::Warning,
    title: "The cache belongs to another package manager",
    why: "Each manager keeps its downloads in a place of its own. A cache of another one's is saved and brought back, and nobody \
          looks into it.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: «~/.pnpm-store», key: x}
      - run: ‹npm ci›
",
        r"
== files
package-lock.json
pnpm-lock.yaml
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {cache: «npm»}
      - run: ‹pnpm install›
",
        r#"
== git
main default
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {"vite": "7", "vitest": "3"}}
== files
package-lock.json
== .travis.yml
language: ‹node_js›
node_js: '24'
cache: «yarn»
script: npm run build
"#,
        r#"
== git
main default
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {"vite": "7", "vitest": "3"}}
== files
package-lock.json
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      cached_dirs: ["«/root/.cache/yarn»"]
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "‹npm ci›"
        - "npm run build"
"#,
    ],
    good: &[
        r"
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {cache: npm}
      - run: npm ci
      - run: yarn install
        working-directory: tools
",
        r"
== steps
      - uses: actions/setup-node@v5
        with: {cache: npm}
      - run: ./install
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    by_path(case, out);
    for (job, step, effect) in case.all_effects() {
        let Effect::SetUp { cache: Some(cache), tool, .. } = &effect.effect else { continue };
        let Some(own) = cache.known().filter(|own| tool == "node" && knowledge::managers().get(own).is_some()) else { continue };
        let installs: Vec<(&str, crate::text::Place)> = case
            .effects
            .of_job(job)
            .filter(|(number, _)| *number > step)
            .filter_map(|(_, effect)| match &effect.effect {
                Effect::Install { manager, .. } if knowledge::managers().get(manager).is_some() => {
                    Some((manager.as_str(), effect.at))
                }
                _ => None,
            })
            .collect();
        let unknown =
            case.effects.of_job(job).any(|(_, effect)| matches!(&effect.effect, Effect::Unknown(reach) if reach.knows(own)));
        // When the lockfile is missing too, that is what fails first.
        let absent = case.facts.files.known().is_some_and(|files| {
            knowledge::managers()
                .get(own)
                .is_some_and(|manager| !manager.lockfiles.iter().any(|file| files.named(file).next().is_some()))
        });
        let Some((other, place)) =
            installs.first().filter(|_| !unknown && !absent && installs.iter().all(|(manager, _)| *manager != own))
        else {
            continue;
        };
        out.add(cache.inner(), format!("this caches the downloads of {own}, and {other} installs"))
            .witness(at(*place), format!("{other} installs here"))
            .mend(Mend::certain(format!("write {other}"), [Edit::replace(cache.inner(), *other)]));
    }
}

/// A store of downloads is cached, and another manager installs.
fn by_path(case: &Case<'_>, out: &mut Findings) {
    let managers = knowledge::managers();
    for (job, step, effect) in case.all_effects() {
        let Effect::RestoreCache { paths, .. } = &effect.effect else { continue };
        for path in paths {
            let owners: Vec<&str> = managers
                .stores
                .iter()
                .filter(|(_, stores)| stores.iter().any(|store| super::is_store(path, store)))
                .map(|(id, _)| id.as_str())
                .collect();
            let [owner] = owners.as_slice() else { continue };
            let node = managers.get(owner).filter(|manager| manager.runtime == "node");
            let mut other = None;
            let mut open = node.is_none();
            for (number, effect) in case.effects.of_job(job) {
                match &effect.effect {
                    Effect::Install { manager, .. } if manager == owner => open = true,
                    Effect::Install { manager, .. } if number >= step && managers.get(manager).is_some() => {
                        other = other.or(Some((manager.as_str(), effect.at)));
                    }
                    Effect::Unknown(reach) => open |= reach.knows(owner),
                    _ => {}
                }
            }
            let Some((manager, place)) = other.filter(|_| !open) else { continue };
            out.add(path.at, format!("this caches the downloads of {owner}, and {manager} installs"))
                .witness(at(place), format!("{manager} installs here"))
                .mend(Mend::by_hand(format!("cache the folder in which {manager} keeps its downloads")));
        }
    }
}
