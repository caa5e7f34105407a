//! Files of sections: `[name.of.section]`, and `key = value` below.

use super::{Setting, Value};
use crate::text::Span;

/// Reads sections as nested maps; lines that are neither a section nor a value are passed over.
pub(super) fn read(text: &str) -> Setting {
    let whole = Span::new(0, text.len());
    let mut top: Vec<(String, Span, Setting)> = Vec::new();
    let mut section: Vec<(String, Span)> = Vec::new();
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let start = at;
        at += line.len();
        let written = line.trim();
        let from = start + (line.len() - line.trim_start().len());
        if let Some(name) = written.strip_prefix('[').and_then(|rest| rest.strip_suffix(']')) {
            let span = Span::new(from + 1, from + 1 + name.len());
            section = name.split('.').map(|part| (part.trim().to_owned(), span)).collect();
            put(&mut top, &section, None);
        } else if let Some((key, value)) = written.split_once('=').filter(|_| !written.starts_with(['#', ';'])) {
            let (key, value) = (key.trim_end(), value.trim());
            let end = from + written.len();
            let setting = Setting { value: Value::Text(value.to_owned()), span: Span::new(end - value.len(), end) };
            put(&mut top, &section, Some((key.to_owned(), Span::new(from, from + key.len()), setting)));
        }
    }
    Setting { value: Value::Map { entries: top, open: false }, span: whole }
}

/// Puts a value into a section, which is made where it is not there yet.
fn put(entries: &mut Vec<(String, Span, Setting)>, section: &[(String, Span)], value: Option<(String, Span, Setting)>) {
    let Some(((name, span), rest)) = section.split_first() else {
        entries.extend(value);
        return;
    };
    let index = entries.iter().position(|(known, ..)| known == name).unwrap_or_else(|| {
        let empty = Setting { value: Value::Map { entries: Vec::new(), open: false }, span: *span };
        entries.push((name.clone(), *span, empty));
        entries.len() - 1
    });
    if let Value::Map { entries, .. } = &mut entries[index].2.value {
        put(entries, rest, value);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::facts::config::Found;

    #[test]
    fn sections_are_maps_in_maps() {
        let text = "[project]\nname = Quay\n; a = b\n\n[servers.pier]\n  target = rsync://pier.example/www\n[servers.quay]\nx\n";
        let setting = read(text);
        let Found::Here(target) = setting.find("servers.pier.target") else { panic!("{setting:?}") };
        assert_eq!((target.text(), &text[target.span.range()]), (Some("rsync://pier.example/www"), "rsync://pier.example/www"));
        assert!(matches!(setting.find("servers.quay"), Found::Here(_)) && setting.find("servers.slip") == Found::Absent);
        assert_eq!(setting.find("project.a"), Found::Absent);
    }
}
