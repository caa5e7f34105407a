//! A small client of the language server, over the built program's pipes.

use std::collections::BTreeMap;
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::Duration;

use assert_cmd::cargo::cargo_bin;
use serde_json::{Value, json};

use super::house::TODAY;

/// Longer than this nothing takes, on whatever machine.
const PATIENCE: Duration = Duration::from_secs(60);

/// An editor with the server that it has started.
pub struct Editor {
    child: Child,
    input: Option<ChildStdin>,
    heard: Receiver<Value>,
    next_id: i32,
    /// By address: what was last published, and how often.
    pub told: BTreeMap<String, (Value, usize)>,
    /// What the server asked for.
    pub asked: Vec<Value>,
    /// What initialize was answered.
    pub can: Value,
}

impl Editor {
    /// Starts the server and says nothing yet.
    pub fn silent(folder: &Path) -> Self {
        let mut command = Command::new(cargo_bin!("dulk"));
        command.args(["serve", "--today", TODAY]).current_dir(folder).env("GIT_CONFIG_GLOBAL", "/dev/null");
        let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().expect("the server starts");
        let mut output = BufReader::new(child.stdout.take().expect("a pipe"));
        let (sender, heard) = channel();
        std::thread::spawn(move || {
            while let Some(message) = read(&mut output) {
                if sender.send(message).is_err() {
                    return;
                }
            }
        });
        let input = child.stdin.take();
        Self { child, input, heard, next_id: 0, told: BTreeMap::new(), asked: Vec::new(), can: Value::Null }
    }

    /// Starts the server for a folder, as a client with these abilities and wishes.
    pub fn new(folder: &Path, capabilities: Value, wishes: Value) -> Self {
        let mut editor = Self::silent(folder);
        let folders = json!([{"uri": address(folder), "name": "quay"}]);
        let params = json!({"processId": null, "rootUri": null, "capabilities": capabilities, "workspaceFolders": folders, "initializationOptions": wishes});
        editor.can = editor.ask("initialize", params);
        editor.say("initialized", json!({}));
        editor
    }

    /// Writes bytes as they are.
    pub fn raw(&mut self, bytes: &[u8]) {
        let input = self.input.as_mut().expect("an open pipe");
        input.write_all(bytes).and_then(|()| input.flush()).expect("the server listens");
    }

    fn send(&mut self, message: &Value) {
        let text = message.to_string();
        self.raw(format!("Content-Length: {}\r\n\r\n{text}", text.len()).as_bytes());
    }

    /// Sends a notification.
    pub fn say(&mut self, method: &str, params: Value) {
        self.send(&json!({"jsonrpc": "2.0", "method": method, "params": params}));
    }

    /// Sends a request; gives its id.
    pub fn begin(&mut self, method: &str, params: Value) -> i32 {
        self.next_id += 1;
        self.send(&json!({"jsonrpc": "2.0", "id": self.next_id, "method": method, "params": params}));
        self.next_id
    }

    /// The answer to a request, whole.
    pub fn answer(&mut self, id: i32) -> Value {
        loop {
            let message = self.hear().expect("an answer");
            if message["id"] == id && message["method"].is_null() {
                return message;
            }
        }
    }

    /// Asks, and gives the result.
    pub fn ask(&mut self, method: &str, params: Value) -> Value {
        let id = self.begin(method, params);
        let answer = self.answer(id);
        assert!(answer["error"].is_null(), "{method}: {answer}");
        answer["result"].clone()
    }

    /// Asks what is refused, and gives the error's number.
    pub fn refused(&mut self, method: &str, params: Value) -> i64 {
        let id = self.begin(method, params);
        self.answer(id)["error"]["code"].as_i64().expect("an error")
    }

    /// The next message; notes what it tells. Nothing once the server is gone.
    pub fn hear(&mut self) -> Option<Value> {
        let message = self.heard.recv_timeout(PATIENCE).ok()?;
        if message["method"] == "textDocument/publishDiagnostics" {
            let uri = message["params"]["uri"].as_str().expect("an address").to_owned();
            let told = self.told.entry(uri).or_default();
            *told = (message["params"].clone(), told.1 + 1);
        } else if !message["method"].is_null() && !message["id"].is_null() {
            self.asked.push(message.clone());
            self.send(&json!({"jsonrpc": "2.0", "id": message["id"], "result": null}));
        }
        Some(message)
    }

    /// Waits until something of a file is published that fits.
    pub fn wait(&mut self, uri: &str, fits: impl Fn(&Value) -> bool) -> Value {
        loop {
            if let Some((told, _)) = self.told.get(uri).filter(|(told, _)| fits(told)) {
                return told.clone();
            }
            self.hear().unwrap_or_else(|| panic!("nothing that fits is told of {uri}: {:?}", self.told.get(uri)));
        }
    }

    /// Opens a file with a text.
    pub fn open(&mut self, uri: &str, text: &str) {
        let document = json!({"uri": uri, "languageId": "yaml", "version": 1, "text": text});
        self.say("textDocument/didOpen", json!({"textDocument": document}));
    }

    /// Puts another text in the place of an open one.
    pub fn change(&mut self, uri: &str, version: i32, text: &str) {
        let changes = json!([{"text": text}]);
        self.say("textDocument/didChange", json!({"textDocument": {"uri": uri, "version": version}, "contentChanges": changes}));
    }

    /// Closes the pipe to the server.
    pub fn hang_up(&mut self) {
        self.input = None;
    }

    /// How it ended.
    pub fn status(&mut self) -> Option<i32> {
        self.child.wait().expect("the server ends").code()
    }

    /// Says good-bye as the protocol wants it, and gives how the server ended.
    pub fn leave(mut self) -> Option<i32> {
        self.ask("shutdown", Value::Null);
        self.say("exit", Value::Null);
        self.status()
    }
}

impl Drop for Editor {
    fn drop(&mut self) {
        // A test that failed leaves no server behind; one that ended has none to stop.
        let _ = self.child.kill();
    }
}

fn read(output: &mut impl BufRead) -> Option<Value> {
    let mut length = 0;
    loop {
        let mut line = String::new();
        if output.read_line(&mut line).ok()? == 0 {
            return None;
        }
        match line.trim_end().split_once(": ") {
            Some((_, number)) => length = number.parse().expect("a length"),
            None => break,
        }
    }
    let mut bytes = vec![0; length];
    output.read_exact(&mut bytes).ok()?;
    Some(serde_json::from_slice(&bytes).expect("JSON"))
}

/// The address of a path.
pub fn address(path: &Path) -> String {
    format!("file://{}", path.display())
}

/// A text with the edits of a workspace edit that are meant for it, positions in UTF-16.
pub fn edited(text: &str, uri: &str, edit: &Value) -> String {
    let of_changes = edit["changes"][uri].as_array().cloned().unwrap_or_default();
    let of_documents = edit["documentChanges"].as_array().cloned().unwrap_or_default();
    let of_documents = of_documents.iter().filter(|one| one["textDocument"]["uri"] == uri);
    let mut edits: Vec<Value> = of_changes;
    edits.extend(of_documents.flat_map(|one| one["edits"].as_array().cloned().unwrap_or_default()));
    let mut spans: Vec<(usize, usize, String)> = edits
        .iter()
        .map(|one| {
            let at = |end: &str| offset(text, &one["range"][end]);
            (at("start"), at("end"), one["newText"].as_str().expect("a text").to_owned())
        })
        .collect();
    spans.sort();
    let mut out = text.to_owned();
    for (start, end, new) in spans.into_iter().rev() {
        out.replace_range(start..end, &new);
    }
    out
}

/// The byte of a position in UTF-16.
pub fn offset(text: &str, position: &Value) -> usize {
    let (line, column) = (position["line"].as_u64().expect("a line"), position["character"].as_u64().expect("a column"));
    let start: usize = text.split_inclusive('\n').take(line as usize).map(str::len).sum();
    let mut left = column as usize;
    for (index, c) in text[start..].char_indices() {
        if left == 0 {
            return start + index;
        }
        left -= c.len_utf16();
    }
    text.len()
}

/// The position, in UTF-16, of the first place of a text where some words stand; a `|` in them marks the byte in question.
pub fn position(text: &str, words: &str) -> Value {
    let mark = words.find('|').unwrap_or(0);
    let plain = words.replacen('|', "", 1);
    let at = text.find(&plain).unwrap_or_else(|| panic!("{plain} stands in the text")) + mark;
    let line = text[..at].matches('\n').count();
    let column: usize = text[..at].rsplit('\n').next().unwrap_or_default().chars().map(char::len_utf16).sum();
    json!({"line": line, "character": column})
}
