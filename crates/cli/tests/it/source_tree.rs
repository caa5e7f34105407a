//! What must hold of the workspace's own source files.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..").canonicalize().expect("the folder of the crates")
}

/// All `.rs` files below a folder.
fn rust_files(dir: &Path, found: &mut BTreeSet<PathBuf>) {
    for entry in fs::read_dir(dir).expect("a folder") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            rust_files(&path, found);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            found.insert(path);
        }
    }
}

/// The name of a plain `mod name;` line. Declarations that a macro makes hold a `$` and are none: the formatter does not see them.
fn declared(line: &str) -> Option<&str> {
    let line = line.trim().strip_suffix(';')?;
    let (before, name) = line.rsplit_once("mod ").map(|(before, name)| (before.trim(), name.trim_start_matches("r#")))?;
    let visible = before.is_empty() || before == "pub" || (before.starts_with("pub(") && before.ends_with(')'));
    (visible && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_')).then_some(name)
}

/// Follows the modules of a file, as the formatter does.
fn follow(file: &Path, is_root: bool, reached: &mut BTreeSet<PathBuf>) {
    if !reached.insert(file.to_owned()) {
        return;
    }
    let dir = file.parent().expect("a folder");
    let own = if is_root || file.ends_with("mod.rs") { dir.to_owned() } else { file.with_extension("") };
    let text = fs::read_to_string(file).expect("a source file");
    let lines: Vec<&str> = text.lines().collect();
    for (index, name) in lines.iter().enumerate().filter_map(|(index, line)| Some((index, declared(line)?))) {
        // A module may name its file in the line above, seen from the folder of this one.
        let named = index.checked_sub(1).and_then(|above| lines[above].strip_prefix("#[path = \"")?.strip_suffix("\"]"));
        let mut candidates = vec![own.join(format!("{name}.rs")), own.join(name).join("mod.rs")];
        candidates.extend(named.and_then(|path| dir.join(path).canonicalize().ok()));
        let found = candidates.iter().find(|path| path.is_file());
        follow(found.unwrap_or_else(|| panic!("{} declares {name}, which is nowhere", file.display())), false, reached);
    }
}

#[test]
fn the_formatter_reaches_every_source_file() {
    let mut all = BTreeSet::new();
    rust_files(&crates(), &mut all);
    let is_root = |path: &&PathBuf| {
        let dir = path.parent().expect("a folder");
        path.ends_with("build.rs")
            || path.ends_with("src/lib.rs")
            || path.ends_with("src/main.rs")
            || path.ends_with("tests/it/main.rs")
            || dir.ends_with("benches")
            || dir.ends_with("examples")
    };
    let mut reached = BTreeSet::new();
    for root in all.iter().filter(is_root) {
        follow(root, true, &mut reached);
    }
    let missed: Vec<_> = all.difference(&reached).collect();
    assert!(missed.is_empty(), "no plain `mod` line leads to {missed:#?}");
}
