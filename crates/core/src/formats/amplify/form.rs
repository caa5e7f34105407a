//! What does not fit in `amplify.yml`.

use super::read;
use crate::carrier::{NodeId, Tree};
use crate::form::{FormIssue, Scope, walk};
use crate::formats::{Reading, Texts, read_as_meant};
use crate::model::Pipeline;
use crate::text::FileId;

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let of_tree = |tree: &Tree, pipelines: &Vec<Pipeline>| {
        let none = Pipeline::empty(main.file, super::FORMAT, &super::data().customs);
        issues(tree, tree.documents.first().copied(), main.file, pipelines.first().unwrap_or(&none))
    };
    let (pipelines, form) = read_as_meant(main, |tree| read::read(tree, main.file), of_tree);
    Reading { pipelines, form }
}

/// What does not fit in a text that begins at a node.
pub(in crate::formats) fn issues(tree: &Tree, root: Option<NodeId>, file: FileId, pipeline: &Pipeline) -> Vec<FormIssue> {
    // A list at the top is meant to be that of the apps, whatever it is called.
    let lists = |root| {
        tree.pairs(root).iter().any(|(key, value)| tree.scalar(*key) != Some("customHeaders") && !tree.items(*value).is_empty())
    };
    let several = root.is_some_and(|root| tree.get(root, "applications").is_some() || lists(root));
    let start = if several { "applications" } else { "amplify" };
    walk(tree, root, file, &super::data().grammar, start, false, &Scope::new(pipeline))
}
