//! Look-ups over all pipelines, made once: by path, by title, and who starts whom.

use crate::model::{Callee, Event, Pipeline};
use std::collections::HashMap;

use crate::effects::normal;
use crate::formats::Prepared;
use crate::text::{FileId, Sources};

/// Who is where, and who starts whom.
#[derive(Debug)]
pub(super) struct Index {
    by_path: HashMap<String, usize>,
    /// By pipeline: the jobs that call it, each with its pipeline.
    callers: Vec<Vec<(usize, usize)>>,
    /// By pipeline, then by trigger: the pipelines that it follows.
    follows: Vec<Vec<(usize, Vec<usize>)>>,
    /// Parts that pipelines run, by their folder, the root's is "".
    parts: HashMap<String, usize>,
    /// By pipeline: its file holds others too.
    shares: Vec<bool>,
    /// By pipeline: it calls others, or they follow it.
    starts_others: Vec<bool>,
    /// Pipelines that start each other, directly or through others.
    groups: Vec<Vec<usize>>,
    /// By pipeline: its group, and its place in it.
    place: Vec<(usize, usize)>,
}

impl Index {
    pub fn of(prepared: &[Prepared], sources: &Sources) -> Self {
        let path = |pipeline: &Pipeline| sources.get(pipeline.file).path.clone();
        let whole = prepared.iter().enumerate().filter(|(_, one)| one.whole);
        let (mut by_path, mut parts) = (HashMap::new(), HashMap::new());
        for (number, one) in whole {
            let path = path(&one.pipeline);
            if one.pipeline.is_part {
                // Of two in a folder, the last by its name counts.
                parts.insert(path.rsplit_once('/').map_or("", |(folder, _)| folder).to_owned(), number);
            }
            by_path.entry(path).or_insert(number);
        }
        let mut by_title: HashMap<String, usize> = HashMap::new();
        for (number, one) in prepared.iter().enumerate() {
            by_title.entry(title(&one.pipeline, sources).to_owned()).or_insert(number);
        }
        let mut in_file: HashMap<FileId, usize> = HashMap::new();
        for one in prepared {
            *in_file.entry(one.pipeline.file).or_default() += 1;
        }
        let mut index = Self {
            by_path,
            parts,
            shares: prepared.iter().map(|one| in_file[&one.pipeline.file] > 1).collect(),
            callers: vec![Vec::new(); prepared.len()],
            follows: vec![Vec::new(); prepared.len()],
            starts_others: Vec::new(),
            groups: Vec::new(),
            place: Vec::new(),
        };
        for (number, one) in prepared.iter().enumerate() {
            for (job, call) in one.pipeline.jobs.iter().enumerate().filter_map(|(job, of)| Some((job, of.call.as_ref()?))) {
                if let Some(callee) = index.callee(&call.found) {
                    index.callers[callee].push((number, job));
                }
            }
            let triggers = one.pipeline.triggers.iter().enumerate();
            for (trigger, after) in triggers.filter(|(_, trigger)| trigger.event == Event::AfterPipeline) {
                let titles = after.after.iter().filter_map(|text| text.known());
                let others = titles.filter_map(|title| by_title.get(title).copied()).filter(|other| *other != number);
                index.follows[number].push((trigger, others.collect()));
            }
        }
        index.group();
        index
    }

    /// The pipeline of a path, when it could be read whole.
    pub fn find(&self, path: &str) -> Option<usize> {
        self.by_path.get(path).copied()
    }

    /// The composite action that a step names by its folder.
    pub fn action(&self, found: &Callee) -> Option<usize> {
        self.parts.get(&normal(found.path()?)?).copied()
    }

    /// Whether the file of a pipeline holds others too.
    pub fn shares_file(&self, pipeline: usize) -> bool {
        self.shares[pipeline]
    }

    /// The pipeline of this repository that a call names.
    pub fn callee(&self, found: &Callee) -> Option<usize> {
        self.find(&normal(found.path()?)?)
    }

    /// The jobs that call a pipeline, each with its pipeline.
    pub fn callers(&self, pipeline: usize) -> &[(usize, usize)] {
        &self.callers[pipeline]
    }

    /// The triggers by which a pipeline follows others, with those others.
    pub fn follows(&self, pipeline: usize) -> &[(usize, Vec<usize>)] {
        &self.follows[pipeline]
    }

    /// All that start a pipeline: those that call it, and those that it follows; one may come more than once.
    pub fn starters(&self, pipeline: usize) -> impl Iterator<Item = usize> {
        let callers = self.callers[pipeline].iter().map(|(caller, _)| *caller);
        callers.chain(self.follows[pipeline].iter().flat_map(|(_, others)| others.iter().copied()))
    }

    /// Whether a pipeline starts another one.
    pub fn starts_others(&self, pipeline: usize) -> bool {
        self.starts_others[pipeline]
    }

    pub fn groups(&self) -> &[Vec<usize>] {
        &self.groups
    }

    /// The group of a pipeline, and its place in it.
    pub fn place(&self, pipeline: usize) -> (usize, usize) {
        self.place[pipeline]
    }

    /// Puts together what starts each other.
    fn group(&mut self) {
        let count = self.callers.len();
        let mut linked: Vec<Vec<usize>> = vec![Vec::new(); count];
        let mut starts_others = vec![false; count];
        for number in 0..count {
            for other in self.starters(number) {
                starts_others[other] = true;
                linked[number].push(other);
                linked[other].push(number);
            }
        }
        self.starts_others = starts_others;
        let mut seen = vec![false; count];
        self.place = vec![(0, 0); count];
        for first in 0..count {
            if seen[first] {
                continue;
            }
            seen[first] = true;
            let mut members = vec![first];
            let mut next = 0;
            while let Some(current) = members.get(next).copied() {
                next += 1;
                for other in &linked[current] {
                    if !std::mem::replace(&mut seen[*other], true) {
                        members.push(*other);
                    }
                }
            }
            members.sort_unstable();
            for (place, member) in members.iter().enumerate() {
                self.place[*member] = (self.groups.len(), place);
            }
            self.groups.push(members);
        }
    }
}

/// The name by which other pipelines wait for one: its title, or else its path.
pub(super) fn title<'p>(pipeline: &'p Pipeline, sources: &'p Sources) -> &'p str {
    let title = pipeline.name.as_ref().map(|name| name.value.as_str());
    title.filter(|title| !title.is_empty()).unwrap_or(&sources.get(pipeline.file).path)
}
