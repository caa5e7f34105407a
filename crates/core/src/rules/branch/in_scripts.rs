//! What scripts hold against each other: `[ "$NAME" = text ]` and its kin.

use crate::case::Case;
use crate::model::{Shell, Text, Work};
use crate::shell::{Word, parse, variables_set};

use super::bare_compare::Held;

/// The names and texts that scripts compare, where both are known.
pub(super) fn compared_in_scripts(case: &Case<'_>) -> Vec<Held> {
    let mut found = Vec::new();
    for (job, number, step) in case.steps() {
        if let Work::Runs { script, shell: Shell::Posix } = &step.work {
            found.extend(in_script(case, job, number, script));
        }
    }
    found
}

fn in_script(case: &Case<'_>, job: usize, step: usize, script: &Text) -> Vec<Held> {
    // Most scripts compare nothing, and are not parsed for it.
    if !script.value.contains('=') || !(script.value.contains('[') || script.value.contains("test")) {
        return Vec::new();
    }
    let set = variables_set(&script.value);
    let mut found = Vec::new();
    for command in parse(&script.value).commands {
        if !matches!(command.name(), Some("[" | "[[" | "test")) {
            continue;
        }
        for window in command.words.windows(3) {
            let [left, operator, right] = window else { continue };
            let never = match operator.text.as_str() {
                "=" | "==" => "never",
                "!=" => "always",
                _ => continue,
            };
            for (value, literal) in [(left, right), (right, left)] {
                let Some(word) = literal.known().filter(|_| !literal.glob) else { continue };
                let Some((name, shown)) =
                    named(case, job, step, script, value).filter(|(_, shown)| !set.contains(&shown.as_str()))
                else {
                    continue;
                };
                let at = script.place(literal.range.clone());
                found.push(Held { name, shown, value_at: None, word: word.to_owned(), at, start: false, never });
            }
        }
    }
    found
}

/// The value that a word is, by the name that conditions know, and as it is written.
fn named(case: &Case<'_>, job: usize, step: usize, script: &Text, word: &Word) -> Option<(String, String)> {
    let whole = |text: &Text| {
        let [read] = case.reads_of(text).try_into().ok()?;
        (read.alone && read.plain).then(|| case.sources.slice(read.at).to_owned())
    };
    let name = word.text.strip_prefix('$').unwrap_or_default();
    let name = name.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')).unwrap_or(name);
    if name.is_empty() || !name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_') {
        let is_word = |range: &std::ops::Range<usize>| {
            word.range.start <= range.start && range.end <= word.range.end && range.len() == word.text.len()
        };
        let read = case.reads_of(script).into_iter().find(|read| read.plain && is_word(&read.range))?;
        let written = case.sources.slice(read.at).to_owned();
        return Some((written.clone(), written));
    }
    if let Some(value) = case.layers(job, step).iter().find_map(|layer| layer.get(name)) {
        return Some((whole(value)?, name.to_owned()));
    }
    let values = &case.pipeline.run().values;
    let is_own = case.pipeline.customs.reads_variables.then_some(name);
    let known = values.variables.get(name).copied().or(is_own)?;
    Some((known.to_owned(), name.to_owned()))
}
