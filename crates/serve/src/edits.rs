//! Changes to texts, in the protocol's words.

use std::collections::{BTreeMap, HashMap};

use dulk_core::text::{SourceFile, Sources, Span};
use lsp_types::{
    CreateFile, CreateFileOptions, DocumentChangeOperation, DocumentChanges, OneOf, OptionalVersionedTextDocumentIdentifier,
    Position, Range, ResourceOp, TextDocumentEdit, TextEdit, Uri, WorkspaceEdit,
};
use similar::{Algorithm, DiffTag, TextDiff};

use crate::house::House;
use crate::session::Session;

/// Changes to the files of one repository.
#[derive(Default)]
pub struct Edits {
    by_path: BTreeMap<String, Vec<TextEdit>>,
    /// A file to be made, with its text.
    new_file: Option<(String, String)>,
}

impl Edits {
    /// Puts a text in the place of a span.
    pub fn replace(&mut self, session: &Session, source: &SourceFile, span: Span, text: &str) {
        let crlf = source.text.contains("\r\n") && !text.contains("\r\n");
        let new_text = if crlf { text.replace('\n', "\r\n") } else { text.to_owned() };
        let edit = TextEdit { range: session.client.encoding.range(source, span), new_text };
        self.by_path.entry(source.path.clone()).or_default().push(edit);
    }

    /// Makes a file.
    pub fn make(&mut self, path: &str, text: &str) {
        self.new_file = Some((path.to_owned(), text.to_owned()));
    }

    /// What makes other texts of some, line by line, so that a cursor elsewhere stays where it is.
    pub fn between(session: &Session, before: &Sources, after: &Sources) -> Self {
        let mut edits = Self::default();
        for ((_, old), (_, new)) in before.iter().zip(after.iter()).filter(|((_, old), (_, new))| old.text != new.text) {
            let (from, to): (Vec<&str>, Vec<&str>) =
                (old.text.split_inclusive('\n').collect(), new.text.split_inclusive('\n').collect());
            let diff = TextDiff::configure().algorithm(Algorithm::Patience).diff_slices(&from, &to);
            let starts: Vec<usize> = std::iter::once(0)
                .chain(from.iter().scan(0, |at, line| {
                    *at += line.len();
                    Some(*at)
                }))
                .collect();
            for op in diff.ops().iter().filter(|op| op.tag() != DiffTag::Equal) {
                let (removed, added) = (op.old_range(), op.new_range());
                edits.replace(session, old, Span::new(starts[removed.start], starts[removed.end]), &to[added].concat());
            }
        }
        edits
    }

    /// The whole change; nothing where the client cannot make it.
    pub fn finish(self, session: &Session, house: &House) -> Option<WorkspaceEdit> {
        let addressed = |(path, edits): (String, Vec<TextEdit>)| Some((session.uri_of(house, &path)?, edits));
        if self.by_path.is_empty() && self.new_file.is_none() {
            return None;
        }
        if !session.client.versioned_edits {
            if self.new_file.is_some() {
                return None;
            }
            #[expect(clippy::mutable_key_type, reason = "the protocol's own type; nothing changes an address")]
            let changes: HashMap<Uri, Vec<TextEdit>> = self.by_path.into_iter().filter_map(addressed).collect();
            return Some(WorkspaceEdit { changes: Some(changes), ..WorkspaceEdit::default() });
        }
        let mut all = Vec::new();
        if let Some((path, text)) = self.new_file {
            let uri = session.uri_of(house, &path).filter(|_| session.client.makes_files)?;
            let options = CreateFileOptions { overwrite: Some(false), ignore_if_exists: Some(true) };
            let make = CreateFile { uri: uri.clone(), options: Some(options), annotation_id: None };
            all.push(DocumentChangeOperation::Op(ResourceOp::Create(make)));
            let start = Position::new(0, 0);
            let edit = TextEdit { range: Range { start, end: start }, new_text: text };
            all.push(DocumentChangeOperation::Edit(of_text(session, uri, vec![edit])));
        }
        let edits = self.by_path.into_iter().filter_map(addressed);
        all.extend(edits.map(|(uri, edits)| DocumentChangeOperation::Edit(of_text(session, uri, edits))));
        Some(WorkspaceEdit { document_changes: Some(DocumentChanges::Operations(all)), ..WorkspaceEdit::default() })
    }
}

fn of_text(session: &Session, uri: Uri, edits: Vec<TextEdit>) -> TextDocumentEdit {
    let version = session.version_of(uri.as_str());
    TextDocumentEdit {
        text_document: OptionalVersionedTextDocumentIdentifier { uri, version },
        edits: edits.into_iter().map(OneOf::Left).collect(),
    }
}
