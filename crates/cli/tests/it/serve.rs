//! The language server, driven as an editor drives it.

use serde_json::{Value, json};

use super::editor::{Editor, address, edited, position};
use super::house::House;
use super::report::faulty_demo;

/// What most clients of today can do.
pub fn able() -> Value {
    json!({
        "general": {"positionEncodings": ["utf-16"]},
        "textDocument": {
            "publishDiagnostics": {"relatedInformation": true, "tagSupport": {"valueSet": [1, 2]}},
            "codeAction": {
                "codeActionLiteralSupport": {"codeActionKind": {"valueSet": ["quickfix"]}},
                "dataSupport": true,
                "resolveSupport": {"properties": ["edit"]},
            },
            "hover": {"contentFormat": ["markdown", "plaintext"]},
            "documentSymbol": {"hierarchicalDocumentSymbolSupport": true},
        },
        "workspace": {"workspaceEdit": {"documentChanges": true, "resourceOperations": ["create"]}},
    })
}

/// What `dulk check` finds in a folder, as rule, file and lines from 0.
fn checked(house: &House, dir: &str) -> Vec<(String, String, u64)> {
    let ran = house.dulk_in(dir, &["check", "--format", "json"]);
    let all: Value = serde_json::from_str(&ran.out).expect("JSON");
    let mut found: Vec<(String, String, u64)> = all["findings"]
        .as_array()
        .expect("findings")
        .iter()
        .map(|one| {
            let text = |key: &str| one[key].as_str().expect("a text").to_owned();
            (text("rule"), text("file"), one["range"]["start"]["line"].as_u64().expect("a line") - 1)
        })
        .collect();
    found.sort();
    found
}

/// What was told, in the same form.
fn told(editor: &Editor, root: &str) -> Vec<(String, String, u64)> {
    let mut found = Vec::new();
    for (uri, (told, _)) in &editor.told {
        for one in told["diagnostics"].as_array().expect("a list") {
            let path = uri.strip_prefix(root).expect("in the folder").trim_start_matches('/').to_owned();
            let line = one["range"]["start"]["line"].as_u64().expect("a line");
            found.push((one["code"].as_str().expect("a rule").to_owned(), path, line));
        }
    }
    found.sort();
    found
}

#[test]
fn an_editor_is_told_what_check_finds() {
    let house = faulty_demo();
    let folder = house.path().join("tour/faulty");
    let mut editor = Editor::new(&folder, able(), Value::Null);
    let found = checked(&house, "tour/faulty");
    assert!(found.len() > 5, "{found:#?}");
    let mut files: Vec<&String> = found.iter().map(|(_, file, _)| file).collect();
    files.dedup();
    for file in files {
        editor.wait(&format!("{}/{file}", address(&folder)), |told| !told["diagnostics"].as_array().expect("a list").is_empty());
    }
    assert_eq!(told(&editor, &address(&folder)), found);
    assert_eq!(editor.leave(), Some(0));
}

const SITE: &str = "on:\n  push:\n    branches: [main]\npermissions: {contents: read}\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      - run: ls\n  look:\n    needs: biuld\n    runs-on: ubuntu-latest\n    steps:\n      - run: ls\n";

fn quay() -> House {
    House::with_git(&[(".github/workflows/site.yml", SITE)])
}

fn rules(told: &Value) -> Vec<&str> {
    told["diagnostics"].as_array().expect("a list").iter().map(|one| one["code"].as_str().expect("a rule")).collect()
}

#[test]
fn what_is_typed_is_checked_before_it_is_saved() {
    let house = quay();
    let mut editor = Editor::new(house.path(), able(), Value::Null);
    let uri = address(&house.path().join(".github/workflows/site.yml"));
    let first = editor.wait(&uri, |_| true);
    assert_eq!(rules(&first), ["order.absent-job"]);
    let one = &first["diagnostics"][0];
    assert_eq!(one["severity"], 1);
    assert_eq!(one["range"]["start"], position(SITE, "|biuld"));
    assert!(one["message"].as_str().expect("a text").contains("Do: write build"), "{one}");
    editor.open(&uri, SITE);
    editor.change(&uri, 2, &SITE.replace("biuld", "build"));
    let mended = editor.wait(&uri, |told| told["version"] == 2);
    assert_eq!(rules(&mended), [""; 0]);
    // What is not saved counts no longer once the file is closed.
    editor.say("textDocument/didClose", json!({"textDocument": {"uri": uri}}));
    assert_eq!(rules(&editor.wait(&uri, |told| told["version"].is_null())), ["order.absent-job"]);
}

#[test]
fn a_mend_is_applied_by_the_editor() {
    let house = quay();
    let mut editor = Editor::new(house.path(), able(), Value::Null);
    let uri = address(&house.path().join(".github/workflows/site.yml"));
    editor.open(&uri, SITE);
    let at = position(SITE, "bi|uld");
    let params = json!({"textDocument": {"uri": uri}, "range": {"start": at, "end": at}, "context": {"diagnostics": []}});
    let actions = editor.ask("textDocument/codeAction", params);
    let titles: Vec<&str> =
        actions.as_array().expect("a list").iter().map(|one| one["title"].as_str().expect("a title")).collect();
    assert_eq!(
        titles,
        ["Write build", "Accept order.absent-job here: say why in the comment", "Mend all that is certain in this file (1)"]
    );
    assert_eq!(actions[0]["isPreferred"], true);
    assert_eq!(edited(SITE, &uri, &actions[0]["edit"]), SITE.replace("biuld", "build"));
    let accepted = edited(SITE, &uri, &actions[1]["edit"]);
    assert!(accepted.contains("\n    # dulk: accept order.absent-job because \n    needs: biuld\n"), "{accepted}");
    let whole = editor.ask("codeAction/resolve", actions[2].clone());
    assert_eq!(edited(SITE, &uri, &whole["edit"]), SITE.replace("biuld", "build"));
    assert_eq!(house.dulk(&["check"]).code, Some(1), "nothing is written to the disk");
}
