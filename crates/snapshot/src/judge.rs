//! Reading and judging pipelines, many at the same time, and what of it still holds.

use std::collections::{BTreeMap, BTreeSet};

use dulk_core::carrier::Copies;
use dulk_core::finding::{Finding, join_causes, sort};
use dulk_core::formats::{PipelineFile, Prepared, prepare};
use dulk_core::project::{Face, Kept, Project, reached};
use dulk_core::text::Sources;
use dulk_gather::{Repository, grow_heaps};
use rayon::prelude::*;

use crate::CheckedFile;

/// With fewer files, starting threads takes longer than it saves.
const PARALLEL_FROM: usize = 8;

/// Of a pipeline with fewer steps, running the rules takes no longer than that.
const RULES_PARALLEL_FROM: usize = 100;

/// So much may all files together copy, in weights.
pub(crate) const COPIES: usize = 150_000;
/// Files that copy more than this are read one after the other, so that never more than the whole may copy is in memory.
const COPIES_AT_ONCE: usize = 500;
/// So many files are read at the same time. At the end of each turn, threads wait for the last one.
const AT_ONCE: usize = 256;

/// Every pipeline file after reading.
pub(crate) struct AllPrepared {
    /// In the order of the files.
    pub prepared: Vec<Prepared>,
    /// What they copy, or would if they might, in weights.
    pub copied: usize,
}

/// Reads every pipeline file. Where all together copy more than may be, those are left out that come last.
pub(crate) fn prepare_all(repository: &Repository, sources: &Sources) -> AllPrepared {
    let files = &repository.pipelines;
    let mut all = AllPrepared { prepared: Vec::with_capacity(files.len()), copied: 0 };
    if files.len() < PARALLEL_FROM {
        files.iter().for_each(|file| all.read(file, sources));
        return all;
    }
    grow_heaps();
    let first_look = |file: &PipelineFile| {
        let copies = Copies::allowing(COPIES_AT_ONCE);
        (prepare(file, sources, &copies), copies.taken())
    };
    for some in files.chunks(AT_ONCE) {
        let read: Vec<(Vec<Prepared>, usize)> = some.par_iter().map(first_look).collect();
        for (file, (prepared, copied)) in some.iter().zip(read) {
            if copied == 0 || (copied <= COPIES_AT_ONCE && all.copied + copied <= COPIES) {
                all.copied += copied;
                all.prepared.extend(prepared);
            } else {
                drop(prepared);
                all.read(file, sources);
            }
        }
    }
    all
}

impl AllPrepared {
    fn read(&mut self, file: &PipelineFile, sources: &Sources) {
        let left = COPIES.saturating_sub(self.copied);
        let copies = Copies::allowing(left);
        self.prepared.extend(prepare(file, sources, &copies));
        self.copied = self.copied.saturating_add(copies.taken());
    }
}

/// What is known of the pipelines of a project.
#[derive(Default)]
pub(crate) struct Judged {
    /// What was worked out; nothing before anybody asked.
    pub kept: Option<Kept>,
    /// By pipeline: what its rules found, where that holds.
    found: Vec<Option<Vec<Finding>>>,
    /// By pipeline: what others could see of it when all was looked at last.
    faces: Vec<Option<Face>>,
    /// What has become another one since then.
    since: Since,
}

/// What has become another one since all was looked at.
#[derive(Default)]
struct Since {
    /// Pipelines that did, or have to do with one that did.
    near: BTreeSet<usize>,
    /// How they looked to others then.
    faces: BTreeMap<usize, Face>,
    /// What had to do with what then.
    relations: Vec<Vec<usize>>,
}

impl Judged {
    /// Something will become another one: how everything looks now is noted, where anything was found that may be wrong then. What is never
    /// asked a second time is never looked at.
    pub fn will_change(&mut self, project: &Project<'_>) {
        if self.faces.is_empty() && !self.found.is_empty() {
            self.look(project);
        }
    }

    /// Some pipelines have become others, or have to do with one that did; what had to do with what before that.
    pub fn has_changed(&mut self, near: BTreeSet<usize>, relations: Vec<Vec<usize>>) {
        if self.since.near.is_empty() {
            self.since.relations = relations;
        }
        for index in &near {
            if let Some(face) = self.faces.get_mut(*index).and_then(Option::take) {
                self.since.faces.entry(*index).or_insert(face);
            }
        }
        self.forget(&near);
        self.since.near.extend(near);
    }

    /// Looks at what has become another one, and forgets what was found in those to whom that matters.
    pub fn settle(&mut self, project: &Project<'_>) {
        if self.since.near.is_empty() {
            return;
        }
        self.look(project);
        let since = std::mem::take(&mut self.since);
        let mut stale = since.near;
        for (index, before) in since.faces {
            let Some(now) = &self.faces[index] else { continue };
            let others = self.faces.iter().enumerate().filter_map(|(other, face)| Some((other, face.as_ref()?)));
            stale.extend(others.filter(|(_, other)| before.matters_to(now, other)).map(|(other, _)| other));
        }
        // Who publishes to the same place has to do with others again.
        let stale = reached(&[&since.relations, &project.relations()], stale);
        self.forget(&stale);
    }

    /// Notes what others can see of every pipeline, where that is not known.
    fn look(&mut self, project: &Project<'_>) {
        self.faces.resize(project.prepared.len(), None);
        let unknown: Vec<usize> = (0..self.faces.len()).filter(|index| self.faces[*index].is_none()).collect();
        let faces: Vec<Face> = match unknown.len() {
            0 | 1 => unknown.iter().map(|index| project.face(*index)).collect(),
            _ => unknown.par_iter().map(|index| project.face(*index)).collect(),
        };
        unknown.into_iter().zip(faces).for_each(|(index, face)| self.faces[index] = Some(face));
    }

    fn forget(&mut self, stale: &BTreeSet<usize>) {
        for index in stale {
            if let Some(found) = self.found.get_mut(*index) {
                *found = None;
            }
        }
    }

    /// So many pipelines are still to be checked.
    pub fn unchecked(&self, project: &Project<'_>) -> usize {
        project.prepared.len() - self.found.iter().flatten().count()
    }

    /// Checks what has not been checked yet, as long as `stop` says no; whether all of it is checked then.
    pub fn complete(&mut self, project: &Project<'_>, stop: &(dyn Fn() -> bool + Sync)) -> bool {
        let count = project.prepared.len();
        self.found.resize(count, None);
        let open: Vec<usize> = (0..count).filter(|index| self.found[*index].is_none()).collect();
        let check = |index: &usize| check_one(project, *index, stop);
        if open.len() < PARALLEL_FROM {
            open.iter().for_each(|index| self.found[*index] = check(index));
        } else {
            // What rules ask of other files is there before the first of them asks, so that no thread waits for another.
            open.par_iter().filter(|_| !stop()).for_each(|index| project.prepare(*index));
            let found: Vec<Option<Vec<Finding>>> = open.par_iter().map(check).collect();
            open.into_iter().zip(found).for_each(|(index, found)| self.found[index] = found);
        }
        self.found.iter().all(Option::is_some)
    }

    /// What was found, file by file: what is wrong inside an action stands with that.
    pub fn files(&self, project: &Project<'_>) -> Vec<CheckedFile> {
        by_file(project, self.found.iter().map(|found| found.clone().unwrap_or_default()).collect())
    }

    /// The same of a project that is looked at only once: nothing of it is kept.
    pub fn once(project: &Project<'_>) -> Vec<CheckedFile> {
        let mut judged = Self::default();
        judged.complete(project, &|| false);
        by_file(project, judged.found.into_iter().map(Option::unwrap_or_default).collect())
    }
}

/// What the rules find in a pipeline, as long as `stop` says no, which is asked before each of them. Those of a large one run at the same
/// time.
fn check_one(project: &Project<'_>, index: usize, stop: &(dyn Fn() -> bool + Sync)) -> Option<Vec<Finding>> {
    dulk_core::check_with(project, index, |rules, run| {
        if project.prepared[index].pipeline.count_steps() >= RULES_PARALLEL_FROM {
            let found: Option<Vec<_>> = rules.par_iter().map(|rule| (!stop()).then(|| run(rule))).collect();
            return found.map(|lists| lists.into_iter().flatten().collect());
        }
        let mut found = Vec::new();
        for rule in rules {
            if stop() {
                return None;
            }
            found.append(&mut run(rule));
        }
        Some(found)
    })
}

/// The findings of all pipelines with the files that they stand in, each cause told once.
fn by_file(project: &Project<'_>, mut lists: Vec<Vec<Finding>>) -> Vec<CheckedFile> {
    dulk_core::settle(project, &mut lists);
    let mut files: Vec<CheckedFile> = Vec::new();
    let mut last = None;
    for (one, mut findings) in project.prepared.iter().zip(lists) {
        // Pipelines of one file stand one after the other.
        match files.last_mut().filter(|_| last == Some(one.pipeline.file)) {
            Some(file) => {
                file.findings.append(&mut findings);
                sort(&mut file.findings);
            }
            None => files.push(CheckedFile { whole: one.whole, findings }),
        }
        last = Some(one.pipeline.file);
    }
    files.iter_mut().for_each(|file| file.findings = join_causes(std::mem::take(&mut file.findings)));
    files
}
