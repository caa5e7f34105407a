//! A variable that the page's sources read, and that nobody sets when it is built.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity};
use crate::knowledge;
use crate::pen::{self, Ask};
use crate::rehearsal::Answer;
use crate::rules::Rule;

use super::{may_be_announced, may_come_from_elsewhere};

pub const RULE: Rule = Rule {
    id: "secret.unset-variable",
    severity: Severity::Warning,
    title: "The page reads a variable that its build does not get",
    why: "Such variables are put into the page when it is built. One that is not set there becomes empty: the page asks the \
          wrong address, and it worked on every developer's machine, where a file of its own sets it.",
    needs: &[],
    bad: &[
        // The sources lie in the folder that the job works in; what another package reads is no part of this page.
        r#"
== apps/web/package.json
{"devDependencies": {"vite": "7"}, "scripts": {"build": "vite build"}}
== apps/web/src/api.js
export const api = ‹import.meta.env.VITE_API›;
== apps/server/package.json
{"scripts": {"start": "node src/main.js"}}
== apps/server/src/main.js
console.log(process.env.VITE_OTHER);
== git
main default
== pipeline
on: push
permissions: {contents: write}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: «npm run build»
        working-directory: apps/web
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: '${{ github.token }}', publish_dir: apps/web/dist}
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== src/api.js
export const api = ‹import.meta.env.VITE_API›;
== git
main default
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: «npx vite build»
      - run: npx gh-pages -d dist
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== src/api.js
export const api = ‹import.meta.env.VITE_API›;
== dulk.toml
[forge]
secrets = []
variables = []
== git
main default
== gitlab
pages:
  script:
    - «npx vite build --outDir public»
  artifacts:
    paths: [public]
"#,
    ],
    good: &[
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== src/api.js
const a = import.meta.env.VITE_API ?? 'https://api.tarnsay.example', b = import.meta.env.MODE, c = import.meta.env.VITE_B, d = import.meta.env.VITE_C;
== .env.production
VITE_B=1
== git
main default
== jobs
  build:
    runs-on: ubuntu-latest
    env: {VITE_C: x}
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== src/api.js
if (import.meta.env.VITE_API) { start(import.meta.env.VITE_API) }
== git
main default
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== src/api.js
export const api = import.meta.env.VITE_API;
== dulk.toml
[forge]
secrets = []
variables = ["VITE_API"]
== git
main default
== gitlab
pages:
  script:
    - npx vite build --outDir public
  artifacts:
    paths: [public]
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let publishes = case
        .on_default_push()
        .is_some_and(|pushed| case.published().any(|published| case.happens(&published, pushed) > Answer::No))
        || case.all_effects().any(|(_, _, effect)| effect.effect.goes_online());
    if !publishes || case.facts.page_variables.is_empty() {
        return;
    }
    let mut spoken = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let Effect::Build { generator, dir, .. } = &effect.effect else { continue };
        let Some(known) = knowledge::generators().get(generator).filter(|_| case.has_own_root(job, step)) else { continue };
        if may_come_from_elsewhere(case, job) || writes_settings(case, job, step) {
            continue;
        }
        let of_job = &case.pipeline.jobs[job];
        let layers = case.layers(job, step);
        // What another package's sources read is no part of this page.
        let package = |dir: &str| case.facts.package_for(dir).map(|(dir, _)| dir.to_owned());
        let of_page = |read: &&crate::facts::PageVariable| {
            let path = &case.sources.get(read.at.file).path;
            let folder = path.rsplit_once('/').map_or("", |(folder, _)| folder);
            dir.as_deref().is_some_and(|dir| package(folder) == package(dir))
        };
        for read in case.facts.page_variables.iter().filter(of_page) {
            let public = known.public_prefixes.iter().any(|prefix| read.name.starts_with(prefix));
            let given = case.is_held_for(job, &read.name)
                || may_be_announced(case, job, &read.name)
                || layers.iter().any(|layer| layer.get(&read.name).is_some())
                || matches!(&of_job.steps[step].work, crate::model::Work::Runs { script, .. } if script.value.contains(&read.name));
            if !public || given || spoken.contains(&read.name) || matches!(read.otherwise, crate::facts::Otherwise::Value) {
                continue;
            }
            spoken.push(read.name.clone());
            let message = match read.otherwise {
                crate::facts::Otherwise::OwnMachine => {
                    format!("the page is built without {}, and then calls the visitor's own machine", read.name)
                }
                _ => format!("the page is built without {}: it is empty on the site", read.name),
            };
            out.add(effect.at, message)
                .witness(at(read.at), "the page's sources read it here, and no .env file sets it")
                .mend(pen::write(case, &Ask::GiveVariable { name: &read.name, job }));
        }
    }
}

/// A step before the build may write the file that sets variables.
fn writes_settings(case: &Case<'_>, job: usize, step: usize) -> bool {
    case.effects.of_job(job).filter(|(number, _)| *number <= step).any(|(_, effect)| match &effect.effect {
        Effect::Unknown(reach) => [".env", ".env.local", ".env.production"].iter().any(|name| reach.knows(name)),
        Effect::Write { path } | Effect::Copy { to: path, .. } => {
            path.as_deref().is_none_or(|path| path.rsplit('/').next().is_some_and(|name| name.starts_with(".env")))
        }
        _ => false,
    })
}
