//! What goes out of use, and when, as data.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::Date;

/// `catalog/upkeep.toml`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Upkeep {
    /// The day on which the versions and ends in the catalog were last looked at.
    pub looked_at: Date,
    /// Owners all of whose actions have tags that begin with a v.
    lettered_owners: Vec<String>,
    /// Machines that ended.
    pub runner: Vec<Runner>,
    /// Systems on which newer runtimes do not start.
    #[serde(default)]
    pub old_system: Vec<OldSystem>,
    /// Labels that exist.
    pub labels: Labels,
    /// Runtimes by name.
    pub runtime: BTreeMap<String, Runtime>,
}

impl Upkeep {
    /// Whether all tags of an action surely begin with a v.
    pub fn has_lettered_tags(&self, action: &str) -> bool {
        action.split('/').next().is_some_and(|owner| self.lettered_owners.iter().any(|known| known == owner))
    }
}

/// A machine that ended.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Runner {
    /// Its label.
    pub label: String,
    /// From this day on no job gets one.
    pub ended: Date,
    /// What to ask for instead.
    pub instead: String,
}

/// A system on which newer versions of a runtime do not start.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OldSystem {
    /// The label by which it is asked for.
    pub label: String,
    /// The runtime.
    pub tool: String,
    /// The first major version that does not start there.
    pub from: u32,
    /// What to ask for instead.
    pub instead: String,
}

/// Labels that exist.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Labels {
    /// Of the host's own machines.
    pub hosted: Vec<String>,
}

/// A runtime's versions.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Runtime {
    /// What to move to.
    pub newest: String,
    /// The last day of support by version.
    pub ends: BTreeMap<String, Date>,
}

impl Runtime {
    /// The entry of a version as people write it (`18`, `v18.2`, `18.x`, `lts/hydrogen` is none): the version and its last day.
    pub fn end_of(&self, written: &str) -> Option<(&str, Date)> {
        let version = written.trim().trim_start_matches('v');
        let parts: Vec<&str> = version.split('.').collect();
        let number = |part: &&str| !part.is_empty() && part.bytes().all(|byte| byte.is_ascii_digit());
        if !parts.first().is_some_and(number) || !parts.iter().all(|part| number(part) || matches!(*part, "x" | "*")) {
            return None;
        }
        (1..=parts.len()).rev().find_map(|length| {
            let (version, end) = self.ends.get_key_value(&parts[..length].join("."))?;
            Some((version.as_str(), *end))
        })
    }
}

#[cfg(test)]
mod tests {
    #[test]
    fn versions_are_found_as_people_write_them() {
        let node = &crate::knowledge::upkeep().runtime["node"];
        let python = &crate::knowledge::upkeep().runtime["python"];
        for (written, expected) in
            [("18", Some("18")), ("v18.2.0", Some("18")), ("18.x", Some("18")), ("lts/*", None), (">=18", None), ("99", None)]
        {
            assert_eq!(node.end_of(written).map(|(version, _)| version), expected, "{written}");
        }
        assert_eq!(python.end_of("3.8.1").map(|(version, _)| version), Some("3.8"));
        assert_eq!(python.end_of("3.x").map(|(version, _)| version), None);
    }
}
