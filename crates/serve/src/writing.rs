//! What is asked while somebody writes: what may come here, and another name for what stands here.

use dulk_core::cursor::{self, Offer, OfferKind};
use dulk_core::text::{SourceFile, Span};
use lsp_server::ErrorCode;
use lsp_types::{
    CompletionItem, CompletionItemKind, CompletionParams, CompletionTextEdit, RenameParams, TextDocumentPositionParams, TextEdit,
};
use serde_json::{Value, json};

use crate::edits::Edits;
use crate::house::SETTINGS;
use crate::session::{Asked, Fault};

/// After these signs an editor asks by itself.
pub const TRIGGERS: [&str; 6] = [".", "$", "{", "/", " ", "\""];

/// What may be written at a position.
pub fn completion(asked: &Asked<'_>, params: CompletionParams) -> Option<Value> {
    let encoding = asked.client().encoding;
    let position = params.text_document_position.position;
    let (offers, range) = if asked.path == SETTINGS {
        // As long as it is wrong, what is typed is not what counts.
        let typed = asked.session.document(asked.house, SETTINGS)?;
        let source = SourceFile::new(SETTINGS, typed.text.clone());
        let project = asked.house.snapshot()?.project();
        let offers = cursor::setting_offers(&project, &source, encoding.offset(&source, position));
        let range = encoding.range(&source, offers.instead_of);
        (offers, range)
    } else {
        let (project, file) = asked.project()?;
        let source = project.sources.get(file);
        let offers = cursor::offers(&project, file, encoding.offset(source, position));
        let range = encoding.range(source, offers.instead_of);
        (offers, range)
    };
    let of_offer = |(number, offer): (usize, Offer)| CompletionItem {
        label: offer.label.clone(),
        kind: Some(kind_of(offer.kind)),
        detail: (!offer.meaning.is_empty()).then(|| dulk_core::shown::shown(&offer.meaning)),
        // The order is that of what is asked for most, rather than of letters.
        sort_text: Some(format!("{number:04}")),
        filter_text: Some(offer.label),
        text_edit: Some(CompletionTextEdit::Edit(TextEdit { range, new_text: offer.insert })),
        ..CompletionItem::default()
    };
    let items: Vec<CompletionItem> = offers.list.into_iter().enumerate().map(of_offer).collect();
    Some(json!({"isIncomplete": false, "items": items}))
}

fn kind_of(kind: OfferKind) -> CompletionItemKind {
    match kind {
        OfferKind::Key => CompletionItemKind::PROPERTY,
        OfferKind::Event => CompletionItemKind::EVENT,
        OfferKind::Word => CompletionItemKind::ENUM_MEMBER,
        OfferKind::Name => CompletionItemKind::REFERENCE,
        OfferKind::Read => CompletionItemKind::VARIABLE,
        OfferKind::Function => CompletionItemKind::FUNCTION,
        OfferKind::Path => CompletionItemKind::FOLDER,
        OfferKind::Action => CompletionItemKind::MODULE,
        OfferKind::Script => CompletionItemKind::METHOD,
        OfferKind::Rule => CompletionItemKind::CONSTANT,
    }
}

/// What would be renamed at a position.
pub fn prepare_rename(asked: &Asked<'_>, params: TextDocumentPositionParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let offset = asked.offset(params.position)?;
    let (at, _) = cursor::renamed(&project, file, offset)?;
    let source = project.sources.get(at.file);
    Some(json!({"range": asked.client().encoding.range(source, at.span), "placeholder": source.slice(at.span)}))
}

/// Another name for a job or an artifact, wherever it is named.
///
/// # Errors
/// Where nothing can be renamed, or the name is none.
pub fn rename(asked: &Asked<'_>, params: &RenameParams) -> Result<Value, Fault> {
    let fault = |why: &str| Fault::new(ErrorCode::RequestFailed, why);
    let new = params.new_name.as_str();
    let is_name = new.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_')
        && new.chars().all(|c| c.is_ascii_alphanumeric() || "_-".contains(c));
    if !is_name {
        return Err(Fault::new(ErrorCode::InvalidParams, "a name holds letters, digits, - and _, and begins with a letter or _"));
    }
    let (project, file) = asked.project().ok_or_else(|| fault("this file is not read"))?;
    let offset = asked.offset(params.text_document_position.position).unwrap_or_default();
    let found = cursor::renamed(&project, file, offset);
    let (_, places) = found.ok_or_else(|| {
        fault("only a job or an artifact can be renamed, and only where everything that names it is understood")
    })?;
    if cursor::is_taken(&project, file, offset, new) {
        return Err(fault(&format!("{new} is the name of another one already")));
    }
    let mut edits = Edits::default();
    let mut seen: Vec<(dulk_core::text::FileId, Span)> = Vec::new();
    for at in places {
        if !seen.contains(&(at.file, at.span)) {
            seen.push((at.file, at.span));
            edits.replace(asked.session, project.sources.get(at.file), at.span, new);
        }
    }
    Ok(json!(edits.finish(asked.session, asked.house)))
}
