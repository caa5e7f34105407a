//! What does not fit in `buildspec.yml`.

use super::read;
use crate::carrier::{NodeId, Tree};
use crate::form::{FormIssue, Scope, walk};
use crate::formats::{Reading, Texts, read_as_meant};
use crate::model::Pipeline;
use crate::text::FileId;

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let of_tree = |tree: &Tree, pipeline: &Pipeline| issues(tree, tree.documents.first().copied(), main.file, pipeline);
    let (pipeline, form) = read_as_meant(main, |tree| read::read(tree, main.file), of_tree);
    Reading { pipelines: vec![pipeline], form }
}

/// What does not fit in a build that begins at a node.
pub(in crate::formats) fn issues(tree: &Tree, root: Option<NodeId>, file: FileId, pipeline: &Pipeline) -> Vec<FormIssue> {
    walk(tree, root, file, &super::data().grammar, "buildspec", false, &Scope::new(pipeline))
}
