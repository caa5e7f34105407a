//! A step that comes before what it needs.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::facts::Reach;
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::model::{Step, Workspace};
use crate::project::Read;
use crate::rules::Rule;
use crate::text::Place;
use crate::trail::{Handover, Standing};

use super::made::Made;

pub const RULE: Rule = Rule {
    id: "order.step-too-early",
    severity: Severity::Error,
    title: "A step comes before what it needs",
    why: "A job starts with an empty folder, and its steps run from top to bottom: first the repository is checked out, then the \
          runtime is made ready, then packages are installed, then the site is built, and then it is handed on.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - uses: «actions/deploy-pages@v4»
      - uses: ‹actions/upload-pages-artifact@v4›
        with: {path: docs}
",
        r"
== package.json
{}
== steps
      - run: «npm ci»
      - uses: ‹actions/checkout@v5›
",
        r#"
== files
package.json
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== gitlab
build:
  script:
    - «npm run build»
    - ‹npm ci›
"#,
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
    - action: "Send"
      type: "SFTP"
      local_path: "«dist»"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "‹npx vite build›"
"#,
        // Steps that do not wait for what they need.
        r#"
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== files
index.html
== cloudbuild.yaml
steps:
  - id: install
    name: node:24
    entrypoint: ‹npm›
    args: [ci]
  - id: build
    name: node:24
    entrypoint: ‹npm›
    args: [run, build]
    «waitFor: ['-']»
  - id: publish
    name: gcr.io/cloud-builders/gsutil
    args: [-m, rsync, -r, ‹dist›, 'gs://tarnsay-timetable']
    «waitFor: [install]»
"#,
    ],
    good: &[
        r#"
== package.json
{"scripts": {"build": "vite build"}}
== steps
      - uses: actions/checkout@v5
      - uses: pnpm/action-setup@v4
      - uses: actions/setup-node@v5
      - run: npm ci
      - id: make
        run: echo "page=$(npm run build)" >> "$GITHUB_OUTPUT"
      - run: echo ${{ steps.make.outputs.page }}
      - uses: actions/upload-artifact@v4
        with: {path: dist}
      - uses: actions/checkout@v5
        with: {ref: pages, path: old}
"#,
        // The files come from elsewhere.
        r"
== jobs
  bring:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-artifact@v4
        with: {name: source, path: .}
  build:
    needs: bring
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: source}
      - run: npm ci
",
        r#"
== files
package.json
package-lock.json
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== gitlab
build:
  script:
    - npm ci
    - npm run build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let made = Made::of(case);
    for job in 0..case.pipeline.jobs.len() {
        if !case.pipeline.is_part {
            before_checkout(case, job, out);
        }
        before_set_up(case, job, out);
        before_install(case, job, out);
        before_build(case, job, out);
        super::beside::check(case, job, out);
        before_output(case, job, out);
        before_artifact(case, &made, job, out);
    }
}

fn speak(place: Place, message: String, later: Place, because: String, todo: String, out: &mut Findings) {
    out.add(place, message).witness(at(later), because).mend(Mend::by_hand(todo));
}

/// Something reads the repository's files, and only a later step brings them.
fn before_checkout(case: &Case<'_>, job: usize, out: &mut Findings) {
    let is_checkout = |effect: &EffectAt| matches!(&effect.effect, Effect::Checkout { into: Some(into), .. } if into.is_empty());
    let steps = &case.pipeline.jobs[job].steps;
    let Some((checkout, later)) = case.effects.of_job(job).find(|(_, effect)| is_checkout(effect)) else { return };
    for (step, effect) in case.effects.of_job(job).take_while(|(step, _)| *step < checkout) {
        let local = steps[step].own_action().is_some();
        match &effect.effect {
            // Nothing of it is done: the action itself is not there yet, as is said below.
            _ if local => break,
            Effect::Install { dir: Some(dir), manager, .. } if dir.is_empty() && knowledge::managers().get(manager).is_some() => {
            }
            Effect::RunScript { dir: Some(dir), .. } if dir.is_empty() => {}
            Effect::Build { .. } => {}
            Effect::Enter { .. } | Effect::Nothing | Effect::SetUp { .. } | Effect::Test { .. } => continue,
            // Whatever this is, it may bring files.
            _ => return,
        }
        let message = "this comes before the repository is checked out: the folder is still empty".to_owned();
        return speak(
            effect.at,
            message,
            later.at,
            "the files come only here".into(),
            "move the checkout to the start of the job".into(),
            out,
        );
    }
    // An action of this repository is not read at all when it is not there yet.
    let local = steps.iter().take(checkout).find_map(Step::own_action);
    if let Some(action) = local {
        let message = format!("`{}` is not there yet: the repository is checked out only later", action.value);
        speak(
            action.at,
            message,
            later.at,
            "the files come only here".into(),
            "move the checkout to the start of the job".into(),
            out,
        );
    }
}

/// Packages are installed with the runtime that happens to be there, and the one that is wanted comes later.
fn before_set_up(case: &Case<'_>, job: usize, out: &mut Findings) {
    let mut first: Option<(usize, &EffectAt, &str)> = None;
    let of_job = &case.pipeline.jobs[job];
    let mut ready: Vec<(usize, &str)> = Vec::new();
    for (step, effect) in case.effects.of_job(job) {
        match &effect.effect {
            Effect::Install { manager, .. } if first.is_none() => {
                let runtime = knowledge::managers().get(manager).map(|known| known.runtime);
                // It may be made ready more than once.
                if ready.iter().any(|(by, tool)| Some(*tool) == runtime && of_job.share_machine(*by, step)) {
                    continue;
                }
                first = knowledge::managers().get(manager).map(|known| (step, effect, known.runtime));
            }
            Effect::SetUp { tool, .. } if !effect.perhaps => {
                ready.push((step, tool));
                let same = |(by, install, runtime): &(usize, &EffectAt, &str)| {
                    runtime == tool && !install.perhaps && of_job.share_machine(*by, step)
                };
                if let Some((_, install, _)) = first.filter(same) {
                    let message =
                        format!("this runs with whatever {tool} the runner has: the one that is wanted is set up only later");
                    speak(
                        install.at,
                        message,
                        effect.at,
                        format!("{tool} is set up only here"),
                        format!("move the step that sets up {tool} before this one"),
                        out,
                    );
                    return;
                }
            }
            _ => {}
        }
    }
}

/// A script of the package runs, and its packages are installed only later.
fn before_install(case: &Case<'_>, job: usize, out: &mut Findings) {
    let mut ran: Option<(&EffectAt, &str)> = None;
    for (step, effect) in case.effects.of_job(job) {
        match &effect.effect {
            Effect::RunScript { dir: Some(dir), .. } if ran.is_none() && !effect.perhaps && case.has_own_root(job, step) => {
                ran = Some((effect, dir));
            }
            Effect::Install { dir: Some(dir), manager, .. } => {
                if knowledge::managers().get(manager).is_none() {
                    continue;
                }
                let Some((script, _)) = ran.filter(|(_, own)| own == dir && !effect.perhaps) else { return };
                let message = "this runs before the packages are installed, and finds none of them".to_owned();
                return speak(
                    script.at,
                    message,
                    effect.at,
                    "they are installed only here".into(),
                    "move the installation before it".into(),
                    out,
                );
            }
            Effect::Install { .. } | Effect::RestoreCache { .. } | Effect::Download { .. } | Effect::Copy { .. } => return,
            Effect::Unknown(Reach::Anything) if ran.is_none() => return,
            _ => {}
        }
    }
}

/// A folder is handed on, and the build that writes it comes later.
fn before_build(case: &Case<'_>, job: usize, out: &mut Findings) {
    let mut builds: HashMap<&str, Vec<(usize, &EffectAt)>> = HashMap::new();
    for (step, effect) in case.effects.of_job(job).filter(|(_, effect)| !effect.perhaps) {
        if let Effect::Build { output: Some(output), .. } = &effect.effect {
            builds.entry(output).or_default().push((step, effect));
        }
    }
    for handover in case.trail.handed_on_by(job) {
        let Some(folder) = handover.path.folder.as_deref().filter(|folder| !folder.is_empty()) else { continue };
        if !(handover.standing == Standing::Never || left_by_earlier_runs(case, handover)) {
            continue;
        }
        let of_folder = builds.get(folder).map_or(&[][..], Vec::as_slice);
        let later = of_folder.get(of_folder.partition_point(|(step, _)| *step <= handover.step));
        if let Some((_, build)) = later {
            let message = match handover.standing {
                Standing::Never => format!("`{}` is not there yet: it is built only later", handover.path.written),
                _ => format!("`{}` is what an earlier run has left: it is built only later", handover.path.written),
            };
            speak(handover.path.at, message, build.at, "it is built only here".into(), "move the build before it".into(), out);
        }
    }
}

/// Nothing before it in this run has made the folder, though an earlier run may have.
fn left_by_earlier_runs(case: &Case<'_>, handover: &Handover) -> bool {
    let of_earlier = case.pipeline.jobs[handover.job].workspace == Workspace::Left;
    of_earlier && handover.standing == Standing::Perhaps && !handover.tracked && handover.built.is_empty()
}

/// An artifact is taken before the step of the same job that makes it.
fn before_artifact(case: &Case<'_>, made: &Made<'_>, job: usize, out: &mut Findings) {
    if made.of_any_name.iter().any(|other| *other != job) || !case.pipeline.stands_alone() {
        return;
    }
    for (step, effect) in case.effects.of_job(job) {
        let Some((name, false)) = effect.effect.takes() else { continue };
        let Some(wanted) = name.known() else { continue };
        let makers = made.by_name.get(wanted).map_or(&[][..], Vec::as_slice);
        let too_late = makers.iter().all(|(other, by, _)| *other == job && *by > step);
        let Some((_, _, upload)) = makers.first().filter(|_| too_late) else { continue };
        let message = format!("the artifact `{wanted}` is not there yet: a later step makes it");
        speak(effect.at, message, upload.at, "it is made only here".into(), "move this behind that step".into(), out);
    }
}

/// An output is read before the step that gives it.
fn before_output(case: &Case<'_>, job: usize, out: &mut Findings) {
    let steps = &case.pipeline.jobs[job].steps;
    for (index, step) in steps.iter().enumerate() {
        for text in step.work.texts().chain(step.variables.entries.iter().map(|(_, value)| value)) {
            for read in case.reads_of(text).into_iter().filter(|read| read.read == Read::StepOutput) {
                let later = steps.iter().enumerate().skip(index).find_map(|(number, step)| {
                    Some((number, step.id.as_ref()?)).filter(|(_, own)| own.value.eq_ignore_ascii_case(&read.name))
                });
                if let Some((number, own)) = later {
                    let when = match number == index {
                        true => "this very step gives it".to_owned(),
                        false => format!("the step `{}`, which gives it, comes later", own.value),
                    };
                    let message = format!("this is empty here: {when}");
                    speak(read.at, message, own.at, "it is given here".into(), "read it in a step after that one".into(), out);
                }
            }
        }
    }
}
