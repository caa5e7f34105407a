//! Which question is answered by whom.

use std::hash::{DefaultHasher, Hasher};
use std::io::Write;

use crossbeam_channel::Sender;
use lsp_server::ErrorCode;
use lsp_types::{Diagnostic, DocumentDiagnosticParams, RenameParams, Uri};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use crate::client::Client;
use crate::house::Told;
use crate::server::read;
use crate::session::{Asked, Fault, Session};
use crate::{actions, reading, writing};

/// An answer, and what has to be kept of it.
pub struct Answered {
    /// The answer.
    pub value: Value,
    /// What is wrong in an open text, as the client now knows.
    pub pulled: Option<(Uri, Told)>,
}

/// What the server can do.
pub fn capabilities(client: &Client) -> Value {
    let mut capabilities = json!({
        "positionEncoding": client.encoding.kind(),
        "textDocumentSync": {"openClose": true, "change": 2, "save": {"includeText": false}},
        "codeActionProvider": {"codeActionKinds": actions::KINDS, "resolveProvider": client.resolves_edits},
        "executeCommandProvider": {"commands": actions::COMMANDS},
        "hoverProvider": true,
        "completionProvider": {"triggerCharacters": writing::TRIGGERS},
        "definitionProvider": true,
        "referencesProvider": true,
        "documentSymbolProvider": true,
        "foldingRangeProvider": true,
        "documentLinkProvider": {"resolveProvider": false},
        "inlayHintProvider": true,
        "codeLensProvider": {"resolveProvider": false},
        "renameProvider": {"prepareProvider": true},
        "workspace": {"workspaceFolders": {"supported": true, "changeNotifications": true}},
    });
    if client.pulls {
        // Files that are not open are told of without being asked for.
        capabilities["diagnosticProvider"] =
            json!({"identifier": "dulk", "interFileDependencies": true, "workspaceDiagnostics": false});
    }
    json!({"capabilities": capabilities, "serverInfo": {"name": "dulk", "version": env!("CARGO_PKG_VERSION")}})
}

/// Whether an answer hangs on what is wrong now.
pub fn needs_findings(method: &str) -> bool {
    matches!(
        method,
        "textDocument/diagnostic"
            | "workspace/diagnostic"
            | "textDocument/codeAction"
            | "codeAction/resolve"
            | "workspace/executeCommand"
    )
}

/// Answers a request.
///
/// # Errors
/// With the protocol's errors: for a question that nobody here knows, and for one that cannot be read.
pub fn answer(session: &Session, method: &str, params: Value, say: &Sender<Value>) -> Result<Answered, Fault> {
    let value = match method {
        "textDocument/diagnostic" => return pull(session, read(params)?),
        "workspace/diagnostic" => workspace_diagnostics(session),
        "textDocument/hover" => of_file(session, params, reading::hover)?,
        "textDocument/completion" => of_file(session, params, writing::completion)?,
        "textDocument/definition" => of_file(session, params, reading::definition)?,
        "textDocument/references" => of_file(session, params, reading::references)?,
        "textDocument/documentSymbol" => of_file(session, params, reading::symbols)?,
        "textDocument/foldingRange" => of_file(session, params, reading::folding)?,
        "textDocument/documentLink" => of_file(session, params, reading::links)?,
        "textDocument/inlayHint" => of_file(session, params, reading::inlay_hints)?,
        "textDocument/codeLens" => of_file(session, params, reading::lenses)?,
        "textDocument/prepareRename" => of_file(session, params, writing::prepare_rename)?,
        "textDocument/rename" => rename(session, &read(params)?)?,
        "textDocument/codeAction" => of_file(session, params, actions::actions)?,
        "codeAction/resolve" => actions::resolve(session, read(params)?),
        "workspace/executeCommand" => actions::execute(session, read(params)?, say)?,
        _ => return Err(Fault::new(ErrorCode::MethodNotFound, format!("{method} is not known here"))),
    };
    Ok(Answered { value, pulled: None })
}

/// Answers what is asked of a file; null for one of no repository.
fn of_file<P: DeserializeOwned>(
    session: &Session,
    params: Value,
    answer: impl Fn(&Asked<'_>, P) -> Option<Value>,
) -> Result<Value, Fault> {
    let uri: Uri = read(params.pointer("/textDocument/uri").cloned().unwrap_or_default())?;
    let params = read(params)?;
    Ok(session.asked(&uri).and_then(|asked| answer(&asked, params)).unwrap_or_default())
}

fn rename(session: &Session, params: &RenameParams) -> Result<Value, Fault> {
    match session.asked(&params.text_document_position.text_document.uri) {
        Some(asked) => writing::rename(&asked, params),
        None => Err(Fault::new(ErrorCode::RequestFailed, "this file is of no repository")),
    }
}

/// The findings of one file, and under which name those are known. The same findings have the same name.
fn pull(session: &Session, params: DocumentDiagnosticParams) -> Result<Answered, Fault> {
    let uri = params.text_document.uri;
    let list = session.asked(&uri).map(|asked| session.diagnostics_in(&asked)).unwrap_or_default();
    let name = name_of(&list);
    let value = match params.previous_result_id == Some(name.clone()) {
        true => json!({"kind": "unchanged", "resultId": name}),
        false => json!({"kind": "full", "resultId": name, "items": *list}),
    };
    Ok(Answered { value, pulled: Some((uri, list)) })
}

/// The same for the same diagnostics, as long as the server runs.
fn name_of(list: &[Diagnostic]) -> String {
    struct Hashing(DefaultHasher);
    impl Write for Hashing {
        fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
            self.0.write(bytes);
            Ok(bytes.len())
        }
        fn flush(&mut self) -> std::io::Result<()> {
            Ok(())
        }
    }
    let mut hashing = Hashing(DefaultHasher::new());
    // Nothing that is hashed can be full, and diagnostics are always JSON.
    let _ = serde_json::to_writer(&mut hashing, list);
    format!("{:x}", hashing.0.finish())
}

fn workspace_diagnostics(session: &Session) -> Value {
    let all = session.all_diagnostics();
    let report = |(uri, list): (&String, &Told)| json!({"kind": "full", "uri": uri, "version": session.version_of(uri), "resultId": name_of(list), "items": **list});
    json!({"items": all.iter().map(report).collect::<Vec<_>>()})
}
