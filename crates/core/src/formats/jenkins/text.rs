//! From a text in quotes to a text of the model: what a shell, or whoever reads it, gets.
//!
//! After the page "Pipeline syntax", string interpolation, and the language's own "Strings", 2026-11: in double quotes `${…}` is filled in
//! before a shell sees it. A name of the environment reads the same there as in the shell, so that it stays one.

use std::ops::Range;

use super::language::{Quoted, Value};
use crate::model::{Language, Text, TextMap};
use crate::text::{FileId, Place, Span};

/// A text and the file it stands in.
#[derive(Clone, Copy)]
pub(super) struct Words<'t> {
    pub text: &'t str,
    pub file: FileId,
}

/// What stands for something that is only known when it runs.
const DARK: &str = "${{ dark }}";

impl<'t> Words<'t> {
    pub fn at(&self, range: &Range<usize>) -> Place {
        Place { file: self.file, span: Span::new(range.start, range.end) }
    }

    /// The bytes as they are written.
    pub fn written(&self, range: &Range<usize>) -> &'t str {
        self.text.get(range.clone()).unwrap_or_default()
    }

    /// A name as a text of the model.
    pub fn name(&self, range: &Range<usize>) -> Text {
        Text::straight(self.written(range), self.file, Span::new(range.start, range.end)).filled_in_by(Language::Variables)
    }

    /// A text of which nothing is known before it runs.
    pub fn dark(&self, range: &Range<usize>) -> Text {
        Text::fixed(DARK, self.at(range)).filled_in_by(Language::Variables)
    }

    pub fn quoted(&self, quoted: &Quoted) -> Text {
        let inner = self.written(&quoted.inner);
        let start = Span::new(quoted.inner.start, quoted.inner.end).start;
        let base = Text::new(inner.to_owned(), self.at(&quoted.range), false, TextMap::Straight(start));
        base.filled_in_by(Language::Variables).replaced(&edits(inner, quoted))
    }

    /// The text of a value; nothing for what is no text.
    pub fn value(&self, value: &Value) -> Option<Text> {
        match value {
            Value::Text(quoted) => Some(self.quoted(quoted)),
            Value::Sum(parts, range) => {
                let mut whole = String::new();
                let mut map = Vec::new();
                for part in parts {
                    let text = self.quoted(part);
                    map.push((whole.len(), text.clone()));
                    whole.push_str(&text.value);
                }
                Some(Text::new(whole, self.at(range), false, TextMap::joined(map)).filled_in_by(Language::Variables))
            }
            Value::Word(_, range) => Some(self.name(range)),
            _ => None,
        }
    }

    /// All texts of a value, lists laid flat.
    pub fn texts(&self, value: &Value) -> Vec<Text> {
        match value {
            Value::List(items, _) => items.iter().flat_map(|item| self.texts(item)).collect(),
            other => self.value(other).into_iter().collect(),
        }
    }
}

/// What becomes of the letters between quotes: escapes, and what is filled in.
fn edits(inner: &str, quoted: &Quoted) -> Vec<(Range<usize>, String)> {
    let bytes = inner.as_bytes();
    let mut found = Vec::new();
    let mut at = 0;
    while at < bytes.len() {
        match bytes[at] {
            b'\\' if quoted.raw => {
                if bytes.get(at + 1) == Some(&b'/') {
                    found.push((at..at + 2, "/".to_owned()));
                }
                at += 2;
            }
            b'\\' => {
                let stands_for = match bytes.get(at + 1) {
                    Some(b'n') => "\n",
                    Some(b't') => "\t",
                    Some(b'\\') => "\\",
                    Some(b'\'') => "'",
                    Some(b'"') => "\"",
                    Some(b'$') => "$",
                    Some(b'\n') => "",
                    _ => {
                        at += 1;
                        continue;
                    }
                };
                found.push((at..at + 2, stands_for.to_owned()));
                at += 2;
            }
            b'$' if quoted.fills => {
                let range = hole(inner, at);
                if let Some(range) = &range {
                    found.push((range.clone(), filled(&inner[range.clone()])));
                }
                at = range.map_or(at + 1, |range| range.end);
            }
            _ => at += 1,
        }
    }
    found
}

/// The bytes of `${…}` or `$name.name` at a dollar.
pub(super) fn hole(text: &str, at: usize) -> Option<Range<usize>> {
    let rest = &text[at + 1..];
    if rest.starts_with('{') {
        let mut depth = 0_usize;
        for (index, byte) in rest.bytes().enumerate() {
            match byte {
                b'{' => depth += 1,
                b'}' => {
                    depth -= 1;
                    if depth == 0 {
                        return Some(at..at + 1 + index + 1);
                    }
                }
                _ => {}
            }
        }
        return None;
    }
    let letters = rest.bytes().take_while(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'.')).count();
    let name = rest[..letters].trim_end_matches('.');
    let starts = name.starts_with(|first: char| first.is_ascii_alphabetic() || first == '_');
    starts.then(|| at..at + 1 + name.len())
}

/// The name of the environment that a hole reads, when it reads one and does nothing else.
pub(super) fn name_in(hole: &str) -> Option<&str> {
    let inside = hole.trim_start_matches('$').trim_start_matches('{').trim_end_matches('}').trim();
    let name = ["env.", "params."].iter().find_map(|start| inside.strip_prefix(start)).unwrap_or(inside);
    let plain = name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
    (plain && name.starts_with(|first: char| first.is_ascii_alphabetic() || first == '_')).then_some(name)
}

fn filled(hole: &str) -> String {
    match name_in(hole) {
        Some(name) => format!("${{{name}}}"),
        None => DARK.to_owned(),
    }
}
