//! The declarative `Jenkinsfile`: stages of steps that share the workspace of their agent.

mod agents;
mod draft;
mod environment;
mod form;
mod language;
mod pen;
mod places;
mod post;
mod read;
mod stages;
mod starts;
mod steps;
#[cfg(test)]
mod tests;
mod text;
mod tree;
mod when;

use super::{Claim, Format, Reading, Spot, Texts};
use crate::carrier::{Copies, Tree};
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &Jenkins;

#[derive(Debug)]
struct Jenkins;

fn data() -> &'static FormatData {
    knowledge::formats::jenkins()
}

impl Format for Jenkins {
    fn id(&self) -> &'static str {
        "jenkins"
    }

    fn data(&self) -> &'static FormatData {
        data()
    }

    fn spots(&self) -> Vec<Spot> {
        vec![Spot::File(places::NAME.to_owned())]
    }

    fn looked_for(&self) -> Vec<String> {
        vec![format!("{} (also with an ending or a prefix)", places::NAME)]
    }

    fn claim(&self, path: &str) -> Claim {
        places::claim(path)
    }

    fn mentions(&self, text: &str) -> bool {
        text.contains("pipeline") && text.contains("stage")
    }

    fn parse(&self, text: &str, copies: &Copies) -> Tree {
        // Nothing in it stands for what is written elsewhere.
        let _ = copies;
        tree::tree(text)
    }

    fn fits(&self, tree: &Tree) -> bool {
        let pipeline = tree.documents.first().and_then(|root| tree.value(*root, "pipeline"));
        pipeline.is_some_and(|pipeline| tree.get(pipeline, "stages").is_some() && tree.get(pipeline, "agent").is_some())
    }

    fn drafter(&self) -> Option<&'static dyn Drafter> {
        Some(&draft::Draft)
    }

    fn read(&self, texts: &Texts<'_>) -> Reading {
        form::read(texts)
    }

    fn write(&self, case: &Case<'_>, ask: &Ask<'_>) -> Mend {
        pen::write(case, ask)
    }
}
