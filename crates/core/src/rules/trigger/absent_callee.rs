//! A pipeline or action of this repository that is called and is not there.

use crate::case::Case;
use crate::effects::{Effect, normal};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{Among, near};
use crate::model::{Text, Work, as_local_path, local_path};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "trigger.absent-callee",
    severity: Severity::Error,
    title: "A called pipeline or action is not in the repository",
    why: "A path that begins with ./ names a file of this repository. A called pipeline that is not there makes the forge refuse \
          the file; an action that is not there fails its job.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
.github/workflows/site.yml
.github/workflows/publish.yml
== pipeline
on: push
jobs:
  build:
    uses: «./.github/workflows/publsh.yml»
",
        r"
== files
ci/build.yml
== gitlab
include:
  - local: «/ci/biuld.yml»
build:
  script:
    - npm run build
",
        r"
== files
index.html
== gitlab
timetable:
  trigger:
    include: «ci/timetable.yml»
",
    ],
    good: &[
        r"
== files
ci/build.yml
== gitlab
include:
  - local: /ci/build.yml
  - local: /ci/winter/*.yml
  - local: ci/none.yml
    rules:
      - exists: [ci/none.yml]
  - /ci/build.yml
build:
  script:
    - npm run build
",
        r"
== files
.github/workflows/publish.yml
.github/actions/build/action.yaml
third/Dockerfile
== pipeline
on: push
jobs:
  build:
    uses: ./.github/workflows/publish.yml
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: ./.github/actions/build
      - uses: ./third
",
        // A second repository is laid beside.
        r"
== files
README.md
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: actions/checkout@v4
        with: {repository: ferry/tools, path: tools}
      - uses: ./tools/build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.facts.files.known().is_none() {
        return;
    }
    for named in &case.pipeline.named_files {
        let path = named.path.value.trim_start_matches('/');
        if case.facts.has_file(path) == Some(false) {
            let effect = match named.started_by {
                Some(job) => format!("so `{}` fails", case.job_name(job)),
                None => "so the forge refuses this pipeline".to_owned(),
            };
            match case.sources.find(path).is_some() {
                true => not_added(&named.path, &effect, out),
                false => speak(case, &named.path, &effect, out),
            }
        }
    }
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        if let Some(call) = &job.call
            && let Some(path) = call.target.known().and_then(local_path).and_then(normal)
            && case.facts.has_file(&path) == Some(false)
        {
            speak(case, &call.target, "so the forge refuses this file", out);
        }
        if let Some(call) = &job.call
            && let Some(path) = without_the_point(case, &call.target)
        {
            let message = format!("`{}` is taken for another repository's, so the forge refuses this file", call.target.value);
            out.add(call.target.inner(), message)
                .witness(WitnessSource::Files, format!("there is {path}; a path of this repository begins with ./"))
                .mend(Mend::certain(
                    format!("write {}", as_local_path(path)),
                    [Edit::replace(call.target.inner(), as_local_path(path))],
                ));
        }
        for (number, step) in job.steps.iter().enumerate() {
            let Work::Uses { action, .. } = &step.work else { continue };
            let Some(dir) = action.known().and_then(local_path).and_then(normal) else { continue };
            let inside = |name: &str| if dir.is_empty() { name.to_owned() } else { format!("{dir}/{name}") };
            let names = &case.pipeline.customs.action_files;
            let there = names.iter().any(|name| case.facts.has_file(&inside(name)) != Some(false));
            if !there && case.facts.has_file(&dir) == Some(true) {
                no_action(case, action, out);
            } else if !there && only_own_files(case, index, number) {
                speak(case, action, &format!("so `{}` fails here", job.id.value), out);
            }
        }
    }
}

/// The path of a file of this repository that a call names without the point before it.
pub(in crate::rules) fn without_the_point<'t>(case: &Case<'_>, target: &'t Text) -> Option<&'t str> {
    let path = target.known()?.trim_start_matches('/');
    let pipeline = path.ends_with(".yml") || path.ends_with(".yaml");
    (pipeline && case.facts.has_file(path) == Some(true)).then_some(path)
}

fn speak(case: &Case<'_>, written: &Text, effect: &str, out: &mut Findings) {
    let finding = out.add(written.inner(), format!("`{}` is not in this repository, {effect}", written.value));
    let candidates = candidates(case, &written.value);
    match near(&written.value, candidates.iter().map(String::as_str), Among::Whole) {
        Some(near) => {
            finding.witness(WitnessSource::Files, format!("there is {}", near.word));
            finding.mend(Mend::name(&near, written.inner()));
        }
        None => {
            finding.witness(WitnessSource::Files, "git knows no such file, whole or in part");
            finding.mend(Mend::by_hand("add the file to git, or write the path of the one that is meant"));
        }
    }
}

/// A step takes the folder of an action; what it names is a file.
fn no_action(case: &Case<'_>, written: &Text, out: &mut Findings) {
    let names = case.pipeline.customs.action_files.join(" or ");
    let finding = out.add(written.inner(), format!("`{}` is a file, and a step takes the folder of an action", written.value));
    finding.witness(WitnessSource::Files, format!("an action is a folder with {names} in it"));
    finding.mend(Mend::by_hand("call a pipeline from a job of its own, with no steps beside it, or name the action's folder"));
}

/// It lies here, and git does not know it yet.
fn not_added(written: &Text, effect: &str, out: &mut Findings) {
    out.add(written.inner(), format!("`{}` is not in git yet, {effect} when it is pushed like this", written.value))
        .severity(Severity::Warning)
        .witness(WitnessSource::Files, "the file lies here, and git does not track it")
        .mend(Mend::by_hand(format!("git add {}", written.value.trim_start_matches('/'))));
}

/// What could be named in the place of what is written: the folders of actions, and the files of pipelines.
fn candidates(case: &Case<'_>, written: &str) -> Vec<String> {
    let action_files = &case.pipeline.customs.action_files;
    let own = &case.sources.get(case.pipeline.file).path;
    let is_pipeline = |path: &str| path.ends_with(".yml") || path.ends_with(".yaml");
    let candidate = |path: &str| match path.rsplit_once('/') {
        _ if local_path(written).is_none() => is_pipeline(path).then(|| format!("{}{path}", slash_of(written))),
        Some((folder, file)) if action_files.contains(&file) => Some(as_local_path(folder)),
        _ => (path.contains("/workflows/") && is_pipeline(path)).then(|| as_local_path(path)),
    };
    let files = case.facts.files.known().into_iter().flat_map(|files| files.iter());
    files.filter(|path| path != own).filter_map(candidate).collect()
}

/// The slash that a path from the root may begin with.
fn slash_of(written: &str) -> &'static str {
    if written.starts_with('/') { "/" } else { "" }
}

/// Nothing but this repository's own files can be in the workspace before this step.
fn only_own_files(case: &Case<'_>, job: usize, step: usize) -> bool {
    case.has_own_root(job, step)
        && case.effects.of_job(job).filter(|(number, _)| *number < step).all(|(_, effect)| match &effect.effect {
            Effect::Checkout { own, .. } => *own,
            Effect::SetUp { .. }
            | Effect::Install { .. }
            | Effect::Enter { .. }
            | Effect::Nothing
            | Effect::Test { .. }
            | Effect::Build { .. } => true,
            _ => false,
        })
}
