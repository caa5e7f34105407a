//! `.gitlab-ci.yml` and the local files that it includes.
//!
//! After the format's page "CI/CD YAML syntax reference": `default`, `extends` (the deepest first, mappings merged, lists replaced),
//! `!reference`, merge keys, stages and the needs that follow from them, `rules` and `only`/`except`.

use std::collections::HashSet;

use super::merge::{Documents, Item, Map};
use super::{around, choices, form};
use crate::carrier::{Copies, Tree};
use crate::effects::Effect;
use crate::form::FormIssue;
use crate::formats::Wanted;
use crate::model::{
    Call, Callee, Event, Job, Lock, Machine, Matrix, NamedFile, Outcome, Pipeline, Shell, StartsFrom, Step, Text, Then, Trigger,
    Variables, When, Work, Workspace,
};
use crate::text::{FileId, Place};

/// The stages where a file names none.
const STAGES: [&str; 5] = [".pre", "build", "test", "deploy", ".post"];

/// The local files that a text includes.
pub(super) fn includes(text: &str) -> Vec<Wanted> {
    let tree = crate::carrier::parse(text);
    let parts = [(FileId(0), &tree)];
    let copies = Copies::default();
    let documents = Documents::new(&parts, &copies);
    let mut found = Vec::new();
    for item in documents.include_items() {
        let local = documents.text(&item).or_else(|| documents.get(&item, "local").and_then(|value| documents.text(&value)));
        found.extend(local.map(|text| text.value).filter(|path| is_local(path)).map(Wanted::Part));
    }
    found
}

/// A path of this repository without variables in it.
pub(super) fn is_local(path: &str) -> bool {
    !path.contains("://") && !path.contains('$') && (path.ends_with(".yml") || path.ends_with(".yaml"))
}

/// Reads the main file and its parts, and tells what does not fit in the jobs that come of them together.
pub(super) fn read(parts: &[(FileId, &Tree)], copies: &Copies, missing_parts: bool) -> (Pipeline, Vec<FormIssue>) {
    let file = parts.first().map_or(FileId(0), |(file, _)| *file);
    let documents = Documents::new(parts, copies);
    let mut pipeline = Pipeline::empty(file, super::FORMAT, &super::data().customs);
    pipeline.partial = missing_parts || documents.includes_unknown();
    let Some(top) = documents.top() else { return (pipeline, Vec::new()) };
    let file_rules = top.get("workflow").and_then(|workflow| documents.get(workflow, "rules"));
    let usual = match (&file_rules, pipeline.partial) {
        (Some(_), _) => choices::Usual::Everything,
        (None, true) => choices::Usual::Unknown,
        (None, false) => choices::Usual::BranchesAndTags,
    };
    let reader = Reader { documents: &documents, top: &top, usual };
    pipeline.variables = top.get("variables").map(|item| documents.variables(item)).unwrap_or_default();
    let stages: Vec<Text> = top.get("stages").map(|item| documents.texts(item)).unwrap_or_default();
    if let Some(rules) = file_rules {
        pipeline.choices = choices::of_rules(&documents, &rules, Then::Run);
    }
    pipeline.named_files = documents
        .include_items()
        .iter()
        .filter_map(|item| documents.local_file(item))
        .map(|path| NamedFile { path, started_by: None })
        .collect();
    let known: Vec<String> = top.names().filter(|name| !is_reserved(name)).map(str::to_owned).collect();
    let mut hands_variables = false;
    let mut issues = Vec::new();
    for name in known.iter().filter(|name| !name.starts_with('.')).take(JOB_LIMIT) {
        issues.extend(form::absent_parents(&documents, name, &known));
        let Some(job) = documents.job(name) else { continue };
        let map = &*job.map;
        issues.extend(form::ageing_keys(&documents, map));
        hands_variables |= reader.hands_variables(map);
        let number = pipeline.jobs.len();
        pipeline.jobs.extend(reader.job(name, map, job.torn));
        if pipeline.jobs.len() > number {
            let started = reader.started_files(map).into_iter();
            pipeline.named_files.extend(started.map(|path| NamedFile { path, started_by: Some(number) }));
        }
    }
    pipeline.stages = (!stages.is_empty()).then_some(stages);
    // Events are written nowhere: the file's own rules, or else its first job, stand for them.
    let start = Place { file, span: crate::text::Span::default() };
    let place = documents.entry("workflow").map(|(key, _)| key.at).or_else(|| pipeline.jobs.first().map(|job| job.id.at));
    pipeline.triggers = reader.triggers(place.unwrap_or(start));
    pipeline.starts_from = StartsFrom::Usual;
    stage_needs(&mut pipeline);
    reader.artifacts_of_needs(&mut pipeline);
    pipeline.jobs.iter_mut().for_each(|job| job.variables_from_others = hands_variables);
    (pipeline, issues)
}

/// Whether a top key is none of a job or a template.
fn is_reserved(name: &str) -> bool {
    super::data().list("reserved").contains(&name)
}

/// More jobs are no honest file.
const JOB_LIMIT: usize = 2_000;
/// Jobs that wait for whole stages are wired one by one up to this many.
const WIRED_JOBS: usize = 300;

/// A job without `needs` waits for all jobs of the stages before its own.
fn stage_needs(pipeline: &mut Pipeline) {
    let order: Vec<String> = match &pipeline.stages {
        Some(stages) => {
            let named = stages.iter().map(|text| text.value.clone());
            std::iter::once(".pre".to_owned()).chain(named).chain([".post".to_owned()]).collect()
        }
        None => STAGES.iter().map(|stage| (*stage).to_owned()).collect(),
    };
    if pipeline.jobs.len() > WIRED_JOBS {
        return;
    }
    let rank = |job: &Job| {
        let stage = job.stage.as_ref().map_or("test", |stage| stage.value.as_str());
        order.iter().position(|name| name == stage)
    };
    let ranks: Vec<Option<usize>> = pipeline.jobs.iter().map(rank).collect();
    let ids: Vec<Text> = pipeline.jobs.iter().map(|job| job.id.clone()).collect();
    for (index, job) in pipeline.jobs.iter_mut().enumerate() {
        if job.needs_at.is_some() || !job.when.by_stage {
            continue;
        }
        let Some(own) = ranks[index] else { continue };
        let before = (0..ids.len()).filter(|other| ranks[*other].is_some_and(|rank| rank < own));
        job.needs = before.map(|other| ids[other].clone()).collect();
    }
}

pub(super) struct Reader<'d, 't> {
    pub documents: &'d Documents<'t>,
    top: &'d Map,
    /// What a job without rules of its own runs for.
    usual: choices::Usual,
}

impl Reader<'_, '_> {
    /// A value of a job: its own, or that of `default` and of the top.
    pub fn inherited(&self, job: &Map, key: &str) -> Option<Item> {
        if let Some(own) = job.get(key) {
            return Some(own.clone());
        }
        let inherits = job.get("inherit").and_then(|inherit| self.documents.get(inherit, "default"));
        let shut = inherits.as_ref().and_then(|item| self.documents.text(item)).is_some_and(|text| text.value == "false");
        let listed = inherits.map(|item| self.documents.texts(&item)).unwrap_or_default();
        if shut || (!listed.is_empty() && !listed.iter().any(|text| text.value == key)) {
            return None;
        }
        let default = self.top.get("default").and_then(|default| self.documents.get(default, key));
        default.or_else(|| self.top.get(key).cloned())
    }

    fn triggers(&self, place: Place) -> Vec<Trigger> {
        let events =
            [(Event::Push, "push"), (Event::Proposal, "merge request"), (Event::Hand, "web"), (Event::Clock, "schedule")];
        events.into_iter().map(|(event, name)| Trigger::plain(event, Text::fixed(name, place))).collect()
    }

    /// A job with all that it builds on; `torn` when a part of that is not known.
    fn job(&self, name: &str, map: &Map, torn: bool) -> Option<Job> {
        let documents = self.documents;
        let (id, body) = documents.entry(name)?;
        let text = |key: &str| map.get(key).and_then(|item| documents.text(item));
        let when = text("when").map_or(Then::Run, |text| choices::then_of(&text.value));
        let image = self.inherited(map, "image").and_then(|item| {
            documents.text(&item).or_else(|| documents.get(&item, "name").and_then(|item| documents.text(&item)))
        });
        let (needs, needs_unknown) = map.get("needs").map(|item| self.needs(item)).unwrap_or_default();
        let lock = text("resource_group").map(|group| Lock { at: group.at, group, cancels: None });
        let interruptible =
            self.inherited(map, "interruptible").and_then(|item| documents.text(&item)).filter(|text| text.value == "true");
        let lock = match (lock, interruptible) {
            (Some(lock), cancels) => Some(Lock { cancels, ..lock }),
            (None, Some(cancels)) => Some(Lock { at: cancels.at, group: Text::fixed("", cancels.at), cancels: Some(cancels) }),
            (None, None) => None,
        };
        let calls = map.contains("trigger");
        Some(Job {
            needs_at: map.get("needs").map(|item| documents.at(item)),
            needs,
            needs_unknown: needs_unknown || torn,
            takes_from: map.get("dependencies").map(|item| documents.texts(item)).unwrap_or_default().into(),
            environment: map
                .get("environment")
                .and_then(|item| {
                    documents.text(item).or_else(|| documents.get(item, "name").and_then(|item| documents.text(&item)))
                })
                .map(Box::new),
            lock,
            variables: map.get("variables").map(|item| documents.variables(item)).unwrap_or_default(),
            matrix: map.get("parallel").and_then(|item| self.matrix(item)).map(Box::new),
            workspace: self.workspace(map),
            steps: if calls { Vec::new() } else { self.steps(map, &id, torn) },
            call: calls.then(|| {
                Box::new(Call {
                    target: Text::fixed("", id.at),
                    found: Callee::Elsewhere,
                    inputs: Variables::default(),
                    secrets: Variables::default(),
                    all_secrets: true,
                })
            }),
            machine: Machine { image, ..Machine::default() },
            may_fail: text("allow_failure").map(Box::new),
            time_limit: self.inherited(map, "timeout").and_then(|item| documents.text(&item)).map(|text| text.at),
            handed: ["id_tokens", "secrets"]
                .iter()
                .filter_map(|key| self.inherited(map, key))
                .flat_map(|item| documents.pairs(&item))
                .map(|(name, _)| name)
                .collect(),
            when: When {
                cond: None,
                choices: self.choices(map, when, &id),
                then: when,
                then_at: text("when").map(|text| text.at),
                by_stage: !map.contains("needs"),
                // Source: the format's page "CI/CD YAML syntax reference", `stage: .pre`.
                goes_along: text("stage").is_some_and(|stage| matches!(stage.value.as_str(), ".pre" | ".post")),
            },
            stage: text("stage").map(Box::new),
            ..Job::empty(id, body)
        })
    }

    /// What git does not track is cleaned away before each job, unless a variable says otherwise.
    /// Source: the format's page "Configuring runners", git clean flags and git strategy.
    fn workspace(&self, map: &Map) -> Workspace {
        let strategy = self.variable(map, "GIT_STRATEGY");
        let brings = strategy.is_none_or(|text| matches!(text.value.as_str(), "fetch" | "clone" | "empty"));
        if self.variable(map, "GIT_CLEAN_FLAGS").is_none() && brings { Workspace::Fresh } else { Workspace::Kept }
    }

    fn needs(&self, item: &Item) -> (Vec<Text>, bool) {
        let mut needs = Vec::new();
        let mut unknown = false;
        for need in self.documents.items_or_one(item) {
            let elsewhere = ["pipeline", "project"].iter().any(|key| self.documents.get(&need, key).is_some());
            let optional = self
                .documents
                .get(&need, "optional")
                .and_then(|item| self.documents.text(&item))
                .is_some_and(|text| text.value == "true");
            let job = self
                .documents
                .text(&need)
                .or_else(|| self.documents.get(&need, "job").and_then(|item| self.documents.text(&item)));
            match job {
                Some(_) if elsewhere || optional => unknown |= optional,
                Some(job) => needs.push(job),
                None => unknown |= !elsewhere,
            }
        }
        (needs, unknown)
    }

    fn matrix(&self, item: &Item) -> Option<Matrix> {
        let at = self.documents.at(item);
        let (included, excluded) = (Vec::new(), Vec::new());
        let empty = Matrix { at, axes: Vec::new(), included, excluded, plain: false, names: Vec::new(), open: false, legs: None };
        if let Some(count) = self.documents.text(item) {
            return Some(Matrix { legs: count.value.parse().ok(), ..empty });
        }
        let rows = self.documents.items(&self.documents.get(item, "matrix")?);
        let legs = rows.iter().map(|row| {
            let sizes = self.documents.pairs(row).into_iter().map(|(_, values)| self.documents.texts(&values).len().max(1));
            sizes.fold(1_usize, usize::saturating_mul)
        });
        let mut found = Matrix { legs: Some(legs.fold(0, usize::saturating_add)), ..empty };
        for (name, values) in rows.iter().flat_map(|row| self.documents.pairs(row)) {
            let values = self.documents.texts(&values);
            match found.axes.iter_mut().find(|(known, _)| known.value == name.value) {
                Some((_, known)) => known.extend(values),
                None => {
                    found.names.push(name.clone());
                    found.axes.push((name, values));
                }
            }
        }
        Some(found)
    }

    fn steps(&self, map: &Map, id: &Text, torn: bool) -> Vec<Step> {
        let mut steps = vec![Step::new(id.at, Work::ByItself(self.before(map, id)))];
        let mut lines = self.inherited(map, "before_script").map(|item| self.documents.texts(&item)).unwrap_or_default();
        lines.extend(map.get("script").map(|item| self.documents.texts(item)).unwrap_or_default());
        let after = self.inherited(map, "after_script").map(|item| self.documents.texts(&item)).unwrap_or_default();
        // Source: the format's page "CI/CD YAML syntax reference", `after_script`: it runs after a failure too.
        for (lines, after) in [(lines, Outcome::Success), (after, Outcome::Any)] {
            if let Some(script) = crate::formats::joined(lines) {
                let shell = if torn { Shell::Other } else { Shell::Posix };
                steps.push(Step { after, ..Step::new(id.at, Work::Runs { shell, script }) });
            }
        }
        if torn {
            steps.push(Step::new(id.at, Work::Runs { shell: Shell::Other, script: Text::fixed("", id.at) }));
        }
        let hands = self.after(map, id);
        if !hands.effects.is_empty() {
            steps.push(Step::new(id.at, Work::ByItself(hands)));
        }
        steps
    }

    /// A variable that steers the runner: the job's own, or the file's.
    pub fn variable(&self, map: &Map, name: &str) -> Option<Text> {
        let own = map.get("variables").and_then(|item| self.documents.get(item, name));
        own.or_else(|| self.top.get("variables").and_then(|item| self.documents.get(item, name)))
            .and_then(|item| self.documents.text(&item))
    }

    /// Files of this repository that a job starts as a pipeline of their own.
    fn started_files(&self, map: &Map) -> Vec<Text> {
        let Some(include) = map.get("trigger").and_then(|item| self.documents.get(item, "include")) else { return Vec::new() };
        let list = self.documents.items(&include);
        let list = if list.is_empty() { vec![include] } else { list };
        list.iter().filter_map(|item| self.documents.local_file(item)).collect()
    }

    /// Whether a job hands on a file of variables to those after it; which ones is only known when it runs.
    fn hands_variables(&self, map: &Map) -> bool {
        let reports = self.inherited(map, "artifacts").and_then(|artifacts| self.documents.get(&artifacts, "reports"));
        reports.is_some_and(|reports| self.documents.get(&reports, "dotenv").is_some())
    }

    /// Whose artifacts each job gets: of those that it needs, or of all jobs before it.
    fn artifacts_of_needs(&self, pipeline: &mut Pipeline) {
        let ids: HashSet<String> = pipeline.jobs.iter().map(|job| job.id.value.clone()).collect();
        for index in 0..pipeline.jobs.len() {
            let name = pipeline.jobs[index].id.value.clone();
            let Some(job) = self.documents.job(&name) else { continue };
            let map = &job.map;
            let at = pipeline.jobs[index].id.at;
            let from: Vec<Text> = match (map.get("dependencies"), map.get("needs")) {
                (Some(list), _) => self.documents.texts(list),
                (None, Some(needs)) => self
                    .documents
                    .items_or_one(needs)
                    .iter()
                    .filter(|need| {
                        let artifacts = self.documents.get(need, "artifacts").and_then(|item| self.documents.text(&item));
                        artifacts.is_none_or(|text| text.value != "false")
                    })
                    .filter_map(|need| {
                        self.documents
                            .text(need)
                            .or_else(|| self.documents.get(need, "job").and_then(|item| self.documents.text(&item)))
                    })
                    .collect(),
                (None, None) => pipeline.jobs[index].needs.clone(),
            };
            // A slip of a name is told once; what it is meant for is there all the same. Only jobs that hand something on are fetched
            // from.
            let hands: Vec<Text> = from
                .into_iter()
                .map(|name| match super::form::meant_job(&ids, &name.value) {
                    Some(meant) => Text::fixed(&meant, name.at),
                    None => name,
                })
                .filter(|name| pipeline.job_named(&name.value).is_some_and(|job| pipeline.jobs[job].steps.iter().any(hands_on)))
                .map(|name| Text::fixed(&name.value, name.at))
                .collect();
            if let Some(Step { work: Work::ByItself(own), .. }) = pipeline.jobs[index].steps.first_mut() {
                own.effects.extend(hands.iter().map(|name| around::fetch(name, at)));
            }
        }
    }
}

fn hands_on(step: &Step) -> bool {
    matches!(&step.work, Work::ByItself(own) if own.effects.iter().any(|one| matches!(one.effect, Effect::Upload { .. })))
}

impl Reader<'_, '_> {
    fn choices(&self, map: &Map, when: Then, id: &Text) -> Vec<crate::model::Choice> {
        if let Some(rules) = map.get("rules") {
            return choices::of_rules(self.documents, rules, when);
        }
        choices::of_only(self.documents, map.get("only"), map.get("except"), when, self.usual, id)
    }
}
