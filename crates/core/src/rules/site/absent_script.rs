//! A step that runs a script package.json does not have.

use super::word_in;
use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, listed_short};
use crate::knowledge::{Among, near};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.absent-script",
    severity: Severity::Error,
    title: "A step runs a script that package.json does not have",
    why: "The package manager stops with \"missing script\", the step fails, and nothing after it runs.",
    needs: &[Need::Package],
    bad: &[
        r#"
== package.json
{"scripts": ‹{"build": "vite build", "test": "vitest"}›}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: |
          npm ci
          «npm run biuld»
"#,
        r#"
== package.json
{"scripts": ‹{"build": "vite build"}›}
== gitlab
site:
  script:
    - «npm run biuld»
"#,
        r#"
== package.json
{"scripts": ‹{"build": "vite build", "test": "vitest run"}›, "devDependencies": {"vite": "7", "vitest": "3"}}
== files
package-lock.json
== .travis.yml
language: node_js
node_js: '24'
script: «npm run biuld»
"#,
        r#"
== git
main default
== package.json
{"scripts": ‹{"build": "vite build", "test": "vitest run"}›, "devDependencies": {"vite": "7", "vitest": "3"}}
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
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "npm ci"
        - "«npm run biuld»"
"#,
    ],
    good: &[
        r#"
== package.json
{"scripts": {"build": "vite build", "lint": "eslint ."}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm run build && yarn lint && npm run docs --if-present
"#,
        // yarn also runs the programs of packages; another folder has another package.json.
        r#"
== package.json
{"scripts": {"build": "vite build"}}
== app/package.json
{"scripts": {"pack": "vite build"}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: yarn vite build
      - run: npm run pack
        working-directory: app
      - run: npm --prefix app run pack && (cd app && npm run pack)
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}}
== gitlab
site:
  script:
    - npm run build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, _, effect) in case.all_effects() {
        let Effect::RunScript { manager, name, dir: Some(dir), lenient: false } = &effect.effect else { continue };
        // npm starts `server.js` when there is no such script.
        if effect.perhaps || name == "start" {
            continue;
        }
        let Some((_, package)) = case.facts.package_for(dir) else { continue };
        let Some(scripts) = package.scripts.as_ref().filter(|_| package.script(name).is_none()) else { continue };
        let path = &case.sources.get(package.file).path;
        let names: Vec<&str> = scripts.iter().map(|script| script.name.as_str()).collect();
        let finding =
            out.add(effect.at, format!("`{}` fails here: {manager} finds no script `{name}` in {path}", case.job_name(job)));
        let there = if names.is_empty() {
            "there are no scripts here".to_owned()
        } else {
            format!("the scripts here are {}", listed_short(&names))
        };
        finding.witness(at(package.scripts_at), there);
        let edit =
            near(name, names.iter().copied(), Among::Whole).and_then(|meant| Some((meant, word_in(case, effect.at, name, &[])?)));
        finding.mend(match edit {
            Some((meant, place)) => Mend { title: format!("run {}", meant.word), ..Mend::name(&meant, place) },
            None => Mend::by_hand(format!("add a script `{name}` to {path}, or run one that is there")),
        });
    }
}
