//! The definition of a pipeline, as the service prints it or as a resource of a template, with the builds that it runs; and in the same
//! template apps that the service builds itself, builds that run alone, and buckets that serve a site.

mod actions;
mod apps;
mod buckets;
mod code;
mod draft;
mod form;
mod jobs;
mod pen;
mod places;
mod projects;
mod read;
mod starts;
#[cfg(test)]
mod tests;
mod values;

use super::{Claim, Format, Programs, Reading, Spot, Texts, Wanted};
use crate::carrier::{Copies, Tree};
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &CodePipeline;

#[derive(Debug)]
struct CodePipeline;

fn data() -> &'static FormatData {
    knowledge::formats::codepipeline()
}

impl Format for CodePipeline {
    fn id(&self) -> &'static str {
        "codepipeline"
    }

    fn data(&self) -> &'static FormatData {
        data()
    }

    fn spots(&self) -> Vec<Spot> {
        Vec::new()
    }

    fn looked_for(&self) -> Vec<String> {
        vec!["a pipeline definition in any *.json, template (*.yml, *.yaml, *.template) or code beside cdk.json".to_owned()]
    }

    fn claim(&self, path: &str) -> Claim {
        places::claim(path)
    }

    fn programs(&self) -> Option<&'static Programs> {
        Some(&places::PROGRAMS)
    }

    fn parse(&self, text: &str, copies: &Copies) -> Tree {
        read::parse(text, copies)
    }

    fn begins(&self, head: &str) -> bool {
        places::begins(head)
    }

    fn mentions(&self, text: &str) -> bool {
        places::mentions(text)
    }

    fn fits(&self, tree: &Tree) -> bool {
        places::fits(tree)
    }

    fn wants(&self, text: &str) -> Vec<Wanted> {
        read::wants(text)
    }

    fn runs_parts(&self) -> bool {
        true
    }

    fn drafter(&self) -> Option<&'static dyn Drafter> {
        Some(&draft::Draft)
    }

    fn read(&self, texts: &Texts<'_>) -> Reading {
        read::read(texts)
    }

    fn write(&self, case: &Case<'_>, ask: &Ask<'_>) -> Mend {
        pen::write(case, ask)
    }
}
