//! Variables that the page's own sources read, and what they do without.

use super::Facts;
use crate::knowledge;
use crate::text::{FileId, Place, Sources, Span, file_name};

/// A variable that is put into the page when it is built.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PageVariable {
    /// Such as `VITE_API`.
    pub name: String,
    /// The folder above the one that the sources lie in, "" for the root.
    pub dir: String,
    /// Where it is read first.
    pub at: Place,
    /// What the sources do when it is empty.
    pub otherwise: Otherwise,
}

/// A line of a file that sets variables for the build.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EnvValue {
    /// The variable.
    pub name: String,
    /// The folder of the file, "" for the root.
    pub dir: String,
    /// Its value, without quotes.
    pub value: String,
    /// Where the value stands.
    pub at: Place,
}

/// What stands in for a variable that is not set.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Otherwise {
    /// Nothing: it is used as it is.
    Nothing,
    /// An address of the machine that the page is looked at on.
    OwnMachine,
    /// Another value, or the sources ask whether it is there.
    Value,
}

/// Ways in which sources read such a variable.
const READS: [&str; 2] = ["import.meta.env.", "process.env."];

/// Whether a file is one of the page's own sources, by its path.
pub fn is_page_source(path: &str) -> bool {
    let lists = &knowledge::names().lists;
    let name = file_name(path);
    let ending = name.rsplit('.').next().unwrap_or_default();
    let in_sources = root_of_page(path).is_some() && !path.contains("node_modules/");
    let is_test = name.contains(".test.") || name.contains(".spec.") || path.contains("__tests__/") || path.contains("/test/");
    in_sources && lists.page_endings.contains(&ending) && !is_test
}

/// The folder above the one that a page's sources lie in, such as `apps/web` of `apps/web/src/main.js`; nothing for other files.
pub fn root_of_page(path: &str) -> Option<&str> {
    const DEEP: usize = 4;
    let lists = &knowledge::names().lists;
    let mut start = 0;
    for part in path.split('/').take(DEEP) {
        let end = start + part.len();
        if end < path.len() && lists.page_folders.contains(&part) {
            return Some(path[..start].trim_end_matches('/'));
        }
        start = end + 1;
    }
    None
}

/// Whether a file sets variables for the build wherever it is checked out.
pub fn is_settings_file(path: &str) -> bool {
    matches!(path.rsplit('/').next(), Some(".env" | ".env.production"))
}

/// The variables that the sources read and no tracked file sets, in the order of their names.
pub(super) fn read(files: &[FileId], sources: &Sources) -> Vec<PageVariable> {
    let mut found: Vec<PageVariable> = Vec::new();
    let mut set: Vec<&str> = Vec::new();
    for file in files {
        let source = sources.get(*file);
        if is_settings_file(&source.path) {
            let names = source.text.lines().filter_map(|line| line.trim_start().trim_start_matches("export ").split_once('='));
            set.extend(names.map(|(name, _)| name.trim()));
            continue;
        }
        for start in READS {
            for (index, _) in source.text.match_indices(start) {
                let dir = root_of_page(&source.path).unwrap_or_default();
                if let Some(variable) = variable(&source.text, index, start, (dir, *file)) {
                    found.push(variable);
                }
            }
        }
    }
    found.retain(|variable| !set.contains(&variable.name.as_str()));
    // One place that does without it is enough.
    found.sort_by(|one, other| {
        let key = |one: &PageVariable| (one.dir.clone(), one.name.clone());
        key(one).cmp(&key(other)).then(other.otherwise.cmp(&one.otherwise)).then(one.at.cmp(&other.at))
    });
    found.dedup_by(|later, first| later.name == first.name && later.dir == first.dir);
    found
}

/// What the tracked files set, in the order in which they are read.
pub(super) fn values(files: &[FileId], sources: &Sources) -> Vec<EnvValue> {
    let mut found = Vec::new();
    for file in files.iter().filter(|file| is_settings_file(&sources.get(**file).path)) {
        let mut start = 0;
        for line in sources.get(*file).text.split_inclusive('\n') {
            let at = start;
            start += line.len();
            let Some((name, value)) = line.split_once('=').filter(|_| !line.trim_start().starts_with('#')) else { continue };
            let written = value.trim();
            let from = at + name.len() + 1 + (value.len() - value.trim_start().len());
            let place = Place { file: *file, span: Span::new(from, from + written.len()) };
            let name = name.trim().trim_start_matches("export ").trim().to_owned();
            let path = &sources.get(*file).path;
            let dir = path.rsplit_once('/').map_or("", |(dir, _)| dir).to_owned();
            found.push(EnvValue { name, dir, value: written.trim_matches(['"', '\'']).to_owned(), at: place });
        }
    }
    found
}

/// Whether the router keeps its addresses behind a `#`.
pub(super) fn has_hash_routing(files: &[FileId], sources: &Sources) -> bool {
    let names = ["HashRouter", "createHashRouter", "createWebHashHistory", "createHashHistory"];
    files.iter().any(|file| names.iter().any(|name| sources.get(*file).text.contains(name)))
}

fn variable(text: &str, index: usize, start: &str, (dir, file): (&str, FileId)) -> Option<PageVariable> {
    let rest = &text[index + start.len()..];
    let length = rest.bytes().take_while(|byte| byte.is_ascii_uppercase() || byte.is_ascii_digit() || *byte == b'_').count();
    let line = text[..index].rsplit('\n').next().unwrap_or_default();
    let comment = line.trim_start().starts_with("//") || line.trim_start().starts_with('*');
    if length < 3 || comment || rest[length..].starts_with(|c: char| c.is_ascii_alphanumeric()) {
        return None;
    }
    let span = Span::new(index, index + start.len() + length);
    let otherwise = otherwise(line, &rest[length..]);
    Some(PageVariable { name: rest[..length].to_owned(), dir: dir.to_owned(), at: Place { file, span }, otherwise })
}

fn otherwise(before: &str, after: &str) -> Otherwise {
    let after = after.trim_start();
    if let Some(value) = after.strip_prefix("||").or_else(|| after.strip_prefix("??")) {
        let value: String = value.chars().take_while(|c| !matches!(c, ';' | '\n')).take(120).collect();
        let own = ["localhost", "127.0.0.1", "0.0.0.0"].iter().any(|host| value.contains(host));
        return if own { Otherwise::OwnMachine } else { Otherwise::Value };
    }
    let asks = after.starts_with('?') || after.starts_with("&&") || after.starts_with("==") || after.starts_with("!=");
    let before = before.trim_end();
    let asked = before.ends_with("if (")
        || before.ends_with("if(")
        || before.ends_with('!')
        || before.ends_with("typeof")
        || before.ends_with("Boolean(");
    if asks || asked { Otherwise::Value } else { Otherwise::Nothing }
}

impl Facts {
    /// Whether the page's sources are worth reading: a generator that puts variables into the page is used.
    pub fn puts_variables_into_pages(package_texts: &[&str]) -> bool {
        let generators =
            crate::knowledge::generators().generator.iter().filter(|generator| !generator.public_prefixes.is_empty());
        let mut names = generators.flat_map(|generator| generator.packages);
        names.any(|name| package_texts.iter().any(|text| text.contains(&format!("\"{name}\""))))
    }
}
