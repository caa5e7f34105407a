//! What the service fills into the texts of a build before anything runs: `$NAME` and `${NAME}` are substitutions, `$$` is a dollar.
//!
//! After the page "Substituting variable values", 2026-11: names are the service's own or begin with an underscore; they are filled in
//! everywhere but in `script`, where they are variables of the step if the build or the step maps them.

use std::collections::BTreeMap;
use std::ops::Range;

use crate::knowledge::{Among, near};
use crate::model::{Text, Variables};

/// More values in values are a circle.
const DEPTH: usize = 8;
/// No value is longer. Source: the page "Substituting variable values", 2026-11.
const LONGEST: usize = 4_000;
/// More than this is filled into no honest text.
const MOST: usize = 1 << 18;

/// A dollar of a text, with its bytes there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Dollar<'t> {
    /// `$$`: one dollar is left, with the bytes of the two. With the name behind it, which a shell reads then.
    Doubled(Option<&'t str>, Range<usize>),
    /// `$NAME` or `${NAME}`.
    Filled(&'t str, Range<usize>),
}

/// All dollars of a text that mean something to the service. Names are of capital letters, digits and underscores.
pub(super) fn dollars(text: &str) -> Vec<Dollar<'_>> {
    let bytes = text.as_bytes();
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(next) = text[at..].find('$').map(|index| at + index) {
        let rest = &text[next + 1..];
        if bytes.get(next + 1) == Some(&b'$') {
            found.push(Dollar::Doubled(name_behind(&text[next + 2..]).map(|(name, _)| name), next..next + 2));
            at = next + 2;
            continue;
        }
        match name_behind(rest) {
            Some((name, length)) => {
                found.push(Dollar::Filled(name, next..next + 1 + length));
                at = next + 1 + length;
            }
            None => at = next + 1,
        }
    }
    found
}

/// The bytes of a doubled dollar together with the name behind it.
pub(super) fn with_name(text: &str, dollars: &Range<usize>) -> Range<usize> {
    let length = name_behind(&text[dollars.end..]).map_or(0, |(_, length)| length);
    dollars.start..dollars.end + length
}

/// The name at the start of a text, in braces or not, and how many bytes it takes. In lower case it is none.
fn name_behind(text: &str) -> Option<(&str, usize)> {
    let braced = text.starts_with('{');
    let inner = &text[usize::from(braced)..];
    let length = inner.bytes().take_while(|byte| byte.is_ascii_uppercase() || byte.is_ascii_digit() || *byte == b'_').count();
    let name = &inner[..length];
    let next = inner.as_bytes().get(length);
    let whole = !next.is_some_and(u8::is_ascii_lowercase);
    let starts = name.starts_with(|first: char| first.is_ascii_uppercase() || first == '_');
    if !starts || !whole || (braced && next != Some(&b'}')) {
        return None;
    }
    Some((name, length + 2 * usize::from(braced)))
}

/// Whether a name is one that the service fills in.
pub(super) fn is_own(name: &str) -> bool {
    ["steady", "of-triggers"].iter().any(|list| super::data().list(list).contains(&name))
}

/// What the file itself sets.
#[derive(Debug, Default)]
pub(super) struct Substitutions {
    /// As it is written.
    pub written: Variables,
    /// The same with what it reads filled in, by name.
    values: BTreeMap<String, String>,
}

impl Substitutions {
    /// Of the values that a file sets.
    pub fn of(written: Variables) -> Self {
        let raw = written.entries.iter().map(|(name, text)| (name.value.clone(), text.value.clone()));
        let mut values: BTreeMap<String, String> = raw.collect();
        for _ in 0..DEPTH {
            let before = values.clone();
            for value in values.values_mut().filter(|value| value.contains("$_") || value.contains("${_")) {
                let after = edited(value, &edits(value, &before));
                if after.len() <= LONGEST {
                    *value = after;
                }
            }
            if values == before {
                break;
            }
        }
        Self { written, values }
    }

    /// Whether the file sets a name.
    pub fn has(&self, name: &str) -> bool {
        self.values.contains_key(name)
    }

    /// The name that the file sets and that is surely meant by another one.
    pub fn nearly(&self, name: &str) -> Option<&Text> {
        let known = self.values.keys().map(String::as_str);
        let meant = near(name, known, Among::Closed).filter(|meant| meant.sure)?;
        self.written.entries.iter().map(|(known, _)| known).find(|known| known.value == meant.word)
    }

    /// A text as it is after substitution: doubled dollars are single ones, and what the file itself sets stands where it is read. What only
    /// a trigger or the service knows stays a name.
    pub fn filled(&self, text: &Text) -> Text {
        let mut left = MOST;
        let mut edits = edits(&text.value, &self.values);
        edits.retain(|(_, value)| {
            let fits = value.len() <= left;
            left = left.saturating_sub(value.len());
            fits
        });
        text.replaced(&edits)
    }
}

/// What changes in a text when it is filled in.
fn edits(text: &str, values: &BTreeMap<String, String>) -> Vec<(Range<usize>, String)> {
    let mut found = Vec::new();
    for dollar in dollars(text) {
        match dollar {
            Dollar::Doubled(_, range) => found.push((range, "$".to_owned())),
            Dollar::Filled(name, range) => found.extend(values.get(name).map(|value| (range, value.clone()))),
        }
    }
    found
}

fn edited(text: &str, edits: &[(Range<usize>, String)]) -> String {
    let mut after = text.to_owned();
    edits.iter().rev().for_each(|(range, value)| after.replace_range(range.clone(), value));
    after
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::{FileId, Span};

    fn text(value: &str) -> Text {
        Text::straight(value, FileId(0), Span::new(0, value.len()))
    }

    #[test]
    fn only_names_in_capitals_are_filled_in() {
        let names: Vec<Option<&str>> = dollars("$A ${_B}x $$C $$ $d ${E:-x} $(F) $1 $Go ${h}")
            .into_iter()
            .map(|dollar| match dollar {
                Dollar::Doubled(name, _) => name,
                Dollar::Filled(name, _) => Some(name),
            })
            .collect();
        assert_eq!(names, [Some("A"), Some("_B"), Some("C"), None]);
    }

    #[test]
    fn what_the_file_sets_stands_where_it_is_read() {
        let own = Variables {
            entries: thin_vec::thin_vec![(text("_OUT"), text("${_ROOT}/dist")), (text("_ROOT"), text("web"))],
            open: false,
        };
        let after = Substitutions::of(own).filled(&text("cp $_OUT/a $$HOME ${PROJECT_ID}"));
        assert_eq!(after.value, "cp web/dist/a $HOME ${PROJECT_ID}");
        assert_eq!(after.place(3..11).span, Span::new(3, 8), "the name, where it is read");
        assert_eq!(after.place(11..13).span, Span::new(8, 10));
    }

    #[test]
    fn values_that_read_each_other_come_to_an_end() {
        let own = Variables { entries: thin_vec::thin_vec![(text("_A"), text("$_A$_A"))], open: false };
        let after = Substitutions::of(own).filled(&text("$_A"));
        assert!(after.value.len() <= LONGEST && after.value.contains("$_A"));
    }
}
