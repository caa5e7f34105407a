//! A build without its packages.

use crate::case::{Case, at};
use crate::effects::{Effect, UploadPath};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::model::{Text, Workspace};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.no-install",
    severity: Severity::Error,
    title: "The site is built without its packages",
    why: "A fresh checkout holds no packages. A script that runs one of their programs does not find it, and the step fails.",
    needs: &[Need::Package],
    bad: &[
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {‹"vite"›: "7"}}
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: «npm run build»
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {‹"vite"›: "7"}}
== files
package.json
== gitlab
build:
  image: node:22
  script:
    - «npm run build»
"#,
        r#"
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {‹"vite"›: "7", "vitest": "3"}}
== files
package-lock.json
== .travis.yml
language: node_js
node_js: '24'
install: skip
script: «npm run build»
"#,
        r#"
== git
main default
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {‹"vite"›: "7", "vitest": "3"}}
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
        - "«npm run build»"
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {‹"vite"›: "7"}}
== package-lock.json
{}
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - «npm run build»
cache:
  paths: ['.npm/**/*']
"#,
    ],
    good: &[
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
      - run: npm run build
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: node_modules, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm run build
  notify:
    runs-on: self-hosted
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"#,
        r#"
== package.json
{"scripts": {"build": "hugo"}, "devDependencies": {}}
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== files
package.json
package-lock.json
== gitlab
build:
  image: node:22
  script:
    - npm ci
    - npm run build
lint:
  image: registry.tarnsay.example/site-with-packages
  script:
    - npm run build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        // A machine or an image of one's own may hold them.
        let earlier_runs = job.workspace == Workspace::Left && !ever_installs(case, index);
        if !(job.starts_empty() || earlier_runs)
            || job.machine.image.as_ref().is_some_and(|image| !is_a_runtimes_own(case, index, image))
        {
            continue;
        }
        let mut script = None;
        for (step, effect) in case.effects.of_job(index) {
            match &effect.effect {
                Effect::RunScript { dir: Some(dir), .. } if case.has_own_root(index, step) && !effect.perhaps => {
                    script = Some((step, effect.at, dir))
                }
                Effect::Build { generator, .. } => {
                    let Some((_, place, dir)) = script.filter(|(number, ..)| *number == step) else { break };
                    let package = case.facts.packages.get(dir.as_str());
                    let names = knowledge::generators().get(generator).map(|known| known.packages).unwrap_or_default();
                    let dependency = package.and_then(|package| names.iter().find_map(|name| package.dependency(name)));
                    if let Some(dependency) = dependency {
                        out.add(
                            place,
                            format!("`{}` fails here: nothing has installed the packages, {generator} among them", job.id.value),
                        )
                        .witness(at(dependency), format!("{generator} is a package of the repository"))
                        .mend(Mend::by_hand("install the packages in a step before this one"));
                    }
                    break;
                }
                Effect::Checkout { .. }
                | Effect::SetUp { .. }
                | Effect::Enter { .. }
                | Effect::Nothing
                | Effect::Test { .. }
                | Effect::Remove { .. } => {}
                Effect::RestoreCache { paths, .. } if paths.iter().all(holds_no_packages) => {}
                Effect::Write { path: Some(path) } if !path.is_empty() && !path.contains("node_modules") => {}
                // Whatever else this is, it may bring packages.
                _ => break,
            }
        }
    }
}

/// A cached path in which no installed package lies: what managers have downloaded, and what generators keep, has to be installed from.
fn holds_no_packages(path: &UploadPath) -> bool {
    let inside = path.folder.as_deref().filter(|_| !path.lies_outside());
    let named = |folder: &str| !folder.is_empty() && !folder.contains("node_modules") && !folder.starts_with(".yarn");
    path.lies_outside() || inside.is_some_and(named)
}

/// Whether any step of a job installs packages: then an earlier run may have left them.
fn ever_installs(case: &Case<'_>, job: usize) -> bool {
    let steps = &case.pipeline.jobs[job].steps;
    let mut images = steps.iter().filter_map(|step| step.machine.as_ref()?.image.as_ref());
    let installs = |effect: &Effect| matches!(effect, Effect::Install { .. } | Effect::Unknown(_));
    case.effects.of_job(job).any(|(_, effect)| installs(&effect.effect))
        || images.any(|image| !is_a_runtimes_own(case, job, image))
}

/// The image is a runtime's own, as what is done around the job's scripts sets it up: it holds no packages of the repository.
fn is_a_runtimes_own(case: &Case<'_>, job: usize, image: &Text) -> bool {
    case.effects.of_job(job).any(|(_, effect)| matches!(effect.effect, Effect::SetUp { .. }) && effect.at == image.at)
}
