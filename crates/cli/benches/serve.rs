//! Answers of the built language server to a keystroke, over its pipes, on a file of a thousand lines.

#[expect(dead_code, reason = "the tests ask for more")]
#[path = "../tests/it/editor.rs"]
mod editor;

/// What the client takes from the tests.
mod house {
    pub const TODAY: &str = "2026-11-25";
}

use std::fmt::Write;
use std::fs;

use editor::{Editor, address};
use serde_json::{Value, json};

/// Each job has some seventeen lines.
const JOBS: usize = 60;

fn main() {
    divan::main();
}

fn long_pipeline() -> String {
    let mut text = "on:\n  push:\n    branches: [main]\npermissions: {contents: read}\njobs:\n".to_owned();
    for job in 0..JOBS {
        let needs = if job == 0 { String::new() } else { format!("    needs: [quay{}]\n", job - 1) };
        let steps = "      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v5\n        with:\n          node-version: 22\n          cache: npm\n      - run: npm ci\n      - name: bake\n        run: |\n          npm run build\n          cp -r dist out\n";
        write!(text, "  quay{job}:\n{needs}    runs-on: ubuntu-latest\n    timeout-minutes: 10\n    env:\n      TIDE: high\n    steps:\n{steps}")
            .expect("a text");
    }
    text
}

/// An editor in which the long file is open, beside some others.
struct Desk {
    _dir: tempfile::TempDir,
    editor: Editor,
    uri: String,
    version: i32,
    /// A character is there that is taken away next.
    typed: bool,
}

impl Desk {
    fn new(others: usize, has_lockfile: bool) -> Self {
        let dir = tempfile::tempdir().expect("a temporary folder");
        let workflows = dir.path().join(".github/workflows");
        fs::create_dir_all(&workflows).expect("a folder");
        fs::write(
            dir.path().join("package.json"),
            "{\"scripts\": {\"build\": \"vite build\"}, \"devDependencies\": {\"vite\": \"^7\"}}",
        )
        .expect("a file");
        if has_lockfile {
            let lockfile = "{\"lockfileVersion\": 3, \"packages\": {}}";
            fs::write(dir.path().join("package-lock.json"), lockfile).expect("a file");
        }
        let mut editor = Editor::new(dir.path(), json!({}), Value::Null);
        for number in 0..others {
            let path = workflows.join(format!("{number}.yml"));
            let text = include_str!("../../../demo/healthy/.github/workflows/sail.yml");
            fs::write(&path, text).expect("a file");
            editor.open(&address(&path), text);
        }
        let path = workflows.join("long.yml");
        fs::write(&path, long_pipeline()).expect("a file");
        let uri = address(&path);
        editor.open(&uri, &long_pipeline());
        let mut desk = Self { _dir: dir, editor, uri, version: 1, typed: false };
        desk.ask("textDocument/hover");
        desk
    }

    /// Types a letter behind a value, or takes it away again, in the middle of the file.
    fn keystroke(&mut self) {
        self.version += 1;
        let line = JOBS / 2 * 17 + 9;
        let end = if self.typed { 17 } else { 16 };
        let range = json!({"start": {"line": line, "character": 16}, "end": {"line": line, "character": end}});
        let changes = json!([{"range": range, "text": if self.typed { "" } else { "x" }}]);
        self.typed = !self.typed;
        let document = json!({"uri": self.uri, "version": self.version});
        self.editor.say("textDocument/didChange", json!({"textDocument": document, "contentChanges": changes}));
    }

    fn ask(&mut self, method: &str) -> Value {
        let place = json!({"line": JOBS / 2 * 17, "character": 6});
        let params = json!({"textDocument": {"uri": self.uri}, "position": place, "context": {"triggerKind": 1}});
        self.editor.ask(method, params)
    }
}

/// The other files that are open.
const OPEN: [usize; 2] = [0, 100];

/// A keystroke, and the answer to a question after it.
fn answers(bencher: divan::Bencher<'_, '_>, mut desk: Desk, method: &str) {
    bencher.bench_local(|| {
        desk.keystroke();
        desk.ask(method)
    });
}

#[divan::bench(args = OPEN, sample_count = 200)]
fn keystroke_and_words(bencher: divan::Bencher<'_, '_>, others: usize) {
    answers(bencher, Desk::new(others, true), "textDocument/hover");
}

#[divan::bench(args = OPEN, sample_count = 200)]
fn keystroke_and_offers(bencher: divan::Bencher<'_, '_>, others: usize) {
    answers(bencher, Desk::new(others, true), "textDocument/completion");
}

#[divan::bench(args = OPEN, sample_count = 200)]
fn keystroke_and_findings(bencher: divan::Bencher<'_, '_>, others: usize) {
    answers(bencher, Desk::new(others, true), "textDocument/diagnostic");
}

/// Two findings in every job, as nothing is locked.
#[divan::bench(args = OPEN, sample_count = 200)]
fn keystroke_and_many_findings(bencher: divan::Bencher<'_, '_>, others: usize) {
    answers(bencher, Desk::new(others, false), "textDocument/diagnostic");
}
