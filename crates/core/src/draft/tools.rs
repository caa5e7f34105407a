//! Toolchains and the versions that the repository asks for.

use crate::facts::{Facts, least_major, major_of};
use crate::knowledge::{Toolchain, toolchains, upkeep};

/// A toolchain with the version to take.
#[derive(Clone, Debug)]
pub struct Tooling {
    /// The toolchain.
    pub tool: &'static Toolchain,
    /// The version, such as `24` or `3.13`; empty where the toolchain has none.
    pub version: String,
    /// The file in which it stands, from the root.
    pub file: Option<String>,
}

impl Tooling {
    /// A toolchain of the catalog, for a folder of the repository.
    pub(super) fn of(facts: &Facts, id: &str, dir: &str) -> Option<Self> {
        let tool = toolchains().get(id)?;
        let usual = tool.version.or_else(|| upkeep().runtime.get(id).map(|runtime| runtime.newest)).unwrap_or_default();
        Some(match wanted(facts, id, dir) {
            Some((version, file)) => Self { tool, version: version.unwrap_or_else(|| usual.to_owned()), file: Some(file) },
            None => Self { tool, version: usual.to_owned(), file: None },
        })
    }

    /// Nothing of the repository says which version.
    pub fn is_guessed(&self) -> bool {
        self.file.is_none() && !self.version.is_empty()
    }

    /// Its image, in the version.
    pub fn image(&self) -> Option<String> {
        self.tool.image.map(|image| image.replace("{version}", &self.version))
    }

    /// The commands that bring it; `sudo` where the user is not root.
    pub fn fetch(&self, sudo: bool) -> Vec<String> {
        let sudo = if sudo { "sudo " } else { "" };
        let command = |command: &&str| command.replace("{version}", &self.version).replace("{sudo}", sudo);
        self.tool.fetch.iter().map(command).collect()
    }
}

/// The version of a tool that the files ask for, where it is one, and the file.
fn wanted(facts: &Facts, id: &str, dir: &str) -> Option<(Option<String>, String)> {
    let folder_of = |path: &str| path.rsplit_once('/').map_or("", |(folder, _)| folder).to_owned();
    let here = |near: &str| facts.runtimes.iter().find(|runtime| runtime.tool == id && folder_of(&runtime.path) == near);
    if let Some(runtime) = here(dir).or_else(|| here("")) {
        return Some((as_number(&runtime.version, id), runtime.path.clone()));
    }
    let asking = |folder: &str| facts.package_for(folder).filter(|(_, package)| package.node.is_some());
    let (folder, package) = asking(dir).or_else(|| asking("")).filter(|_| id == "node")?;
    let (range, _) = package.node.as_ref()?;
    let path = if folder.is_empty() { "package.json".to_owned() } else { format!("{folder}/package.json") };
    // A range without an end takes the newest.
    let fixed = if range.trim_start().starts_with('>') { None } else { least_major(range) };
    Some((fixed.map(|major| major.to_string()), path))
}

/// A version as images and settings take it: the major one of node, all of it elsewhere.
fn as_number(version: &str, id: &str) -> Option<String> {
    let version = version.trim().trim_start_matches(['v', 'V']);
    let version = version.strip_prefix("ruby-").unwrap_or(version);
    let is_number = version.starts_with(|c: char| c.is_ascii_digit()) && version.chars().all(|c| c.is_ascii_digit() || c == '.');
    match id {
        "node" => major_of(version).map(|major| major.to_string()),
        _ => is_number.then(|| version.to_owned()),
    }
}
