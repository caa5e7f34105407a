//! `cloudbuild.yaml`, `.yml` and `.json`: steps in images of their own, which share one folder and nothing else.

mod dollars;
mod draft;
mod form;
mod limits;
mod pen;
mod places;
mod read;
mod secrets;
mod steps;
#[cfg(test)]
mod tests;

use super::{Claim, Format, Reading, Spot, Texts};
use crate::carrier::Tree;
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &CloudBuild;

#[derive(Debug)]
struct CloudBuild;

fn data() -> &'static FormatData {
    knowledge::formats::cloudbuild()
}

impl Format for CloudBuild {
    fn id(&self) -> &'static str {
        "cloudbuild"
    }

    fn data(&self) -> &'static FormatData {
        data()
    }

    fn spots(&self) -> Vec<Spot> {
        places::NAMES.iter().map(|name| Spot::File((*name).to_owned())).collect()
    }

    fn claim(&self, path: &str) -> Claim {
        places::claim(path)
    }

    fn mentions(&self, text: &str) -> bool {
        text.contains("steps")
    }

    fn fits(&self, tree: &Tree) -> bool {
        places::fits(tree)
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
