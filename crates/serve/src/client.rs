//! What the client can do, and what its user wants.

use lsp_types::{ClientCapabilities, InitializeParams, MarkupKind, ResourceOperationKind};
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
    /// What an initialize request says of it.
    pub fn of(params: &InitializeParams) -> Self {
        let ClientCapabilities { general, text_document, workspace, .. } = &params.capabilities;
        let text = text_document.clone().unwrap_or_default();
        let workspace = workspace.clone().unwrap_or_default();
        let told = text.publish_diagnostics.unwrap_or_default();
        let edits = workspace.workspace_edit.unwrap_or_default();
        let actions = text.code_action.unwrap_or_default();
        let hover = text.hover.unwrap_or_default();
        Self {
            encoding: Encoding::of(general.as_ref().and_then(|general| general.position_encodings.as_ref())),
            pulls: text.diagnostic.is_some(),
            pulls_again: workspace.diagnostic.is_some_and(|one| one.refresh_support == Some(true)),
            shows_related: told.related_information == Some(true),
            shows_tags: told.tag_support.is_some(),
            versioned_edits: edits.document_changes == Some(true),
            makes_files: edits.resource_operations.is_some_and(|kinds| kinds.contains(&ResourceOperationKind::Create)),
            resolves_edits: actions.data_support == Some(true)
                && actions.resolve_support.is_some_and(|support| support.properties.iter().any(|one| one == "edit")),
            takes_actions: actions.code_action_literal_support.is_some(),
            markdown: hover.content_format.is_some_and(|kinds| kinds.contains(&MarkupKind::Markdown)),
            nested_symbols: text
                .document_symbol
                .is_some_and(|symbols| symbols.hierarchical_document_symbol_support == Some(true)),
            watches: workspace.did_change_watched_files.is_some_and(|one| one.dynamic_registration == Some(true)),
            hints_again: workspace.inlay_hint.is_some_and(|one| one.refresh_support == Some(true)),
            lenses_again: workspace.code_lens.is_some_and(|one| one.refresh_support == Some(true)),
            wishes: Wishes::of(params.initialization_options.as_ref()),
        }
    }
}
