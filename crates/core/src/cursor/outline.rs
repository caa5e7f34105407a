//! The jobs and steps of a file, as editors list them.

use super::runs::{Runs, runs};
use super::spots::{What, spots};
use crate::carrier::{Copies, Kind};
use crate::case::Case;
use crate::effects::Effect;
use crate::model::Step;
use crate::project::Project;
use crate::text::{FileId, Span};
use crate::views::{title, title_at};

/// The kinds of what is listed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OutlinedKind {
    /// What starts the pipeline.
    Start,
    /// A job.
    Job,
    /// A step of one.
    Step,
}

/// An entry of the list.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outlined {
    /// Its kind.
    pub kind: OutlinedKind,
    /// Its name.
    pub name: String,
    /// All of it.
    pub whole: Span,
    /// Its name, within that.
    pub name_at: Span,
    /// What is in it.
    pub inside: Vec<Outlined>,
}

/// What a file holds: its starts, and its jobs with their steps.
pub fn outline(project: &Project<'_>, file: FileId) -> Vec<Outlined> {
    let mut all: Vec<Outlined> = Vec::new();
    for case in super::cases(project, file) {
        for spot in spots(&case, file) {
            match spot.what {
                What::Event(number) => {
                    let trigger = &case.pipeline.triggers[number];
                    let whole = around(trigger.at.span, spot.at.span);
                    all.push(entry(OutlinedKind::Start, &trigger.name.value, whole, spot.at.span, Vec::new()));
                }
                What::Job(number) => {
                    let job = &case.pipeline.jobs[number];
                    let own = job.steps.iter().filter(|step| step.at.file == file && !step.at.span.is_empty());
                    let steps: Vec<Outlined> = own.map(of_step).collect();
                    let body = if job.body.file == file { job.body.span } else { spot.at.span };
                    let whole = steps.iter().fold(around(body, spot.at.span), |whole, step| around(whole, step.whole));
                    all.push(entry(OutlinedKind::Job, &job.id.value, whole, spot.at.span, steps));
                }
                _ => {}
            }
        }
    }
    all.sort_by_key(|one| (one.whole.start, one.whole.end));
    all.dedup();
    all
}

/// A job of a file, and when it runs.
#[derive(Clone, Debug)]
pub struct TimedJob {
    /// Its name.
    pub id: String,
    /// Where that stands.
    pub name_at: Span,
    /// When it runs.
    pub runs: Runs,
}

/// The jobs that stand in a file, by their numbers in a pipeline of it. Parts that pipelines run in a step start with those.
fn own_jobs(case: &Case<'_>, file: FileId) -> impl Iterator<Item = usize> {
    let speaks = !case.pipeline.is_part && case.prepared.whole;
    let jobs = case.pipeline.jobs.iter().map(|job| job.id.inner()).enumerate();
    jobs.filter(move |(_, at)| speaks && at.file == file && !at.span.is_empty()).map(|(number, _)| number)
}

/// The jobs that stand in a file, with when they run.
pub fn timed_jobs(project: &Project<'_>, file: FileId) -> Vec<TimedJob> {
    let mut found = Vec::new();
    for case in super::cases(project, file) {
        found.extend(own_jobs(&case, file).map(|number| {
            let id = &case.pipeline.jobs[number].id;
            TimedJob { id: id.value.clone(), name_at: id.inner().span, runs: runs(&case, number) }
        }));
    }
    found
}

/// When a job of a file runs, and in a line each what becomes of it on every event, and why.
pub fn told_events(project: &Project<'_>, file: FileId, id: &str) -> Option<(Runs, Vec<String>)> {
    super::cases(project, file).find_map(|case| {
        let number = own_jobs(&case, file).find(|number| case.pipeline.jobs[*number].id.value == id)?;
        let told = case.played().filter_map(|(occasion, rehearsal)| {
            let verdict = rehearsal.jobs.get(number)?;
            let because = if verdict.because.is_empty() { String::new() } else { format!(": {}", verdict.because) };
            Some(crate::shown::shown(&format!("{}: {}{because}", occasion.told(), verdict.of_job())))
        });
        Some((runs(&case, number), told.collect()))
    })
}

/// Words that stand in no file, with the byte that they stand behind.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hint {
    /// The byte.
    pub behind: u32,
    /// The words.
    pub words: String,
}

/// When each job runs, and which folder each build writes.
pub fn hints(project: &Project<'_>, file: FileId) -> Vec<Hint> {
    let source = project.sources.get(file);
    // Behind everything that stands on the line.
    let end_of_line = |offset: u32| {
        let line = source.position(offset).line;
        let start = source.line_start(line);
        let length = source.text[start..].lines().next().map_or(0, |line| line.trim_end().len());
        Span::new(start + length, 0).start
    };
    let mut found: Vec<Hint> = timed_jobs(project, file)
        .into_iter()
        .map(|job| Hint { behind: end_of_line(job.name_at.end), words: crate::shown::shown(&job.runs.told()) })
        .collect();
    for case in super::cases(project, file) {
        for (_, _, effect) in case.all_effects().filter(|(.., effect)| effect.at.file == file) {
            if let Effect::Build { output: Some(output), .. } = &effect.effect {
                let folder = if output.is_empty() { "the folder it runs in".to_owned() } else { crate::shown::shown(output) };
                let hint = Hint { behind: end_of_line(effect.at.span.start), words: format!("writes {folder}") };
                if !found.contains(&hint) {
                    found.push(hint);
                }
            }
        }
    }
    found.sort_by_key(|hint| hint.behind);
    found
}

/// Spans of more than one line that an editor may fold; of comments where `true` stands beside them.
pub fn folds(project: &Project<'_>, file: FileId) -> Vec<(Span, bool)> {
    let source = project.sources.get(file);
    let Some(first) = project.in_file(file) else { return Vec::new() };
    let tree = project.prepared[first].pipeline.format.parse(&source.text, &Copies::default());
    let mut found: Vec<(Span, bool)> = Vec::new();
    for id in tree.ids() {
        let node = tree.node(id);
        let parts: Vec<(u32, Span)> = match node.kind {
            Kind::Mapping(..) => {
                tree.pairs(id).iter().map(|(key, value)| (tree.node(*key).span.start, tree.node(*value).span)).collect()
            }
            Kind::Sequence(..) => {
                tree.items(id).iter().map(|item| (tree.node(*item).span.start, tree.node(*item).span)).collect()
            }
            _ => Vec::new(),
        };
        for (start, value) in parts {
            let end = start + Span::new(source.slice(Span { start, end: value.end }).trim_end().len(), 0).start;
            if source.position(start).line < source.position(end).line {
                found.push((Span { start, end }, false));
            }
        }
    }
    let mut block: Option<Span> = None;
    for comment in &tree.comments {
        let alone = source.line_at(comment.span.start).trim_start().starts_with(['#', '/']);
        let follows = |last: &Span| source.position(last.end).line + 1 == source.position(comment.span.start).line;
        block = match block.filter(|last| alone && follows(last)) {
            Some(last) => Some(Span { end: comment.span.end, ..last }),
            None => {
                found.extend(block.take().map(|last| (last, true)));
                alone.then_some(comment.span)
            }
        };
    }
    found.extend(block.map(|last| (last, true)));
    found.retain(|(span, _)| source.position(span.start).line < source.position(span.end).line);
    found.sort_by_key(|(span, _)| (span.start, span.end));
    found.dedup();
    found
}

fn entry(kind: OutlinedKind, name: &str, whole: Span, name_at: Span, inside: Vec<Outlined>) -> Outlined {
    let name = crate::shown::shown(name.lines().next().unwrap_or_default());
    // Editors refuse a name of nothing.
    let name = if name.trim().is_empty() { "–".to_owned() } else { name };
    Outlined { kind, name, whole, name_at, inside }
}

/// The least span that holds two.
fn around(one: Span, other: Span) -> Span {
    Span { start: one.start.min(other.start), end: one.end.max(other.end) }
}

fn of_step(step: &Step) -> Outlined {
    let at = title_at(step);
    let name_at = if at.file == step.at.file { at.span } else { step.at.span };
    entry(OutlinedKind::Step, &title(step), around(step.at.span, name_at), name_at, Vec::new())
}
