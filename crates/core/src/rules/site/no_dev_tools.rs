//! A build whose tools are left out of the installation.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "site.no-dev-tools",
    severity: Severity::Error,
    title: "The build's tools are left out of the installation",
    why: "An installation for production leaves out what package.json lists under devDependencies. The tools that build the site usually \
          stand there, and the build does not find them.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {‹"vite"›: "7"}}
== steps
      - uses: actions/checkout@v5
      - run: ‹npm ci --omit=dev›
      - run: «npm run build»
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {‹"vite"›: "7"}}
== gitlab
variables: {NODE_ENV: production}
build:
  script:
    - ‹npm ci›
    - «npm run build»
"#,
    ],
    good: &[
        r#"
== package.json
{"scripts": {"build": "vite build"}, "dependencies": {"vite": "7"}}
== steps
      - uses: actions/checkout@v5
      - run: npm ci --omit=dev
      - run: npm run build
        env: {NODE_ENV: production}
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== steps
      - uses: actions/checkout@v5
      - run: npm ci --include=dev
        env: {NODE_ENV: production}
      - run: npm run build
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== gitlab
build:
  script:
    - npm ci --omit=dev
    - npm install vite
    - npm run build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in 0..case.pipeline.jobs.len() {
        let mut bare: Option<(&str, Place)> = None;
        for (step, effect) in case.effects.of_job(job) {
            match &effect.effect {
                Effect::Install { dir: Some(dir), manager, without_dev, .. } if knowledge::managers().get(manager).is_some() => {
                    bare = (*without_dev && !effect.perhaps).then_some((dir.as_str(), effect.at));
                }
                Effect::Unknown(_) | Effect::RestoreCache { .. } | Effect::Install { .. } => bare = None,
                Effect::Build { generator, dir: Some(dir), .. } => {
                    let Some((_, install)) = bare.filter(|(own, _)| own == dir && case.has_own_root(job, step)) else { continue };
                    let packages = knowledge::generators().get(generator).map_or(&[][..], |known| known.packages);
                    let package = case.facts.packages.get(dir);
                    let only_dev = package.and_then(|package| {
                        packages.iter().find_map(|name| package.only_for_development(name).map(|at| (name, at)))
                    });
                    let Some((name, place)) = only_dev else { continue };
                    out.add(effect.at, format!("this fails: {name} is not installed"))
                        .witness(at(install), "this leaves out what is needed for development only")
                        .witness(at(place), format!("{name} stands among those"))
                        .mend(Mend::by_hand(format!("install everything before the build, or list {name} under dependencies")));
                    bare = None;
                }
                _ => {}
            }
        }
    }
}
