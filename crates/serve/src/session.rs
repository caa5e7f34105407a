//! What is known while one client is served: its open texts, its repositories, and what it was told.

use std::collections::btree_map::Entry;
use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;
use std::rc::Rc;

use crossbeam_channel::Sender;
use dulk_core::formats::{self, Claim};
use dulk_core::knowledge::Date;
use dulk_core::project::Project;
use dulk_core::text::{FileId, SourceFile};
use lsp_server::ErrorCode;
use lsp_types::{
    Diagnostic, DidChangeConfigurationParams, DidChangeTextDocumentParams, DidChangeWatchedFilesParams,
    DidChangeWorkspaceFoldersParams, DidCloseTextDocumentParams, DidOpenTextDocumentParams, DidSaveTextDocumentParams,
    FileChangeType, Position, PublishDiagnosticsParams, Uri,
};
use serde_json::{Value, json};

use crate::client::{Client, Wishes};
use crate::document::Document;
use crate::house::{House, SETTINGS, Told};
use crate::server::read;
use crate::{answers, findings, uri, wire};

/// Why a request has no answer.
#[derive(Debug)]
pub struct Fault {
    /// The protocol's number for it.
    pub code: ErrorCode,
    /// In words.
    pub message: String,
}

impl Fault {
    /// With its words.
    pub fn new(code: ErrorCode, message: impl Into<String>) -> Self {
        Self { code, message: message.into() }
    }
}

/// One client's session.
pub struct Session {
    /// The client.
    pub client: Client,
    today: Date,
    /// The folders that it works in.
    folders: Vec<PathBuf>,
    houses: Vec<House>,
    /// Open texts by their addresses.
    documents: BTreeMap<String, Document>,
    /// By address: what was last published.
    told: BTreeMap<String, Told>,
    /// By address of an open text: what the client last asked for, and of which version.
    pulled: BTreeMap<String, (i32, Told)>,
    /// Nothing has come since the client was told.
    is_told: bool,
}

/// A file that something is asked of.
pub struct Asked<'s> {
    /// The session.
    pub session: &'s Session,
    /// Its repository.
    pub house: &'s House,
    /// Its path from the root.
    pub path: String,
}

impl<'s> Asked<'s> {
    /// The client.
    pub fn client(&self) -> &'s Client {
        &self.session.client
    }

    /// The file with all pipelines; nothing where it was not read.
    pub fn project(&self) -> Option<(Project<'s>, FileId)> {
        self.house.looked_at(&self.path)
    }

    /// Its text, where it was read.
    pub fn source(&self) -> Option<&'s SourceFile> {
        let sources = self.house.sources()?;
        Some(sources.get(sources.find(&self.path)?))
    }

    /// The byte of a position.
    pub fn offset(&self, position: Position) -> Option<usize> {
        Some(self.client().encoding.offset(self.source()?, position))
    }
}

impl Session {
    /// For a client that has presented itself.
    pub fn new(params: &Value, today: Date) -> Self {
        let address = |value: &Value| value.as_str()?.parse().ok();
        let named = params.get("workspaceFolders").and_then(Value::as_array).into_iter().flatten();
        let named = named.filter_map(|folder| uri::path_of(&address(folder.get("uri")?)?));
        let mut folders: Vec<PathBuf> = named.collect();
        if folders.is_empty() {
            // Clients that know no folders name one in this way.
            folders.extend(params.get("rootUri").and_then(address).and_then(|root: Uri| uri::path_of(&root)));
        }
        let mut session = Self {
            client: Client::of(params),
            today,
            folders: Vec::new(),
            houses: Vec::new(),
            documents: BTreeMap::new(),
            told: BTreeMap::new(),
            pulled: BTreeMap::new(),
            is_told: false,
        };
        folders.into_iter().for_each(|folder| session.open_folder(folder));
        session
    }

    /// What the server can do, as the answer to initialize.
    pub fn capabilities(&self) -> Value {
        answers::capabilities(&self.client)
    }

    fn open_folder(&mut self, folder: PathBuf) {
        self.folders.push(folder.clone());
        self.open_house(&folder);
    }

    fn open_house(&mut self, start: &std::path::Path) {
        let house = House::open(start, Some(self.today));
        if self.houses.iter().all(|known| known.root != house.root) {
            self.houses.push(house);
        }
    }

    /// The repository that a file lies in, and its path there: the innermost one.
    fn place_of(&self, file: &std::path::Path) -> Option<(usize, String)> {
        let inside = self.houses.iter().enumerate().filter_map(|(index, house)| Some((index, house.path_of(file)?)));
        inside.min_by_key(|(_, path)| path.len())
    }

    /// The file of an address.
    pub fn asked(&self, uri: &Uri) -> Option<Asked<'_>> {
        let (house, path) = self.place_of(&uri::path_of(uri)?)?;
        Some(Asked { session: self, house: &self.houses[house], path })
    }

    /// The open text of a file.
    pub fn document(&self, house: &House, path: &str) -> Option<&Document> {
        let is_it = |home: &(PathBuf, String)| home.1 == path && home.0 == house.root;
        self.documents.values().find(|document| document.home.as_ref().is_some_and(is_it))
    }

    /// The address of a file, as the client writes it where it is open.
    pub fn uri_of(&self, house: &House, path: &str) -> Option<Uri> {
        match self.document(house, path) {
            Some(document) => Some(document.uri.clone()),
            None => uri::of_path(&house.file_of(path)),
        }
    }

    /// The version of an open text.
    pub fn version_of(&self, uri: &str) -> Option<i32> {
        self.documents.get(uri).map(|document| document.version)
    }

    /// Looks whether git has changed in the meantime.
    pub fn look_at_git(&mut self) {
        self.houses.iter_mut().for_each(House::look_at_git);
    }

    /// Answers a request.
    ///
    /// # Errors
    /// With the protocol's errors.
    pub fn answer(&mut self, method: &str, params: Value, say: &Sender<Value>) -> Result<Value, Fault> {
        self.houses.iter_mut().for_each(House::take_in);
        if answers::needs_findings(method) {
            self.houses.iter_mut().for_each(|house| {
                house.check(&|| false);
            });
        }
        let answered = answers::answer(self, method, params, say)?;
        if let Some((uri, diagnostics)) = answered.pulled {
            let version = self.documents.get(uri.as_str()).map_or(0, |document| document.version);
            self.pulled.insert(uri.as_str().to_owned(), (version, diagnostics));
        }
        Ok(answered.value)
    }

    /// Takes a notification in.
    ///
    /// # Errors
    /// When its parameters cannot be read.
    pub fn notice(&mut self, method: &str, params: Value, say: &Sender<Value>) -> Result<(), Fault> {
        self.is_told = false;
        match method {
            "initialized" => self.ask_to_watch(say),
            "textDocument/didOpen" => self.opened(read(params)?),
            "textDocument/didChange" => self.changed(read(params)?),
            "textDocument/didClose" => self.closed(&read(params)?),
            "textDocument/didSave" => self.saved(&read(params)?),
            "workspace/didChangeWatchedFiles" => self.watched(read(params)?),
            "workspace/didChangeWorkspaceFolders" => self.folders_changed(&read(params)?),
            "workspace/didChangeConfiguration" => self.configured(&read(params)?, say),
            _ => {}
        }
        Ok(())
    }

    fn ask_to_watch(&self, say: &Sender<Value>) {
        if self.client.watches {
            let watchers = json!([{"globPattern": "**/*"}]);
            let registration = json!({"id": "dulk-files", "method": "workspace/didChangeWatchedFiles", "registerOptions": {"watchers": watchers}});
            // A writer that is gone means a client that is gone.
            let _ = say.send(wire::request("dulk-files", "client/registerCapability", json!({"registrations": [registration]})));
        }
    }

    fn opened(&mut self, params: DidOpenTextDocumentParams) {
        let opened = params.text_document;
        let home = self.settle(&opened.uri, &opened.text);
        self.houses.iter().for_each(House::forget_told);
        let document = Document { uri: opened.uri, version: opened.version, text: opened.text, home };
        self.documents.insert(document.uri.as_str().to_owned(), document);
    }

    /// Lays an open text over its file, in a repository that is opened for it where there is none yet; gives where that is.
    fn settle(&mut self, uri: &Uri, text: &str) -> Option<(PathBuf, String)> {
        let file = uri::path_of(uri)?;
        if self.place_of(&file).is_none() {
            self.open_stray(&file);
        }
        let (house, path) = self.place_of(&file)?;
        self.houses[house].lay_over(&path, Some(text.to_owned()));
        Some((self.houses[house].root.clone(), path))
    }

    /// A file of a repository that is none of the client's folders.
    fn open_stray(&mut self, file: &std::path::Path) {
        let Some(folder) = file.parent().filter(|folder| folder.is_dir()) else { return };
        let has_git = file.ancestors().any(|above| above.join(".git").exists());
        let name = file.to_string_lossy().replace(std::path::MAIN_SEPARATOR, "/");
        let in_folder = |claims: &dyn Fn(&str) -> bool| {
            let starts = name.char_indices().filter(|(_, c)| *c == '/').map(|(index, _)| index + 1);
            starts.into_iter().any(|start| claims(&name[start..]))
        };
        if has_git || in_folder(&|path| formats::all().iter().any(|format| format.claim(path) == Claim::Reads)) {
            self.open_house(folder);
        }
    }

    fn lay_over(&mut self, file: &std::path::Path, text: Option<&str>) {
        if let Some((house, path)) = self.place_of(file) {
            self.houses[house].lay_over(&path, text.map(str::to_owned));
        }
    }

    fn changed(&mut self, params: DidChangeTextDocumentParams) {
        let encoding = self.client.encoding;
        let Some(document) = self.documents.get_mut(params.text_document.uri.as_str()) else { return };
        if !document.change(params.text_document.version, params.content_changes, encoding) {
            return;
        }
        let text = document.text.clone();
        if let Some(file) = uri::path_of(&params.text_document.uri) {
            self.lay_over(&file, Some(&text));
        }
    }

    fn closed(&mut self, params: &DidCloseTextDocumentParams) {
        let uri = &params.text_document.uri;
        self.documents.remove(uri.as_str());
        self.houses.iter().for_each(House::forget_told);
        self.pulled.remove(uri.as_str());
        if let Some(file) = uri::path_of(uri) {
            self.lay_over(&file, None);
        }
    }

    fn saved(&mut self, params: &DidSaveTextDocumentParams) {
        let Some((house, path)) = uri::path_of(&params.text_document.uri).and_then(|file| self.place_of(&file)) else { return };
        self.houses[house].was_saved(&path);
    }

    fn watched(&mut self, params: DidChangeWatchedFilesParams) {
        for change in params.changes {
            let Some((house, path)) = uri::path_of(&change.uri).and_then(|file| self.place_of(&file)) else { continue };
            let house = &mut self.houses[house];
            if path.split('/').any(|part| part == ".git") {
                house.look_at_git();
            } else if change.typ == FileChangeType::CHANGED {
                house.has_changed(&path);
            } else if !path.split('/').any(|part| part == "node_modules") {
                house.may_have_changed();
            }
        }
    }

    fn folders_changed(&mut self, params: &DidChangeWorkspaceFoldersParams) {
        let path = |folder: &lsp_types::WorkspaceFolder| uri::path_of(&folder.uri);
        let gone: Vec<PathBuf> = params.event.removed.iter().filter_map(path).collect();
        self.folders.retain(|folder| !gone.contains(folder));
        let folders = std::mem::take(&mut self.folders);
        self.houses.clear();
        folders.into_iter().chain(params.event.added.iter().filter_map(path)).for_each(|folder| self.open_folder(folder));
        let mut documents = std::mem::take(&mut self.documents);
        for document in documents.values_mut() {
            document.home = self.settle(&document.uri, &document.text);
        }
        self.documents = documents;
    }

    fn configured(&mut self, params: &DidChangeConfigurationParams, say: &Sender<Value>) {
        let Some(settings) = params.settings.get("dulk") else { return };
        self.client.wishes = Wishes::of(Some(settings));
        self.houses.iter().for_each(House::forget_told);
        let again = [(self.client.hints_again, "inlayHint"), (self.client.lenses_again, "codeLens")];
        for (_, what) in again.into_iter().filter(|(knows, _)| *knows) {
            // Whoever is gone needs no new hints.
            let _ = say.send(wire::request(&format!("dulk-{what}"), &format!("workspace/{what}/refresh"), Value::Null));
        }
    }

    /// Takes in what has changed, checks it, and tells the client what became another, as long as `stop` says no. Whether all is told.
    pub fn tell(&mut self, stop: &(dyn Fn() -> bool + Sync), say: &Sender<Value>) -> bool {
        if self.is_told && self.houses.iter().all(House::is_at_rest) {
            return true;
        }
        for house in &mut self.houses {
            house.take_in();
            if !house.check(stop) {
                return false;
            }
        }
        let now = self.all_diagnostics();
        let open: BTreeSet<&str> = match self.client.pulls {
            true => self.documents.keys().map(String::as_str).collect(),
            false => BTreeSet::new(),
        };
        let gone: Vec<String> = self.told.keys().filter(|uri| !now.contains_key(*uri)).cloned().collect();
        let mut told = BTreeMap::new();
        let mut others_changed = false;
        let is_same = |one: &Told, other: &Told| Rc::ptr_eq(one, other) || one == other;
        for (uri, list) in now.into_iter().chain(gone.into_iter().map(|uri| (uri, Told::default()))) {
            if let Some((version, pulled)) = self.pulled.get(&uri) {
                let is_same_text = self.documents.get(&uri).is_some_and(|document| document.version == *version);
                others_changed |= is_same_text && !is_same(pulled, &list);
            }
            // An open file is asked for, and would be shown twice.
            let list = if open.contains(uri.as_str()) { Told::default() } else { list };
            if !is_same(self.told.get(&uri).unwrap_or(&Told::default()), &list) {
                self.publish(&uri, &list, say);
            }
            told.insert(uri, list);
        }
        // An empty list was taken back, and is told no second time.
        told.retain(|_, list| !list.is_empty());
        self.told = told;
        self.is_told = true;
        if others_changed && self.client.pulls_again {
            let _ = say.send(wire::request("dulk-diagnostics", "workspace/diagnostic/refresh", Value::Null));
        }
        true
    }

    fn publish(&self, uri: &str, list: &[Diagnostic], say: &Sender<Value>) {
        let Ok(address) = uri.parse() else { return };
        let version = self.documents.get(uri).map(|document| document.version);
        let params = PublishDiagnosticsParams { uri: address, diagnostics: list.to_vec(), version };
        // A writer that is gone means a client that is gone.
        let _ = say.send(wire::notification("textDocument/publishDiagnostics", json!(params)));
    }

    /// What is wrong in every file of every repository, by its address.
    pub fn all_diagnostics(&self) -> BTreeMap<String, Told> {
        let mut all: BTreeMap<String, Told> = BTreeMap::new();
        for house in &self.houses {
            let path = |file: FileId| Some((house.sources()?.get(file).path.as_str(), Some(file)));
            let mut wrong: BTreeMap<&str, Option<FileId>> = house.wrong_files().into_iter().filter_map(path).collect();
            if house.wrong_settings.is_some() {
                wrong.entry(SETTINGS).or_default();
            }
            for (path, file) in wrong {
                let Some(uri) = self.uri_of(house, path) else { continue };
                let list = self.told_of(house, path, file);
                match all.entry(uri.as_str().to_owned()) {
                    Entry::Vacant(free) => {
                        free.insert(list);
                    }
                    // A file of two repositories, one inside the other.
                    Entry::Occupied(mut taken) => Rc::make_mut(taken.get_mut()).extend(list.iter().cloned()),
                }
            }
        }
        all
    }

    /// What is wrong in one file.
    pub fn diagnostics_in(&self, asked: &Asked<'_>) -> Told {
        let file = asked.house.sources().and_then(|sources| sources.find(&asked.path));
        self.told_of(asked.house, &asked.path, file)
    }

    /// What is wrong in a file, which may be none that was read.
    fn told_of(&self, house: &House, path: &str, file: Option<FileId>) -> Told {
        let read = house.sources().zip(file);
        let mut list = match read {
            Some((sources, file)) => house.told(file, |own| findings::diagnostics(self, house, sources, own)),
            None => Told::default(),
        };
        if path == SETTINGS {
            Rc::make_mut(&mut list).extend(self.of_settings(house));
        }
        list
    }

    fn of_settings(&self, house: &House) -> Option<Diagnostic> {
        let (line, reason) = house.wrong_settings.as_ref()?;
        let open = self.document(house, SETTINGS).map(|document| SourceFile::new(SETTINGS, document.text.clone()));
        Some(findings::of_settings(open.as_ref(), *line, reason, &self.client))
    }
}
