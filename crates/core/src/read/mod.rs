//! Dialect readers: from a tree to the neutral model, one file per format.

mod gitlab;
mod misplaced;
mod nodes;
mod workflow;

pub use gitlab::local_includes;
pub use misplaced::{GITLAB_SLIPS, is_pipeline, is_read, misplaced, moved_along};

use crate::form::{self, FormIssue, FormIssueKind};
use crate::model::{Dialect, Pipeline};
use crate::text::{FileId, Place, SourceFile};
use crate::{knowledge, tree};

/// The format of a pipeline file, by its path.
pub fn dialect_of(path: &str) -> Dialect {
    match path.rsplit('/').next().unwrap_or_default() {
        "action.yml" | "action.yaml" => Dialect::Action,
        ".gitlab-ci.yml" => Dialect::Gitlab,
        name if GITLAB_SLIPS.contains(&name) => Dialect::Gitlab,
        _ => Dialect::Workflow,
    }
}

/// A pipeline file after reading: what it holds, and what of its form does not fit.
#[derive(Clone, Debug)]
pub struct Prepared {
    /// The model; empty where nothing could be read.
    pub pipeline: Pipeline,
    /// In the order they stand.
    pub form: Vec<FormIssue>,
    /// Findings that comments accept.
    pub acceptances: Vec<crate::accept::Acceptance>,
    /// The whole text could be read; otherwise nothing but `form` is sure.
    pub whole: bool,
}

/// Reads one file. It needs no facts, so that files can be read at the same time.
pub fn prepare(file: FileId, source: &SourceFile, dialect: Dialect) -> Prepared {
    prepare_with(file, source, dialect, &[], false)
}

/// The same for a file that is made of several: `parts` are those that it includes, `missing` says that some of them are not there.
pub fn prepare_with(
    file: FileId,
    source: &SourceFile,
    dialect: Dialect,
    parts: &[(FileId, &SourceFile)],
    missing: bool,
) -> Prepared {
    if dialect == Dialect::Gitlab {
        let (pipeline, form, whole) = gitlab::prepare_tree(file, source, parts, missing);
        let texts = std::iter::once((file, source)).chain(parts.iter().copied());
        let acceptances =
            texts.flat_map(|(file, source)| crate::accept::acceptances(file, source, &tree::parse(&source.text))).collect();
        return Prepared { pipeline, form, acceptances, whole };
    }
    let tree = tree::parse(&source.text);
    let customs = knowledge::customs_of(dialect, &source.path);
    let mut pipeline = workflow::read(&tree, file, dialect, customs);
    let mut form: Vec<FormIssue> = tree
        .errors
        .iter()
        .map(|error| FormIssue {
            at: Place { file, span: error.span },
            kind: FormIssueKind::Unreadable { reason: error.reason.clone() },
        })
        .collect();
    let whole = tree.is_whole();
    if whole {
        let start = Place { file, span: crate::text::Span::default() };
        form.extend(misplaced::issue(&source.path, &tree).map(|kind| FormIssue { at: start, kind }));
        let mut issues = form_of_workflow(&tree, &pipeline);
        let meant = form::meant_words(&issues, file);
        if !meant.is_empty() {
            pipeline = workflow::read(&tree.reworded(&meant), file, dialect, customs);
            issues = form_of_workflow(&tree, &pipeline);
        }
        form.extend(issues);
    }
    let acceptances = crate::accept::acceptances(file, source, &tree);
    Prepared { pipeline, form, acceptances, whole }
}

fn form_of_workflow(tree: &tree::Tree<'_>, pipeline: &Pipeline) -> Vec<FormIssue> {
    let grammar = &knowledge::workflow().grammar;
    let start = if pipeline.is_part() { "action" } else { "workflow" };
    let (start, scope) = (grammar.start(start).unwrap_or(start), form::Scope::new(pipeline));
    let strict = pipeline.customs.wrong_key.is_refused();
    let mut issues = form::walk(tree, tree.documents.first().copied(), pipeline.file, grammar, start, strict, &scope);
    issues.extend(form::keys_of_no_axis(pipeline));
    issues.extend(form::strange_defaults(pipeline));
    issues
}

/// A file that could not be opened as a text.
pub fn refused(file: FileId, reason: String, dialect: Dialect) -> Prepared {
    let pipeline = Pipeline::empty(file, dialect, knowledge::customs_of(dialect, ""));
    let at = Place { file, span: crate::text::Span::default() };
    Prepared {
        pipeline,
        form: vec![FormIssue { at, kind: FormIssueKind::Refused { reason } }],
        acceptances: Vec::new(),
        whole: false,
    }
}
