//! The whole repository online, instead of the site.

use std::collections::HashSet;

use crate::case::{Case, at};
use crate::effects::{Effect, is_inside};
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.whole-repository",
    severity: Severity::Error,
    title: "The whole workspace is published instead of the site",
    why: "The workspace holds the sources, the installed packages and often more than should be seen. What visitors need is the \
          folder that the build writes.",
    needs: &[],
    bad: &[
        r"
== files
index.html
package.json
== steps
      - uses: actions/checkout@v5
      - run: npm ci
      - run: ‹npx vite build›
      - uses: actions/upload-pages-artifact@v4
        with: {path: «.»}
",
        r"
== files
index.html
package.json
== gitlab
publish:
  script:
    - npm ci
    - ‹npx vite build›
    - rsync -a «.» pier@tarnsay.example:/www
",
        r"
== git
main default
== files
index.html
== .travis.yml
language: node_js
node_js: '24'
install: skip
script: ‹npx vite build›
deploy:
  provider: «s3»
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  on: {branch: main}
",
        r#"
== git
main default
== files
index.html
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
        - "‹npx vite build›"
    - action: "Send"
      type: "SFTP"
      local_path: "«/»"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
        r"
== files
index.html
package.json
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - npm ci
      - ‹npx vite build›
artifacts:
  files:
    - '«**/*»'
",
        // A package in a folder of its own.
        r#"
== package.json
{}
== web/package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== files
web/index.html
== Jenkinsfile
pipeline {
    agent any
    options { disableConcurrentBuilds(); timeout(time: 9) }
    stages {
        stage('Site') {
            steps {
                dir('web') {
                    sh 'npm ci && ‹npm run build›'
                }
                sh 'rsync -a «web/» pier@tarnsay.example:/www'
            }
        }
    }
}
"#,
    ],
    good: &[
        // What is handed on is run on a server.
        r"
== files
index.html
package.json
package-lock.json
Procfile
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - npm ci
      - npx vite build
artifacts:
  files:
    - '**/*'
",
        // A site of plain pages is its repository.
        r"
== files
index.html
style.css
== steps
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: '.'}
",
        r"
== files
index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: site}
      - uses: actions/upload-pages-artifact@v4
        with: {path: '.'}
",
        r"
== files
index.html
package.json
package-lock.json
== gitlab
publish:
  resource_group: www
  script:
    - npm ci
    - npx vite build
    - rsync -a dist/ pier@tarnsay.example:/www
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let inside: HashSet<(usize, &str)> =
        case.all_effects().filter_map(|(job, _, effect)| Some((job, builds_inside(&effect.effect)?))).collect();
    for handover in &case.trail.handovers {
        let Some(folder) = handover.path.folder.as_deref() else { continue };
        let all_of_it = folder.is_empty() || inside.contains(&(handover.job, folder));
        let whole = all_of_it && !handover.path.glob && case.goes_online(handover);
        let Some(built) = handover.built.last().filter(|built| whole && !built.output.is_empty()) else { continue };
        if !case.has_own_root(handover.job, handover.step) {
            continue;
        }
        let mut online = vec!["the sources".to_owned()];
        let installs = case
            .effects
            .of_job(handover.job)
            .any(|(step, effect)| step < handover.step && matches!(effect.effect, Effect::Install { .. }));
        if installs {
            online.push("node_modules".into());
        }
        let files = case.facts.files.known();
        online.extend(
            [".env", "dulk.toml", ".github"]
                .into_iter()
                .filter(|name| folder.is_empty() && files.is_some_and(|files| files.has(name) || files.has_folder(name)))
                .map(str::to_owned),
        );
        let what = if folder.is_empty() { "the whole workspace".to_owned() } else { format!("all of `{folder}`") };
        let finding = out.add(
            handover.path.at,
            format!("{what} goes online, {} included; the site is in `{}`", listed(&online), built.output),
        );
        finding.witness(at(built.at), format!("{} writes the site into `{}` here", built.generator, built.output));
        if case.sources.slice(handover.path.at).is_empty() {
            finding.witness(WitnessSource::Catalog, "without a folder, everything is taken");
        }
        finding.mend(Mend::by_hand(format!("publish {}", built.output)));
    }
}

/// The folder in which a build runs and writes the site into one below it.
fn builds_inside(effect: &Effect) -> Option<&str> {
    match effect {
        Effect::Build { dir: Some(dir), output: Some(output), server, .. } => {
            (output != dir && is_inside(output, dir) && *server != Some(true)).then_some(dir)
        }
        _ => None,
    }
}
