//! Another version of the runtime than the repository asks for.

use crate::case::{Case, at};
use crate::effects::{Effect, is_inside};
use crate::facts::{Origin, least_major, major_of};
use crate::finding::{Findings, Mend, Severity};
use crate::model::Text;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "site.runtime-mismatch",
    severity: Severity::Warning,
    title: "The pipeline sets up another runtime than the repository asks for",
    why: "package.json and version files say what the site is made and tested with. With an older runtime the installation or \
          the build stops; with another one it may do something else than on everybody's machine.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"engines": {"node": ‹">=20"›}}
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version: «18»}
"#,
        r#"
== package.json
{"engines": {"node": ‹">=22"›}}
== gitlab
image: node:«20»-alpine
site:
  script:
    - npm ci
"#,
        r#"
== package.json
{"engines": {"node": ‹">=24"›}}
== .travis.yml
language: node_js
node_js: '«22»'
script: npm run build
"#,
        r#"
== git
main default
== package.json
{"engines": {"node": ‹">=24"›}}
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "«22»"
      execute_commands:
        - "npm ci"
"#,
    ],
    good: &[
        r#"
== package.json
{"engines": {"node": ">=18 || ^16"}}
== .nvmrc
v22.3
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version: 22}
      - uses: actions/setup-node@v5
        with: {node-version-file: .nvmrc}
      - uses: actions/setup-node@v5
        with: {node-version: lts/*}
"#,
        r#"
== .nvmrc
lts/*
== package.json
{"engines": {"node": ">=18"}}
== steps
      - uses: actions/setup-node@v5
        with: {node-version: 24}
"#,
        r#"
== package.json
{"engines": {"node": ">=22"}}
== gitlab
image: node:24
site:
  script:
    - npm ci
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::SetUp { tool, version: Some(version), .. } = &effect.effect else { continue };
        let Some(given) = version.known().and_then(major_of).filter(|_| case.has_own_root(job, step)) else { continue };
        for dir in case.work_folders(job) {
            if compare(case, tool, version, given, dir, out) {
                break;
            }
        }
    }
}

/// Compares with what a folder that the job works in asks for, or else those above it; gives whether there was something to say.
fn compare(case: &Case<'_>, tool: &str, version: &Text, given: u32, dir: &str, out: &mut Findings) -> bool {
    let folder = |path: &str| path.rsplit_once('/').map_or(String::new(), |(folder, _)| folder.to_owned());
    let above = case.facts.runtimes.iter().filter(|fact| fact.tool == *tool && is_inside(dir, &folder(&fact.path)));
    let file = above.max_by_key(|fact| folder(&fact.path).len());
    if let Some((wanted, Origin::At(place))) = file.and_then(|fact| Some((fact.major()?, fact.origin.clone())))
        && wanted != given
    {
        speak(
            version.inner(),
            place,
            &format!("{tool} {given} is set up, and the repository asks for {wanted}"),
            format!("write {wanted}"),
            out,
        );
        return true;
    }
    let engines = case.facts.package_for(dir).and_then(|(_, package)| package.node.as_ref()).filter(|_| tool == "node");
    if let Some((range, place)) = engines
        && let Some(least) = least_major(range)
        && given < least
    {
        speak(
            version.inner(),
            *place,
            &format!("node {given} is set up, and package.json asks for {range}"),
            format!("write {least}, or a newer one"),
            out,
        );
        return true;
    }
    false
}

fn speak(place: Place, wanted: Place, message: &str, todo: String, out: &mut Findings) {
    out.add(place, message).witness(at(wanted), "this is what it asks for").mend(Mend::by_hand(todo));
}
