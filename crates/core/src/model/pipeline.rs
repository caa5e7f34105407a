//! A pipeline, and what is around its jobs.

use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::OnceLock;

use super::condition::of_choices;
use super::waits::Waits;
use super::{Choice, Condition, Event, Grant, Input, Job, Lock, StartsFrom, Text, Trigger, Variables, WebStore};
use crate::formats::Format;
use crate::knowledge::{Customs, Run};
use crate::text::{FileId, Place};

/// A whole pipeline file.
#[derive(Clone, Debug)]
pub struct Pipeline {
    /// The file it stands in.
    pub file: FileId,
    /// The format.
    pub format: &'static dyn Format,
    /// It is a part that other pipelines run in a step of theirs, and no pipeline of its own.
    pub is_part: bool,
    /// What the format does by itself where the forge runs it that reads the file.
    pub customs: &'static Customs,
    /// Its title.
    pub name: Option<Text>,
    /// What starts it.
    pub triggers: Vec<Trigger>,
    /// Where they are written.
    pub triggers_at: Option<Place>,
    /// Where it says that nobody looks for changes of its sources, and nothing else that is known starts it but a person.
    pub undetected: Option<Place>,
    /// Where they are known from.
    pub starts_from: StartsFrom,
    /// The stages in their order, where the file names them.
    pub stages: Option<Vec<Text>>,
    /// Files of this repository that it is made of or starts, as they are named; those left out that a condition or a pattern chooses.
    pub named_files: Vec<NamedFile>,
    /// Parts of it are written elsewhere, and not known.
    pub partial: bool,
    /// What its jobs' tokens may do, where a job does not say.
    pub permissions: Option<Grant>,
    /// Variables of all jobs.
    pub variables: Variables,
    /// Variables whose values the forge fetches, and that only those steps get which ask for them.
    pub on_request: Vec<Text>,
    /// Whether a run starts at all, as a list of which the first that fits decides; without any, the triggers alone do.
    pub choices: Vec<Choice>,
    /// What keeps runs apart.
    pub lock: Option<Lock>,
    /// In the order they are written.
    pub jobs: Vec<Job>,
    /// Places that serve a site, which its file describes.
    pub stores: Vec<WebStore>,
    /// What it takes from a caller, and gives it; nothing when it cannot be called.
    pub interface: Option<Interface>,
    /// Its jobs by name, once all of them are there.
    pub(crate) index: Option<JobIndex>,
}

/// Jobs by their names: every rule looks them up, some for every step.
#[derive(Clone, Debug)]
pub(crate) struct JobIndex {
    /// So many jobs there were.
    count: usize,
    /// Nothing for a few jobs.
    names: Option<NameTables>,
    /// By job: those that it names in its needs.
    needs: Vec<Vec<usize>>,
    /// Who waits for whom, once somebody asks; nothing inside where there are too many jobs.
    waits: OnceLock<Option<Waits>>,
}

/// Numbers of jobs by their names.
#[derive(Clone, Debug)]
struct NameTables {
    exact: HashMap<String, usize>,
    /// The names in small letters.
    any_case: HashMap<String, usize>,
}

impl NameTables {
    /// Of a few jobs, looking at each is quicker than a table of them.
    const FEW: usize = 16;

    fn of(jobs: &[Job]) -> Option<Self> {
        if jobs.len() <= Self::FEW {
            return None;
        }
        let (mut exact, mut any_case) = (HashMap::new(), HashMap::new());
        for (number, job) in jobs.iter().enumerate() {
            exact.entry(job.id.value.clone()).or_insert(number);
            any_case.entry(job.id.value.to_ascii_lowercase()).or_insert(number);
        }
        Some(Self { exact, any_case })
    }
}

impl JobIndex {
    /// Of these jobs; of two with one name, the first counts.
    pub fn of(jobs: &[Job]) -> Self {
        let mut index = Self { count: jobs.len(), names: NameTables::of(jobs), needs: Vec::new(), waits: OnceLock::new() };
        let needs = |job: &Job| job.needs.iter().filter_map(|need| index.of_id(jobs, &need.value)).collect();
        index.needs = jobs.iter().map(needs).collect();
        index
    }

    /// The job that is called exactly so, among those that this was made of.
    pub fn named(&self, jobs: &[Job], id: &str) -> Option<usize> {
        match &self.names {
            Some(names) => names.exact.get(id).copied(),
            None => jobs.iter().position(|job| job.id.value == id),
        }
    }

    /// The job of an id, among those that this was made of; ids do not mind upper and lower case.
    pub fn of_id(&self, jobs: &[Job], id: &str) -> Option<usize> {
        match &self.names {
            Some(names) => names.any_case.get(&id.to_ascii_lowercase()).copied(),
            None => jobs.iter().position(|job| job.id.value.eq_ignore_ascii_case(id)),
        }
    }
}

impl Pipeline {
    /// So many steps all its jobs have.
    pub fn count_steps(&self) -> usize {
        self.jobs.iter().map(|job| job.steps.len()).sum()
    }

    /// Nothing but the file.
    pub fn empty(file: FileId, format: &'static dyn Format, customs: &'static Customs) -> Self {
        Self {
            file,
            format,
            is_part: false,
            customs,
            name: None,
            triggers: Vec::new(),
            triggers_at: None,
            undetected: None,
            starts_from: StartsFrom::Written,
            stages: None,
            named_files: Vec::new(),
            partial: false,
            permissions: None,
            variables: Variables::default(),
            on_request: Vec::new(),
            choices: Vec::new(),
            lock: None,
            jobs: Vec::new(),
            interface: None,
            stores: Vec::new(),
            index: None,
        }
    }

    /// What a run of it knows of itself.
    pub fn run(&self) -> &'static Run {
        self.format.run()
    }

    /// The conditions of its own rules, which decide of the whole run.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        of_choices(&self.choices)
    }

    /// Why it is not known what starts it, when it is not.
    pub fn unknown_starts(&self) -> Option<&str> {
        match &self.starts_from {
            StartsFrom::Unknown(why) => Some(why),
            _ => None,
        }
    }

    /// Where it says what starts it.
    pub fn started_at(&self) -> Option<Place> {
        self.triggers_at.or_else(|| self.triggers.first().map(|trigger| trigger.name.at))
    }

    /// The events that start it, as they are written, each once.
    pub fn event_names(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.triggers.iter().map(|trigger| trigger.name.value.as_str()).collect();
        names.dedup();
        names
    }

    /// Makes jobs quick to find. To be called when all of them are there; a pipeline that gets more of them later is searched again.
    pub fn index_jobs(&mut self) {
        // Lists that grow have room for more, and of jobs that is much.
        self.jobs.shrink_to_fit();
        self.index = Some(JobIndex::of(&self.jobs));
    }

    fn index(&self) -> Option<&JobIndex> {
        self.index.as_ref().filter(|index| index.count == self.jobs.len())
    }

    /// The number of the job that is called exactly so.
    pub fn job_named(&self, id: &str) -> Option<usize> {
        match self.index() {
            Some(index) => index.named(&self.jobs, id),
            None => self.jobs.iter().position(|job| job.id.value == id),
        }
    }

    /// The job of an id; ids do not mind upper and lower case.
    pub fn job(&self, id: &str) -> Option<usize> {
        match self.index() {
            Some(index) => index.of_id(&self.jobs, id),
            None => self.jobs.iter().position(|job| job.id.value.eq_ignore_ascii_case(id)),
        }
    }

    /// The jobs that a job names in its needs.
    pub fn needed_by(&self, job: usize) -> Cow<'_, [usize]> {
        match self.index() {
            Some(index) => Cow::Borrowed(&index.needs[job]),
            None => self.jobs[job].needs.iter().filter_map(|need| self.job(&need.value)).collect(),
        }
    }

    /// Whether other pipelines start it as one of their jobs.
    pub fn is_called(&self) -> bool {
        self.triggers.iter().any(|trigger| trigger.event == Event::Called)
    }

    /// Whether nothing comes to it from another pipeline that runs it: no artifact, no folder that is there already.
    pub fn stands_alone(&self) -> bool {
        !self.is_called() && !self.is_part
    }

    /// The values that whoever starts it may give; nothing when it takes none, or they are not known.
    pub fn inputs(&self) -> Option<Vec<&Input>> {
        let starts = self.triggers.iter().filter(|trigger| matches!(trigger.event, Event::Hand | Event::Called));
        let own = self.interface.iter().filter(|_| self.is_part).flat_map(|interface| &interface.inputs);
        let inputs: Vec<&Input> = starts.flat_map(|trigger| &trigger.inputs).chain(own).collect();
        (!inputs.is_empty()).then_some(inputs)
    }

    /// Whether values may be handed to it in a way that is not understood.
    pub fn takes_values(&self) -> bool {
        !self.is_part && self.triggers.iter().all(|trigger| matches!(trigger.event, Event::Unknown(_)))
    }

    /// Whether a job waits for another one, directly or for one that does. Never for itself; unknown names are passed over.
    pub fn waits_for(&self, job: usize, other: usize) -> bool {
        let index = self.index();
        match index.and_then(|index| index.waits.get_or_init(|| Waits::of(&index.needs)).as_ref()) {
            Some(waits) => waits.holds(job, other),
            None => self.upstream(job).contains(&other),
        }
    }

    /// The jobs that a job waits for, near and far, itself left out. Unknown names are passed over; cycles end.
    pub fn upstream(&self, job: usize) -> Vec<usize> {
        let mut seen = vec![false; self.jobs.len()];
        let mut queue = vec![job];
        let mut found = Vec::new();
        while let Some(current) = queue.pop() {
            for next in self.needed_by(current).iter().copied() {
                if !seen[next] && next != job {
                    seen[next] = true;
                    found.push(next);
                    queue.push(next);
                }
            }
        }
        found
    }
}

/// A file of the repository that a pipeline names.
#[derive(Clone, Debug)]
pub struct NamedFile {
    /// Its path from the repository's root, perhaps with a slash before it.
    pub path: Text,
    /// The job that starts it as a pipeline of its own; nothing for a part of the pipeline itself.
    pub started_by: Option<usize>,
}

/// What a pipeline takes from its caller, and gives it.
#[derive(Clone, Debug, Default)]
pub struct Interface {
    /// The key that says so.
    pub at: Option<Place>,
    /// Values handed in.
    pub inputs: Vec<Input>,
    /// Secrets handed in, and whether each is needed.
    pub secrets: Vec<(Text, bool)>,
    /// Values given back: name and value.
    pub outputs: Vec<(Text, Option<Text>)>,
}
