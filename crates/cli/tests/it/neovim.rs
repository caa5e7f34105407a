//! The language server in a real editor, without a screen.

use std::path::Path;
use std::process::Command;

use assert_cmd::cargo::cargo_bin;

use super::house::said;
use super::report::faulty_demo;

/// Whether Neovim is here; where everything has to be tested, it must be.
#[expect(clippy::print_stderr, reason = "a test that is skipped says so")]
fn has_neovim() -> bool {
    let is_here = Command::new("nvim").arg("--version").output().is_ok_and(|output| output.status.success());
    assert!(is_here || std::env::var_os("DULK_TEST_EVERYTHING").is_none(), "nvim is missing");
    if !is_here {
        eprintln!("skipped: there is no nvim here");
    }
    is_here
}

#[test]
fn neovim_shows_words_offers_and_mends() {
    if !has_neovim() {
        return;
    }
    let house = faulty_demo();
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scripts/neovim.lua");
    let mut editor = Command::new("nvim");
    editor.args(["--headless", "-u", "NONE", "-i", "NONE", "-n", "-c"]).arg(format!("luafile {}", script.display()));
    editor.env("DULK", cargo_bin!("dulk")).env("FOLDER", house.path().join("tour/faulty"));
    // Neither the user's settings nor the user's history.
    for place in ["XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"] {
        editor.env(place, house.path().join("nvim"));
    }
    let output = editor.output().expect("nvim runs");
    assert!(output.status.success() && said(&output).contains("as it should be: "), "{}", said(&output));
}
