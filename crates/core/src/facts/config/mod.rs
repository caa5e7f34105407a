//! Settings in configuration files, read only where they are written out.
//!
//! JavaScript and TypeScript are parsed, never run: a value that would have to be computed is unknown. JSON (comments and
//! trailing commas included) is read by the same parser; TOML and YAML by their own.

pub(crate) mod constructs;
pub(super) mod demands;
mod nesting;
mod script;
mod sections;
mod yaml;

use crate::text::Span;

/// Larger files are no configuration that a person wrote.
const SIZE_LIMIT: usize = 1 << 20;

/// A value with its bytes.
#[derive(Clone, Debug, PartialEq)]
pub struct Setting {
    /// What it is.
    pub value: Value,
    /// Where it stands.
    pub span: Span,
}

/// What a setting is.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// A text.
    Text(String),
    /// Yes or no.
    Bool(bool),
    /// A number.
    Number(f64),
    /// Nothing.
    Null,
    /// A list.
    List(Vec<Setting>),
    /// Names with their own spans and values; `open` when there may be more than stands here.
    Map {
        /// In the order they are written.
        entries: Vec<(String, Span, Setting)>,
        /// A part is only known when the file runs.
        open: bool,
    },
    /// The result of a call, of which only the first argument is known; without one it is an empty map.
    Call(Box<Setting>),
    /// Only known when the file runs.
    Unknown,
}

/// What a look-up gives.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Found<'s> {
    /// It stands here.
    Here(&'s Setting),
    /// It is surely not set.
    Absent,
    /// It may be set when the file runs.
    Unknown,
}

/// Why a file cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unreadable {
    /// Where.
    pub span: Span,
    /// In plain words.
    pub reason: String,
}

impl Setting {
    /// Looks up a dotted path such as `build.outDir`. A `*` is the only entry of a map; `name()` is the argument of the call that
    /// stands under the name.
    pub fn find(&self, path: &str) -> Found<'_> {
        let mut current = self;
        for part in path.split('.') {
            let (name, wants_call) = part.strip_suffix("()").map_or((part, false), |name| (name, true));
            match &current.value {
                Value::Map { entries, open } => match (name, entries.as_slice()) {
                    ("*", [(_, _, only)]) => current = only,
                    ("*", _) => return Found::Unknown,
                    (name, entries) => match entries.iter().rev().find(|(key, ..)| key == name) {
                        Some((_, _, setting)) => current = setting,
                        None if *open => return Found::Unknown,
                        None => return Found::Absent,
                    },
                },
                Value::Unknown | Value::Call(_) => return Found::Unknown,
                _ => return Found::Absent,
            }
            if wants_call {
                match &current.value {
                    Value::Call(argument) => current = argument,
                    _ => return Found::Unknown,
                }
            }
        }
        if matches!(current.value, Value::Unknown | Value::Call(_)) { Found::Unknown } else { Found::Here(current) }
    }

    /// The text, when it is one.
    pub fn text(&self) -> Option<&str> {
        match &self.value {
            Value::Text(text) => Some(text),
            _ => None,
        }
    }

    /// Every text in it, at any depth, with its bytes.
    pub fn texts(&self) -> Vec<(&str, Span)> {
        let mut found = Vec::new();
        let mut open = vec![self];
        while let Some(setting) = open.pop() {
            match &setting.value {
                Value::Text(text) => found.push((text.as_str(), setting.span)),
                Value::List(items) => open.extend(items),
                Value::Map { entries, .. } => open.extend(entries.iter().map(|(.., inner)| inner)),
                Value::Call(inner) => open.push(inner),
                _ => {}
            }
        }
        found
    }

    /// Names, their spans and their settings; empty for anything but a map.
    pub fn entries(&self) -> &[(String, Span, Setting)] {
        match &self.value {
            Value::Map { entries, .. } => entries,
            _ => &[],
        }
    }
}

/// Reads a configuration file by its name's ending.
///
/// # Errors
/// When the text is not in the language that its name says.
pub fn read(path: &str, text: &str) -> Result<Setting, Unreadable> {
    if text.len() > SIZE_LIMIT {
        return Err(Unreadable { span: Span::default(), reason: "it is larger than 1 MB".into() });
    }
    let ending = path.rsplit('.').next().unwrap_or_default();
    match ending {
        "json" | "jsonc" => script::read_json(text),
        "toml" => read_toml(text),
        "yml" | "yaml" => yaml::read(text),
        "lektorproject" | "ini" => Ok(sections::read(text)),
        _ => script::read_module(path, text),
    }
}

fn read_toml(text: &str) -> Result<Setting, Unreadable> {
    let table = toml::de::DeTable::parse(text).map_err(|error| Unreadable {
        span: error.span().map_or(Span::default(), |range| Span::new(range.start, range.end)),
        reason: error.message().to_owned(),
    })?;
    Ok(toml_table(table.get_ref(), Span::new(0, text.len())))
}

fn toml_table(table: &toml::de::DeTable<'_>, span: Span) -> Setting {
    let entries = table.iter().map(|(key, value)| {
        let key_span = Span::new(key.span().start, key.span().end);
        (key.get_ref().to_string(), key_span, toml_value(value))
    });
    Setting { value: Value::Map { entries: entries.collect(), open: false }, span }
}

fn toml_value(value: &toml::Spanned<toml::de::DeValue<'_>>) -> Setting {
    use toml::de::DeValue;
    let span = Span::new(value.span().start, value.span().end);
    let inner = match value.get_ref() {
        DeValue::String(text) => Value::Text(text.to_string()),
        DeValue::Boolean(truth) => Value::Bool(*truth),
        DeValue::Integer(number) => number.to_string().parse().map_or(Value::Unknown, Value::Number),
        DeValue::Float(number) => number.to_string().parse().map_or(Value::Unknown, Value::Number),
        DeValue::Datetime(_) => Value::Unknown,
        DeValue::Array(items) => Value::List(items.iter().map(toml_value).collect()),
        DeValue::Table(table) => return toml_table(table, span),
    };
    Setting { value: inner, span }
}

#[cfg(test)]
mod tests;
