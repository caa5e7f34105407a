//! Values of the catalog as Rust: every part of it becomes a static that costs nothing at start.

use std::fmt::Write as _;

use toml::Value;

use super::shapes::{Shape, Shapes};
use super::slots::slot_of;
use super::written;

type Result<T> = std::result::Result<T, String>;

/// Of fewer names, looking at each is as quick.
const FEW: usize = 6;

/// The slots of the names of a table: the number of the name that stands there, the first of them being one, or nought for nothing. A name
/// whose slot is taken stands in the next one that is free.
fn laid_out(names: &[&str]) -> Vec<u16> {
    if names.len() <= FEW {
        return Vec::new();
    }
    let mut slots = vec![0; (2 * names.len()).next_power_of_two()];
    for (number, name) in (1..).zip(names) {
        let mut at = slot_of(name, slots.len());
        while slots[at] != 0 {
            at = (at + 1) % slots.len();
        }
        slots[at] = number;
    }
    slots
}

impl Shapes {
    /// A value of a shape; `lenient` where a missing text or number is empty rather than wrong, `at` for telling where it stands.
    pub fn value(&self, shape: &Shape, value: Option<&Value>, lenient: bool, at: &str) -> Result<String> {
        let wrong = |wanted: &str| Err(format!("{at}: {wanted} is wanted"));
        match (shape, value) {
            (Shape::Word, Some(Value::String(text))) => Ok(format!("{text:?}")),
            (Shape::Word, None) if lenient => Ok("\"\"".into()),
            (Shape::Word, _) => wrong("a text"),
            (Shape::Truth, None) => Ok("false".into()),
            (Shape::Truth, Some(Value::Boolean(value))) => Ok(value.to_string()),
            (Shape::Truth, _) => wrong("true or false"),
            (Shape::Number, Some(Value::Integer(number))) => Ok(number.to_string()),
            (Shape::Number, None) if lenient => Ok("0".into()),
            (Shape::Number, _) => wrong("a number"),
            (Shape::List(_), None) => Ok("&[]".into()),
            (Shape::List(inner), Some(Value::Array(items))) => {
                let items = items
                    .iter()
                    .enumerate()
                    .map(|(number, item)| self.value(inner, Some(item), false, &format!("{at}[{number}]")));
                Ok(format!("&[{}]", items.collect::<Result<Vec<_>>>()?.join(", ")))
            }
            (Shape::List(_), _) => wrong("a list"),
            (Shape::Table(_), None) => Ok("super::Table::NONE".into()),
            (Shape::Table(inner), Some(Value::Table(table))) => {
                let mut entries: Vec<_> = table.iter().collect();
                entries.sort_by_key(|(key, _)| key.as_str());
                let entry = |(key, item): (&String, &Value)| {
                    Ok(format!("({key:?}, {})", self.value(inner, Some(item), false, &format!("{at}.{key}"))?))
                };
                let names: Vec<&str> = entries.iter().map(|(key, _)| key.as_str()).collect();
                let slots = laid_out(&names);
                let entries = entries.into_iter().map(entry).collect::<Result<Vec<_>>>()?;
                Ok(format!("super::Table(&[{}], &{slots:?})", entries.join(", ")))
            }
            (Shape::Table(_), _) => wrong("a table"),
            (Shape::Perhaps(_), None) => Ok("None".into()),
            (Shape::Perhaps(inner), value) => Ok(format!("Some({})", self.value(inner, value, false, at)?)),
            (Shape::Several(shapes), Some(Value::Array(items))) if shapes.len() == items.len() => {
                let parts = shapes.iter().zip(items).map(|(shape, item)| self.value(shape, Some(item), false, at));
                Ok(format!("({})", parts.collect::<Result<Vec<_>>>()?.join(", ")))
            }
            (Shape::Several(_), _) => wrong("a list of another length"),
            (Shape::Named(name), value) => self.named(name, value, at),
        }
    }

    fn named(&self, name: &str, value: Option<&Value>, at: &str) -> Result<String> {
        if let Some(Value::String(text)) = value
            && let Some(code) = written::code(name, text)
        {
            return code.ok_or_else(|| format!("{at}: {text} is no {name}"));
        }
        if let Some(structure) = self.structures.get(name) {
            let nothing = toml::Table::new();
            let table = match value {
                Some(Value::Table(table)) => table,
                None if structure.lenient => &nothing,
                _ => return Err(format!("{at}: the keys of {name} are wanted")),
            };
            return Ok(format!(
                "{} {{ {} }}",
                structure.path,
                self.fields(&structure.fields, table, structure.lenient, at, None)?
            ));
        }
        let choice = self.choices.get(name).ok_or_else(|| format!("{at}: there is no type {name}"))?;
        let (word, table) = match value {
            None => match &choice.default {
                Some(default) => return Ok(format!("{}::{default}", choice.path)),
                None => return Err(format!("{at}: a word is wanted")),
            },
            Some(Value::String(word)) => (word.as_str(), None),
            Some(Value::Table(table)) => (table.get("what").and_then(Value::as_str).unwrap_or_default(), Some(table)),
            Some(_) => return Err(format!("{at}: a word is wanted")),
        };
        let (variant, fields) = choice
            .variants
            .iter()
            .find(|(variant, _)| kebab(variant) == word)
            .ok_or_else(|| format!("{at}: {word} is no {name}"))?;
        match table {
            Some(table) if !fields.is_empty() => {
                Ok(format!("{}::{variant} {{ {} }}", choice.path, self.fields(fields, table, false, at, Some("what"))?))
            }
            _ => Ok(format!("{}::{variant}", choice.path)),
        }
    }

    fn fields(
        &self,
        fields: &[(String, Shape)],
        table: &toml::Table,
        lenient: bool,
        at: &str,
        besides: Option<&str>,
    ) -> Result<String> {
        let key = |key: &str| key.replace('-', "_");
        if let Some(unknown) =
            table.keys().find(|known| besides != Some(known.as_str()) && !fields.iter().any(|(name, _)| *name == key(known)))
        {
            return Err(format!("{at}: nothing is called {unknown}"));
        }
        let mut out = String::new();
        for (name, shape) in fields {
            let value = table.iter().find(|(known, _)| key(known) == *name).map(|(_, value)| value);
            let _ = write!(out, "{name}: {}, ", self.value(shape, value, lenient, &format!("{at}.{name}"))?);
        }
        Ok(out)
    }
}

/// `PassedOver` as `passed-over`.
fn kebab(name: &str) -> String {
    let mut out = String::new();
    for (index, c) in name.chars().enumerate() {
        if c.is_uppercase() && index > 0 {
            out.push('-');
        }
        out.extend(c.to_lowercase());
    }
    out
}
