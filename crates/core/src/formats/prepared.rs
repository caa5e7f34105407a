//! Pipeline files after reading.

use super::starts;
use super::{Claim, Format, ReadText, Texts};
use crate::carrier;
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

/// Reads a file; at least one pipeline comes of it. It needs no facts, so that files can be read at the same time.
pub fn prepare(pipeline: &PipelineFile, sources: &Sources) -> Vec<Prepared> {
    let source = sources.get(pipeline.file);
    if let Some(reason) = &pipeline.refused {
        return vec![refused(pipeline.file, reason.clone(), pipeline.format, source)];
    }
    let main = read_text(pipeline.file, source, pipeline.format.parse(&source.text));
    let parts = pipeline
        .parts
        .iter()
        .map(|part| read_text(*part, sources.get(*part), carrier::parse(&sources.get(*part).text)))
        .collect();
    let mut prepared = prepare_texts(pipeline.format, &Texts { main, parts, missing: pipeline.missing, there: &pipeline.there });
    prepared.iter_mut().for_each(|one| starts::declare(&mut one.pipeline, &pipeline.declared));
    prepared
}

/// The same for a file that is made of nothing else.
pub fn prepare_alone(file: FileId, source: &SourceFile, format: &'static dyn Format) -> Vec<Prepared> {
    prepare_texts(
        format,
        &Texts { main: read_text(file, source, format.parse(&source.text)), parts: Vec::new(), missing: false, there: &[] },
    )
}

fn read_text(file: FileId, source: &SourceFile, tree: carrier::Tree) -> ReadText<'_> {
    ReadText { file, source, tree }
}

fn prepare_texts(format: &'static dyn Format, texts: &Texts<'_>) -> Vec<Prepared> {
    let whole = texts.main.tree.is_whole();
    let mut form: Vec<FormIssue> = texts.iter().flat_map(unreadable).collect();
    if whole {
        form.extend(misplaced(format, &texts.main));
    }
    let reading = format.read(texts);
    form.extend(reading.form);
    let acceptances = texts.iter().flat_map(|one| crate::accept::acceptances(one.file, one.source, &one.tree)).collect();
    let mut pipelines = reading.pipelines;
    if pipelines.is_empty() {
        pipelines.push(Pipeline::empty(texts.main.file, format, format.customs(&texts.main.source.path)));
    }
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

/// A file that could not be opened as a text.
fn refused(file: FileId, reason: String, format: &'static dyn Format, source: &SourceFile) -> Prepared {
    let at = Place { file, span: Span::default() };
    Prepared {
        pipeline: Pipeline::empty(file, format, format.customs(&source.path)),
        form: vec![FormIssue { at, kind: FormIssueKind::Refused { reason } }],
        acceptances: Vec::new(),
        whole: false,
    }
}
