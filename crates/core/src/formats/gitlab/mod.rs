//! `.gitlab-ci.yml` and the local files that it includes.

mod around;
mod choices;
mod draft;
mod form;
mod merge;
mod pen;
mod places;
mod read;

use super::{Claim, Format, Reading, Spot, Texts, Wanted};
use crate::carrier::Tree;
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &Gitlab;

#[derive(Debug)]
struct Gitlab;

fn data() -> &'static FormatData {
    knowledge::formats::gitlab()
}

impl Format for Gitlab {
    fn id(&self) -> &'static str {
        "gitlab"
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
        let Some(root) = merge::pipeline_root(tree) else { return false };
        let has_scripts = || tree.pairs(root).iter().any(|(_, job)| tree.get(*job, "script").is_some());
        let of_others = ["on", "language"].iter().any(|key| tree.get(root, key).is_some());
        !of_others && (tree.get(root, "stages").is_some() || has_scripts())
    }

    fn wants(&self, text: &str) -> Vec<Wanted> {
        read::includes(text)
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
