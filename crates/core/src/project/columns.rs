//! The columns of the grid: of all events, those that a person can take in at once.

use super::Project;
use crate::rehearsal::{Answer, OTHER_TAG, Occasion, OccasionKind};

/// More branches, or tags, than this make no grid that a person reads.
const LIMIT: usize = 4;

/// One column for each event that some pipeline names; branches that start the same jobs need one between them.
pub fn columns(project: &Project<'_>) -> Vec<Occasion> {
    let mut all: Vec<Occasion> = Vec::new();
    let mut seen = std::collections::HashSet::new();
    for index in 0..project.prepared.len() {
        for (occasion, _) in project.played(index).filter(|_| project.leads(index)) {
            if seen.insert(occasion.clone()) {
                all.push(occasion.clone());
            }
        }
    }
    let default = project.facts.git.default_branch.known();
    let existing = project.facts.git.branches.known();
    // The default branch comes first, then the others that exist, then those that are only named.
    let rank = |name: &String| match (default == Some(name), existing.is_some_and(|known| known.contains(name))) {
        (true, _) => 0,
        (_, true) => 1,
        _ => 2 + u8::from(name == crate::rehearsal::OTHER_BRANCH),
    };
    let mut pushes: Vec<Occasion> = of(&all, OccasionKind::Push).cloned().collect();
    pushes.sort_by_key(|occasion| occasion.name.as_ref().map(rank));
    let mut found = told_apart(project, pushes);
    found.extend(tags(project, &all));
    for kind in [OccasionKind::Pull, OccasionKind::Fork, OccasionKind::Hand, OccasionKind::Clock, OccasionKind::Release] {
        found.extend(of(&all, kind).take(1).cloned());
    }
    // A pull request and the same from a fork stand side by side.
    found
}

fn of(all: &[Occasion], kind: OccasionKind) -> impl Iterator<Item = &Occasion> {
    all.iter().filter(move |occasion| occasion.kind == kind)
}

/// The first few that do not start the same jobs.
fn told_apart(project: &Project<'_>, occasions: Vec<Occasion>) -> Vec<Occasion> {
    let mut prints: Vec<Vec<Answer>> = Vec::new();
    let mut found = Vec::new();
    for occasion in occasions {
        let print = print_of(project, &occasion);
        if found.len() < LIMIT && !prints.contains(&print) {
            prints.push(print);
            found.push(occasion);
        }
    }
    found
}

fn print_of(project: &Project<'_>, occasion: &Occasion) -> Vec<Answer> {
    let outcomes = (0..project.prepared.len()).map(|index| project.outcome(index, occasion));
    outcomes
        .flat_map(|outcome| match outcome {
            Some(outcome) => std::iter::once(outcome.starts.answer).chain(outcome.jobs.iter().map(|job| job.answer)).collect(),
            None => vec![Answer::Unsure],
        })
        .collect()
}

/// Tags that start something, each set of jobs once.
fn tags(project: &Project<'_>, all: &[Occasion]) -> Vec<Occasion> {
    let starts = |occasion: &&Occasion| {
        let some = |index| project.outcome(index, occasion).is_some_and(|outcome| outcome.starts.answer > Answer::No);
        occasion.name.as_deref() != Some(OTHER_TAG) && (0..project.prepared.len()).any(some)
    };
    told_apart(project, of(all, OccasionKind::Tag).filter(starts).cloned().collect())
}
