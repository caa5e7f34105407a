//! `buildspec.yml`: phases of commands in a fixed order, and the artifact that they leave.

mod draft;
mod form;
mod phases;
mod places;
mod read;
#[cfg(test)]
mod tests;

pub(super) use form::issues;
pub(super) use read::{Build, build};

use super::phased::{self, Words};
use super::{Claim, Format, Reading, Spot, Texts};
use crate::carrier::Tree;
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

pub(super) use draft::phases as draft_phases;

/// The format.
pub(super) const FORMAT: &dyn Format = &Buildspec;

/// Its name.
pub(super) const ID: &str = "buildspec";

#[derive(Debug)]
struct Buildspec;

fn data() -> &'static FormatData {
    knowledge::formats::buildspec()
}

const WORDS: Words = Words {
    base: "base-directory",
    build: "build",
    variables: "`env`, `variables`",
    secrets: "name the safe that holds it under `env`, `secrets-manager`",
};

impl Format for Buildspec {
    fn id(&self) -> &'static str {
        ID
    }

    fn data(&self) -> &'static FormatData {
        data()
    }

    fn spots(&self) -> Vec<Spot> {
        vec![Spot::File(places::NAME.to_owned())]
    }

    fn claim(&self, path: &str) -> Claim {
        places::claim(path)
    }

    fn fits(&self, tree: &Tree) -> bool {
        let Some(root) = tree.documents.first().copied() else { return false };
        let phases = tree.value(root, "phases");
        tree.get(root, "version").is_some() && phases.is_some_and(|phases| !tree.pairs(phases).is_empty())
    }

    fn drafter(&self) -> Option<&'static dyn Drafter> {
        Some(&draft::Draft)
    }

    fn read(&self, texts: &Texts<'_>) -> Reading {
        form::read(texts)
    }

    fn write(&self, case: &Case<'_>, ask: &Ask<'_>) -> Mend {
        phased::write(case, ask, &WORDS)
    }
}
