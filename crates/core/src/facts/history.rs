//! Generators that read dates from git's history.

use super::config::{Found, Setting, Value};
use super::{Facts, config_near};
use crate::knowledge::Generator;
use crate::text::{Place, Span};

/// The setting of a generator by which it reads git's history, with its place and its name.
pub fn reads_history(facts: &Facts, generator: &Generator, dir: &str) -> Option<(Place, &'static str)> {
    let (file, setting) = config_near(facts, generator, dir)?;
    let place = |setting: &Setting| Place { file: *file, span: setting.span };
    for name in generator.history_settings {
        if let Found::Here(found) = setting.find(name)
            && found.value == Value::Bool(true)
        {
            return Some((key_of(setting, name).map_or(place(found), |span| Place { file: *file, span }), name));
        }
    }
    let texts = setting.texts();
    generator.history_plugins.iter().find_map(|name| {
        let by_text = texts.iter().find(|(text, _)| text == name).map(|(_, span)| *span);
        let span = by_text.or_else(|| key_anywhere(setting, name))?;
        Some((Place { file: *file, span }, *name))
    })
}

/// Where the last name of a dotted path stands.
fn key_of(setting: &Setting, path: &str) -> Option<Span> {
    let (before, last) = path.rsplit_once('.').map_or((None, path), |(before, last)| (Some(before), last));
    let map = match before {
        Some(before) => match setting.find(before) {
            Found::Here(map) => map,
            _ => return None,
        },
        None => setting,
    };
    map.entries().iter().find(|(name, ..)| name == last).map(|(_, span, _)| *span)
}

/// Where a name stands as a key, at any depth.
fn key_anywhere(setting: &Setting, wanted: &str) -> Option<Span> {
    let mut open = vec![setting];
    while let Some(setting) = open.pop() {
        match &setting.value {
            Value::Map { entries, .. } => {
                if let Some((_, span, _)) = entries.iter().find(|(name, ..)| name == wanted) {
                    return Some(*span);
                }
                open.extend(entries.iter().map(|(.., inner)| inner));
            }
            Value::List(items) => open.extend(items),
            _ => {}
        }
    }
    None
}
