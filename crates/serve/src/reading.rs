//! What is asked while somebody reads: what stands here, where it is said and used, and what the file holds.

use dulk_core::cursor::{self, Outlined, OutlinedKind};
use dulk_core::rules;
use dulk_core::shown::shown;
use dulk_core::text::{SourceFile, Span};
use lsp_types::{
    CodeLens, CodeLensParams, Command, DocumentLink, DocumentLinkParams, DocumentSymbol, DocumentSymbolParams, FoldingRange,
    FoldingRangeKind, FoldingRangeParams, GotoDefinitionParams, HoverParams, InlayHint, InlayHintKind, InlayHintLabel,
    InlayHintParams, Location, ReferenceParams, SymbolInformation, SymbolKind,
};
use serde_json::{Value, json};

use crate::actions::WHEN_COMMAND;
use crate::findings::location;
use crate::session::Asked;

/// What stands at a position, in words; below it what is wrong there, with the rule's reason.
pub fn hover(asked: &Asked<'_>, params: HoverParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let encoding = asked.client().encoding;
    let offset = encoding.offset(source, params.text_document_position_params.position);
    let found = cursor::hover(&project, file, offset);
    let wrong = asked.house.findings_now().filter(|finding| {
        let span = finding.at.span;
        finding.at.file == file && span.start as usize <= offset && offset <= span.end as usize
    });
    let mut told: Vec<(&str, String)> = Vec::new();
    let mut span = found.as_ref().map(|hover| hover.at);
    for finding in wrong {
        span = span.or(Some(finding.at.span));
        if let Some(rule) = rules::find(finding.rule).filter(|rule| told.iter().all(|(id, _)| *id != rule.id)) {
            told.push((rule.id, format!("**{}**: {}", rule.id, rule.why)));
        }
    }
    let mut paragraphs = found.map(|hover| joined(&hover.lines)).into_iter().collect::<Vec<_>>();
    paragraphs.extend(told.into_iter().map(|(_, text)| text));
    let text = paragraphs.join("\n\n");
    let contents = match asked.client().markdown {
        true => json!({"kind": "markdown", "value": text}),
        false => json!({"kind": "plaintext", "value": text.replace("**", "")}),
    };
    Some(json!({"contents": contents, "range": encoding.range(source, span?)}))
}

/// Lines as paragraphs, those of a list right below each other.
fn joined(lines: &[String]) -> String {
    let mut text = String::new();
    for line in lines {
        if !text.is_empty() {
            text.push_str(if line.starts_with("- ") && text.rsplit('\n').next().is_some_and(|last| last.starts_with("- ")) {
                "\n"
            } else {
                "\n\n"
            });
        }
        text.push_str(line);
    }
    text
}

/// Where what stands at a position is said.
pub fn definition(asked: &Asked<'_>, params: GotoDefinitionParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let offset = asked.offset(params.text_document_position_params.position)?;
    let places = cursor::definitions(&project, file, offset);
    let locations: Vec<Location> = places.into_iter().filter_map(|at| asked.location(at)).collect();
    (!locations.is_empty()).then(|| json!(locations))
}

/// Where what stands at a position is used.
pub fn references(asked: &Asked<'_>, params: ReferenceParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let offset = asked.offset(params.text_document_position.position)?;
    let places = cursor::references(&project, file, offset, params.context.include_declaration);
    let locations: Vec<Location> = places.into_iter().filter_map(|at| asked.location(at)).collect();
    Some(json!(locations))
}

/// The files that are named in a file.
pub fn links(asked: &Asked<'_>, _: DocumentLinkParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let of_link = |link: cursor::Link| {
        let path = &project.sources.get(link.to).path;
        Some(DocumentLink {
            range: asked.client().encoding.range(source, link.at.span),
            target: Some(asked.session.uri_of(asked.house, path)?),
            tooltip: Some(shown(path)),
            data: None,
        })
    };
    Some(json!(cursor::links(&project, file).into_iter().filter_map(of_link).collect::<Vec<_>>()))
}

/// The jobs and steps of a file: as they were last good, where it is broken now.
pub fn symbols(asked: &Asked<'_>, params: DocumentSymbolParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let is_whole = project.prepared.iter().filter(|one| one.pipeline.file == file).all(|one| one.whole);
    let all = asked.house.last_good(&asked.path, is_whole, || cursor::outline(&project, file));
    if asked.client().nested_symbols {
        return Some(json!(all.iter().map(|one| nested(asked, source, one)).collect::<Vec<_>>()));
    }
    let mut flat = Vec::new();
    for one in &all {
        flat.push(flattened(asked, source, one, None, &params));
        flat.extend(one.inside.iter().map(|step| flattened(asked, source, step, Some(&one.name), &params)));
    }
    Some(json!(flat))
}

fn kind_of(one: &Outlined) -> SymbolKind {
    match one.kind {
        OutlinedKind::Start => SymbolKind::EVENT,
        OutlinedKind::Job => SymbolKind::CLASS,
        OutlinedKind::Step => SymbolKind::METHOD,
    }
}

#[expect(deprecated, reason = "the type has a field that is no longer used")]
fn nested(asked: &Asked<'_>, source: &SourceFile, one: &Outlined) -> DocumentSymbol {
    let encoding = asked.client().encoding;
    let inside: Vec<DocumentSymbol> = one.inside.iter().map(|one| nested(asked, source, one)).collect();
    DocumentSymbol {
        name: one.name.clone(),
        detail: None,
        kind: kind_of(one),
        tags: None,
        deprecated: None,
        range: encoding.range(source, one.whole),
        selection_range: encoding.range(source, one.name_at),
        children: (!inside.is_empty()).then_some(inside),
    }
}

#[expect(deprecated, reason = "the type has a field that is no longer used")]
fn flattened(
    asked: &Asked<'_>,
    source: &SourceFile,
    one: &Outlined,
    within: Option<&str>,
    params: &DocumentSymbolParams,
) -> SymbolInformation {
    SymbolInformation {
        name: one.name.clone(),
        kind: kind_of(one),
        tags: None,
        deprecated: None,
        location: Location { uri: params.text_document.uri.clone(), range: asked.client().encoding.range(source, one.whole) },
        container_name: within.map(str::to_owned),
    }
}

/// What can be folded.
pub fn folding(asked: &Asked<'_>, _: FoldingRangeParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let mut last = None;
    let of_span = |(span, is_comment): (Span, bool)| FoldingRange {
        start_line: source.position(span.start).line - 1,
        end_line: source.position(span.end).line - 1,
        kind: is_comment.then_some(FoldingRangeKind::Comment),
        ..FoldingRange::default()
    };
    let mut folds: Vec<FoldingRange> = cursor::folds(&project, file).into_iter().map(of_span).collect();
    // Of those that begin on one line, editors take the first.
    folds.sort_by_key(|fold| (fold.start_line, std::cmp::Reverse(fold.end_line)));
    folds.retain(|fold| last.replace(fold.start_line) != Some(fold.start_line));
    Some(json!(folds))
}

/// Words beside jobs and builds.
pub fn inlay_hints(asked: &Asked<'_>, params: InlayHintParams) -> Option<Value> {
    if !asked.client().wishes.inlay_hints {
        return None;
    }
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let encoding = asked.client().encoding;
    let span = encoding.span(source, params.range);
    let hints = cursor::hints(&project, file).into_iter().filter(|hint| span.start <= hint.behind && hint.behind <= span.end);
    let of_hint = |hint: cursor::Hint| InlayHint {
        position: encoding.position(source, hint.behind as usize),
        label: InlayHintLabel::String(hint.words),
        kind: None::<InlayHintKind>,
        text_edits: None,
        tooltip: None,
        padding_left: Some(true),
        padding_right: None,
        data: None,
    };
    Some(json!(hints.map(of_hint).collect::<Vec<_>>()))
}

/// Above each job: when it runs.
pub fn lenses(asked: &Asked<'_>, params: CodeLensParams) -> Option<Value> {
    if !asked.client().wishes.code_lens {
        return None;
    }
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let of_job = |job: cursor::TimedJob| CodeLens {
        range: asked.client().encoding.range(source, job.name_at),
        command: Some(Command {
            title: format!("when: {}", summary(&job)),
            command: WHEN_COMMAND.to_owned(),
            arguments: Some(vec![json!({"uri": params.text_document.uri, "job": job.id})]),
        }),
        data: None,
    };
    Some(json!(cursor::timed_jobs(&project, file).into_iter().map(of_job).collect::<Vec<_>>()))
}

/// Of how many events.
fn summary(job: &cursor::TimedJob) -> String {
    if job.runs.unknown {
        return "not known".to_owned();
    }
    let surely = job.runs.surely.len();
    let perhaps = job.runs.perhaps.len() + job.runs.by_hand.len();
    let maybe = if perhaps == 0 { String::new() } else { format!(", {perhaps} perhaps") };
    format!("{surely} of {} events{maybe}", job.runs.events)
}

impl Asked<'_> {
    /// A place as the client knows it.
    pub fn location(&self, at: dulk_core::text::Place) -> Option<Location> {
        location(self.session, self.house, at)
    }
}
