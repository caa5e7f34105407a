//! Variables: texts such as `QUAY=one PIER="two"`, mappings, lists of both, and values that are encrypted.

use crate::carrier::NodeId;
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{Text, Variables};

/// Variables, and the names of those whose values are encrypted.
#[derive(Clone, Debug, Default)]
pub(super) struct Env {
    pub variables: Variables,
    pub encrypted: Vec<Text>,
}

impl Env {
    /// What stands before holds.
    pub fn add(&mut self, other: Self) {
        let new = other.variables.entries.into_iter().filter(|(name, _)| self.variables.get(&name.value).is_none());
        let new: Vec<(Text, Text)> = new.collect();
        self.variables.entries.extend(new);
        self.variables.open |= other.variables.open;
        self.encrypted.extend(other.encrypted);
    }
}

/// What stands under `env`: variables for all jobs, and rows of which each makes a job.
/// Source: the page "Environment Variables", 2026-11.
pub(super) struct Envs {
    pub global: Env,
    pub rows: Vec<(Text, Env)>,
}

/// Reads `env` of the whole file.
pub(super) fn of_file(nodes: &Nodes<'_>, node: NodeId) -> Envs {
    let keys = Keys::of(*nodes, node);
    let of_jobs = keys.get("jobs").or_else(|| keys.get("matrix"));
    let mut envs = Envs { global: Env::default(), rows: Vec::new() };
    if keys.pair("global").is_some() || of_jobs.is_some() {
        if let Some(global) = keys.get("global") {
            envs.global = together(nodes, global);
        }
        envs.rows = of_jobs.map(|rows| self::rows(nodes, rows)).unwrap_or_default();
        return envs;
    }
    envs.rows = self::rows(nodes, node);
    envs
}

/// A list makes one row of each item; a row of which nothing but an encrypted value is known belongs to all.
fn rows(nodes: &Nodes<'_>, node: NodeId) -> Vec<(Text, Env)> {
    let row = |item: NodeId| {
        let name = nodes.text(item).unwrap_or_else(|| Text::fixed("", nodes.at(item)));
        (name, one(nodes, item))
    };
    listed(nodes, node).into_iter().map(row).collect()
}

/// All variables of a list, or of one item.
pub(super) fn together(nodes: &Nodes<'_>, node: NodeId) -> Env {
    let mut all = Env::default();
    listed(nodes, node).into_iter().for_each(|item| all.add(one(nodes, item)));
    all
}

fn one(nodes: &Nodes<'_>, node: NodeId) -> Env {
    let mut found = Env::default();
    if let Some(text) = nodes.text(node) {
        assigned(&text, &mut found);
        return found;
    }
    for (key, value) in Keys::of(*nodes, node).iter() {
        let Some(name) = nodes.text(key) else { continue };
        match (name.value.as_str(), nodes.text(value)) {
            // What is inside may be one variable or several.
            ("secure", _) => found.variables.open = true,
            (_, Some(text)) => found.variables.entries.push((name, text)),
            (_, None) if Keys::of(*nodes, value).pair("secure").is_some() => found.encrypted.push(name),
            (_, None) if nodes.tree.is_null(value) => {
                found.variables.entries.push((name, Text::fixed("", nodes.at(value))));
            }
            (_, None) => found.variables.open = true,
        }
    }
    found
}

/// Reads `QUAY=one PIER="two words"`, as a shell would.
fn assigned(text: &Text, found: &mut Env) {
    let value = &text.value;
    let mut at = 0;
    while at < value.len() {
        let rest = &value[at..];
        let blank = rest.len() - rest.trim_start().len();
        if blank > 0 {
            at += blank;
            continue;
        }
        let length = word_length(rest);
        if let Some((name, given)) = rest[..length].split_once('=').filter(|(name, _)| is_name(name)) {
            let start = at + name.len() + 1;
            let quote = given.chars().next().filter(|c| matches!(c, '"' | '\'') && given.len() > 1 && given.ends_with(*c));
            let (from, to) = if quote.is_some() { (start + 1, at + length - 1) } else { (start, at + length) };
            let part = |from: usize, to: usize| {
                let word = Text::fixed(&value[from..to], text.place(from..to));
                word.filled_in_by(text.language)
            };
            found.variables.entries.push((part(at, at + name.len()), part(from, to)));
        }
        at += length.max(1);
    }
}

fn is_name(name: &str) -> bool {
    !name.is_empty() && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_')
}

/// The bytes up to the next blank outside of quotes.
fn word_length(text: &str) -> usize {
    let mut quote: Option<char> = None;
    for (index, c) in text.char_indices() {
        match quote {
            None if c.is_whitespace() => return index,
            None if matches!(c, '"' | '\'') => quote = Some(c),
            Some(open) if c == open => quote = None,
            _ => {}
        }
    }
    text.len()
}
