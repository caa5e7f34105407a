//! What does not fit in `.travis.yml`.

use super::read;
use crate::carrier::{NodeId, Tree};
use crate::form::{FormIssue, FormIssueKind};
use crate::formats::{Reading, Texts};
use crate::model::{Condition, Language, Pipeline};
use crate::text::FileId;

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let mut pipeline = read::read(&main.tree, texts);
    if !main.tree.is_whole() {
        return Reading { pipelines: vec![pipeline], form: Vec::new() };
    }
    let mut form = issues(&main.tree, main.file, &pipeline);
    let meant = crate::form::meant_words(&form, main.file);
    if !meant.is_empty() {
        pipeline = read::read(&main.tree.reworded(&meant), texts);
        form = issues(&main.tree, main.file, &pipeline);
    }
    form.extend(conditions(&pipeline));
    Reading { pipelines: vec![pipeline], form }
}

fn issues(tree: &Tree, file: FileId, pipeline: &Pipeline) -> Vec<FormIssue> {
    let grammar = &super::data().grammar;
    let root: Option<NodeId> = tree.documents.first().copied();
    crate::form::walk(tree, root, file, grammar, "travis", pipeline.customs.wrong_key.is_refused(), &crate::form::Scope::new(pipeline))
}

/// Conditions that cannot be read, in whichever of the two languages, each told once.
fn conditions(pipeline: &Pipeline) -> Vec<FormIssue> {
    let all = pipeline.conditions().chain(pipeline.jobs.iter().flat_map(|job| job.all_conditions()));
    let mut found: Vec<FormIssue> = Vec::new();
    for condition in all.filter(|condition| condition.expression().is_none()) {
        let Some(error) = error(condition) else { continue };
        let at = condition.text.place(error.range);
        if found.iter().all(|known| known.at != at) {
            found.push(FormIssue { at, kind: FormIssueKind::Expression { reason: error.reason, quotes: false, instead: None } });
        }
    }
    found
}

fn error(condition: &Condition) -> Option<crate::expression::ExprError> {
    let text = &condition.text.value;
    match condition.text.language {
        Language::Phrases => crate::expression::parse_phrases(text).err(),
        Language::ShellTest => crate::expression::parse_shell_test(text).err(),
        Language::Contexts | Language::Variables => None,
    }
}
