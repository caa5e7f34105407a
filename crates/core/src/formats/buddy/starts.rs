//! What starts a pipeline: events with their refs, in the spellings of new and old files.
//!
//! After the page "YAML parameters", `on`, `events`, `refs` and `trigger_conditions`: refs are full names such as `refs/heads/main`, where a
//! star stands for anything; pull requests are refs too.

use crate::carrier::NodeId;
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{
    Cond, Condition, Event, Filter, FilterOf, FilterSide, Language, Pattern, PatternSyntax, Pipeline, StartsFrom, Text, Trigger,
};
use crate::text::Place;

/// The kinds of refs.
enum Ref {
    Branch(Pattern),
    Tag(Pattern),
    Proposal(Text),
    /// Everything: branches, tags and pull requests.
    All(Text),
}

/// Reads what starts a pipeline.
pub(super) fn read(pipeline: &mut Pipeline, keys: &Keys<'_>, at: Place) {
    let word = |key: &str| keys.text(key).map(|text| Text::fixed(&text.value.to_ascii_uppercase(), text.at));
    let on = word("on").or_else(|| word("true")).or_else(|| word("trigger_mode"));
    let mode = on.as_ref().map_or("", |text| text.value.as_str());
    let place = on.as_ref().map(|text| text.at);
    pipeline.starts_from = StartsFrom::Written;
    pipeline.triggers_at = keys.at("events").or_else(|| keys.at("on")).or_else(|| keys.at("trigger_mode"));
    for event in keys.get("events").map(|node| listed(&keys.nodes, node)).unwrap_or_default() {
        of_event(pipeline, &Keys::of(keys.nodes, event));
    }
    match mode {
        "EVENT" | "ON_EVERY_PUSH" => of_refs(pipeline, own_refs(keys), place.unwrap_or(at)),
        "SCHEDULE" | "SCHEDULED" => pipeline.triggers.push(clock(keys, place.unwrap_or(at))),
        "" if keys.get("refs").is_some() && keys.get("events").is_none() => of_refs(pipeline, own_refs(keys), at),
        _ => {}
    }
    // Whatever starts it, a click starts it too.
    let click = place.unwrap_or(at);
    pipeline.triggers.push(Trigger::plain(Event::Hand, Text::fixed("click", click)));
}

/// One of the events of a newer file.
fn of_event(pipeline: &mut Pipeline, event: &Keys<'_>) {
    let Some(kind) = event.text("type") else { return };
    let refs = event.get("refs").map(|node| refs(&event.nodes, node)).unwrap_or_default();
    match kind.value.to_ascii_uppercase().as_str() {
        "PUSH" => of_refs(pipeline, refs, kind.at),
        // Of branches that are there already, nothing is made.
        "CREATE_REF" => of_refs(pipeline, refs.into_iter().filter(|one| matches!(one, Ref::Tag(_))).collect(), kind.at),
        "PULL_REQUEST" => {
            let branches = event.get("branches").map(|node| names(&event.nodes, node)).unwrap_or_default();
            pipeline.triggers.push(proposal(&kind, filter(FilterOf::Branches, branches)));
        }
        "SCHEDULE" => pipeline.triggers.push(clock(event, kind.at)),
        other => {
            let event = Event::Other(other.to_owned());
            pipeline.triggers.push(Trigger::plain(event, kind));
        }
    }
}

/// The refs of the pipeline itself, in whichever spelling.
fn own_refs(keys: &Keys<'_>) -> Vec<Ref> {
    if let Some(node) = keys.get("refs") {
        return refs(&keys.nodes, node);
    }
    let Some(name) = keys.text("ref_name").or_else(|| keys.text("branch")) else { return Vec::new() };
    let kind = keys.text("ref_type").map(|text| text.value.to_ascii_uppercase()).unwrap_or_default();
    vec![match kind.as_str() {
        "TAG" => Ref::Tag(pattern(name)),
        "PULL_REQUEST" => Ref::Proposal(name),
        _ => Ref::Branch(pattern(name)),
    }]
}

fn refs(nodes: &Nodes<'_>, node: NodeId) -> Vec<Ref> {
    nodes.words(node).0.into_iter().map(one).collect()
}

fn names(nodes: &Nodes<'_>, node: NodeId) -> Vec<Pattern> {
    nodes.words(node).0.into_iter().map(pattern).collect()
}

/// `refs/heads/main`, or a branch by its short name.
fn one(text: Text) -> Ref {
    let rest = |start: &str| {
        let rest = text.value.strip_prefix(start)?;
        let from = text.value.len() - rest.len();
        Some(Text::fixed(rest, text.place(from..text.value.len())))
    };
    if let Some(name) = rest("refs/heads/") {
        return Ref::Branch(pattern(name));
    }
    if let Some(name) = rest("refs/tags/") {
        return Ref::Tag(pattern(name));
    }
    if text.value.starts_with("refs/pull/") || text.value.starts_with("refs/merge-requests/") {
        return Ref::Proposal(text);
    }
    if matches!(text.value.as_str(), "refs/*" | "*") {
        return Ref::All(text);
    }
    Ref::Branch(pattern(text))
}

/// A name, in which a star stands for anything, slashes too.
fn pattern(text: Text) -> Pattern {
    match text.value.contains('*') {
        true => Pattern { text: Text::fixed(&text.value.replace('*', "**"), text.at), syntax: PatternSyntax::Glob },
        false => Pattern { text, syntax: PatternSyntax::Exact },
    }
}

/// Triggers for refs: one for what is pushed, one for pull requests.
fn of_refs(pipeline: &mut Pipeline, refs: Vec<Ref>, at: Place) {
    let (mut branches, mut tags) = (Vec::new(), Vec::new());
    let mut proposals = None;
    for one in refs {
        match one {
            Ref::Branch(pattern) => branches.push(pattern),
            Ref::Tag(pattern) => tags.push(pattern),
            Ref::Proposal(text) => proposals = Some(text),
            Ref::All(text) => {
                branches.push(pattern(Text::fixed("*", text.at)));
                tags.push(pattern(Text::fixed("*", text.at)));
                proposals = Some(text);
            }
        }
    }
    let name = Text::fixed("push", at);
    let filters: Vec<Filter> =
        [(FilterOf::Branches, branches), (FilterOf::Tags, tags)].into_iter().flat_map(|(of, list)| filter(of, list)).collect();
    if !filters.is_empty() {
        pipeline.triggers.push(Trigger { filters, ..Trigger::plain(Event::Push, name) });
    }
    pipeline.triggers.extend(proposals.map(|text| proposal(&Text::fixed("pull request", text.at), None)));
}

fn filter(of: FilterOf, patterns: Vec<Pattern>) -> Option<Filter> {
    let key = Text::fixed("refs", patterns.first()?.text.at);
    Some(Filter { of, side: FilterSide::Include, key, patterns })
}

fn proposal(name: &Text, filter: Option<Filter>) -> Trigger {
    Trigger { filters: filter.into_iter().collect(), ..Trigger::plain(Event::Proposal, Text::fixed("pull request", name.at)) }
}

fn clock(keys: &Keys<'_>, at: Place) -> Trigger {
    let times = keys.text("cron").into_iter().collect();
    Trigger { times, ..Trigger::plain(Event::Clock, Text::fixed("schedule", at)) }
}

/// The conditions of a pipeline or an action, all of which must hold.
pub(super) fn conditions(keys: &Keys<'_>) -> Vec<Cond> {
    let nodes = keys.nodes;
    let listed_conditions = keys.get("trigger_conditions").map(|node| listed(&nodes, node)).unwrap_or_default();
    let mut found: Vec<Cond> =
        listed_conditions.into_iter().filter_map(|item| condition(&Keys::of(nodes, item), nodes.at(item))).collect();
    if let Some((key, _)) = keys.pair("trigger_condition") {
        found.extend(condition(keys, nodes.at(key)));
    }
    found
}

fn condition(keys: &Keys<'_>, at: Place) -> Option<Cond> {
    let kind = keys.text("trigger_condition")?;
    let variable = keys.text("trigger_variable_key");
    let value = keys.text("trigger_variable_value");
    let compares = |operator: &str| {
        let (name, value) = (variable.as_ref()?, value.as_ref()?);
        let written = match operator {
            "==" | "!=" => format!("${} {operator} \"{}\"", name.value, value.value.replace('"', "")),
            _ => format!("${} {operator} /{}/", name.value, regex_syntax::escape(&value.value).replace('/', "\\/")),
        };
        let text = Text::fixed(&written, value.inner()).filled_in_by(Language::Variables);
        Some(Cond::asks(Condition::new(text)))
    };
    Some(match kind.value.to_ascii_uppercase().as_str() {
        "ALWAYS" => return None,
        "VAR_IS" => compares("==").unwrap_or(Cond::Opaque(at)),
        "VAR_IS_NOT" => compares("!=").unwrap_or(Cond::Opaque(at)),
        "VAR_CONTAINS" => compares("=~").unwrap_or(Cond::Opaque(at)),
        "VAR_NOT_CONTAINS" => compares("!~").unwrap_or(Cond::Opaque(at)),
        "ON_CHANGE_AT_PATH" => match keys.get("trigger_condition_paths").map(|node| keys.nodes.words(node).0) {
            Some(paths) if !paths.is_empty() => Cond::Changed(paths.iter().flat_map(path_patterns).collect()),
            _ => Cond::Opaque(at),
        },
        _ => Cond::Opaque(at),
    })
}

/// A path stands for a file, and for all that lies in a folder of that name.
fn path_patterns(text: &Text) -> Vec<Pattern> {
    let path = text.value.trim_matches('/');
    let pattern = |path: String| Pattern { text: Text::fixed(&path, text.inner()), syntax: PatternSyntax::Paths };
    let file = Some(path.to_owned()).filter(|path| !path.is_empty());
    let inside = if path.is_empty() { "**".to_owned() } else { format!("{path}/**") };
    file.into_iter().chain([inside]).map(pattern).collect()
}
