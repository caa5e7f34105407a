//! `when`: what must hold for a stage.
//!
//! After the page "Pipeline syntax", when, 2026-11: conditions side by side must all hold; the name of a branch is a pattern of paths unless a
//! comparator says otherwise.

use std::ops::Range;

use super::language::{Block, Statement, Value};
use super::text::Words;
use crate::model::{Cond, Condition, Language, Pattern, PatternSyntax, Text};
use crate::text::Place;

/// Words in the block that are no conditions.
const SWITCHES: [&str; 3] = ["beforeAgent", "beforeInput", "beforeOptions"];

/// All that stands in the block.
pub(super) fn conditions(words: Words<'_>, block: &Block) -> Vec<Cond> {
    let stated = block.statements.iter().filter(|statement| !SWITCHES.contains(&statement.name.as_str()));
    stated.map(|statement| condition(words, statement)).collect()
}

fn condition(words: Words<'_>, statement: &Statement) -> Cond {
    let at = words.at(&statement.range);
    let inner = || statement.block.as_ref().map(|block| conditions(words, block));
    match statement.name.as_str() {
        "allOf" => inner().map_or(Cond::Opaque(at), Cond::All),
        "anyOf" => inner().map_or(Cond::Opaque(at), Cond::Any),
        "not" => inner().map_or(Cond::Opaque(at), |all| Cond::Not(Box::new(Cond::All(all)))),
        "branch" => named(words, statement, "BRANCH_NAME"),
        "tag" => named(words, statement, "TAG_NAME"),
        "buildingTag" => asks("$TAG_NAME".to_owned(), at),
        "changeRequest" if statement.arguments.is_empty() => asks("$CHANGE_ID".to_owned(), at),
        "changeRequest" => of_change(words, statement),
        "environment" => match (text_of(words, statement, "name"), text_of(words, statement, "value")) {
            (Some(name), Some(value)) => equals(&name.value, &value),
            _ => Cond::Opaque(at),
        },
        "equals" => of_equals(words, statement),
        "changeset" => changed(words, statement),
        "expression" => statement.block.as_ref().map_or(Cond::Opaque(at), |block| expression(words, block)),
        _ => Cond::Opaque(at),
    }
}

fn text_of(words: Words<'_>, statement: &Statement, name: &str) -> Option<Text> {
    statement.argument(name).and_then(|value| words.value(value))
}

fn asks(written: String, at: Place) -> Cond {
    Cond::asks(Condition::new(Text::fixed(&written, at).filled_in_by(Language::Variables)))
}

fn equals(name: &str, value: &Text) -> Cond {
    match value.known() {
        Some(known) if !known.contains(['"', '\n']) => asks(format!("${name} == \"{known}\""), value.inner()),
        _ => Cond::Opaque(value.at),
    }
}

/// A name of a branch or a tag, as a pattern or as a comparator says.
fn named(words: Words<'_>, statement: &Statement, variable: &str) -> Cond {
    let at = words.at(&statement.range);
    let value = statement.argument("pattern").or_else(|| statement.first());
    let Some(text) = value.and_then(|value| words.value(value)).filter(|text| text.known().is_some()) else {
        return if statement.arguments.is_empty() && variable == "TAG_NAME" {
            asks("$TAG_NAME".to_owned(), at)
        } else {
            Cond::Opaque(at)
        };
    };
    let comparator = text_of(words, statement, "comparator").map(|text| text.value.to_ascii_uppercase());
    compared(variable, &text, comparator.as_deref().unwrap_or("GLOB"))
}

fn compared(variable: &str, text: &Text, comparator: &str) -> Cond {
    let has_stars = text.value.contains(['*', '?']);
    match comparator {
        "EQUALS" => equals(variable, text),
        "GLOB" if !has_stars => equals(variable, text),
        "GLOB" => asks(format!("${variable} =~ /^{}$/", of_glob(&text.value)), text.inner()),
        "REGEXP" => asks(format!("${variable} =~ /^({})$/", text.value.replace('/', "\\/")), text.inner()),
        _ => Cond::Opaque(text.at),
    }
}

/// A pattern of paths as a regular expression.
fn of_glob(pattern: &str) -> String {
    let mut found = String::new();
    let mut rest = pattern;
    while let Some(next) = rest.chars().next() {
        if let Some(after) = rest.strip_prefix("**") {
            found.push_str(".*");
            rest = after;
            continue;
        }
        match next {
            '*' => found.push_str("[^\\/]*"),
            '?' => found.push_str("[^\\/]"),
            '/' => found.push_str("\\/"),
            other => found.push_str(&regex_syntax::escape(&other.to_string())),
        }
        rest = &rest[next.len_utf8()..];
    }
    found
}

/// A change that somebody asks to be taken in, by what is said of it.
fn of_change(words: Words<'_>, statement: &Statement) -> Cond {
    let at = words.at(&statement.range);
    let comparator = text_of(words, statement, "comparator").map(|text| text.value.to_ascii_uppercase());
    let target = text_of(words, statement, "target").filter(|text| text.known().is_some());
    let others = statement
        .arguments
        .iter()
        .any(|argument| argument.name.as_ref().is_none_or(|(name, _)| name != "target" && name != "comparator"));
    match target.filter(|_| !others) {
        Some(target) => {
            let named = compared("CHANGE_TARGET", &target, comparator.as_deref().unwrap_or("EQUALS"));
            Cond::All(vec![asks("$CHANGE_ID".to_owned(), at), named])
        }
        None => Cond::All(vec![asks("$CHANGE_ID".to_owned(), at), Cond::Opaque(at)]),
    }
}

fn of_equals(words: Words<'_>, statement: &Statement) -> Cond {
    let at = words.at(&statement.range);
    let (Some(expected), Some(actual)) = (statement.argument("expected"), statement.argument("actual")) else {
        return Cond::Opaque(at);
    };
    let name = |value: &Value| match value {
        Value::Word(word, _) => word.strip_prefix("env.").map(str::to_owned),
        _ => None,
    };
    let text = |value: &Value| if matches!(value, Value::Text(_)) { words.value(value) } else { None };
    match (text(expected), name(actual), name(expected), text(actual)) {
        (Some(value), Some(name), ..) | (_, _, Some(name), Some(value)) => equals(&name, &value),
        _ => Cond::Opaque(at),
    }
}

fn changed(words: Words<'_>, statement: &Statement) -> Cond {
    let value = statement.argument("pattern").or_else(|| statement.first());
    let text = value.and_then(|value| words.value(value)).filter(|text| text.known().is_some());
    match text.filter(|_| text_of(words, statement, "comparator").is_none()) {
        Some(text) => Cond::Changed(vec![Pattern { text, syntax: PatternSyntax::Paths }]),
        None => Cond::Opaque(words.at(&statement.range)),
    }
}

/// The bytes of what stands inside a block, `return` left out.
pub(super) fn inside(words: Words<'_>, block: &Block) -> Range<usize> {
    let written = words.written(&block.range);
    let inner = written.strip_prefix('{').unwrap_or(written);
    let inner = inner.strip_suffix('}').unwrap_or(inner).trim();
    let inner = inner.strip_prefix("return ").unwrap_or(inner).trim().trim_end_matches(';').trim_end();
    let start = inner.as_ptr() as usize - words.text.as_ptr() as usize;
    start..start + inner.len()
}

/// A comparison of names of the environment with texts, in the words of conditions; whatever else stands there is not known.
fn expression(words: Words<'_>, block: &Block) -> Cond {
    let range = inside(words, block);
    let at = words.at(&range);
    match translated(words.written(&range)) {
        Some(written) => {
            let condition = Condition::new(Text::fixed(&written, at).filled_in_by(Language::Variables));
            if condition.error().is_some() { Cond::Opaque(at) } else { Cond::asks(condition) }
        }
        None => Cond::Opaque(at),
    }
}

/// `env.A == 'b' && params.C != "d"` as `$A == 'b' && $C != "d"`; nothing where more stands there.
fn translated(written: &str) -> Option<String> {
    let (tokens, _) = super::language::tokens(written);
    let mut found = String::new();
    let mut at = 0;
    let text = |index: usize| tokens.get(index).map_or("", |token| &written[token.range.clone()]);
    while at < tokens.len() {
        let token = text(at);
        match token {
            "\n" => {}
            "(" | ")" => found.push_str(token),
            "=" if text(at + 1) == "=" && text(at + 2) == "~" => {
                found.push_str(" =~ ");
                at += 2;
                let pattern = tokens.get(at + 1).and_then(|next| next.quoted())?;
                let inner = &written[pattern.inner];
                if inner.contains('$') {
                    return None;
                }
                let inner = if text(at + 1).starts_with('/') { inner.to_owned() } else { inner.replace('/', "\\/") };
                found.push_str(&format!("/^({inner})$/"));
                at += 1;
            }
            "=" | "!" | "&" | "|" => {
                let wanted = if matches!(token, "&" | "|") { token } else { "=" };
                if text(at + 1) != wanted {
                    return None;
                }
                found.push_str(&format!(" {token}{wanted} "));
                at += 1;
            }
            "env" | "params" if text(at + 1) == "." => {
                found.push('$');
                found.push_str(text(at + 2));
                at += 2;
                if matches!(text(at + 1), "." | "(" | "[") {
                    return None;
                }
            }
            "BRANCH_NAME" | "TAG_NAME" | "CHANGE_ID" | "CHANGE_TARGET" | "GIT_BRANCH"
                if !matches!(text(at + 1), "." | "(" | "[") =>
            {
                found.push('$');
                found.push_str(token);
            }
            quoted if quoted.starts_with(['\'', '"']) && !quoted.contains(['$', '\\']) && quoted.len() > 1 => {
                let inner = quoted.trim_matches(['\'', '"']);
                found.push_str(&format!("\"{inner}\""));
            }
            _ => return None,
        }
        at += 1;
    }
    (!found.trim().is_empty()).then_some(found)
}

#[cfg(test)]
mod tests {
    use super::{of_glob, translated};

    #[test]
    fn comparisons_are_translated_and_calls_are_not() {
        for (written, expected) in [
            ("env.BRANCH_NAME == 'main'", Some("$BRANCH_NAME == \"main\"")),
            ("BRANCH_NAME != \"main\" && (params.LIVE == 'yes')", Some("$BRANCH_NAME != \"main\" && ($LIVE == \"yes\")")),
            ("env.BRANCH_NAME ==~ /v.*/", Some("$BRANCH_NAME =~ /^(v.*)$/")),
            ("env.BRANCH_NAME = 'main'", None),
            ("env.BRANCH_NAME.startsWith('a')", None),
            ("currentBuild.result == null", None),
            ("!env.A", None),
            ("", None),
        ] {
            assert_eq!(translated(written).as_deref(), expected, "{written}");
        }
    }

    #[test]
    fn patterns_of_paths_stay_in_a_folder() {
        assert_eq!(of_glob("release/*"), "release\\/[^\\/]*");
        assert_eq!(of_glob("a.**"), "a\\..*");
    }
}
