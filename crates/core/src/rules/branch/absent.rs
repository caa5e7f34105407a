//! A branch filter that waits for branches the repository does not have.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::nearest;
use crate::model::{Event, Filter, FilterOf, FilterSide, Pattern, Trigger};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "branch.absent",
    severity: Severity::Error,
    title: "The pipeline waits for a branch that does not exist",
    why: "A branch filter that fits no branch is never true: nothing is built, nothing turns red, and the site stays as it was on the day \
          the branch was renamed.",
    needs: &[Need::Branches],
    bad: &[
        "== git\nmain default\nwinter-plan\n== pipeline\non:\n  push:\n    branches: [«master»]\njobs: {}\n",
        "== git\ntrunk default\n== pipeline\non:\n  pull_request:\n    branches:\n      - '«main»'\njobs: {}\n",
        "== git\nmain default\nstaging\n== pipeline\non:\n  push:\n    branches: [main, «stagin»]\njobs: {}\n",
    ],
    good: &[
        "== git\nmain default\n== pipeline\non:\n  push:\n    branches: [main, master]\njobs: {}\n",
        // A pattern may fit branches that come and go.
        "== git\nmain default\n== pipeline\non:\n  push:\n    branches: ['release/**']\njobs: {}\n",
        "== git\nmain default\n== pipeline\non:\n  push:\n    branches-ignore: [master]\n    tags: [v1]\njobs: {}\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(branches) = case.facts.git.branches.known().filter(|branches| !branches.is_empty()) else { return };
    for trigger in &case.pipeline.triggers {
        if !matches!(trigger.event, Event::Push | Event::Proposal | Event::PrivilegedProposal) {
            continue;
        }
        let Some(filter) = trigger.filter(FilterOf::Branches, FilterSide::Include) else { continue };
        // Other rules of this family know better what is wrong with these.
        if filter.patterns.iter().any(|pattern| {
            let name = pattern.literal().unwrap_or_default();
            super::never_matches::oddity(pattern).is_some()
                || super::wrong_case::other_case(filter, name, branches).is_some()
                || case.facts.git.elsewhere.iter().any(|(_, branch)| branch == name)
        }) {
            continue;
        }
        let exists = |name: &str| branches.iter().any(|branch| branch == name);
        if filter.patterns.iter().all(|pattern| pattern.literal().is_some_and(|name| !exists(name))) {
            never_starts(case, trigger, filter, branches, out);
        } else {
            slips(filter, branches, out);
        }
    }
}

/// Every pattern is a name, and no branch has one of them.
fn never_starts(case: &Case<'_>, trigger: &Trigger, filter: &Filter, branches: &[String], out: &mut Findings) {
    let Some(first) = filter.patterns.first() else { return };
    let default = case.facts.git.default_branch.known().filter(|name| branches.contains(name));
    let event = if trigger.event == Event::Push { "push to" } else { "pull request into" };
    let message = match default {
        Some(name) => format!("a {event} {name} never starts this pipeline"),
        None => format!("no {event} a branch of this repository ever starts this pipeline"),
    };
    let finding = out.add(first.text.inner(), message);
    finding.witness(WitnessSource::Git, branches_here(branches));
    finding.mend(match (default, filter.patterns.as_slice()) {
        (Some(name), [only]) => Mend::certain(format!("write {name}"), [replace(only, name)]),
        (Some(name), _) => Mend::likely(format!("write {name}"), [replace(first, name)]),
        (None, patterns) => match (usual_branch(branches), patterns) {
            (Some(name), [only]) => Mend::likely(format!("write {name}, or the branch that the site is published from"), [replace(only, name)]),
            _ => Mend::by_hand("write the branch that the site is published from"),
        },
    });
}

/// The one branch that is named as default branches mostly are.
fn usual_branch(branches: &[String]) -> Option<&str> {
    let mut usual = branches.iter().filter(|name| matches!(name.as_str(), "main" | "master" | "trunk"));
    usual.next().filter(|_| usual.next().is_none()).map(String::as_str)
}

/// Some patterns fit; a name that is one slip away from a branch nobody else names is still a fault.
fn slips(filter: &Filter, branches: &[String], out: &mut Findings) {
    let named = |branch: &str| filter.patterns.iter().any(|pattern| pattern.literal() == Some(branch));
    for pattern in &filter.patterns {
        let Some(name) = pattern.literal().filter(|name| !branches.iter().any(|branch| branch == name)) else { continue };
        let Some(meant) = nearest(name, branches.iter().map(String::as_str)).filter(|branch| !named(branch)) else { continue };
        out.add(pattern.text.inner(), format!("`{name}` is no branch, so a push to {meant} does not start this pipeline"))
            .witness(WitnessSource::Git, branches_here(branches))
            .mend(Mend::likely(format!("write {meant}"), [replace(pattern, meant)]));
    }
}

fn branches_here(branches: &[String]) -> String {
    match branches {
        [only] => format!("the only branch here is {only}"),
        _ => format!("the branches here are {}", listed_short(branches)),
    }
}

fn replace(pattern: &Pattern, name: &str) -> Edit {
    Edit::replace(pattern.text.inner(), name)
}
