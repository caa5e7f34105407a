//! The phases, which run in their own order whatever order they are written in.
//!
//! After the pages "Build specification reference" and "Build phase transitions": a failed command ends its phase, `finally` runs all the
//! same; a failed `install` or `pre_build` ends the build, a failed `build` goes on with `post_build` unless it is told to abort, and
//! `on-failure: CONTINUE` goes on with the next phase. From version 0.2 on all commands share one shell.

use crate::effects::{Effect, EffectAt};
use crate::formats::keys::{Keys, listed};
use crate::formats::phased;
use crate::model::{ByItself, Outcome, Shell, Step, Text, Work};
use crate::text::Place;

/// All phases in the order in which they run.
const ORDER: [&str; 4] = ["install", "pre_build", "build", "post_build"];

/// Adds what the phases do.
pub(super) fn add(top: &Keys<'_>, steps: &mut Vec<Step>) {
    let nodes = top.nodes;
    let Some(phases) = top.get("phases").map(|node| Keys::of(nodes, node)) else { return };
    let shared = !top.says("version", "0.1");
    let shell = shell(top);
    // The first step of the phase whose failure is survived by the next one.
    let mut survives: Option<usize> = None;
    for name in ORDER {
        let Some((key, node)) = phases.pair(name) else { continue };
        let phase = Keys::of(nodes, node);
        let first = steps.len();
        steps.extend(runtimes(&phase));
        let mut own = commands(&phase, name, shared);
        let failure = phase.text("on-failure");
        let goes_on = failure.as_ref().filter(|text| text.value.eq_ignore_ascii_case("continue"));
        for step in &mut own {
            in_shell(step, shell);
            step.may_fail = goes_on.map(|text| Box::new(Text::fixed("true", text.inner())));
            survived(step, survives, nodes.at(key));
        }
        steps.append(&mut own);
        if let Some((key, list)) = phase.pair("finally") {
            let lines = nodes.words(list).0;
            steps.extend(phased::script_step(&format!("{name}, finally"), lines).map(|mut step| {
                in_shell(&mut step, shell);
                survived(&mut step, Some(survives.unwrap_or(first)), nodes.at(key));
                step
            }));
        }
        let ends = failure.as_ref().is_some_and(|text| text.value.eq_ignore_ascii_case("abort"));
        survives = (name == "build" && !ends).then_some(first);
    }
}

/// What runs the commands, where the file says so. Source: the page "Build specification reference", env, shell, 2026-11.
fn shell(top: &Keys<'_>) -> Shell {
    let named = top.get("env").and_then(|node| Keys::of(top.nodes, node).text("shell"));
    match named.map(|text| text.value.to_ascii_lowercase()).as_deref() {
        Some("powershell.exe" | "powershell" | "pwsh") => Shell::PowerShell,
        Some("cmd.exe" | "cmd") => Shell::Cmd,
        _ => Shell::Posix,
    }
}

fn in_shell(step: &mut Step, wanted: Shell) {
    if let Work::Runs { shell, .. } = &mut step.work {
        *shell = wanted;
    }
}

/// A step that runs though one from a certain one on has failed.
fn survived(step: &mut Step, from: Option<usize>, said: Place) {
    if let Some(from) = from {
        step.after = Outcome::Any;
        step.after_at = Some(said);
        step.survives_from = from;
    }
}

fn commands(phase: &Keys<'_>, name: &str, shared: bool) -> Vec<Step> {
    let Some(list) = phase.get("commands") else { return Vec::new() };
    let lines = phase.nodes.words(list).0;
    if shared {
        return phased::script_step(name, lines).into_iter().collect();
    }
    let alone = |line| Some(Step { same_shell: false, ..phased::script_step(name, vec![line])? });
    lines.into_iter().filter_map(alone).collect()
}

/// The runtimes of `runtime-versions`: a mapping, or a list of such.
fn runtimes(phase: &Keys<'_>) -> Option<Step> {
    let nodes = phase.nodes;
    let (key, node) = phase.pair("runtime-versions")?;
    let mut own = ByItself::default();
    for item in listed(&nodes, node) {
        for (name, value) in Keys::of(nodes, item).iter() {
            let (Some(name), Some(version)) = (nodes.text(name), nodes.text(value)) else { continue };
            let tool = match name.value.as_str() {
                "nodejs" => "node",
                "golang" => "go",
                other => other,
            };
            let at = version.at;
            // The newest of a kind is not known here.
            let version = Some(version).filter(|version| version.value != "latest");
            let effect = Effect::set_up(tool, version);
            own.effects.push(EffectAt::sure(effect, at));
        }
    }
    (!own.effects.is_empty()).then(|| Step::new(nodes.at(key), Work::ByItself(own)))
}
