//! Steps: the image, the program in it with its words, and what it waits for.
//!
//! After the pages "Build configuration file schema" and "Configure the order of build steps", 2026-11: all steps find the files of
//! `/workspace`, and nothing else of each other; without `waitFor` a step begins when all before it have ended, with `-` at once.

use super::dollars::Substitutions;
use super::secrets;
use crate::carrier::NodeId;
use crate::formats::keys::Keys;
use crate::formats::nodes::Nodes;
use crate::model::{Machine, Shell, Step, Text, Variables, Waits, Work};
use crate::text::Place;

/// More steps are no honest file: the service takes 300.
const LIMIT: usize = 1_000;
/// Where the files stand in every image.
const WORKSPACE: &str = "/workspace";

/// What is said once for all steps.
pub(super) struct Around<'a> {
    /// All substitutions are variables of every step too.
    pub maps: bool,
    pub own: &'a Substitutions,
}

/// The steps of a build. The first of the job is not among them: it brings the files.
pub(super) fn steps(nodes: &Nodes<'_>, list: &[NodeId], around: &Around<'_>) -> Vec<Step> {
    let mut ids: Vec<(String, usize)> = Vec::new();
    let mut found = Vec::new();
    for (number, node) in list.iter().take(LIMIT).enumerate() {
        let keys = Keys::of(*nodes, *node);
        let mut step = step(nodes.at(*node), &keys, around);
        step.waits = waits(&keys, &ids);
        // The files come in the step before all of these.
        ids.extend(step.id.as_ref().map(|id| (id.value.clone(), number + 1)));
        found.push(step);
    }
    found
}

fn waits(keys: &Keys<'_>, ids: &[(String, usize)]) -> Waits {
    let Some((key, node)) = keys.pair("waitFor") else { return Waits::ForAll };
    let names = keys.nodes.words(node).0;
    if names.is_empty() {
        return Waits::ForAll;
    }
    let of = |name: &Text| ids.iter().rev().find(|(id, _)| *id == name.value).map(|(_, step)| *step);
    let mut steps: Vec<usize> = names.iter().filter_map(of).collect();
    steps.push(0);
    let at = keys.nodes.between(key, node);
    Waits::For { steps, at }
}

fn step(at: Place, keys: &Keys<'_>, around: &Around<'_>) -> Step {
    let own = around.own;
    let image = keys.text("name").map(|text| own.filled(&text));
    let id = keys.text("id");
    let at = id.as_ref().or(image.as_ref()).map_or(at, |text| text.at);
    let mut variables = Variables::default();
    environment(keys, own, &mut variables);
    secrets::hand(keys, &mut variables);
    if around.maps || keys.says("automapSubstitutions", "true") {
        variables.entries.extend(own.written.entries.iter().cloned());
    }
    let allowed = keys.text("allowFailure").filter(|text| text.value == "true");
    let some_codes = || keys.at("allowExitCodes").map(|at| Text::fixed("true", at));
    Step {
        name: id.clone(),
        id: id.map(Box::new),
        directory: keys.text("dir").map(|text| inside(&own.filled(&text))).map(Box::new),
        machine: Some(Box::new(Machine { image, ..Machine::default() })),
        variables,
        time_limit: keys.text("timeout").map(|text| text.at),
        may_fail: allowed.or_else(some_codes).map(Box::new),
        program: keys.text("entrypoint").map(|text| own.filled(&text)).filter(|text| Shell::is_posix(&text.value)).map(Box::new),
        ..Step::new(at, work(at, keys, own))
    }
}

/// A folder as it is seen from the workspace.
fn inside(folder: &Text) -> Text {
    match folder.value.strip_prefix(WORKSPACE).filter(|rest| rest.is_empty() || rest.starts_with('/')) {
        Some(rest) => Text::fixed(if rest.is_empty() { "." } else { rest.trim_start_matches('/') }, folder.inner()),
        None => folder.clone(),
    }
}

/// What a step runs: a script, a program with its words, or what its image runs.
fn work(at: Place, keys: &Keys<'_>, own: &Substitutions) -> Work {
    if let Some(script) = keys.text("script") {
        let shell = if Shell::is_foreign(&script.value) { Shell::Other } else { Shell::Posix };
        return Work::Runs { script, shell };
    }
    let words: Vec<Text> = arguments(keys).iter().map(|text| own.filled(text)).collect();
    let Some(program) = keys.text("entrypoint").map(|text| own.filled(&text)) else {
        return match words.split_first() {
            Some((first, rest)) if Shell::is_posix(&first.value) && script_of(rest).is_some() => shell_work(at, first, rest),
            _ => Work::RunsImage { words },
        };
    };
    if Shell::is_posix(&program.value) {
        return shell_work(at, &program, &words);
    }
    Work::Runs { script: called(program, &words, at), shell: Shell::Posix }
}

/// The words under `args`.
pub(super) fn arguments(keys: &Keys<'_>) -> Vec<Text> {
    keys.get("args").map(|node| keys.nodes.words(node).0).unwrap_or_default()
}

/// The script among the words of a shell: the one behind `-c`, alone or with other letters.
pub(super) fn script_of(words: &[Text]) -> Option<&Text> {
    let mut words = words.iter();
    while let Some(word) = words.next() {
        let letters = word.value.strip_prefix('-').filter(|letters| !letters.starts_with('-'))?;
        if letters.contains('c') {
            return words.find(|word| !word.value.starts_with('-'));
        }
        if letters.ends_with('o') {
            words.next();
        }
    }
    None
}

fn shell_work(at: Place, program: &Text, words: &[Text]) -> Work {
    match script_of(words) {
        Some(script) => Work::Runs { script: script.clone(), shell: Shell::Posix },
        None => Work::Runs { script: called(program.clone(), words, at), shell: Shell::Posix },
    }
}

/// The line by which a shell would call a program with its words.
fn called(program: Text, words: &[Text], at: Place) -> Text {
    let all: Vec<Text> = std::iter::once(program).chain(words.iter().cloned()).collect();
    Text::of_words(&all, at).filled_in_by(crate::model::Language::Variables)
}

/// The variables under `env`, each `NAME=value`.
pub(super) fn environment(keys: &Keys<'_>, own: &Substitutions, variables: &mut Variables) {
    for text in keys.get("env").map(|node| keys.nodes.words(node).0).unwrap_or_default() {
        let Some((name, value)) = text.value.split_once('=') else { continue };
        let start = name.len() + 1;
        let value = own.filled(&Text::fixed(value, text.place(start..text.value.len())).filled_in_by(text.language));
        variables.entries.push((Text::fixed(name, text.place(0..name.len())), value));
    }
}
