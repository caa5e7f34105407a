//! The extension in `editors/code`: its own tests, with the built server, and its package.
#![cfg(unix)]

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use assert_cmd::cargo::cargo_bin;

use super::house::said;
use super::report::faulty_demo;

fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../editors/code").canonicalize().expect("the extension")
}

/// Whether npm and what the extension is built with are here; where everything has to be tested, they must be.
#[expect(clippy::print_stderr, reason = "a test that is skipped says so")]
fn is_ready() -> bool {
    let has_npm = Command::new("npm").arg("--version").output().is_ok_and(|output| output.status.success());
    let is_here = has_npm && folder().join("node_modules").is_dir();
    assert!(is_here || std::env::var_os("DULK_TEST_EVERYTHING").is_none(), "npm or the extension's packages are missing");
    if !is_here {
        eprintln!("skipped: npm or the extension's packages are missing; scripts/editor-packages installs those");
    }
    is_here
}

fn npm(script: &str, demo: &Path) -> Output {
    let mut npm = Command::new("npm");
    npm.args(["run", "--silent", script]).current_dir(folder()).env("DULK", cargo_bin!("dulk")).env("FOLDER", demo);
    npm.output().expect("npm runs")
}

#[test]
fn the_extension_finds_the_server_speaks_with_it_and_is_packed() {
    if !is_ready() {
        return;
    }
    let house = faulty_demo();
    let demo = house.path().join("tour/faulty");
    let tested = npm("test", &demo);
    assert!(tested.status.success() && said(&tested).contains("# skipped 0"), "{}", said(&tested));
    let packed = npm("package", &demo);
    assert!(packed.status.success(), "{}", said(&packed));
    for file in ["extension.js", "licences.txt", "LICENSE-MIT", "package.json"] {
        assert!(said(&packed).contains(file), "{file}: {}", said(&packed));
    }
    let package = std::fs::read(folder().join("out/dulk.vsix")).expect("the package");
    assert!(package.starts_with(b"PK") && package.len() < 1_000_000, "{} bytes", package.len());
}

#[test]
fn the_extension_has_the_version_of_the_program() {
    let text = std::fs::read_to_string(folder().join("package.json")).expect("a file");
    let manifest: serde_json::Value = serde_json::from_str(&text).expect("JSON");
    assert_eq!(manifest["version"], env!("CARGO_PKG_VERSION"));
}
