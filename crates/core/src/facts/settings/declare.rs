//! A text of dulk.toml that declares more.

use std::ops::Range;

use super::{Forge, Named, SETTINGS_FILE, read_settings};
use crate::text::{FileId, SourceFile};

/// A list of names in `[forge]`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Declared {
    /// `secrets`
    Secrets,
    /// `variables`
    Variables,
}

impl Declared {
    fn key(self) -> &'static str {
        match self {
            Self::Secrets => "secrets",
            Self::Variables => "variables",
        }
    }

    /// The names that are declared; nothing where nothing is said.
    pub fn of(self, forge: &Forge) -> Option<&[Named]> {
        match self {
            Self::Secrets => forge.secrets.as_deref(),
            Self::Variables => forge.variables.as_deref(),
        }
    }
}

/// The change to a text of dulk.toml that adds names to a list: its bytes, and what stands there then. Nothing where the text cannot be
/// read, or no simple change does it.
pub fn declared_with(text: &str, list: Declared, names: &[String]) -> Option<(Range<usize>, String)> {
    let read = |text: &str| read_settings(FileId(0), &SourceFile::new(SETTINGS_FILE, text)).ok();
    let settings = read(text)?;
    let quoted: Vec<String> = names.iter().map(|name| toml::Value::String(name.clone()).to_string()).collect();
    let joined = quoted.join(", ");
    let line = format!("{} = [{joined}]\n", list.key());
    let candidates = match list.of(&settings.forge) {
        Some([.., last]) => {
            let end = last.at.span.end as usize;
            vec![(end..end, format!(", {joined}"))]
        }
        Some([]) => empty_lists(text, list.key()).map(|at| (at..at, joined.clone())).collect(),
        None => vec![within_forge(text, &line)],
    };
    // Whatever the text looks like: what comes out declares these names, and the others as before.
    let before = list.of(&settings.forge).unwrap_or_default().len();
    candidates.into_iter().find(|(range, added)| {
        let changed = format!("{}{added}{}", &text[..range.start], &text[range.end..]);
        read(&changed).is_some_and(|settings| {
            let declared = list.of(&settings.forge).unwrap_or_default();
            declared.len() == before + names.len() && names.iter().all(|name| declared.iter().any(|one| one.name == *name))
        })
    })
}

/// Where lists of a key begin that hold nothing: the byte behind the bracket.
fn empty_lists<'t>(text: &'t str, key: &'t str) -> impl Iterator<Item = usize> + 't {
    text.match_indices(key).filter_map(move |(at, _)| {
        let rest = &text[at + key.len()..];
        let value = rest.trim_start().strip_prefix('=')?.trim_start().strip_prefix('[')?;
        Some(text.len() - value.len())
    })
}

/// A line right below the table's header, or with a table of its own at the end.
fn within_forge(text: &str, line: &str) -> (Range<usize>, String) {
    let mut at = 0;
    for written in text.split_inclusive('\n') {
        at += written.len();
        if written.trim() == "[forge]" {
            let gap = if written.ends_with('\n') { "" } else { "\n" };
            return (at..at, format!("{gap}{line}"));
        }
    }
    let gap = match text {
        "" => "",
        text if text.ends_with('\n') => "\n",
        _ => "\n\n",
    };
    (at..at, format!("{gap}[forge]\n{line}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn with(text: &str, names: &[&str]) -> Option<String> {
        let names: Vec<String> = names.iter().map(|name| (*name).to_owned()).collect();
        let (range, added) = declared_with(text, Declared::Secrets, &names)?;
        Some(format!("{}{added}{}", &text[..range.start], &text[range.end..]))
    }

    #[test]
    fn names_go_where_the_list_is() {
        assert_eq!(with("", &["A", "B"]).as_deref(), Some("[forge]\nsecrets = [\"A\", \"B\"]\n"));
        assert_eq!(with("[forge]\ntoken = \"read\"", &["A"]).as_deref(), Some("[forge]\nsecrets = [\"A\"]\ntoken = \"read\""));
        assert_eq!(with("[forge]\nsecrets = [ ]\n", &["A"]).as_deref(), Some("[forge]\nsecrets = [\"A\" ]\n"));
        assert_eq!(
            with("[forge]\nsecrets = [\n  \"A\",\n]\n", &["B"]).as_deref(),
            Some("[forge]\nsecrets = [\n  \"A\", \"B\",\n]\n")
        );
        assert_eq!(
            with("[site]\nbase = \"/\"\n", &["A"]).as_deref(),
            Some("[site]\nbase = \"/\"\n\n[forge]\nsecrets = [\"A\"]\n")
        );
        assert_eq!(with("forge.secrets = [\"A\"]\n", &["B"]).as_deref(), Some("forge.secrets = [\"A\", \"B\"]\n"));
    }

    #[test]
    fn a_text_that_cannot_be_read_is_left_alone() {
        assert_eq!(with("[forge\n", &["A"]), None);
        // A list of variables that holds nothing is another one.
        assert_eq!(
            with("[forge]\n# secrets = []\nvariables = []\nsecrets = []\n", &["A"])
                .as_deref()
                .map(|text| text.ends_with("secrets = [\"A\"]\n")),
            Some(true)
        );
        // The table is written in one line: below it there is no place.
        assert_eq!(with("forge = {token = \"read\"}\n", &["A"]), None);
    }
}
