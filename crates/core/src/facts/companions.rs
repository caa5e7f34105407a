//! Which files beside the pipelines are read for facts: one way for the program and for the examples of the rules.

use std::collections::HashSet;

use super::{Facts, FileList, Found, config_names, is_page_source, is_settings_file};
use crate::text::{SourceFile, Sources};

/// Packages deeper in the repository are not looked at, and not more than this many.
const PACKAGE_DEPTH: usize = 4;
const PACKAGE_LIMIT: usize = 64;
/// The same of configuration files.
const CONFIG_LIMIT: usize = 256;

/// Where the texts of files come from, by their paths from the repository's root.
pub trait Shelf {
    /// The text of a file.
    ///
    /// # Errors
    /// Why it cannot be read, in plain words.
    fn read(&self, path: &str) -> Result<String, String>;

    /// Whether a file is no longer than this many bytes.
    fn is_small(&self, path: &str, limit: u64) -> bool;
}

/// Reads package.json files, the configuration of generators beside them, and the sources of pages that variables are put into.
/// `list` holds the files that there are.
pub fn read_facts(list: &FileList, shelf: &dyn Shelf, found: &mut Found, sources: &mut Sources) {
    read_companions(list, shelf, found, sources);
    read_page_sources(list, shelf, found, sources);
}

fn is_project_file(path: &str) -> bool {
    let name = path.rsplit('/').next().unwrap_or_default();
    let typescript = name.starts_with("tsconfig") && name.ends_with(".json");
    (typescript || name.ends_with(".csproj")) && path.matches('/').count() <= PACKAGE_DEPTH && !path.contains("node_modules/")
}

/// More of the page's sources than this are not read, nor longer ones.
const PAGE_SOURCES: usize = 200;
const PAGE_SOURCE_BYTES: u64 = 200_000;

/// Reads the page's own sources, where a generator copies variables into them.
fn read_page_sources(list: &FileList, shelf: &dyn Shelf, found: &mut Found, sources: &mut Sources) {
    let packages: Vec<&str> = found
        .companions
        .iter()
        .map(|file| sources.get(*file))
        .filter(|source| source.path.ends_with("package.json"))
        .map(|source| source.text.as_str())
        .collect();
    if !Facts::puts_variables_into_pages(&packages) {
        return;
    }
    let small = |path: &&str| shelf.is_small(path, PAGE_SOURCE_BYTES);
    let wanted: Vec<String> = list
        .iter()
        .filter(|path| is_settings_file(path) || is_page_source(path))
        .filter(small)
        .take(PAGE_SOURCES)
        .map(str::to_owned)
        .collect();
    for path in wanted {
        if let Ok(text) = shelf.read(&path) {
            found.page_sources.push(sources.add(SourceFile::new(path, text)));
        }
    }
}

/// Reads package.json files and the configuration of generators beside them.
fn read_companions(list: &FileList, shelf: &dyn Shelf, found: &mut Found, sources: &mut Sources) {
    let is_package = |path: &&str| {
        let name_fits = *path == "package.json" || path.ends_with("/package.json");
        name_fits && !path.contains("node_modules/") && path.matches('/').count() <= PACKAGE_DEPTH
    };
    let mut wanted: Vec<String> = list.iter().filter(is_package).map(str::to_owned).collect();
    wanted.sort_by_key(|path| path.matches('/').count());
    wanted.truncate(PACKAGE_LIMIT);
    let locks: Vec<String> = wanted.iter().map(|path| path.replace("package.json", "package-lock.json")).collect();
    wanted.extend(locks.into_iter().chain(["package-lock.json".to_owned()]).filter(|path| list.has(path)));
    // A generator's configuration may stand where no package.json does.
    let names: HashSet<&str> = config_names().collect();
    let is_config = |path: &&str| {
        let name = path.rsplit('/').next().unwrap_or_default();
        // Some names hold the folder that they stand in.
        let known =
            names.contains(name) || names.contains(*path) || path.split_once('/').is_some_and(|(_, rest)| names.contains(rest));
        known && !path.contains("node_modules/") && path.matches('/').count() <= PACKAGE_DEPTH
    };
    let mut configs: Vec<String> = list.iter().filter(is_config).map(str::to_owned).collect();
    configs.sort_by_key(|path| path.matches('/').count());
    configs.truncate(CONFIG_LIMIT);
    wanted.extend(configs);
    // Names that compilers' project files of templates use; they tell whether a compiler writes a folder.
    wanted.extend(list.iter().filter(|path| is_project_file(path)).take(PACKAGE_LIMIT).map(str::to_owned));
    wanted.sort_unstable();
    wanted.dedup();
    for path in wanted {
        match shelf.read(&path) {
            Ok(text) => found.companions.push(sources.add(SourceFile::new(path, text))),
            Err(reason) => found.unread.push((path, reason)),
        }
    }
}
