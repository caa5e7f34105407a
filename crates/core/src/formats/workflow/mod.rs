//! `.github/workflows/*.yml` and its kin, and the composite actions of the repository.

mod draft;
mod pen;
mod places;
mod read;

use super::{Claim, Format, Reading, Spot, Texts};
use crate::carrier::{NodeId, Tree};
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::form::{self, FormIssue};
use crate::knowledge::{self, FormatData};
use crate::model::Pipeline;
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &Workflow;

#[derive(Debug)]
struct Workflow;

fn data() -> &'static FormatData {
    knowledge::formats::workflow()
}

impl Format for Workflow {
    fn id(&self) -> &'static str {
        "workflow"
    }

    fn data(&self) -> &'static FormatData {
        data()
    }

    fn spots(&self) -> Vec<Spot> {
        places::spots()
    }

    fn claim(&self, path: &str) -> Claim {
        places::claim(path)
    }

    fn fits(&self, tree: &Tree) -> bool {
        let Some(root) = tree.documents.first().copied() else { return false };
        let jobs = tree.value(root, "jobs").map(|jobs| tree.pairs(jobs)).unwrap_or_default();
        let is_job = |node: NodeId| ["runs-on", "uses", "steps"].iter().any(|key| tree.get(node, key).is_some());
        tree.get(root, "on").is_some() && jobs.iter().any(|(_, job)| is_job(*job))
    }

    fn drafter(&self) -> Option<&'static dyn Drafter> {
        Some(&draft::Draft)
    }

    fn read(&self, texts: &Texts<'_>) -> Reading {
        let main = &texts.main;
        let read = |tree: &Tree| read::read(tree, main.file, &main.source.path);
        let (pipeline, form) = super::read_as_meant(main, read, issues);
        Reading { pipelines: vec![pipeline], form }
    }

    fn write(&self, case: &Case<'_>, ask: &Ask<'_>) -> Mend {
        pen::write(case, ask)
    }
}

/// What does not fit in a file.
fn issues(tree: &Tree, pipeline: &Pipeline) -> Vec<FormIssue> {
    let grammar = &data().grammar;
    let start = if pipeline.is_part { "action" } else { "workflow" };
    let (start, scope) = (grammar.start(start).unwrap_or(start), form::Scope::new(pipeline));
    let strict = pipeline.customs.wrong_key.is_refused();
    let mut issues = form::walk(tree, tree.documents.first().copied(), pipeline.file, grammar, start, strict, &scope);
    issues.extend(form::keys_of_no_axis(pipeline));
    issues.extend(form::strange_defaults(pipeline));
    issues
}
