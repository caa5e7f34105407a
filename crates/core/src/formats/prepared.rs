//! Pipeline files after reading.

use super::starts;
use super::{Claim, Format, ReadText, Texts, bounds};
use crate::carrier::{self, Copies};
use crate::facts::StartsSetting;
use crate::form::{FormIssue, FormIssueKind};
use crate::model::Pipeline;
use crate::text::{FileId, Place, SourceFile, Sources, Span};

/// A pipeline file of a repository.
#[derive(Clone, Debug)]
pub struct PipelineFile {
    /// Its text; empty when it could not be read.
    pub file: FileId,
    /// The format.
    pub format: &'static dyn Format,
    /// Why it could not be read.
    pub refused: Option<String>,
    /// The files of the repository that it is made of besides.
    pub parts: Vec<FileId>,
    /// Something that it is made of is not there.
    pub missing: bool,
    /// Of the files of which it matters whether they are there, those that are.
    pub there: Vec<String>,
    /// What dulk.toml says of what starts it.
    pub declared: Vec<StartsSetting>,
}

/// A pipeline after reading.
#[derive(Clone, Debug)]
pub struct Prepared {
    /// The model; empty where nothing could be read.
    pub pipeline: Pipeline,
    /// What does not fit in its file, in the order it stands. With several pipelines in a file, the first has it.
    pub form: Vec<FormIssue>,
    /// Findings that comments accept.
    pub acceptances: Vec<crate::accept::Acceptance>,
    /// The whole text could be read; otherwise nothing but `form` is sure.
    pub whole: bool,
}

/// Reads a file; at least one pipeline comes of it. It needs no facts, so that files can be read at the same time. `copies` is what may be
/// copied from one place of its texts to another.
pub fn prepare(pipeline: &PipelineFile, sources: &Sources, copies: &Copies) -> Vec<Prepared> {
    let source = sources.get(pipeline.file);
    if let Some(reason) = &pipeline.refused {
        return vec![refused(pipeline, source, FormIssueKind::Refused { reason: reason.clone() })];
    }
    let main = read_text(pipeline.file, source, pipeline.format.parse(&source.text, copies));
    let part = |part: &FileId| {
        let source = sources.get(*part);
        read_text(*part, source, carrier::parse_within(&source.text, copies))
    };
    let parts = pipeline.parts.iter().map(part).collect();
    let texts = Texts { main, parts, missing: pipeline.missing, there: &pipeline.there, copies };
    let mut prepared = prepare_texts(pipeline.format, &texts);
    prepared.iter_mut().for_each(|one| starts::declare(&mut one.pipeline, &pipeline.declared));
    prepared
}

/// Reads a file that is made of nothing else.
pub fn prepare_alone(file: FileId, source: &SourceFile, format: &'static dyn Format) -> Vec<Prepared> {
    let copies = Copies::default();
    let main = read_text(file, source, format.parse(&source.text, &copies));
    prepare_texts(format, &Texts { main, parts: Vec::new(), missing: false, there: &[], copies: &copies })
}

fn read_text(file: FileId, source: &SourceFile, tree: carrier::Tree) -> ReadText<'_> {
    ReadText { file, source, tree }
}

fn prepare_texts(format: &'static dyn Format, texts: &Texts<'_>) -> Vec<Prepared> {
    let mut form: Vec<FormIssue> = texts.iter().flat_map(unreadable).collect();
    let main = texts.main.file;
    let is_small = || !texts.copies.are_spent();
    // Some of what is copied shows only when it is read.
    let reading = is_small().then(|| format.read(texts)).filter(|_| is_small());
    if reading.is_none() {
        let cut = texts.iter().find_map(|one| one.tree.too_large.map(|span| Place { file: one.file, span }));
        let at = cut.unwrap_or(Place { file: main, span: Span::default() });
        form.push(FormIssue { at, kind: FormIssueKind::TooLarge });
    }
    let beyond = reading.as_ref().and_then(|reading| bounds::beyond(&reading.pipelines));
    let reading = reading.filter(|_| beyond.is_none());
    form.extend(beyond);
    let whole = texts.main.tree.is_whole() && reading.is_some();
    if whole {
        form.extend(misplaced(format, &texts.main));
    }
    let (mut pipelines, issues) = reading.map(|reading| (reading.pipelines, reading.form)).unwrap_or_default();
    form.extend(issues);
    let acceptances = texts.iter().flat_map(|one| crate::accept::acceptances(one.file, one.source, &one.tree)).collect();
    if pipelines.is_empty() {
        pipelines.push(Pipeline::empty(main, format, format.customs(&texts.main.source.path)));
    }
    pipelines.iter_mut().for_each(Pipeline::index_jobs);
    let mut prepared: Vec<Prepared> =
        pipelines.into_iter().map(|pipeline| Prepared { pipeline, form: Vec::new(), acceptances: Vec::new(), whole }).collect();
    prepared[0].form = form;
    prepared[0].acceptances = acceptances;
    prepared
}

fn unreadable<'t>(one: &'t ReadText<'_>) -> impl Iterator<Item = FormIssue> + use<'t> {
    one.tree.errors.iter().map(|error| FormIssue {
        at: Place { file: one.file, span: error.span },
        kind: FormIssueKind::Unreadable { reason: error.reason.clone() },
    })
}

/// What is wrong with the place of a file, if anything.
fn misplaced(format: &dyn Format, one: &ReadText<'_>) -> Option<FormIssue> {
    let Claim::Slip { wanted, because: reason, moved } = format.claim(&one.source.path) else { return None };
    let at = Place { file: one.file, span: Span::default() };
    format.fits(&one.tree).then_some(FormIssue { at, kind: FormIssueKind::Misplaced { wanted, reason, moved } })
}

/// A file of which nothing was read.
fn refused(pipeline: &PipelineFile, source: &SourceFile, kind: FormIssueKind) -> Prepared {
    let at = Place { file: pipeline.file, span: Span::default() };
    Prepared {
        pipeline: Pipeline::empty(pipeline.file, pipeline.format, pipeline.format.customs(&source.path)),
        form: vec![FormIssue { at, kind }],
        acceptances: Vec::new(),
        whole: false,
    }
}
