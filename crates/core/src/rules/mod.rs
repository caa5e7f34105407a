//! The rules: one file each, folder = family, file = name.

pub mod pages;
pub(crate) mod slip;
mod words;

pub mod artifact;
pub mod branch;
pub mod cache;
pub mod form;
pub mod order;
pub mod permission;
pub mod secret;
pub mod site;
pub mod trigger;
pub mod upkeep;

pub use slip::{Section, Slip};

use std::sync::LazyLock;

use crate::case::Case;
use crate::finding::{Finding, Findings, Severity};

/// All there is to know of a rule. The list, its page, the settings and the tests read this value.
pub struct Rule {
    /// `family.name`
    pub id: &'static str,
    /// Unless a finding or the user says otherwise.
    pub severity: Severity,
    /// What is wrong, in one line.
    pub title: &'static str,
    /// What happens to the site, and why.
    pub why: &'static str,
    /// Facts without which it is silent.
    pub needs: &'static [Need],
    /// Examples in which it speaks, as slips (see [`Slip`]).
    pub bad: &'static [&'static str],
    /// Examples in which it is silent.
    pub good: &'static [&'static str],
    /// The rule itself.
    pub check: fn(&Case<'_>, &mut Findings),
}

impl Rule {
    /// The part before the point.
    pub fn family(&self) -> &'static str {
        self.id.split_once('.').map_or(self.id, |(family, _)| family)
    }

    /// It looks at what jobs make and hand on, which goes on through calls of other pipelines.
    pub fn looks_across_calls(&self) -> bool {
        const RULES: [&str; 5] = [
            "order.unordered-use",
            "order.publishes-after-failure",
            "order.untested",
            "trigger.blind-path",
            "trigger.never-reached",
        ];
        self.family() == "artifact" || RULES.contains(&self.id)
    }

    /// What it finds is a danger, and keeps no site from going online.
    pub fn lets_site_through(&self) -> bool {
        const RULES: [&str; 11] = [
            "trigger.publishes-proposals",
            "trigger.runs-strangers-code",
            "trigger.strangers-text",
            "order.late-approval",
            "order.publishes-after-failure",
            "order.repeated-publish",
            "order.same-target",
            "secret.plain",
            "secret.dumped",
            "cache.strangers",
            "artifact.contains-secret",
        ];
        RULES.contains(&self.id)
    }

    /// It speaks of the text alone, so that it may also speak of a file that cannot be read to its end.
    pub fn reads_broken_files(&self) -> bool {
        form::OF_BROKEN_FILES.contains(&self.id)
    }
}

/// A fact that a rule needs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Need {
    /// The branches that exist.
    Branches,
    /// The files that git tracks.
    Files,
    /// A readable package.json.
    Package,
    /// The names of secrets, declared in dulk.toml.
    Secrets,
}

impl Need {
    /// In words, as the end of "needs to know …".
    pub fn words(self) -> &'static str {
        match self {
            Self::Branches => "which branches exist (git, with all branches fetched)",
            Self::Files => "which files the repository holds",
            Self::Package => "what package.json says",
            Self::Secrets => "the names of the secrets (forge.secrets in dulk.toml)",
        }
    }
}

/// Lists the rules of a family in the order in which people work. Their modules are declared by plain `mod` lines, as the formatter
/// does not look into macros.
macro_rules! family {
    ($($name:ident),* $(,)?) => {
        /// The rules of this family.
        pub const RULES: &[&crate::rules::Rule] = &[$(&$name::RULE),*];

        #[cfg(test)]
        #[test]
        fn ids_are_folder_and_file() {
            let folder = module_path!().rsplit("::").next().unwrap_or_default();
            $(assert_eq!($name::RULE.id, format!("{folder}.{}", stringify!($name).trim_start_matches("r#").replace('_', "-")));)*
        }
    };
}
pub(crate) use family;

/// The families in the order in which people work.
pub const FAMILIES: [&str; 10] =
    ["form", "trigger", "branch", "order", "permission", "secret", "cache", "artifact", "site", "upkeep"];

/// All rules, family by family.
pub fn all() -> impl Iterator<Item = &'static Rule> {
    listed().iter().copied()
}

/// The same as one list.
pub(crate) fn listed() -> &'static [&'static Rule] {
    static ALL: LazyLock<Vec<&'static Rule>> = LazyLock::new(|| {
        let families = [
            form::RULES,
            trigger::RULES,
            branch::RULES,
            order::RULES,
            permission::RULES,
            secret::RULES,
            cache::RULES,
            artifact::RULES,
            site::RULES,
            upkeep::RULES,
        ];
        families.concat()
    });
    &ALL
}

/// What one rule says of one pipeline, with no regard to settings and acceptances.
pub fn run(rule: &Rule, case: &Case<'_>) -> Vec<Finding> {
    let mut out = Findings::new(rule.id, rule.severity);
    (rule.check)(case, &mut out);
    out.into_vec()
}

/// The rule of an id.
pub fn find(id: &str) -> Option<&'static Rule> {
    all().find(|rule| rule.id == id)
}

#[cfg(test)]
mod ratchets;
#[cfg(test)]
mod tests;
