//! What Dulk knows and computes. No disk, no git, no clock, no network and no printing: everything comes in as values.
//!
//! The way of the data: [`text`] → [`tree`] → [`model`] (by a reader in [`read`]) joined with [`facts`] → [`effects`] → [`trail`]
//! → [`rules`] → [`finding`]s.

pub mod accept;
pub mod effects;
pub mod expression;
pub mod facts;
pub mod finding;
pub mod form;
pub mod knowledge;
pub mod mask;
pub mod mend;
pub mod model;
pub mod pattern;
pub mod project;
pub mod read;
pub mod rehearsal;
pub mod rules;
pub mod shell;
pub mod text;
pub mod trail;
pub mod tree;
pub mod way;

pub use project::case;

use finding::{Finding, Findings};
use project::Project;

/// Checks one pipeline of a project with all rules that the settings leave on. The same values give the same findings, in the same
/// order.
pub fn check(project: &Project<'_>, index: usize) -> Vec<Finding> {
    let case = project.case(index);
    let mut all = Vec::new();
    for rule in rules::all() {
        if !case.prepared.whole && !rule.reads_broken_files() {
            continue;
        }
        let wanted = project.facts.settings.rules.get(rule.id);
        if wanted == Some(&None) {
            continue;
        }
        let mut out = Findings::new(rule.id, rule.severity);
        (rule.check)(&case, &mut out);
        let mut found = out.into_vec();
        if let Some(Some(severity)) = wanted {
            found.iter_mut().for_each(|finding| finding.severity = *severity);
        }
        all.extend(found);
    }
    accept::apply(&case.prepared.acceptances, &mut all, project.sources);
    finding::sort(&mut all);
    // Jobs that share a line share what is said of it.
    all.dedup_by(|later, first| (later.rule, later.at, &later.message) == (first.rule, first.at, &first.message));
    all
}

#[cfg(test)]
mod tests;
