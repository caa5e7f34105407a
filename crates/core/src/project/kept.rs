//! What was worked out of a project and still holds when one of its files is another one.

use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use super::Project;
use super::worked_out::WorkedOut;
use crate::formats::Prepared;
use crate::model::Work;
use crate::text::Sources;

/// What projects of the same pipelines, facts and texts have worked out, or will: whoever asks first does it for all of them.
#[derive(Clone)]
pub struct Kept(pub(super) Arc<WorkedOut>);

impl Kept {
    pub(super) fn nothing(prepared: &[Prepared], sources: &Sources) -> Self {
        Self(Arc::new(WorkedOut::nothing(prepared, sources)))
    }

    /// What of it still holds when some of its pipelines are others, in the same order as before, and the numbers of those that had to do
    /// with them before or have now. `before` are the relations of the time before.
    #[must_use]
    pub fn after(
        &self,
        prepared: &[Prepared],
        sources: &Sources,
        changed: &BTreeSet<usize>,
        before: &[Vec<usize>],
    ) -> (Self, BTreeSet<usize>) {
        let mut now = WorkedOut::nothing(prepared, sources);
        let near = reached(&[before, &relations(prepared, &now)], changed.iter().copied());
        now.take_over(&self.0, &near);
        (Self(Arc::new(now)), near)
    }
}

impl Project<'_> {
    /// What it works out, for others of the same pipelines, facts and texts.
    pub fn keep(&self) -> Kept {
        Kept(self.known.clone())
    }

    /// By pipeline: those with which it shares a file, that start each other, or of which one runs the other in a step.
    pub fn relations(&self) -> Vec<Vec<usize>> {
        relations(self.prepared, &self.known)
    }
}

fn relations(prepared: &[Prepared], known: &WorkedOut) -> Vec<Vec<usize>> {
    let mut found: Vec<Vec<usize>> = vec![Vec::new(); prepared.len()];
    let mut link = |one: usize, other: usize| {
        if one != other && !found[one].contains(&other) {
            found[one].push(other);
            found[other].push(one);
        }
    };
    for members in known.index.groups() {
        members.windows(2).for_each(|pair| link(pair[0], pair[1]));
    }
    let mut in_file = HashMap::new();
    for (index, one) in prepared.iter().enumerate() {
        if let Some(first) = in_file.insert(one.pipeline.file, index) {
            link(first, index);
        }
        for step in one.pipeline.jobs.iter().flat_map(|job| &job.steps) {
            let Work::Uses { found: run, .. } = &step.work else { continue };
            if let Some(run) = known.index.action(run) {
                link(index, run);
            }
        }
    }
    found
}

/// Everything that is reached from some pipelines by any of several relations, themselves included.
pub fn reached(relations: &[&[Vec<usize>]], from: impl IntoIterator<Item = usize>) -> BTreeSet<usize> {
    let mut open: Vec<usize> = from.into_iter().collect();
    let mut found = BTreeSet::new();
    while let Some(index) = open.pop() {
        if found.insert(index) {
            open.extend(relations.iter().filter_map(|of_one| of_one.get(index)).flatten());
        }
    }
    found
}
