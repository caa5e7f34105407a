//! A real browser without a window, asked over the pipes of its debugging protocol.
#![cfg(unix)]

use std::collections::VecDeque;
use std::fs::{self, File};
use std::io::{Read, Write};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use serde_json::{Value, json};

/// Programs that this browser goes by.
const NAMES: [&str; 3] = ["chromium", "chromium-browser", "google-chrome"];

/// The browser's program; where everything has to be there, its absence is a failure.
#[expect(clippy::print_stderr, reason = "a test that is skipped says so")]
pub fn program() -> Option<&'static str> {
    let runs = |name: &&&str| Command::new(name).arg("--version").output().is_ok_and(|output| output.status.success());
    let found = NAMES.iter().find(runs).copied();
    assert!(found.is_some() || std::env::var_os("DULK_TEST_EVERYTHING").is_none(), "a browser is missing");
    if found.is_none() {
        eprintln!("skipped: there is no chromium here");
    }
    found
}

/// A browser with one page.
pub struct Browser {
    process: Child,
    to: File,
    from: File,
    read: Vec<u8>,
    last: u64,
    session: Option<String>,
    /// What it has told of the page since it was opened.
    told: VecDeque<Value>,
    _home: tempfile::TempDir,
}

impl Browser {
    /// Starts it, with a folder of its own and nothing that goes out to the network by itself.
    pub fn start(program: &str) -> Self {
        let home = tempfile::tempdir().expect("a temporary folder");
        let pipe = |name: &str| {
            let path = home.path().join(name);
            assert!(Command::new("mkfifo").arg(&path).status().expect("mkfifo runs").success());
            path
        };
        let (to, from) = (pipe("to"), pipe("from"));
        let quiet = "--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking \
                     --disable-component-update --disable-sync --disable-extensions --hide-scrollbars --remote-debugging-pipe";
        let call = format!("exec \"$0\" {quiet} --user-data-dir=\"$3\" about:blank 3<\"$1\" 4>\"$2\"");
        let mut process = Command::new("sh");
        process.args(["-c", &call, program]).args([&to, &from]).arg(home.path().join("data"));
        let process = process.stdout(Stdio::null()).stderr(Stdio::null()).spawn().expect("a browser");
        let to = File::options().write(true).open(to).expect("a pipe");
        let from = File::open(from).expect("a pipe");
        let mut browser =
            Self { process, to, from, read: Vec::new(), last: 0, session: None, told: VecDeque::new(), _home: home };
        let target = browser.ask("Target.createTarget", json!({ "url": "about:blank" }))["targetId"].clone();
        let attached = browser.ask("Target.attachToTarget", json!({ "targetId": target, "flatten": true }));
        browser.session = attached["sessionId"].as_str().map(str::to_owned);
        for part in ["Page", "Network", "Runtime", "Log", "Accessibility"] {
            browser.ask(&format!("{part}.enable"), json!({}));
        }
        browser
    }

    /// Opens a file at a size in pixels, with a reader's setting `light` or `dark`.
    pub fn open(&mut self, file: &Path, (width, height): (u32, u32), scheme: &str) {
        let size = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.ask("Emulation.setDeviceMetricsOverride", size);
        let features = json!({ "features": [{ "name": "prefers-color-scheme", "value": scheme }] });
        self.ask("Emulation.setEmulatedMedia", features);
        self.told.clear();
        let address = format!("file://{}", fs::canonicalize(file).expect("the file").display());
        self.ask("Page.navigate", json!({ "url": address }));
        while !self.told.iter().any(|event| event["method"] == "Page.loadEventFired") {
            let message = self.message();
            self.told.push_back(message);
        }
    }

    /// The addresses that were asked for since the page was opened.
    pub fn requests(&self) -> Vec<String> {
        let asked = self.told.iter().filter(|event| event["method"] == "Network.requestWillBeSent");
        asked.map(|event| event["params"]["request"]["url"].as_str().unwrap_or_default().to_owned()).collect()
    }

    /// What the console holds since then.
    pub fn console(&self) -> Vec<String> {
        let said = |event: &&Value| {
            ["Log.entryAdded", "Runtime.consoleAPICalled", "Runtime.exceptionThrown"]
                .contains(&event["method"].as_str().unwrap_or_default())
        };
        self.told.iter().filter(said).map(|event| event["params"].to_string()).collect()
    }

    /// What an expression of the page's script comes to.
    pub fn value(&mut self, expression: &str) -> Value {
        let answer = self.ask("Runtime.evaluate", json!({ "expression": expression, "returnByValue": true }));
        assert!(answer["exceptionDetails"].is_null(), "{expression}: {answer}");
        answer["result"]["value"].clone()
    }

    /// Role and name of everything that the accessibility tree holds.
    pub fn accessible(&mut self) -> Vec<(String, String)> {
        let tree = self.ask("Accessibility.getFullAXTree", json!({}));
        let of = |node: &Value| {
            let word = |key: &str| node[key]["value"].as_str().unwrap_or_default().to_owned();
            (word("role"), word("name"))
        };
        let nodes = tree["nodes"].as_array().map(Vec::as_slice).unwrap_or_default();
        nodes.iter().filter(|node| node["ignored"] != true).map(of).collect()
    }

    fn ask(&mut self, method: &str, params: Value) -> Value {
        self.last += 1;
        let mut message = json!({ "id": self.last, "method": method, "params": params });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        let text = message.to_string() + "\0";
        self.to.write_all(text.as_bytes()).expect("the browser reads");
        loop {
            let message = self.message();
            if message["id"] == self.last {
                assert!(message["error"].is_null(), "{method}: {message}");
                return message["result"].clone();
            }
            self.told.push_back(message);
        }
    }

    /// The next message: each ends with a zero byte.
    fn message(&mut self) -> Value {
        loop {
            if let Some(end) = self.read.iter().position(|byte| *byte == 0) {
                let message: Vec<u8> = self.read.drain(..=end).collect();
                return serde_json::from_slice(&message[..end]).expect("JSON");
            }
            let mut part = [0; 65_536];
            let count = self.from.read(&mut part).expect("the browser answers");
            assert!(count > 0, "the browser has ended");
            self.read.extend_from_slice(&part[..count]);
        }
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}
