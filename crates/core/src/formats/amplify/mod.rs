//! `amplify.yml`: one app or several in a repository, each built and put online by the service itself.

mod draft;
mod form;
mod places;
mod read;
#[cfg(test)]
mod tests;

pub(super) use form::issues;
pub(super) use read::{App, apps, published};

use super::phased::{self, Words};
use super::{Claim, Format, Reading, Spot, Texts};
use crate::carrier::Tree;
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::knowledge::{self, Customs, FormatData};
use crate::pen::Ask;

/// The format.
pub(super) const FORMAT: &dyn Format = &Amplify;

/// Its name.
pub(super) const ID: &str = "amplify";

#[derive(Debug)]
struct Amplify;

fn data() -> &'static FormatData {
    knowledge::formats::amplify()
}

/// What the service does by itself, for whoever reads an app of it elsewhere.
pub(super) fn customs() -> &'static Customs {
    &data().customs
}

const WORDS: Words =
    Words { base: "baseDirectory", build: "build", variables: "`env`, `variables`", secrets: "in the app's settings" };

impl Format for Amplify {
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
        let frontend = |node| tree.value(node, "frontend").is_some_and(|part| tree.get(part, "phases").is_some());
        let of_list = tree.value(root, "applications").map(|list| tree.items(list)).unwrap_or_default();
        frontend(root) || of_list.iter().any(|one| frontend(*one))
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
