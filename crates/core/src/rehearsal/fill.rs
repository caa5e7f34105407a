//! What a run knows of itself: the values of the catalog, with what is known of the event filled in.

use super::Value;
use super::job::Scene;
use crate::model::{Event, Job, Trigger};

/// The value that stands in the catalog, as the heads of its files explain.
pub(super) fn fill(scene: &Scene<'_>, written: &str, job: Option<&Job>) -> Value {
    let special = written.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')).and_then(|rest| rest.split_once('|'));
    if let Some((word, rest)) = special {
        return shaped(scene, word, rest);
    }
    if let Some(value) = of_followed(scene, written) {
        return value;
    }
    let text = |part: Option<&str>, hole: &str| match part {
        Some(part) => Value::Text(written.replace(hole, part)),
        None => written.split_once(hole).map_or(Value::Unknown, |(before, after)| framed(before, after)),
    };
    let name = scene.occasion.name.as_deref();
    if let ("{tag}", None, Some(branches)) = (written, name, scene.facts.git.branches.known()) {
        // A tag bears no branch's name.
        return Value::NoneOf(std::iter::once(String::new()).chain(branches.iter().cloned()).collect());
    }
    let slug = |name: Option<&str>| name.map_or(Value::Unknown, |name| Value::Text(slug(name)));
    // Where everything that is read is a variable, every value is a text.
    let boolean = |value: bool| match scene.pipeline.customs.reads_variables {
        true => Value::Text(value.to_string()),
        false => Value::Bool(value),
    };
    let holes = [
        ("{branch}", name),
        ("{tag}", name),
        ("{default}", scene.facts.git.default_branch.known().map(String::as_str)),
        ("{head}", scene.occasion.head.as_deref()),
        ("{title}", scene.pipeline.name.as_ref().and_then(|name| name.known())),
        ("{job}", job.map(|job| job.id.value.as_str())),
    ];
    if let Some((hole, part)) = holes.into_iter().find(|(hole, _)| written.contains(hole)) {
        return text(part, hole);
    }
    match written {
        "true" => boolean(true),
        "false" => boolean(false),
        "{slug}" => slug(name),
        "{slug of head}" => slug(scene.occasion.head.as_deref()),
        "object" => Value::Object,
        "{cron}" => times(scene),
        other => Value::Text(other.to_owned()),
    }
}

/// What is known of a text with an unknown name in it.
fn framed(before: &str, after: &str) -> Value {
    match (before, after) {
        // A name is never empty.
        ("", "") => Value::NoneOf(vec![String::new()]),
        _ => Value::Framed(before.to_owned(), after.to_owned()),
    }
}

/// What a run that follows another one knows of that.
fn of_followed(scene: &Scene<'_>, written: &str) -> Option<Value> {
    let followed = scene.occasion.followed.as_ref();
    let text = |text: Option<&String>| text.map_or(Value::Unknown, |text| Value::Text(text.clone()));
    Some(match (written, followed) {
        ("{followed event}" | "{followed branch}" | "{followed end}" | "{followed repository}", None) => Value::Unknown,
        ("{followed event}", Some(followed)) => text(followed.event.as_ref()),
        ("{followed branch}", Some(followed)) => text(followed.branch.as_ref()),
        ("{followed end}", Some(followed)) => followed.end.as_ref().map_or(Value::Null, |end| Value::Text(end.clone())),
        ("{followed repository}", Some(followed)) if followed.fork => Value::OtherName("repository".into()),
        ("{followed repository}", Some(_)) => Value::Name("repository".into()),
        _ => return None,
    })
}

/// A name in small letters and digits with `-` between them, of at most 63 characters.
/// Source: the format's page "Predefined CI/CD variables", `CI_COMMIT_REF_SLUG`.
fn slug(name: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' };
    let cut: String = name.chars().map(plain).take(63).collect();
    cut.trim_matches('-').to_owned()
}

fn shaped(scene: &Scene<'_>, word: &str, rest: &str) -> Value {
    let words = |list: &str| list.split(',').map(str::to_owned).collect();
    let trigger = scene.started_by();
    match word {
        "event" => Value::Text(trigger.map_or(rest, |trigger| trigger.name.value.as_str()).to_owned()),
        "none of" => Value::NoneOf(words(rest)),
        "name" => Value::Name(rest.to_owned()),
        "other name" => Value::OtherName(rest.to_owned()),
        // What a merged one runs on is another thing.
        "numbered" if kinds(trigger).any(|kind| kind == "closed") => Value::Unknown,
        "numbered" => {
            let (before, after) = rest.split_once('|').unwrap_or((rest, ""));
            Value::Numbered(before.to_owned(), after.to_owned())
        }
        "kinds" => match trigger {
            Some(trigger) if !trigger.types.is_empty() => {
                let kinds: Option<Vec<String>> = trigger.types.iter().map(|kind| kind.known().map(str::to_owned)).collect();
                kinds.map_or(Value::Unknown, Value::OneOf)
            }
            _ => Value::OneOf(words(rest)),
        },
        // Only while no kind counts that changes it.
        _ => {
            let changed = trigger.is_none() || kinds(trigger).any(|kind| kind == word);
            if changed { Value::Unknown } else { Value::Bool(rest == "true") }
        }
    }
}

/// The kinds that a trigger names, as they are written.
fn kinds(trigger: Option<&Trigger>) -> impl Iterator<Item = &str> {
    trigger.into_iter().flat_map(|trigger| &trigger.types).map(|kind| kind.value.as_str())
}

/// The times of the clock: the one that has come is one of them.
fn times(scene: &Scene<'_>) -> Value {
    let clocks = scene.pipeline.triggers.iter().filter(|trigger| trigger.event == Event::Clock);
    let times: Option<Vec<String>> =
        clocks.flat_map(|trigger| &trigger.times).map(|time| time.known().map(str::to_owned)).collect();
    times.filter(|times| !times.is_empty()).map_or(Value::Unknown, Value::OneOf)
}
