//! What hosts are told about the site in files of their own.

use super::config::{Found, Setting, Value};
use super::{Facts, Origin};
use crate::knowledge::{Hosting, Table, Word, hostings};
use crate::model::Target;
use crate::text::{FileId, Place, Sources, Span};

/// One file in which a host is told something.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HostingFact {
    /// The host, or what the file says.
    pub host: &'static str,
    /// The file.
    pub path: String,
    /// The published folder, from the file's own folder.
    pub folder: Option<(String, Origin)>,
    /// The folder of functions.
    pub functions: Option<(String, Origin)>,
    /// It names a command by which the host's command line builds before it takes the folder.
    pub builds: bool,
    /// The generator that it names for the host's own build.
    pub preset: Option<(String, Origin)>,
    /// Whether it says which page answers for unknown addresses.
    pub has_fallback: Option<bool>,
    /// The line that it holds, such as a domain.
    pub line: Option<(String, Origin)>,
}

impl HostingFact {
    /// The generators that the host knows by name, each with its package.
    pub fn presets(&self) -> &'static Table<Word> {
        static NONE: Table<Word> = Table::NONE;
        hostings().hosting.iter().find(|hosting| hosting.id == self.host).map_or(&NONE, |hosting| &hosting.presets)
    }

    /// Whether what is published to a kind of place is the folder that this file names, as it lies there.
    pub fn names_folder_for(&self, target: &Target) -> bool {
        let target = target.word();
        let known = || hostings().hosting.iter().filter(|hosting| hosting.id == self.host);
        let takes = self.host == target || known().any(|hosting| hosting.targets.contains(&target));
        takes && !self.builds && !self.path.contains('/') && !known().any(|hosting| hosting.builds_itself)
    }
}

/// Reads all of them that the repository has.
pub(super) fn read(facts: &Facts, sources: &Sources) -> Vec<HostingFact> {
    let mut found = Vec::new();
    for hosting in hostings().hosting {
        let nested = hosting.elsewhere.iter().map(|dir| format!("{dir}/{}", hosting.file));
        for path in std::iter::once(hosting.file.to_owned()).chain(nested) {
            if let Some((file, setting)) = facts.configs.get(&path) {
                found.push(from_setting(hosting, path, *file, setting));
            } else if let Some(file) = facts.texts.get(&path) {
                found.push(from_lines(hosting, path, *file, &sources.get(*file).text));
            } else if hosting.empty && facts.has_file(&path) == Some(true) {
                found.push(plain(hosting, path));
            }
        }
    }
    found
}

fn plain(hosting: &'static Hosting, path: String) -> HostingFact {
    HostingFact {
        host: hosting.id,
        path,
        folder: None,
        functions: None,
        builds: false,
        preset: None,
        has_fallback: None,
        line: None,
    }
}

fn from_setting(hosting: &'static Hosting, path: String, file: FileId, setting: &Setting) -> HostingFact {
    let text = |names: &[&str]| {
        names.iter().find_map(|name| match setting.find(name) {
            Found::Here(found) => Some((found.text()?.to_owned(), Origin::At(Place { file, span: found.span }))),
            _ => None,
        })
    };
    let given = |name: &&str| match setting.find(name) {
        Found::Here(found) => Some(!matches!(&found.value, Value::List(items) if items.is_empty())),
        Found::Absent => Some(false),
        Found::Unknown => None,
    };
    let fallback = hosting.fallback_settings.iter().map(given).reduce(|one, other| match (one, other) {
        (Some(true), _) | (_, Some(true)) => Some(true),
        (Some(false), Some(false)) => Some(false),
        _ => None,
    });
    HostingFact {
        folder: text(hosting.folder_settings),
        functions: text(hosting.functions_settings),
        builds: hosting.build_settings.iter().any(|name| setting.find(name) != Found::Absent),
        preset: text(hosting.preset_settings),
        has_fallback: fallback.flatten(),
        ..plain(hosting, path)
    }
}

fn from_lines(hosting: &'static Hosting, path: String, file: FileId, text: &str) -> HostingFact {
    let line = text.lines().next().map(str::trim).filter(|line| hosting.one_line && !line.is_empty());
    let line = line.map(|line| (line.to_owned(), Origin::At(Place { file, span: Span::new(0, line.len()) })));
    let has_fallback = hosting.fallback_line.as_ref().map(|start| text.lines().any(|line| line.trim_start().starts_with(start)));
    HostingFact { line, has_fallback, ..plain(hosting, path) }
}
