//! Secrets: the build fetches them, and a step gets those that it asks for.
//!
//! After the page "Use secrets from Secret Manager" and "REST Resource: projects.builds", secrets, 2026-11.

use crate::formats::keys::{Keys, listed};
use crate::model::{Text, Variables};

/// The names of all that the build fetches.
pub(super) fn fetched(top: &Keys<'_>) -> Vec<Text> {
    let nodes = top.nodes;
    let items = |keys: &Keys<'_>, name: &str| {
        let list = keys.get(name).map(|node| listed(&nodes, node)).unwrap_or_default();
        list.into_iter().map(|node| Keys::of(nodes, node)).collect::<Vec<_>>()
    };
    let names = |keys: &Keys<'_>, name: &str| {
        let pairs: Vec<_> = keys.get(name).map(|node| Keys::of(nodes, node).iter().collect()).unwrap_or_default();
        pairs.into_iter().filter_map(|(key, _)| nodes.text(key)).collect::<Vec<_>>()
    };
    let mut found = Vec::new();
    if let Some(safes) = top.get("availableSecrets").map(|node| Keys::of(nodes, node)) {
        found.extend(items(&safes, "secretManager").iter().filter_map(|one| one.text("env")));
        found.extend(items(&safes, "inline").iter().flat_map(|one| names(one, "envMap")));
    }
    found.extend(items(top, "secrets").iter().flat_map(|one| names(one, "secretEnv")));
    found
}

/// The names that a step asks for, or all steps do.
pub(super) fn names(keys: &Keys<'_>) -> Vec<Text> {
    keys.get("secretEnv").map(|node| keys.nodes.words(node).0).unwrap_or_default()
}

/// Adds those as variables.
pub(super) fn hand(keys: &Keys<'_>, variables: &mut Variables) {
    names(keys).into_iter().for_each(|name| variables.hand(name));
}

/// Whether variables hold a name, upper and lower case minded.
pub(super) fn holds(variables: &Variables, name: &str) -> bool {
    variables.entries.iter().any(|(known, _)| known.value == name)
}
