//! A cache for another package manager than the one that installs.

use std::collections::{HashMap, HashSet};

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;
use crate::text::Place;

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
    let installs = installs_of(case);
    by_path(case, &installs, out);
    for (job, step, effect) in case.all_effects() {
        let Effect::SetUp { cache: Some(cache), tool, .. } = &effect.effect else { continue };
        let Some(own) = cache.known().filter(|own| tool == "node" && knowledge::managers().get(own).is_some()) else { continue };
        let installs = &installs[job];
        let later = &installs.known[installs.known.partition_point(|(number, ..)| *number <= step)..];
        let unknown = installs.perhaps.contains(own);
        // When the lockfile is missing too, that is what fails first.
        let absent = case.facts.files.known().is_some_and(|files| {
            knowledge::managers()
                .get(own)
                .is_some_and(|manager| !manager.lockfiles.iter().any(|file| files.named(file).next().is_some()))
        });
        let Some((_, other, place)) =
            later.first().filter(|_| !unknown && !absent && installs.last.get(own).is_none_or(|number| *number <= step))
        else {
            continue;
        };
        out.add(cache.inner(), format!("this caches the downloads of {own}, and {other} installs"))
            .witness(at(*place), format!("{other} installs here"))
            .mend(Mend::certain(format!("write {other}"), [Edit::replace(cache.inner(), *other)]));
    }
}

/// A store of downloads is cached, and another manager installs.
fn by_path(case: &Case<'_>, installs: &[Installs<'_>], out: &mut Findings) {
    let managers = knowledge::managers();
    for (job, step, effect) in case.all_effects() {
        let Effect::RestoreCache { paths, .. } = &effect.effect else { continue };
        for path in paths {
            let owners: Vec<&str> = managers
                .stores
                .iter()
                .filter(|(_, stores)| stores.iter().any(|store| super::is_store(path, store)))
                .map(|(id, _)| id)
                .collect();
            let [owner] = owners.as_slice() else { continue };
            let node = managers.get(owner).filter(|manager| manager.runtime == "node");
            let installs = &installs[job];
            let open = node.is_none() || installs.all.contains(owner) || installs.perhaps.contains(owner);
            let other = installs.known.get(installs.known.partition_point(|(number, ..)| *number < step));
            let Some((_, manager, place)) = other.filter(|_| !open) else { continue };
            out.add(path.at, format!("this caches the downloads of {owner}, and {manager} installs"))
                .witness(at(*place), format!("{manager} installs here"))
                .mend(Mend::by_hand(format!("cache the folder in which {manager} keeps its downloads")));
        }
    }
}

/// What installs packages in a job.
#[derive(Default)]
struct Installs<'c> {
    /// Managers that are known well, in the order of the steps, each with its step.
    known: Vec<(usize, &'c str, Place)>,
    /// The last step of each of those.
    last: HashMap<&'c str, usize>,
    /// All managers by name.
    all: HashSet<&'c str>,
    /// Managers that something may run which is not known.
    perhaps: HashSet<&'static str>,
}

/// By job: many caches may stand in one, and each is held against what installs there.
fn installs_of<'c>(case: &'c Case<'_>) -> Vec<Installs<'c>> {
    let mut found: Vec<Installs<'_>> = case.pipeline.jobs.iter().map(|_| Installs::default()).collect();
    let managers = knowledge::managers();
    for (job, step, effect) in case.all_effects() {
        match &effect.effect {
            Effect::Install { manager, .. } => {
                found[job].all.insert(manager);
                if managers.get(manager).is_some() {
                    found[job].known.push((step, manager, effect.at));
                    found[job].last.insert(manager, step);
                }
            }
            Effect::Unknown(reach) => {
                let perhaps = &mut found[job].perhaps;
                let ids = managers.manager.iter().map(|manager| manager.id).chain(managers.stores.names());
                for id in ids {
                    if !perhaps.contains(id) && reach.knows(id) {
                        perhaps.insert(id);
                    }
                }
            }
            _ => {}
        }
    }
    found
}
