//! What Dulk knows and computes. No disk, no git, no clock, no network and no printing: everything comes in as values.
//!
//! The way of the data: [`text`] → [`carrier`] → [`model`] (by a reader in [`formats`]) joined with [`facts`] → [`effects`] → [`trail`]
//! → [`rules`] → [`finding`]s.

pub mod accept;
pub mod carrier;
pub mod cursor;
pub mod draft;
pub mod effects;
pub mod expression;
pub mod facts;
pub mod finding;
pub mod form;
pub mod formats;
pub mod knowledge;
pub mod mask;
pub mod mend;
pub mod model;
pub mod pattern;
pub mod pen;
pub mod project;
pub mod rehearsal;
pub mod rules;
pub mod shell;
pub mod shown;
pub mod text;
pub mod trail;
pub mod views;

pub use project::case;

use std::collections::BTreeMap;

use finding::{Finding, Mend, WitnessSource};
use model::StartsFrom;
use project::Project;
use text::FileId;

/// Checks one pipeline of a project with all rules that the settings leave on. The same values give the same findings, in the same
/// order.
pub fn check(project: &Project<'_>, index: usize) -> Vec<Finding> {
    check_with(project, index, |rules, run| Some(rules.iter().flat_map(|rule| run(rule)).collect())).unwrap_or_default()
}

/// The same, where `run_all` runs the rules: each of them, in any order and by any threads, with what they find in the order of the rules.
/// It may give up, which gives nothing.
pub fn check_with(
    project: &Project<'_>,
    index: usize,
    run_all: impl FnOnce(&[&'static rules::Rule], &(dyn Fn(&rules::Rule) -> Vec<Finding> + Sync)) -> Option<Vec<Finding>>,
) -> Option<Vec<Finding>> {
    let case = project.case(index);
    let of_broken: Vec<_>;
    let rules = if case.prepared.whole {
        rules::listed()
    } else {
        of_broken = rules::all().filter(|rule| rule.reads_broken_files()).collect();
        &of_broken
    };
    let mut all = run_all(rules, &|rule| run(rule, &case))?;
    all.extend(across_calls(project, index, rules::all(), &all));
    project.accept(&mut all);
    finding::sort(&mut all);
    // Jobs that share a line share what is said of it.
    all.dedup_by(|later, first| (later.rule, later.at, &later.message) == (first.rule, first.at, &first.message));
    Some(all)
}

/// What a rule finds, as the settings want it told.
fn run(rule: &rules::Rule, case: &case::Case<'_>) -> Vec<Finding> {
    let wanted = case.facts.settings.rules.get(rule.id);
    if wanted == Some(&None) {
        return Vec::new();
    }
    let mut found = rules::run(rule, case);
    if found.is_empty() {
        return found;
    }
    leave_declared_starts(case, &mut found);
    if let Some(Some(severity)) = wanted {
        found.iter_mut().for_each(|finding| finding.severity = *severity);
    }
    found
}

/// What dulk.toml says of the starts is kept elsewhere: another word in it would mend nothing.
fn leave_declared_starts(case: &case::Case<'_>, found: &mut [Finding]) {
    let StartsFrom::Declared(at) = case.pipeline.starts_from else { return };
    for finding in found.iter_mut().filter(|finding| finding.mend.edits.iter().any(|edit| edit.at.file == at.file)) {
        finding.mend = Mend::by_hand("change it where the forge keeps what starts this, and say so in dulk.toml");
    }
}

/// What is wrong only when the jobs of called pipelines stand in their caller's place.
pub(crate) fn across_calls<'r>(
    project: &Project<'_>,
    index: usize,
    rules: impl Iterator<Item = &'r rules::Rule>,
    known: &[Finding],
) -> Vec<Finding> {
    let Some(opened) = project.opened(index).filter(|opened| opened[0].whole) else { return Vec::new() };
    let opened = Project::new(&opened, project.facts, project.sources, project.today);
    let case = opened.case(0);
    let mut all = Vec::new();
    for rule in rules.filter(|rule| rule.looks_across_calls()) {
        for finding in run(rule, &case) {
            let told = known.iter().chain(&all).any(|one: &Finding| (one.rule, one.at) == (finding.rule, finding.at));
            if !told {
                all.push(finding);
            }
        }
    }
    all
}

/// Puts the findings of all pipelines, each in the list of its number, to the files that they stand in: what is wrong inside an action
/// of the repository is told once, with that action, however many pipelines run it.
pub fn settle(project: &Project<'_>, lists: &mut [Vec<Finding>]) {
    // Of several pipelines in a file, the first holds what is found there.
    let homes: BTreeMap<FileId, usize> =
        project.prepared.iter().enumerate().rev().map(|(index, one)| (one.pipeline.file, index)).collect();
    let mut moved: Vec<(usize, Finding)> = Vec::new();
    for (index, list) in lists.iter_mut().enumerate() {
        let own = project.prepared[index].pipeline.file;
        let abroad = |finding: &mut Finding| finding.at.file != own && homes.contains_key(&finding.at.file);
        for mut finding in list.extract_if(.., abroad) {
            if let Some(place) = project.runs(index, finding.at.file) {
                finding.witness(WitnessSource::At(place), "it is run from here");
            }
            moved.push((homes[&finding.at.file], finding));
        }
    }
    for (home, finding) in moved {
        let list = &mut lists[home];
        if !list.iter().any(|known| (known.rule, known.at) == (finding.rule, finding.at)) {
            list.push(finding);
            finding::sort(list);
        }
    }
}

#[cfg(test)]
mod tests;
