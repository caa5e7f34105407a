//! A folder is handed on or published that is not the one the build writes.

use crate::case::{Case, at};
use crate::effects::{Effect, join};
use crate::facts::Origin;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;
use crate::trail::{Built, Handover, Standing};

pub const RULE: Rule = Rule {
    id: "artifact.wrong-folder",
    severity: Severity::Error,
    title: "The folder that goes online is not the folder that was built",
    why: "The build writes one folder, and another is handed on or published. That folder does not exist, so the step fails, or \
          an empty site goes online behind a green tick.",
    needs: &[crate::rules::Need::Files],
    bad: &[
        r#"
== files
index.html
== package.json
{"scripts": {"build": "vite build"}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm ci
      - run: ‹npm run build›
      - uses: actions/upload-pages-artifact@v3
        with:
          path: ./«build»
"#,
        r"
== files
index.html
== gitlab
build:
  script:
    - ‹npx vite build›
  artifacts:
    paths: [«build»]
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
  provider: s3
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: «build»
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
      local_path: "«build»"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
        r#"
== files
app/page.jsx
== package.json
{"scripts": {"build": "next build"}, "dependencies": {"next": "16"}}
== next.config.mjs
export default { output: 'export' };
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - npm ci
      - ‹npm run build›
artifacts:
  base-directory: «.next»
  files: ['**/*']
cache:
  paths: ['.next/cache/**/*']
"#,
        r"
== files
apps/quay/index.html
== amplify.yml
version: 1
applications:
  - appRoot: apps/quay
    frontend:
      phases:
        build:
          commands:
            - ‹npx vite build›
      artifacts:
        baseDirectory: «apps/quay/dist»
        files: ['**/*']
",
    ],
    good: &[
        r#"
== files
index.html
== package.json
{"scripts": {"build": "vite build"}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm run build
      - uses: actions/upload-artifact@v4
        with: {path: 'dist/'}
"#,
        // A command that nobody here knows may have made any folder.
        r#"
== files
index.html
== package.json
{"scripts": {"build": "vite build && node pack.js"}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm run build
      - uses: actions/upload-artifact@v4
        with: {path: build}
"#,
        r"
== files
index.html
== gitlab
build:
  script:
    - npx vite build
  artifacts:
    paths: [dist/]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in &case.trail.handovers {
        // `artifact.absent-folder` speaks of a folder that was there and is taken away.
        if handover.standing != Standing::Never || handover.together > 1 || handover.removed.is_some() {
            continue;
        }
        // Of several builds any may be meant, but then it is still none of them.
        if let Some(built) = handover.built.last() {
            speak(case, handover, built, out);
        }
    }
    for handover in case.trail.handovers.iter().filter(|handover| case.goes_online(handover) && !handover.path.glob) {
        if let Some(built) = handover.built.iter().find(|built| is_own_folder(case, handover, built)) {
            own_folder(case, handover, built, out);
        }
    }
}

/// Whether what goes online is a folder that the generator keeps beside the site.
fn is_own_folder(case: &Case<'_>, handover: &Handover, built: &Built) -> bool {
    let Some(folder) = handover.path.folder.as_deref().filter(|_| handover.standing != Standing::Never) else { return false };
    let Some(known) = knowledge::generators().get(&built.generator).filter(|_| built.serves == Some(false)) else { return false };
    let mut own_folders = known.own_folders.iter().filter(|own| folder.ends_with(*own)).peekable();
    if own_folders.peek().is_none() {
        return false;
    }
    let runs_in = case.effects.of_job(handover.job).find_map(|(_, effect)| match &effect.effect {
        Effect::Build { generator, dir, .. } if *generator == built.generator && effect.at == built.at => dir.clone(),
        _ => None,
    });
    let own = runs_in.is_some_and(|dir| {
        let dir = Some(dir);
        own_folders.any(|own| join(&dir, own).as_deref() == Some(folder))
    });
    // Another build, or the same once more, may be told to write there.
    own && handover.built.iter().all(|other| other.output != folder)
}

fn own_folder(case: &Case<'_>, handover: &Handover, built: &Built, out: &mut Findings) {
    let folder = handover.path.folder.as_deref().unwrap_or_default();
    let generator = &built.generator;
    let place = handover.path.folder_at(case.sources).unwrap_or(handover.path.at);
    out.add(
        place,
        format!("`{folder}` goes online, where {generator} keeps files of its own: it writes the site into `{}`", built.output),
    )
    .witness(at(built.at), format!("{generator} builds the site here"))
    .mend(Mend::by_hand(format!("publish `{}`", built.output)));
}

fn speak(case: &Case<'_>, handover: &Handover, built: &Built, out: &mut Findings) {
    let folder = handover.path.folder.as_deref().unwrap_or_default();
    let goes = if handover.publishes { "published" } else { "handed on" };
    // The part that names the folder, without `./` before it and `/` after it.
    let place = handover.path.folder_at(case.sources).unwrap_or(handover.path.at);
    let finding =
        out.add(place, format!("the folder `{folder}` is {goes}, but nothing makes it: the build writes `{}`", built.output));
    match built.origin {
        Origin::At(setting) => {
            finding.witness(at(setting), format!("{} writes `{}` because of this", built.generator, built.output))
        }
        _ => finding.witness(
            at(built.at),
            format!("this runs {}, which writes `{}` unless it is told otherwise", built.generator, built.output),
        ),
    };
    // Some inputs are taken from another input's folder.
    let beside = folder.strip_suffix(handover.path.written.trim_matches(['.', '/'])).filter(|beside| !beside.is_empty());
    let output = match beside {
        Some(beside) => built.output.strip_prefix(beside),
        None => Some(built.output.as_str()),
    };
    let title = output.map_or_else(|| format!("publish `{}`", built.output), |output| format!("write {output}"));
    let single = handover.built.iter().all(|other| other.output == built.output);
    let replaceable = case.sources.slice(place) == folder;
    // Where a server runs, what it is made of is published.
    let runs =
        case.published().any(|one| (one.job, one.step) == (handover.job, handover.step) && !one.target.serves_files_only());
    if built.serves == Some(true) && runs {
        finding.mend(Mend::by_hand(title));
        return;
    }
    if built.serves == Some(true) {
        finding.mend(Mend::by_hand(format!("let {} write a folder of files, and publish that one", built.generator)));
        return;
    }
    let sure = single && built.serves.is_some() && case.project.publishes_once();
    finding.mend(if sure && replaceable && !handover.path.glob {
        Mend::certain(title, [Edit::replace(place, built.output.clone())])
    } else {
        Mend::by_hand(title)
    });
}
