//! Values that the catalog writes as one text, taken apart: what a key takes, what an input gives, a day, the kind of a place.

/// The code for a text of such a type; nothing for another type, and `None` inside where the text is none of it.
pub fn code(name: &str, text: &str) -> Option<Option<String>> {
    match name {
        "Takes" => Some(takes(text)),
        "Field" => Some(Some(field(text))),
        "Date" => Some(date(text)),
        "Target" => Some(Some(target(text))),
        _ => None,
    }
}

fn perhaps(text: Option<&str>) -> String {
    text.map_or_else(|| "None".to_owned(), |text| format!("Some({text:?})"))
}

/// `<input>`, `<input>|what it is otherwise`, or what it always is.
fn field(text: &str) -> String {
    let (input, default) = match text.strip_prefix('<') {
        None => (None, Some(text)),
        Some(rest) => {
            let (input, default) = rest.split_once('>').unwrap_or((rest, ""));
            (Some(input), default.strip_prefix('|'))
        }
    };
    format!("super::actions::Field {{ input: {}, default: {} }}", perhaps(input), perhaps(default))
}

/// `2026-04-30`
fn date(text: &str) -> Option<String> {
    let as_written = |(index, byte): (usize, u8)| if matches!(index, 4 | 7) { byte == b'-' } else { byte.is_ascii_digit() };
    if text.len() != 10 || !text.bytes().enumerate().all(as_written) {
        return None;
    }
    let parts: Vec<u16> = text.split('-').map(|part| part.parse().ok()).collect::<Option<_>>()?;
    let [year, month @ 1..=12, day @ 1..=31] = parts[..] else { return None };
    Some(format!("super::date::Date::of({year}, {month}, {day})"))
}

fn target(word: &str) -> String {
    let known = match word {
        "pages" => "ForgePages",
        "branch" => "Branch",
        "bucket" => "Bucket",
        "ssh" => "Shell",
        "ftp" => "FileServer",
        _ => return format!("crate::model::Target::Host(std::borrow::Cow::Borrowed({word:?}))"),
    };
    format!("crate::model::Target::{known}")
}

/// `text|list(text|map(null))|@place#contexts`; catalog/formats/workflow/grammar.toml says what it means.
fn takes(written: &str) -> Option<String> {
    let (alternatives, contexts) = match written.rsplit_once('#') {
        Some((before, name)) if !name.contains([')', '|']) => (before, Some(name)),
        _ => (written, None),
    };
    let mut parts: Vec<String> = Vec::new();
    for one in split(alternatives) {
        let inside = |name: &str| one.strip_prefix(name)?.strip_prefix('(')?.strip_suffix(')');
        match one {
            "any" | "text" | "number" | "duration" | "pattern" | "null" | "event" | "nested" => {
                parts.push(format!("{one}: true"))
            }
            "version" => parts.extend(["text: true".to_owned(), "version: true".to_owned()]),
            "bool" => parts.push("boolean: true".into()),
            _ => {
                if let Some(inner) = inside("list") {
                    parts.push(format!("list: Some(&{})", takes(inner)?));
                } else if let Some(inner) = inside("map") {
                    parts.push(format!("map: Some(&{})", takes(inner)?));
                } else if let Some((from, to)) = inside("count").and_then(|inner| inner.split_once(',')) {
                    parts.push(format!("count: Some(({}, {}))", from.parse::<u32>().ok()?, to.parse::<u32>().ok()?));
                } else if let Some(inner) = inside("one") {
                    parts.push(format!("words: &{:?}", inner.split(',').collect::<Vec<_>>()));
                } else {
                    parts.push(format!("place: Some({:?})", one.strip_prefix('@')?));
                }
            }
        }
    }
    parts.sort();
    parts.dedup();
    parts.extend(contexts.map(|name| format!("contexts: Some({name:?})")));
    parts.push("..super::grammar::Takes::NOTHING".to_owned());
    Some(format!("super::grammar::Takes {{ {} }}", parts.join(", ")))
}

/// The alternatives of what a key takes, brackets kept together.
fn split(takes: &str) -> impl Iterator<Item = &str> {
    let mut depth = 0usize;
    takes.split(move |c: char| {
        match c {
            '(' => depth += 1,
            ')' => depth = depth.saturating_sub(1),
            _ => {}
        }
        c == '|' && depth == 0
    })
}

#[cfg(test)]
mod tests {
    use super::code;

    /// The code for a text of a type; nothing where it is none.
    fn read(name: &str, text: &str) -> Option<String> {
        code(name, text).unwrap_or_else(|| panic!("there is no type {name}"))
    }

    #[test]
    fn what_a_key_takes_is_read_with_its_brackets() {
        let code = read("Takes", "text|list(text|map(null))|@job#step").unwrap_or_default();
        let inner = "map: Some(&super::grammar::Takes { null: true";
        for part in ["text: true", "place: Some(\"job\")", "contexts: Some(\"step\")", inner] {
            assert!(code.contains(part), "{part}: {code}");
        }
        assert!(read("Takes", "bool|one(a,b)").unwrap_or_default().contains("words: &[\"a\", \"b\"]"));
        assert!(!read("Takes", "map(text#env)").unwrap_or_default().contains("NOTHING, contexts"));
        assert_eq!(read("Takes", "number|nonsense"), None);
    }

    #[test]
    fn fields_name_an_input_and_what_it_is_otherwise() {
        for (text, code) in [
            ("<path>|.", "input: Some(\"path\"), default: Some(\".\")"),
            ("<name>", "input: Some(\"name\"), default: None"),
            ("pages", "input: None, default: Some(\"pages\")"),
        ] {
            assert!(read("Field", text).unwrap_or_default().contains(code), "{text}");
        }
    }

    #[test]
    fn days_and_places_are_told_from_other_words() {
        assert!(read("Date", "2026-04-30").is_some());
        assert!(
            ["2026-13-01", "2026-04", "today", "2026-4-30", "26-01-01", "2026-01-01-01", "2026-+4-30"]
                .iter()
                .all(|wrong| read("Date", wrong).is_none())
        );
        assert!(read("Target", "ssh").unwrap_or_default().ends_with("Shell"));
        assert!(read("Target", "islands").unwrap_or_default().contains("Borrowed(\"islands\")"));
        assert!(code("Word", "ssh").is_none());
    }
}
