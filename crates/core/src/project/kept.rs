//! What was worked out of a project and still holds when one of its files is another one.

use std::collections::{BTreeSet, HashMap, HashSet};
use std::sync::{Arc, OnceLock};

use super::played::Played;
use super::{Outcomes, Project, Worked};
use crate::model::Work;

/// What a project has worked out, for the next one with the same pipelines in the same order and the same facts.
#[derive(Clone, Default)]
pub struct Kept {
    worked: Vec<Option<Arc<Worked>>>,
    played: HashMap<Vec<usize>, Arc<Played>>,
    possible: Vec<Option<Arc<Outcomes>>>,
}

impl Kept {
    /// Without what hangs on some pipelines: those are others now.
    #[must_use]
    pub fn without(mut self, changed: &BTreeSet<usize>) -> Self {
        self.played.retain(|members, _| !members.iter().any(|member| changed.contains(member)));
        let still: HashSet<usize> = self.played.keys().flatten().copied().collect();
        for (index, outcomes) in self.possible.iter_mut().enumerate() {
            outcomes.take_if(|_| changed.contains(&index) || !still.contains(&index));
        }
        for (index, worked) in self.worked.iter_mut().enumerate() {
            worked.take_if(|_| changed.contains(&index));
        }
        self
    }

    pub(super) fn worked(&self, count: usize) -> Vec<OnceLock<Arc<Worked>>> {
        (0..count).map(|index| self.worked.get(index).cloned().flatten().map_or_else(OnceLock::new, OnceLock::from)).collect()
    }

    pub(super) fn played(&self, members: &[usize]) -> OnceLock<Arc<Played>> {
        self.played.get(members).cloned().map_or_else(OnceLock::new, OnceLock::from)
    }

    pub(super) fn possible(&self, count: usize) -> Vec<OnceLock<Arc<Outcomes>>> {
        (0..count).map(|index| self.possible.get(index).cloned().flatten().map_or_else(OnceLock::new, OnceLock::from)).collect()
    }
}

impl Project<'_> {
    /// What is worked out by now.
    pub fn keep(&self) -> Kept {
        let groups = self.index.groups().iter().zip(&self.played);
        Kept {
            worked: self.worked.iter().map(|worked| worked.get().cloned()).collect(),
            played: groups.filter_map(|(members, played)| Some((members.clone(), played.get()?.clone()))).collect(),
            possible: self.possible.iter().map(|outcomes| outcomes.get().cloned()).collect(),
        }
    }

    /// By pipeline: those with which it shares a file, that start each other, or of which one runs the other in a step.
    pub fn relations(&self) -> Vec<Vec<usize>> {
        let mut found: Vec<Vec<usize>> = vec![Vec::new(); self.prepared.len()];
        let mut link = |one: usize, other: usize| {
            if one != other && !found[one].contains(&other) {
                found[one].push(other);
                found[other].push(one);
            }
        };
        for members in self.index.groups() {
            members.windows(2).for_each(|pair| link(pair[0], pair[1]));
        }
        let mut in_file = HashMap::new();
        for (index, one) in self.prepared.iter().enumerate() {
            if let Some(first) = in_file.insert(one.pipeline.file, index) {
                link(first, index);
            }
            for step in one.pipeline.jobs.iter().flat_map(|job| &job.steps) {
                let Work::Uses { found: run, .. } = &step.work else { continue };
                if let Some(run) = self.action_index(run) {
                    link(index, run);
                }
            }
        }
        found
    }
}

/// Everything that is reached from some pipelines, themselves included.
pub fn reached(relations: &[Vec<usize>], from: impl IntoIterator<Item = usize>) -> BTreeSet<usize> {
    let mut open: Vec<usize> = from.into_iter().collect();
    let mut found = BTreeSet::new();
    while let Some(index) = open.pop() {
        if found.insert(index) {
            open.extend(relations.get(index).into_iter().flatten());
        }
    }
    found
}
