//! Turns the catalog's TOML files into Rust: its values stand in the program as they are, so that reading them costs nothing at start. Which
//! keys there are, and what they hold, is taken from the types in `src/knowledge` themselves.
//!
//! Files of one folder are joined: their lists of the same name become one list.

mod shapes;
#[path = "../src/knowledge/slots.rs"]
mod slots;
mod values;
mod written;

use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs};

use shapes::{Shape, Shapes};

type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

/// The types of the catalog's parts, by the names of these.
const PARTS: [(&str, &str); 12] = [
    ("actions", "Actions"),
    ("managers", "Managers"),
    ("commands", "Commands"),
    ("upkeep", "Upkeep"),
    ("forges", "Forges"),
    ("names", "KnownNames"),
    ("credentials", "Credentials"),
    ("generators", "Generators"),
    ("programs", "Programs"),
    ("hosting", "Hostings"),
    ("hosts", "Hosts"),
    ("toolchains", "Toolchains"),
];

fn main() -> Result<()> {
    let own = PathBuf::from(env::var("CARGO_MANIFEST_DIR")?);
    let (catalog, types) = (own.join("../../catalog"), own.join("src/knowledge"));
    for watched in [&catalog, &types, &own.join("build")] {
        println!("cargo::rerun-if-changed={}", watched.display());
    }
    let mut shapes = Shapes::default();
    for file in entries(&types)? {
        let name = file.file_stem().and_then(|name| name.to_str()).unwrap_or_default().to_owned();
        shapes.read(&file, &format!("super::{name}"))?;
    }
    shapes.read(&own.join("src/model/trigger.rs"), "crate::model")?;
    let mut code = String::new();
    for (part, kind) in PARTS {
        let folder = catalog.join(part);
        let mut value = joined(&if folder.is_dir() { folder } else { catalog.join(format!("{part}.toml")) })?;
        if part == "actions" {
            call_actions_by_name(&mut value)?;
        }
        table(&mut code, &shapes, part, kind, value)?;
    }
    let mut workspace: Vec<String> = Vec::new();
    for folder in entries(&catalog.join("formats"))? {
        let name = folder.file_name().and_then(|name| name.to_str()).unwrap_or_default().to_owned();
        let value = joined(&folder)?;
        let list = value.get("lists").and_then(|lists| lists.get("workspace")).and_then(toml::Value::as_array);
        workspace.extend(list.into_iter().flatten().filter_map(|name| name.as_str().map(str::to_owned)));
        format(&mut code, &shapes, &name, value)?;
    }
    // A format that only tests know, to show that what is common to all fits another one.
    code.push_str("#[cfg(test)]\n");
    format(&mut code, &shapes, "tide", joined(&own.join("src/formats/tests/tide.toml"))?)?;
    workspace.sort();
    writeln!(code, "pub(super) static WORKSPACE: super::List<super::Word> = &{workspace:?};")?;
    fs::write(PathBuf::from(env::var("OUT_DIR")?).join("tables.rs"), code)?;
    Ok(())
}

/// The static of a format.
fn format(code: &mut String, shapes: &Shapes, name: &str, mut value: toml::Table) -> Result<()> {
    fill_customs(&mut value);
    gather_run(&mut value, shapes);
    table(code, shapes, &format!("format_{name}"), "FormatData", value)
}

/// One static of the catalog.
fn table(code: &mut String, shapes: &Shapes, name: &str, kind: &str, value: toml::Table) -> Result<()> {
    let path = &shapes.structures.get(kind).ok_or_else(|| format!("there is no type {kind}"))?.path;
    let value = shapes.value(&Shape::Named(kind.to_owned()), Some(&toml::Value::Table(value)), false, name)?;
    writeln!(code, "pub(super) static {}: {path} = {value};", name.to_uppercase())?;
    Ok(())
}

/// Actions are looked up by their names, in whatever letters, so that they stand by these in small ones.
fn call_actions_by_name(value: &mut toml::Table) -> Result<()> {
    let Some(toml::Value::Array(actions)) = value.remove("action") else { return Err("there are no actions".into()) };
    let mut named = toml::Table::new();
    for action in actions {
        let name = action.get("uses").and_then(toml::Value::as_str).unwrap_or_default().to_ascii_lowercase();
        if named.insert(name.clone(), action).is_some() {
            return Err(format!("{name} stands twice in the catalog").into());
        }
    }
    value.insert("action".to_owned(), toml::Value::Table(named));
    Ok(())
}

/// What a run knows of itself stands beside the rest in the files, and in a value of its own in the types.
fn gather_run(format: &mut toml::Table, shapes: &Shapes) {
    let Some(run) = shapes.structures.get("Run") else { return };
    let mut own = toml::Table::new();
    for (name, _) in &run.fields {
        let key = name.replace('_', "-");
        own.extend(format.remove(&key).map(|value| (key, value)));
    }
    format.insert("run".to_owned(), toml::Value::Table(own));
}

/// The files of a folder, or one file, as one table.
fn joined(path: &Path) -> Result<toml::Table> {
    let mut whole = toml::Table::new();
    for file in toml_files(path)? {
        println!("cargo::rerun-if-changed={}", file.display());
        join(&mut whole, fs::read_to_string(&file)?.parse().map_err(|error| format!("{}: {error}", file.display()))?);
    }
    Ok(whole)
}

fn toml_files(path: &Path) -> std::io::Result<Vec<PathBuf>> {
    if path.is_file() {
        return Ok(if path.extension().is_some_and(|end| end == "toml") { vec![path.to_owned()] } else { Vec::new() });
    }
    let mut files = entries(path)?;
    files.retain(|file| file.extension().is_some_and(|end| end == "toml"));
    Ok(files)
}

/// What lies in a folder, sorted.
fn entries(folder: &Path) -> std::io::Result<Vec<PathBuf>> {
    let mut found: Vec<PathBuf> =
        fs::read_dir(folder)?.map(|entry| entry.map(|entry| entry.path())).collect::<std::io::Result<_>>()?;
    found.sort();
    Ok(found)
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
