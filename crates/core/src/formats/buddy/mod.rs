//! `buddy.yml` and `.buddy/*.yml`: pipelines of actions that share one file system, which stays from run to run.

mod actions;
mod draft;
mod form;
mod pen;
mod places;
mod read;
mod starts;
#[cfg(test)]
mod tests;

use super::{Claim, Format, Reading, Spot, Texts};
use crate::carrier::{NodeId, Tree};
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &Buddy;

#[derive(Debug)]
struct Buddy;

fn data() -> &'static FormatData {
    knowledge::formats::buddy()
}

/// The pipelines of a file: those of a list, or one alone.
fn pipelines(tree: &Tree) -> Vec<NodeId> {
    let Some(root) = tree.documents.first().copied() else { return Vec::new() };
    match tree.items(root) {
        [] => Some(root).filter(|root| tree.get(*root, "pipeline").is_some()).into_iter().collect(),
        items => items.to_vec(),
    }
}

impl Format for Buddy {
    fn id(&self) -> &'static str {
        "buddy"
    }

    fn data(&self) -> &'static FormatData {
        data()
    }

    fn spots(&self) -> Vec<Spot> {
        vec![Spot::File(places::NAME.to_owned()), Spot::Folder(places::FOLDER.to_owned())]
    }

    fn claim(&self, path: &str) -> Claim {
        places::claim(path)
    }

    fn fits(&self, tree: &Tree) -> bool {
        pipelines(tree).iter().any(|one| tree.get(*one, "pipeline").is_some() && tree.get(*one, "actions").is_some())
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
