//! What the client can do, and what its user wants.

use serde::Deserialize;
use serde_json::Value;

use crate::position::Encoding;

/// The client as it presented itself.
#[derive(Clone, Debug, Default)]
pub struct Client {
    /// How it counts columns.
    pub encoding: Encoding,
    /// It asks for the findings of open files by itself.
    pub pulls: bool,
    /// It asks again when it is told to.
    pub pulls_again: bool,
    /// It shows places beside a finding.
    pub shows_related: bool,
    /// It shows what is dead or retired in another way.
    pub shows_tags: bool,
    /// Edits may name the version of the text that they are made for.
    pub versioned_edits: bool,
    /// Edits may make files.
    pub makes_files: bool,
    /// It asks for the edits of an action when somebody chooses it.
    pub resolves_edits: bool,
    /// It knows actions with a kind, rather than commands alone.
    pub takes_actions: bool,
    /// It takes hovers in Markdown.
    pub markdown: bool,
    /// It takes symbols inside symbols.
    pub nested_symbols: bool,
    /// It can be told which files to watch.
    pub watches: bool,
    /// It asks for hints and lenses again when it is told to.
    pub hints_again: bool,
    /// The same of lenses.
    pub lenses_again: bool,
    /// What its user wants.
    pub wishes: Wishes,
}

/// What the user sets, as `initializationOptions`, or later under the name `dulk`.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "camelCase", default)]
pub struct Wishes {
    /// Words beside jobs and builds that stand in no file.
    pub inlay_hints: bool,
    /// A line above each job that says when it runs.
    pub code_lens: bool,
    /// The address below which the pages of the rules lie, each as `RULE.md`.
    pub rule_pages: Option<String>,
}

impl Default for Wishes {
    fn default() -> Self {
        Self { inlay_hints: true, code_lens: true, rule_pages: None }
    }
}

impl Wishes {
    /// Those of a value; whatever does not fit is as if nothing were said.
    pub fn of(value: Option<&Value>) -> Self {
        value.and_then(|value| Self::deserialize(value).ok()).unwrap_or_default()
    }
}

impl Client {
    /// What the parameters of an initialize request say of it. They are looked at one by one: a client that says something strange of what
    /// does not matter here is served all the same.
    pub fn of(params: &Value) -> Self {
        let at = |path: &str| params.pointer(&format!("/capabilities/{path}"));
        let is = |path: &str| at(path) == Some(&Value::Bool(true));
        let lists =
            |path: &str, word: &str| at(path).and_then(Value::as_array).is_some_and(|list| list.iter().any(|one| one == word));
        Self {
            encoding: Encoding::of(lists("general/positionEncodings", "utf-8")),
            pulls: at("textDocument/diagnostic").is_some(),
            pulls_again: is("workspace/diagnostics/refreshSupport"),
            shows_related: is("textDocument/publishDiagnostics/relatedInformation"),
            shows_tags: at("textDocument/publishDiagnostics/tagSupport").is_some(),
            versioned_edits: is("workspace/workspaceEdit/documentChanges"),
            makes_files: lists("workspace/workspaceEdit/resourceOperations", "create"),
            resolves_edits: is("textDocument/codeAction/dataSupport")
                && lists("textDocument/codeAction/resolveSupport/properties", "edit"),
            takes_actions: at("textDocument/codeAction/codeActionLiteralSupport").is_some(),
            markdown: lists("textDocument/hover/contentFormat", "markdown"),
            nested_symbols: is("textDocument/documentSymbol/hierarchicalDocumentSymbolSupport"),
            watches: is("workspace/didChangeWatchedFiles/dynamicRegistration"),
            hints_again: is("workspace/inlayHint/refreshSupport"),
            lenses_again: is("workspace/codeLens/refreshSupport"),
            wishes: Wishes::of(params.get("initializationOptions")),
        }
    }
}
