//! `.travis.yml`: jobs out of lists of values, each a fresh machine, with phases in a fixed order.

mod around;
mod deploy;
mod draft;
mod env;
mod form;
mod jobs;
mod pen;
mod phases;
mod places;
mod read;
#[cfg(test)]
mod tests;
mod when;

use super::{Claim, Format, Reading, Spot, Texts, Wanted};
use crate::carrier::Tree;
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &Travis;

#[derive(Debug)]
struct Travis;

fn data() -> &'static FormatData {
    knowledge::formats::travis()
}

impl Format for Travis {
    fn id(&self) -> &'static str {
        "travis"
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
        let has = |key: &str| tree.get(root, key).is_some();
        let own = ["language", "node_js", "rvm", "dist", "before_install", "install", "deploy", "sudo"];
        !["on", "stages"].iter().any(|key| has(key)) && own.iter().filter(|key| has(key)).count() > 1
            || has("language") && (has("script") || has("jobs") || has("matrix"))
    }

    fn wants(&self, _: &str) -> Vec<Wanted> {
        data().list("looked-for").iter().map(|path| Wanted::Look((*path).to_owned())).collect()
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
