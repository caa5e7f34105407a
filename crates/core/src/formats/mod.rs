//! The formats that pipelines are written in, one folder each: which files are theirs, how those are read into the neutral model, and how
//! a fix is spelled in them. What a format does by itself is data, in `catalog/formats/`. Nothing outside a format's folder and its
//! entry in [`all`] knows of it.

mod amplify;
mod bounds;
mod buddy;
mod buildspec;
mod cloudbuild;
mod codepipeline;
mod gitlab;
mod jenkins;
mod keys;
mod nodes;
mod phased;
mod prepared;
mod published;
mod repository;
mod starts;
#[cfg(test)]
mod tests;
mod travis;
mod workflow;

use std::fmt::Debug;

pub use prepared::{PipelineFile, Prepared, prepare, prepare_alone};
pub use repository::{AskedFor, FilesError, claim_text, formats_read, pipeline_files};

use nodes::joined;

use crate::carrier::{Copies, Tree};
use crate::case::Case;
use crate::draft::Drafter;
use crate::finding::Mend;
use crate::form::FormIssue;
use crate::knowledge::{self, Customs, FormatData, Grammar, Run};
use crate::model::Pipeline;
use crate::pen::Ask;
use crate::text::{FileId, SourceFile};

/// A format of pipeline files.
pub trait Format: Debug + Sync {
    /// Its name in JSON output and in texts.
    fn id(&self) -> &'static str;

    /// What is known of it.
    fn data(&self) -> &'static FormatData;

    /// Where its files lie, for listing them and for telling people where nothing was found.
    fn spots(&self) -> Vec<Spot>;

    /// What is looked for, for people: its spots, and what is found by what it holds.
    fn looked_for(&self) -> Vec<String> {
        self.spots().iter().map(Spot::pattern).collect()
    }

    /// Whether a file of this path, from the repository's root, is one of its own.
    fn claim(&self, path: &str) -> Claim;

    /// Programs that make what is read, when some do.
    fn programs(&self) -> Option<&'static Programs> {
        None
    }

    /// Whether the first bytes of a file may be those of one of its own, where its name says nothing for sure.
    fn begins(&self, head: &str) -> bool {
        let _ = head;
        true
    }

    /// Whether a text may be one of its own, looked at without reading it.
    fn mentions(&self, text: &str) -> bool {
        let _ = text;
        true
    }

    /// The parts that it wants are pipelines of other formats, which it runs: they are no pipelines of their own then.
    fn runs_parts(&self) -> bool {
        false
    }

    /// What drafts a file of its own for a repository that has none.
    fn drafter(&self) -> Option<&'static dyn Drafter> {
        None
    }

    /// The tree of a text, copying no more than may be.
    fn parse(&self, text: &str, copies: &Copies) -> Tree {
        crate::carrier::parse_within(text, copies)
    }

    /// Whether a text looks like one of its own, whatever its name.
    fn fits(&self, tree: &Tree) -> bool;

    /// The other files of the repository that a text of its own is made of or runs.
    fn wants(&self, text: &str) -> Vec<Wanted> {
        let _ = text;
        Vec::new()
    }

    /// Reads a file. Whatever does not fit is left out of the model, and told as a form issue.
    fn read(&self, texts: &Texts<'_>) -> Reading;

    /// The mend for what a rule asks for, in the words of the format.
    fn write(&self, case: &Case<'_>, ask: &Ask<'_>) -> Mend;

    /// The place of the grammar that its files begin with, where they are written in YAML; `part` for one that others run in a step.
    fn top(&self, part: bool) -> Option<&'static str> {
        let grammar = self.grammar();
        let word = if part { "action" } else { self.id() };
        grammar.start(word).or_else(|| grammar.place(self.id()).map(|_| self.id())).or_else(|| grammar.only_start())
    }

    /// What it does by itself where the forge runs it that reads the file of a path.
    fn customs(&self, path: &str) -> &'static Customs {
        self.data().customs_at(path)
    }

    /// What a run knows of itself.
    fn run(&self) -> &'static Run {
        &self.data().run
    }

    /// Its places, keys, events and names.
    fn grammar(&self) -> &'static Grammar {
        &self.data().grammar
    }
}

/// All formats.
pub fn all() -> &'static [&'static dyn Format] {
    &[
        workflow::FORMAT,
        gitlab::FORMAT,
        travis::FORMAT,
        buddy::FORMAT,
        buildspec::FORMAT,
        amplify::FORMAT,
        codepipeline::FORMAT,
        cloudbuild::FORMAT,
        jenkins::FORMAT,
        #[cfg(test)]
        tests::FORMAT,
    ]
}

/// Where files of a format lie.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Spot {
    /// One file.
    File(String),
    /// YAML files directly in a folder, of which some may be its own.
    Folder(String),
}

impl Spot {
    /// What to look for, for people.
    pub fn pattern(&self) -> String {
        match self {
            Self::File(path) => path.clone(),
            Self::Folder(folder) => format!("{folder}/*.yml and *.yaml"),
        }
    }
}

/// What a format says of a path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Claim {
    /// The forge reads a pipeline here.
    Reads,
    /// It is a part that pipelines run by naming its folder.
    Part,
    /// No forge reads it here, though it may well be meant.
    Slip {
        /// Where it would be read.
        wanted: String,
        /// Why it is not read here.
        because: String,
        /// It lies below a folder that it moved along with: so says only who knows that nothing is read at the root.
        moved: bool,
    },
    /// One of its own when what it holds is: the name may be that of anything.
    Perhaps,
    /// Not one of its own.
    No,
}

/// Programs that make pipelines: their files of code are looked at where the repository holds a certain file too.
#[derive(Debug)]
pub struct Programs {
    /// The name of that file, in whatever folder.
    pub known_by: &'static str,
    /// Whether a path is that of a file of code.
    pub is_code: fn(&str) -> bool,
}

/// A file that another one needs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Wanted {
    /// A part of it, by its path or by a pattern with stars.
    Part(String),
    /// A file of which it matters whether it is there, by its path.
    Look(String),
    /// A file that it runs, which is read as a pipeline of the format with this name.
    Runs {
        /// The path.
        path: String,
        /// The format's name.
        format: &'static str,
    },
}

/// A file with its tree.
#[derive(Debug)]
pub struct ReadText<'a> {
    /// Which file.
    pub file: FileId,
    /// Its text.
    pub source: &'a SourceFile,
    /// The text's tree.
    pub tree: Tree,
}

/// The texts that pipelines are read from.
#[derive(Debug)]
pub struct Texts<'a> {
    /// The file itself.
    pub main: ReadText<'a>,
    /// What it is made of besides.
    pub parts: Vec<ReadText<'a>>,
    /// Some of what it is made of is not there.
    pub missing: bool,
    /// Of the files of which that matters, those that are there.
    pub there: &'a [String],
    /// What may still be copied from one place of the texts to another.
    pub copies: &'a Copies,
}

impl<'a> Texts<'a> {
    /// Whether a file is there of which that matters.
    pub fn has(&self, path: &str) -> bool {
        self.there.iter().any(|there| there == path)
    }

    /// The file itself, and then its parts.
    pub fn iter(&self) -> impl Iterator<Item = &ReadText<'a>> {
        std::iter::once(&self.main).chain(&self.parts)
    }
}

/// Reads a file, and once more with what is meant where words of it are surely slips. A text that is not whole is looked at no further.
fn read_as_meant<P>(
    main: &ReadText<'_>,
    read: impl Fn(&Tree) -> P,
    issues: impl Fn(&Tree, &P) -> Vec<FormIssue>,
) -> (P, Vec<FormIssue>) {
    let found = read(&main.tree);
    if !main.tree.is_whole() {
        return (found, Vec::new());
    }
    let form = issues(&main.tree, &found);
    let meant = crate::form::meant_words(&form, main.file);
    if meant.is_empty() {
        return (found, form);
    }
    let found = read(&main.tree.reworded(&meant));
    let form = issues(&main.tree, &found);
    (found, form)
}

/// What a file holds.
#[derive(Debug)]
pub struct Reading {
    /// Its pipelines, in the order they stand; those of one file are told apart by their names.
    pub pipelines: Vec<Pipeline>,
    /// What does not fit.
    pub form: Vec<FormIssue>,
}

/// The format that claims a path whatever the file holds, and how.
pub fn claim(path: &str) -> Option<(&'static dyn Format, Claim)> {
    all().iter().map(|format| (*format, format.claim(path))).find(|(_, claim)| !matches!(claim, Claim::No | Claim::Perhaps))
}

/// Whether forges read a pipeline at this path.
pub fn is_read(path: &str) -> bool {
    all().iter().any(|format| format.claim(path) == Claim::Reads)
}

/// Whether what a file of this path holds decides that a pipeline is read in it.
pub fn may_be_read(path: &str) -> bool {
    all().iter().any(|format| matches!(format.claim(path), Claim::Perhaps))
}

/// The format of a name.
pub fn named(id: &str) -> Option<&'static dyn Format> {
    all().iter().copied().find(|format| format.id() == id)
}

/// What a file is that has the right name and lies below a folder, where only the root is looked at; `who` looks there.
fn below_the_root(path: &str, name: &str, who: &str) -> Claim {
    match path.strip_suffix(name).and_then(|folder| folder.strip_suffix('/')) {
        Some(folder) if !is_kept_on_purpose(path) && !is_of_others(path) => {
            let because = format!("it lies below {folder}; {who}");
            Claim::Slip { wanted: name.to_owned(), because, moved: true }
        }
        _ => Claim::No,
    }
}

/// Whether the name of a file or folder says that it is kept switched off, or as an example, on purpose.
fn is_kept_on_purpose(path: &str) -> bool {
    knowledge::names().is_kept_on_purpose(path)
}

/// Whether a path lies among what others wrote.
fn is_of_others(path: &str) -> bool {
    knowledge::names().is_of_others(path)
}
