//! Turns the catalog's TOML files into JSON that the library includes: JSON reads several times faster at start.
//!
//! Files of one folder are joined: their lists of the same name become one list.

use std::path::{Path, PathBuf};
use std::{env, fs};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let catalog = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../catalog");
    let out = PathBuf::from(env::var("OUT_DIR")?);
    println!("cargo::rerun-if-changed={}", catalog.display());
    let formats = catalog.join("formats");
    parts(&catalog, &formats, &out)?;
    parts(&formats, &formats, &out.join("formats"))?;
    workspace_names(&formats, &out)
}

/// Paths are worked out without asking for a format: what formats call the workspace is put together here.
fn workspace_names(formats: &Path, out: &Path) -> Result<(), Box<dyn std::error::Error>> {
    let mut names: Vec<String> = Vec::new();
    for entry in fs::read_dir(formats)? {
        for file in toml_files(&entry?.path())? {
            let table: toml::Table = fs::read_to_string(&file)?.parse()?;
            let list = table.get("lists").and_then(|lists| lists.get("workspace")).and_then(toml::Value::as_array);
            names.extend(list.into_iter().flatten().filter_map(|name| name.as_str().map(str::to_owned)));
        }
    }
    names.sort();
    fs::write(out.join("workspace_names.json"), serde_json::to_string(&names)?)?;
    Ok(())
}

/// Makes one JSON file of each file and each folder in `from`; the folder of the formats holds parts of its own.
fn parts(from: &Path, formats: &Path, out: &Path) -> Result<(), Box<dyn std::error::Error>> {
    fs::create_dir_all(out)?;
    for entry in fs::read_dir(from)? {
        let path = entry?.path();
        let Some(name) = path.file_stem().and_then(|name| name.to_str()).filter(|_| path != formats) else { continue };
        let mut whole = toml::Table::new();
        for file in toml_files(&path)? {
            println!("cargo::rerun-if-changed={}", file.display());
            let table: toml::Table =
                fs::read_to_string(&file)?.parse().map_err(|error| format!("{}: {error}", file.display()))?;
            join(&mut whole, table);
        }
        fill_customs(&mut whole);
        fs::write(out.join(format!("{name}.json")), serde_json::to_string(&whole)?)?;
    }
    Ok(())
}

fn toml_files(path: &Path) -> std::io::Result<Vec<PathBuf>> {
    if path.is_file() {
        return Ok(if path.extension().is_some_and(|end| end == "toml") { vec![path.to_owned()] } else { Vec::new() });
    }
    let mut files: Vec<PathBuf> = fs::read_dir(path)?.map(|entry| entry.map(|entry| entry.path())).collect::<Result<_, _>>()?;
    files.retain(|file| file.extension().is_some_and(|end| end == "toml"));
    files.sort();
    Ok(files)
}

fn join(whole: &mut toml::Table, part: toml::Table) {
    for (key, value) in part {
        match (whole.get_mut(&key), value) {
            (Some(toml::Value::Array(old)), toml::Value::Array(new)) => old.extend(new),
            (Some(toml::Value::Table(old)), toml::Value::Table(new)) => join(old, new),
            (_, value) => {
                whole.insert(key, value);
            }
        }
    }
}

/// Every host of a format has all of the format's customs, and its own in their place. Several folders make several hosts.
fn fill_customs(format: &mut toml::Table) {
    let Some(usual) = format.get("customs").and_then(toml::Value::as_table).cloned() else { return };
    let Some(toml::Value::Array(hosts)) = format.get_mut("host") else { return };
    let mut filled = Vec::new();
    for mut host in hosts.drain(..).filter_map(|host| host.try_into::<toml::Table>().ok()) {
        let mut customs = usual.clone();
        if let Some(toml::Value::Table(own)) = host.remove("customs") {
            customs.extend(own);
        }
        host.insert("customs".to_owned(), toml::Value::Table(customs));
        match host.remove("folder") {
            Some(toml::Value::Array(folders)) => filled.extend(folders.into_iter().map(|folder| with(&host, "folder", folder))),
            folder => filled.extend(folder.map(|folder| with(&host, "folder", folder))),
        }
    }
    *hosts = filled;
}

fn with(table: &toml::Table, key: &str, value: toml::Value) -> toml::Value {
    let mut table = table.clone();
    table.insert(key.to_owned(), value);
    toml::Value::Table(table)
}
