//! The language server under clients that err, lie or die, and under a long row of edits.

use std::path::Path;

use serde_json::{Value, json};

use super::editor::{Editor, address, offset};
use super::house::House;
use super::serve::{able, checked, told};

const TEXT: &str = "on: push\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps: [{run: ls}]\n";

#[test]
fn who_does_not_keep_the_order_is_told_so() {
    let house = House::new(&[(".github/workflows/a.yml", TEXT)]);
    let uri = address(&house.path().join(".github/workflows/a.yml"));
    let mut editor = Editor::silent(house.path());
    assert_eq!(editor.refused("textDocument/hover", json!({})), -32002);
    assert_eq!(editor.refused("shutdown", Value::Null), -32002);
    editor.say("textDocument/didOpen", json!({"nonsense": true}));
    assert_eq!(editor.refused("initialize", json!({"capabilities": 7})), -32602);
    editor.ask("initialize", json!({"processId": null, "rootUri": address(house.path()), "capabilities": {}}));
    assert_eq!(editor.refused("initialize", json!({"capabilities": {}})), -32600);
    assert_eq!(editor.refused("tide/rise", Value::Null), -32601);
    assert_eq!(editor.refused("textDocument/hover", json!({"textDocument": {"uri": uri}})), -32602);
    assert_eq!(editor.refused("textDocument/hover", json!([1, 2])), -32602);
    assert_eq!(editor.refused("workspace/executeCommand", json!({"command": "dulk.sink", "arguments": []})), -32602);
    // Notifications that make no sense, of files that are not open and of none at all.
    editor.say("textDocument/didChange", json!({"textDocument": {"uri": uri, "version": 9}, "contentChanges": [{"text": "x"}]}));
    editor.say("textDocument/didClose", json!({"textDocument": {"uri": "untitled:1"}}));
    editor.say("tide/rose", json!({"high": true}));
    let nowhere = json!({"textDocument": {"uri": "untitled:1"}, "position": {"line": 0, "character": 0}});
    assert!(editor.ask("textDocument/hover", nowhere).is_null());
    editor.ask("shutdown", Value::Null);
    assert_eq!(editor.refused("textDocument/hover", json!({})), -32600);
    editor.say("exit", Value::Null);
    assert_eq!(editor.status(), Some(0));
}

#[test]
fn positions_outside_and_old_versions_do_no_harm() {
    let house = House::new(&[(".github/workflows/a.yml", TEXT)]);
    let uri = address(&house.path().join(".github/workflows/a.yml"));
    let mut editor = Editor::new(house.path(), able(), Value::Null);
    editor.open(&uri, TEXT);
    for (line, character) in [(0, 4_000_000_000_u32), (4_000_000_000, 0), (u32::MAX, u32::MAX), (3, 21)] {
        let place = json!({"line": line, "character": character});
        let range = json!({"start": place, "end": {"line": 0, "character": 0}});
        let params = json!({"textDocument": {"uri": uri}, "position": place, "range": range, "context": {"diagnostics": [], "includeDeclaration": true, "triggerKind": 1}});
        for method in ["hover", "completion", "definition", "references", "codeAction", "inlayHint", "prepareRename"] {
            editor.ask(&format!("textDocument/{method}"), params.clone());
        }
    }
    let change = |version: i32, range: Value, text: &str| json!({"textDocument": {"uri": uri, "version": version}, "contentChanges": [{"range": range, "text": text}]});
    let end = json!({"start": {"line": 99, "character": 99}, "end": {"line": 0, "character": 99_999}});
    editor.say("textDocument/didChange", change(5, end, "  look:\n    needs: biuld\n"));
    let found = editor.wait(&uri, |told| told["version"] == 5);
    let rules = |told: &Value| told["diagnostics"].to_string().matches("order.absent-job").count();
    assert!(rules(&found) > 0, "{found}");
    // An older version comes late: what it says is about another text.
    editor.change(&uri, 4, "");
    editor.change(&uri, 6, TEXT);
    assert_eq!(rules(&editor.wait(&uri, |told| told["version"] == 6)), 0);
}

#[test]
fn broken_messages_are_answered_and_the_next_is_heard() {
    let house = House::new(&[(".github/workflows/a.yml", TEXT)]);
    let mut editor = Editor::new(house.path(), able(), Value::Null);
    editor.raw(b"Content-Length: 9\r\n\r\n{\"id\": 1}");
    editor.raw(b"Content-Length: 2\r\n\r\n{]");
    editor.raw(b"Content-Length: 99999999999999999999\r\n\r\n");
    editor.raw(b"Content-Length: 9999999999999\r\n\r\n");
    let mut codes = Vec::new();
    while codes.len() < 4 {
        let message = editor.hear().expect("an answer");
        codes.extend(message["error"]["code"].as_i64());
    }
    assert_eq!(codes, [-32600, -32700, -32700, -32700]);
    assert!(editor.ask("workspace/diagnostic", json!({"previousResultIds": []}))["items"].is_array());
    // A message that is cut off by the end of the client.
    editor.raw(b"Content-Length: 500\r\n\r\n{\"jsonrpc\"");
    editor.hang_up();
    assert_eq!(editor.status(), Some(1));
}

#[test]
fn a_text_of_twenty_megabytes_is_refused_in_words() {
    let house = House::new(&[(".github/workflows/a.yml", TEXT)]);
    let uri = address(&house.path().join(".github/workflows/a.yml"));
    let mut editor = Editor::new(house.path(), able(), Value::Null);
    editor.open(&uri, &format!("{TEXT}# {}\n", "tide ".repeat(4 << 20)));
    let found = editor.wait(&uri, |told| told["version"] == 1);
    assert!(found["diagnostics"][0]["message"].as_str().expect("a text").contains("MB large"), "{}", found["diagnostics"][0]);
    editor.change(&uri, 2, TEXT);
    let found = editor.wait(&uri, |told| told["version"] == 2);
    assert!(!found["diagnostics"].to_string().contains("MB large"));
    assert_eq!(editor.leave(), Some(0));
}

#[test]
fn a_request_that_is_called_off_is_answered_as_such() {
    let house = House::new(&[(".github/workflows/a.yml", TEXT)]);
    let mut editor = Editor::new(house.path(), able(), Value::Null);
    // Both come in one piece, so that the second is there before the first is dealt with.
    let message = |text: &str| format!("Content-Length: {}\r\n\r\n{text}", text.len());
    let slow = message(r#"{"jsonrpc":"2.0","id":500,"method":"workspace/diagnostic","params":{"previousResultIds":[]}}"#);
    let off = message(r#"{"jsonrpc":"2.0","method":"$/cancelRequest","params":{"id":500}}"#);
    let many: String = std::iter::repeat_n(message(r#"{"jsonrpc":"2.0","method":"tide/rose"}"#), 50).collect();
    editor.raw(format!("{many}{slow}{off}").as_bytes());
    let answer = editor.answer(500);
    assert!(answer["error"]["code"] == -32800 || answer["result"]["items"].is_array(), "{answer}");
}

/// Numbers without pattern, the same in every run (Knuth, The Art of Computer Programming, volume 2, 3.3.4).
struct Dice(u64);

impl Dice {
    fn roll(&mut self, sides: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        usize::try_from(self.0 >> 33).unwrap_or_default() % sides.max(1)
    }
}

/// What people type, and what breaks a text.
const BITS: [&str; 22] = [
    "\n",
    "  ",
    " ",
    ":",
    "- ",
    "[",
    "]",
    "{",
    "}",
    "'",
    "\"",
    "|",
    "#",
    "&a",
    "*a",
    "${{ ",
    " }}",
    "needs: build",
    "\n    if: always()",
    "é🚢",
    "\t",
    "$",
];

/// So many edits are made, in well under a minute; `DULK_TEST_EDITS` and `DULK_TEST_SEED` make it another row.
const EDITS: usize = 240;

fn number_from(name: &str, otherwise: usize) -> usize {
    std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(otherwise)
}

/// The place of a byte, in UTF-16.
fn place(text: &str, at: usize) -> Value {
    let line = text[..at].matches('\n').count();
    let column: usize = text[..at].rsplit('\n').next().unwrap_or_default().chars().map(char::len_utf16).sum();
    json!({"line": line, "character": column})
}

/// Edits without sense, with questions in between: nothing breaks, and at the end the editor has been told what `check` finds in the
/// same texts.
#[test]
fn any_row_of_edits_ends_in_what_check_finds() {
    let house = super::report::faulty_demo();
    let folder = house.path().join("tour/faulty");
    let paths = [".github/workflows/sail.yml", ".github/workflows/preview.yml", "package.json"];
    let mut texts: Vec<String> = paths.iter().map(|path| read(&folder, path)).collect();
    let mut editor = Editor::new(&folder, able(), Value::Null);
    let uris: Vec<String> = paths.iter().map(|path| address(&folder.join(path))).collect();
    uris.iter().zip(&texts).for_each(|(uri, text)| editor.open(uri, text));
    let mut dice = Dice(number_from("DULK_TEST_SEED", 20_261_128) as u64);
    for number in 0..number_from("DULK_TEST_EDITS", EDITS) {
        let which = dice.roll(paths.len() * 2 + 1) % paths.len();
        let (uri, text) = (&uris[which], &mut texts[which]);
        let mut ends = [dice.roll(text.len() + 1), 0];
        ends[1] = (ends[0] + dice.roll(2) * dice.roll(12)).min(text.len());
        let [from, to] = ends.map(|at| text.floor_char_boundary(at));
        let new = BITS[dice.roll(BITS.len())];
        let range = json!({"start": place(text, from), "end": place(text, to)});
        assert_eq!(offset(text, &range["start"]), from);
        text.replace_range(from..to, new);
        let version = i32::try_from(number).expect("a number") + 2;
        let changes = json!([{"range": range, "text": new}]);
        editor
            .say("textDocument/didChange", json!({"textDocument": {"uri": uri, "version": version}, "contentChanges": changes}));
        let asks =
            ["hover", "completion", "definition", "documentSymbol", "foldingRange", "codeAction", "codeLens", "prepareRename"];
        let here = text.floor_char_boundary(dice.roll(text.len() + 1));
        let spot = place(text, here);
        let params = json!({"textDocument": {"uri": uri}, "position": spot, "range": {"start": spot, "end": spot}, "context": {"diagnostics": [], "triggerKind": 1}});
        let asked = asks[dice.roll(asks.len())];
        let answer = editor.ask(&format!("textDocument/{asked}"), params);
        // These speak of other files, too.
        if !["definition", "codeAction"].contains(&asked) {
            inside(text, &answer);
        }
    }
    for (path, text) in paths.iter().zip(&texts) {
        std::fs::write(folder.join(path), text).expect("a file");
    }
    let found = checked(&house, "tour/faulty");
    // What was told last is told before the next question is answered.
    while told(&editor, &address(&folder)) != found {
        editor.hear().unwrap_or_else(|| panic!("told: {:#?}\nfound: {found:#?}", told(&editor, &address(&folder))));
    }
    assert_eq!(editor.leave(), Some(0));
}

fn read(folder: &Path, path: &str) -> String {
    std::fs::read_to_string(folder.join(path)).expect("a file")
}

/// Every position of an answer lies in the text.
fn inside(text: &str, answer: &Value) {
    match answer {
        Value::Object(object) => {
            if let (Some(line), Some(column)) = (object.get("line").and_then(Value::as_u64), object.get("character")) {
                let own = text.split('\n').nth(line as usize);
                let own = own.unwrap_or_else(|| panic!("line {line} of {} lines", text.split('\n').count()));
                assert!(column.as_u64() <= Some(own.encode_utf16().count() as u64), "column {column} of {own:?}");
            }
            object.values().for_each(|value| inside(text, value));
        }
        Value::Array(list) => list.iter().for_each(|value| inside(text, value)),
        _ => {}
    }
}
