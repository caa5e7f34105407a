//! What does not fit in `.gitlab-ci.yml` and the files that it includes.

use std::collections::HashSet;

use super::merge::{self, Documents, Map};
use super::read;
use crate::carrier::Tree;
use crate::form::{FormIssue, FormIssueKind};
use crate::formats::{Reading, Texts};
use crate::knowledge;
use crate::model::{Pipeline, Step, Text, Work};
use crate::text::{FileId, Place, SourceFile};

/// Reads a main file and its parts as one pipeline; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let broken = texts.parts.iter().any(|part| !part.tree.is_whole());
    let whole_parts: Vec<(FileId, &Tree)> = std::iter::once((main.file, &main.tree))
        .chain(texts.parts.iter().filter(|part| part.tree.is_whole()).map(|part| (part.file, &part.tree)))
        .collect();
    let missing = texts.missing || broken;
    let (mut pipeline, mut of_jobs) = read::read(&whole_parts, texts.copies, missing);
    let issues_of = |pipeline: &Pipeline| -> Vec<FormIssue> {
        let whole = whole_parts.iter().filter(|(_, tree)| tree.is_whole());
        whole.flat_map(|(file, tree)| grammar_issues(*file, tree, pipeline)).collect()
    };
    let mut form = issues_of(&pipeline);
    let meant = |file: FileId| crate::form::meant_words(&form, file);
    if whole_parts.iter().any(|(file, _)| !meant(*file).is_empty()) {
        let trees: Vec<(FileId, Tree)> = whole_parts.iter().map(|(file, tree)| (*file, tree.reworded(&meant(*file)))).collect();
        let parts: Vec<(FileId, &Tree)> = trees.iter().map(|(file, tree)| (*file, tree)).collect();
        (pipeline, of_jobs) = read::read(&parts, texts.copies, missing);
        form = issues_of(&pipeline);
    }
    form.extend(of_jobs);
    unclear_jobs(&mut pipeline, &form);
    form.extend(conditions(&pipeline, texts.iter().map(|one| one.source)));
    if !pipeline.partial {
        let absent = Documents::new(&whole_parts, texts.copies).absent_references().into_iter();
        form.extend(
            absent.map(|(at, absent, within, known)| FormIssue {
                at,
                kind: FormIssueKind::AbsentReference { absent, within, known },
            }),
        );
    }
    Reading { pipelines: vec![pipeline], form }
}

/// What a job builds on that is not there; `known` are the jobs and templates of the file.
pub(super) fn absent_parents(documents: &Documents<'_>, name: &str, known: &[String]) -> Vec<FormIssue> {
    let issue = |parent: Text| FormIssue {
        at: parent.inner(),
        kind: FormIssueKind::AbsentParent { name: parent.value, known: known.to_vec() },
    };
    documents.absent_parents(name).into_iter().map(issue).collect()
}

/// Keys of a job that the format keeps for old files, with those that new files use.
const AGEING: [(&str, &str); 3] = [("only", "rules"), ("except", "rules"), ("type", "stage")];

/// Such keys of a job with all that it builds on.
pub(super) fn ageing_keys(documents: &Documents<'_>, job: &Map) -> Vec<FormIssue> {
    let issue = |(old, new): (&str, &str)| {
        let key = documents.key_of(job, old)?;
        Some(FormIssue { at: key.at, kind: FormIssueKind::AgeingKey { key: key.value, instead: new.to_owned() } })
    };
    AGEING.into_iter().filter_map(issue).collect()
}

/// Jobs of which something cannot be read as it is meant, or that name jobs and stages which are not there: the file is refused, and
/// what they find and hand on is not known until that is mended.
fn unclear_jobs(pipeline: &mut Pipeline, issues: &[FormIssue]) {
    let ids: HashSet<String> = pipeline.jobs.iter().map(|job| job.id.value.clone()).collect();
    let stages: Option<Vec<String>> =
        pipeline.stages.as_ref().map(|stages| stages.iter().map(|stage| stage.value.clone()).collect());
    for job in &mut pipeline.jobs {
        for need in job.needs.iter_mut().chain(&mut job.takes_from) {
            if let Some(meant) = meant_job(&ids, &need.value) {
                let slip = std::mem::replace(need, Text::fixed(&meant, need.at));
                job.slipped_needs.push(slip);
            }
        }
        let names_nobody = job.needs.iter().chain(&job.takes_from).any(|need| !ids.contains(&need.value));
        let no_stage =
            job.stage.as_ref().zip(stages.as_ref()).is_some_and(|(stage, stages)| {
                !matches!(stage.value.as_str(), ".pre" | ".post") && !stages.contains(&stage.value)
            });
        let misread = issues.iter().any(|issue| {
            let inside = issue.at.file == job.body.file && job.body.span.range().contains(&(issue.at.span.start as usize));
            inside
                && matches!(
                    issue.kind,
                    FormIssueKind::WrongShape { .. }
                        | FormIssueKind::UnknownKey { meant: None, .. }
                        | FormIssueKind::MissingKey { .. }
                )
        });
        if names_nobody || no_stage || misread {
            job.steps.insert(0, Step::new(job.id.at, Work::Unclear));
            job.needs_unknown = true;
        }
    }
}

/// Conditions that cannot be read, each where it is written; those that are made of other keys are left out.
fn conditions<'s>(pipeline: &Pipeline, sources: impl Iterator<Item = &'s SourceFile>) -> Vec<FormIssue> {
    let texts: Vec<&str> = sources.map(|source| source.text.as_str()).collect();
    let choices = pipeline.choices.iter().chain(pipeline.jobs.iter().flat_map(|job| &job.when.choices));
    // A value that is filled in by whoever includes the file is not known here.
    let written = |text: &Text| texts.iter().any(|source| source.contains(text.value.as_str())) && !text.value.contains("$[[");
    let conditions = choices.flat_map(|choice| choice.cond.conditions());
    crate::form::unread_conditions(conditions.filter(|condition| condition.error().is_some() && written(&condition.text)))
}

fn grammar_issues(file: FileId, tree: &Tree, pipeline: &Pipeline) -> Vec<FormIssue> {
    let grammar = &super::data().grammar;
    let root = merge::pipeline_root(tree);
    let includes = root.is_some_and(|root| tree.get(root, "include").is_some());
    let scope = crate::form::Scope::new(pipeline);
    let issues = crate::form::walk(tree, root, file, grammar, "gitlab", pipeline.customs.wrong_key.is_refused(), &scope);
    // What an included file brings may complete whatever stands here but the include itself.
    let completes = |kind: &FormIssueKind| match kind {
        FormIssueKind::MissingKey { within, .. } => includes && within != "`include`",
        _ => false,
    };
    let templated = |place: Place| tree.source()[place.span.range()].contains("$[[");
    issues.into_iter().filter(|issue| !completes(&issue.kind) && !templated(issue.at)).collect()
}

/// Among more jobs nobody looks for the one that a slip means.
const SLIP_JOBS: usize = 300;

/// The job that is surely meant by a name which is none.
pub(super) fn meant_job(ids: &HashSet<String>, name: &str) -> Option<String> {
    if ids.len() > SLIP_JOBS || ids.contains(name) {
        return None;
    }
    let meant = knowledge::near(name, ids.iter().map(String::as_str), knowledge::Among::Whole)?;
    meant.sure.then_some(meant.word)
}
