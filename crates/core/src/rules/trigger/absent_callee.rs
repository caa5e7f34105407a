//! A pipeline or action of this repository that is called and is not there.

use crate::case::Case;
use crate::effects::{Effect, normal};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::nearest;
use crate::model::local_path;
use crate::model::{Text, Work};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "trigger.absent-callee",
    severity: Severity::Error,
    title: "A called pipeline or action is not in the repository",
    why: "A path that begins with ./ names a file of this repository. A called pipeline that is not there makes the forge refuse \
          the file; an action that is not there fails its job.",
    needs: &[Need::Files],
    bad: &[r"
== files
.github/workflows/site.yml
.github/workflows/publish.yml
== pipeline
on: push
jobs:
  a:
    uses: «./.github/workflows/publsh.yml»
"],
    good: &[
        r"
== files
.github/workflows/publish.yml
.github/actions/build/action.yaml
third/Dockerfile
== pipeline
on: push
jobs:
  a:
    uses: ./.github/workflows/publish.yml
  b:
    runs-on: x
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
  a:
    runs-on: x
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
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        if let Some(call) = &job.call
            && let Some(path) = local_path(&call.target).and_then(normal)
            && case.facts.has_file(&path) == Some(false)
        {
            speak(case, &call.target, "so the forge refuses this file", out);
        }
        for (number, step) in job.steps.iter().enumerate() {
            let Work::Uses { action, .. } = &step.work else { continue };
            let Some(dir) = local_path(action).and_then(normal) else { continue };
            let inside = |name: &str| if dir.is_empty() { name.to_owned() } else { format!("{dir}/{name}") };
            let names = &case.pipeline.customs.action_files;
            let there = names.iter().any(|name| case.facts.has_file(&inside(name)) != Some(false));
            if !there && only_own_files(case, index, number) {
                speak(case, action, &format!("so `{}` fails here", job.id.value), out);
            }
        }
    }
}

fn speak(case: &Case<'_>, written: &Text, effect: &str, out: &mut Findings) {
    let finding = out.add(written.inner(), format!("`{}` is not in this repository, {effect}", written.value));
    let files = case.facts.files.known();
    let action_files = &case.pipeline.customs.action_files;
    // What is called is the folder of an action, or the file of a pipeline.
    let candidate = |path: &str| match path.rsplit_once('/') {
        Some((folder, file)) if action_files.iter().any(|name| name == file) => Some(format!("./{folder}")),
        _ => (path.contains("/workflows/") && path.ends_with("ml")).then(|| format!("./{path}")),
    };
    let candidates: Vec<String> = files
        .into_iter()
        .flat_map(|files| files.iter())
        .filter_map(candidate)
        .filter(|path| *path != format!("./{}", case.sources.get(case.pipeline.file).path))
        .collect();
    match nearest(&written.value, candidates.iter().map(String::as_str)) {
        Some(near) => {
            finding.witness(WitnessSource::Files, format!("there is {near}"));
            finding.mend(Mend::certain(format!("write {near}"), [Edit::replace(written.inner(), near)]));
        }
        None => {
            finding.witness(WitnessSource::Files, "git knows no such file, whole or in part");
            finding.mend(Mend::by_hand("add the file to git, or write the path of the one that is meant"));
        }
    }
}

/// Nothing but this repository's own files can be in the workspace before this step.
fn only_own_files(case: &Case<'_>, job: usize, step: usize) -> bool {
    case.has_own_root(job, step)
        && case.effects.of_job(job).filter(|(number, _)| *number < step).all(|(_, effect)| match &effect.effect {
            Effect::Checkout { own, .. } => *own,
            Effect::SetUp { .. } | Effect::Install { .. } | Effect::Nothing | Effect::Test { .. } | Effect::Build { .. } => true,
            _ => false,
        })
}
