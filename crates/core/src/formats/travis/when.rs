//! When something runs: the branches that are built, and conditions in both of the format's languages.

use super::jobs::Plan;
use crate::carrier::NodeId;
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{Cond, Condition, Filter, FilterOf, FilterSide, Language, Pattern, PatternSyntax, Text};
use crate::text::Place;

/// What a condition in words asks.
pub(super) fn asks(text: Text) -> Cond {
    Cond::asks(Condition::new(text.filled_in_by(Language::Phrases)))
}

/// The same for one that stands for something written otherwise.
pub(super) fn stands_for(words: &str, at: Place) -> Cond {
    asks(Text::fixed(words, at))
}

/// What stands under `if`: a text, or a yes or no.
pub(super) fn condition(keys: &Keys<'_>) -> Option<Cond> {
    keys.text("if").filter(|text| !text.value.trim().is_empty()).map(asks)
}

/// The filters of `branches`. They hold for the names of tags too, and for the branch that a pull request goes into.
/// Source: the page "Customizing the Build", building specific branches, 2026-11.
pub(super) fn filters(nodes: &Nodes<'_>, node: NodeId) -> Vec<Filter> {
    let keys = Keys::of(*nodes, node);
    // A list without more is what is built.
    let bare = Some(node).filter(|node| keys.iter().next().is_none() && !nodes.tree.is_null(*node));
    let only = keys.pair("only").filter(|(_, value)| !nodes.tree.is_null(*value));
    let except = keys.pair("except").filter(|(_, value)| !nodes.tree.is_null(*value));
    let (side, key, value) = match (only, except, bare) {
        // What is built goes before what is not.
        (Some((key, value)), ..) => (FilterSide::Include, nodes.text(key), value),
        (None, Some((key, value)), _) => (FilterSide::Exclude, nodes.text(key), value),
        (None, None, Some(value)) => (FilterSide::Include, None, value),
        (None, None, None) => return Vec::new(),
    };
    let key = key.unwrap_or_else(|| Text::fixed("branches", nodes.at(node)));
    let patterns: Vec<Pattern> = listed(nodes, value).into_iter().filter_map(|item| nodes.text(item)).map(pattern).collect();
    let filter = |of: FilterOf| Filter { of, side, key: key.clone(), patterns: patterns.clone() };
    vec![filter(FilterOf::Branches), filter(FilterOf::Tags)]
}

/// A name, or a regular expression between slashes.
fn pattern(text: Text) -> Pattern {
    let inside = text.value.strip_prefix('/').and_then(|rest| rest.rsplit_once('/'));
    match inside.filter(|(_, flags)| flags.bytes().all(|byte| byte.is_ascii_alphabetic())) {
        Some((expression, flags)) => {
            let syntax = PatternSyntax::Regex { any_case: flags.contains('i') };
            let inner = Text::fixed(&expression.replace("\\/", "/"), text.at);
            Pattern { text: inner, syntax }
        }
        None => Pattern { text, syntax: PatternSyntax::Exact },
    }
}

/// What a publish waits for: `on`, with its usual branch. It is left out for pull requests.
/// Source: the page "Conditional Releases with `on:`", 2026-11.
pub(super) fn of_publish(deploy: &Keys<'_>, plan: &Plan<'_>, at: Place) -> Cond {
    let nodes = deploy.nodes;
    let mut conds = vec![stands_for("type != pull_request", at)];
    let on = deploy.pair("on").or_else(|| deploy.pair("true"));
    let value = on.map(|(_, value)| value).filter(|value| !nodes.tree.is_null(*value));
    let keys = value.map(|value| Keys::of(nodes, value));
    let says = |name: &str, word: &str| keys.as_ref().is_some_and(|keys| keys.says(name, word));
    let tags = keys.as_ref().and_then(|keys| keys.text("tags"));
    if let Some(tags) = tags.as_ref().filter(|tags| tags.value == "true" || tags.value == "false") {
        let words = if tags.value == "true" { "tag IS present" } else { "tag IS blank" };
        conds.push(stands_for(words, tags.at));
    }
    // With tags, the branch is not looked at.
    if !says("all_branches", "true") && tags.is_none_or(|tags| tags.value != "true") {
        conds.push(branches(deploy, keys.as_ref(), value, at));
    }
    if let Some(condition) = keys.as_ref().and_then(|keys| keys.get("condition")) {
        let texts = listed(&nodes, condition).into_iter().filter_map(|item| nodes.text(item));
        conds.extend(texts.map(|text| Cond::asks(Condition::new(text.filled_in_by(Language::ShellTest)))));
    }
    conds.extend(keys.iter().flat_map(|keys| of_leg(keys, plan)));
    Cond::All(conds)
}

/// Keys under `on` that ask for one of the values which make jobs.
const LEGS: [(&str, &str); 9] = [
    ("node", "node_js"),
    ("node_js", "node_js"),
    ("python", "python"),
    ("ruby", "rvm"),
    ("rvm", "rvm"),
    ("go", "go"),
    ("php", "php"),
    ("jdk", "jdk"),
    ("os", "os"),
];

/// What a publish asks of the values that make jobs: it happens in one of several, or never where none of them is asked for.
fn of_leg(on: &Keys<'_>, plan: &Plan<'_>) -> Vec<Cond> {
    let nodes = on.nodes;
    let one = |(key, axis): &(&str, &str)| {
        let asked = on.text(key)?;
        let values = plan.get(axis).map(|node| nodes.words(node).0)?;
        let (has, several) = (values.iter().any(|value| value.value == asked.value), values.len() > 1 && !plan.from_item);
        match (has, several, values.first()) {
            (true, true, _) => Some(Cond::Opaque(asked.at)),
            (true, false, _) | (_, _, None) => None,
            (false, _, Some(first)) => Some(stands_for(&format!("\"{}\" = \"{}\"", first.value, asked.value), asked.at)),
        }
    };
    LEGS.iter().filter_map(one).collect()
}

/// The branches that a publish waits for: those that are named, the keys of values that differ by branch, or the usual one.
fn branches(deploy: &Keys<'_>, on: Option<&Keys<'_>>, value: Option<NodeId>, at: Place) -> Cond {
    let nodes = deploy.nodes;
    let named = on.and_then(|on| on.get("branch").or_else(|| on.get("branches")));
    // `on: main` and `on: [main, next]` name branches without more.
    let plain = value.filter(|value| nodes.text(*value).is_some() || !nodes.tree.items(*value).is_empty());
    let mut names: Vec<Text> = match named.or(plain) {
        Some(value) if nodes.tree.pairs(value).is_empty() => nodes.words(value).0,
        Some(value) => Keys::of(nodes, value).iter().filter_map(|(key, _)| nodes.text(key)).collect(),
        None => by_branch(deploy),
    };
    if names.is_empty() {
        names.push(Text::fixed(USUAL_BRANCH, at));
    }
    let one = |name: &Text| {
        let quoted = name.value.replace('"', "");
        let pattern = name.value.len() > 1 && name.value.starts_with('/') && name.value.ends_with('/');
        let words = if pattern { format!("branch =~ {}", name.value) } else { format!("branch = \"{quoted}\"") };
        stands_for(&words, name.inner())
    };
    match names.as_slice() {
        [only] => one(only),
        several => Cond::Any(several.iter().map(one).collect()),
    }
}

/// Source: the page "Conditional Releases with `on:`", `branch`, 2026-11.
const USUAL_BRANCH: &str = "master";

/// Keys of values that stand in the place of a text, such as `bucket: {main: quay, next: quay-next}`.
fn by_branch(deploy: &Keys<'_>) -> Vec<Text> {
    let nodes = deploy.nodes;
    let of_value = |(key, value): (NodeId, NodeId)| {
        let by_itself = nodes.tree.scalar(key).is_some_and(|key| !["on", "true", "env", "run"].contains(&key));
        let keys = Keys::of(nodes, value);
        (by_itself && keys.pair("secure").is_none()).then_some(keys)
    };
    let keys = deploy.iter().filter_map(of_value);
    let mut names: Vec<Text> = Vec::new();
    for name in keys.flat_map(|keys| keys.iter().filter_map(|(key, _)| nodes.text(key)).collect::<Vec<_>>()) {
        if names.iter().all(|known| known.value != name.value) {
            names.push(name);
        }
    }
    names
}
