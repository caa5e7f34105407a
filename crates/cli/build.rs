//! Lists the files of the demo repository, so that the program carries them inside, and tells the linker how to lay the program out.

use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = fs::canonicalize(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo"))?;
    println!("cargo::rerun-if-changed={}", demo.display());
    let mut code = String::new();
    for copy in ["healthy", "faulty", "healthy_gitlab", "faulty_gitlab", "other_formats"] {
        let root = demo.join(copy);
        let mut files = Vec::new();
        collect(&root, &mut files)?;
        files.sort();
        writeln!(code, "/// The {copy} copy: paths and contents.\npub const {}: &[(&str, &str)] = &[", copy.to_uppercase())?;
        for file in files {
            let name = file.strip_prefix(&root)?.to_string_lossy().replace('\\', "/");
            writeln!(code, "    ({name:?}, include_str!({:?})),", file.display().to_string())?;
            println!("cargo::rerun-if-changed={}", file.display());
        }
        writeln!(code, "];")?;
    }
    fs::write(PathBuf::from(env::var("OUT_DIR")?).join("demo.rs"), code)?;
    lay_out()?;
    Ok(())
}

/// What the linker is told: by the first, what a check calls stands together, so that a third fewer pages are touched.
const SCRIPTS: [&str; 2] = ["startup-order.ld", "no-unwinding.ld"];

/// Where the linker is to write what lies where: scripts/startup-order asks for it.
const MAP: &str = "DULK_LINK_MAP";

/// How the program is laid out, where that is known to work.
fn lay_out() -> std::io::Result<()> {
    let target = |part: &str| env::var(format!("CARGO_CFG_TARGET_{part}")).unwrap_or_default();
    let (system, library) = (target("OS"), target("ENV"));
    if (system.as_str(), library.as_str()) == ("linux", "gnu") {
        // A program that is laid out for one place starts in two thirds of the time: nothing in it has to be moved first.
        println!("cargo::rustc-link-arg-bins=-no-pie");
    }
    println!("cargo::rerun-if-env-changed=RUSTC_LINKER");
    println!("cargo::rerun-if-env-changed={MAP}");
    if system == "linux" && env::var("PROFILE").is_ok_and(|profile| profile == "release") && takes_linker_scripts() {
        for script in SCRIPTS {
            let script = fs::canonicalize(Path::new(env!("CARGO_MANIFEST_DIR")).join(script))?;
            println!("cargo::rerun-if-changed={}", script.display());
            println!("cargo::rustc-link-arg-bins=-T");
            println!("cargo::rustc-link-arg-bins={}", script.display());
        }
        if let Ok(map) = env::var(MAP) {
            println!("cargo::rustc-link-arg-bins=-Wl,-Map={map}");
        }
    }
    Ok(())
}

/// Whether the linker is one that Rust brings or finds by itself. Another one that somebody has chosen may know no scripts.
fn takes_linker_scripts() -> bool {
    let chosen = env::var("RUSTC_LINKER").is_ok_and(|linker| !linker.ends_with("rust-lld"));
    let flags = env::var("CARGO_ENCODED_RUSTFLAGS").unwrap_or_default();
    !chosen && !flags.contains("linker") && !flags.contains("link-arg")
}

fn collect(dir: &Path, files: &mut Vec<PathBuf>) -> std::io::Result<()> {
    for entry in fs::read_dir(dir)? {
        let path = entry?.path();
        if path.is_dir() { collect(&path, files)? } else { files.push(path) }
    }
    Ok(())
}
