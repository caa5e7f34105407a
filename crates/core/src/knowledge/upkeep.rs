//! What goes out of use, and when, as data.

use super::{Date, List, Table, Word};

/// `catalog/upkeep.toml`.
#[derive(Debug)]
pub struct Upkeep {
    /// The day on which the versions and ends in the catalog were last looked at.
    pub looked_at: Date,
    /// Owners all of whose actions have tags that begin with a v.
    pub(super) lettered_owners: List<Word>,
    /// Machines that ended.
    pub runner: List<Runner>,
    /// Systems on which newer runtimes do not start.
    pub old_system: List<OldSystem>,
    /// Labels that exist.
    pub labels: Labels,
    /// Runtimes by name.
    pub runtime: Table<Runtime>,
}

impl Upkeep {
    /// Whether all tags of an action surely begin with a v.
    pub fn has_lettered_tags(&self, action: &str) -> bool {
        action.split('/').next().is_some_and(|owner| self.lettered_owners.contains(&owner))
    }
}

/// A machine that ended.
#[derive(Debug)]
pub struct Runner {
    /// Its label.
    pub label: Word,
    /// From this day on no job gets one.
    pub ended: Date,
    /// What to ask for instead.
    pub instead: Word,
}

/// A system on which newer versions of a runtime do not start.
#[derive(Debug)]
pub struct OldSystem {
    /// The label by which it is asked for.
    pub label: Word,
    /// The runtime.
    pub tool: Word,
    /// The first major version that does not start there.
    pub from: u32,
    /// What to ask for instead.
    pub instead: Word,
}

/// Labels that exist.
#[derive(Debug)]
pub struct Labels {
    /// Of the host's own machines.
    pub hosted: List<Word>,
}

/// A runtime's versions.
#[derive(Debug)]
pub struct Runtime {
    /// What to move to.
    pub newest: Word,
    /// The last day of support by version.
    pub ends: Table<Date>,
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
            let (version, end) = self.ends.entry(&parts[..length].join("."))?;
            Some((*version, *end))
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
