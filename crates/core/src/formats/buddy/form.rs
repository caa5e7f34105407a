//! What does not fit in `buddy.yml`.

use super::read;
use crate::carrier::Tree;
use crate::form::{FormIssue, Scope};
use crate::formats::{Reading, Texts};
use crate::model::Pipeline;
use crate::text::FileId;

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let mut pipelines = read::read(&main.tree, texts);
    if !main.tree.is_whole() {
        return Reading { pipelines, form: Vec::new() };
    }
    let mut form = issues(&main.tree, main.file, pipelines.first());
    let meant = crate::form::meant_words(&form, main.file);
    if !meant.is_empty() {
        let reworded = main.tree.reworded(&meant);
        pipelines = read::read(&reworded, texts);
        form = issues(&main.tree, main.file, pipelines.first());
    }
    Reading { pipelines, form }
}

fn issues(tree: &Tree, file: FileId, first: Option<&Pipeline>) -> Vec<FormIssue> {
    let Some(first) = first else { return Vec::new() };
    let (grammar, scope) = (&super::data().grammar, Scope::new(first));
    let strict = first.customs.wrong_key.is_refused();
    let of_one = |node| crate::form::walk(tree, Some(node), file, grammar, "pipeline", strict, &scope);
    super::pipelines(tree).into_iter().flat_map(of_one).collect()
}
