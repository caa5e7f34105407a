//! What drafted pipelines are made with, as data: hosts and toolchains.

use super::{List, Table, Word};

/// `catalog/hosts.toml`.
#[derive(Debug)]
pub struct Hosts {
    /// The hosts, the most usual first.
    pub host: List<SiteHost>,
}

impl Hosts {
    /// A host by its id.
    pub fn get(&self, id: &str) -> Option<&SiteHost> {
        self.host.iter().find(|host| host.id == id)
    }
}

/// One host; catalog/hosts.toml says what the fields mean.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are described once, at the top of catalog/hosts.toml")]
pub struct SiteHost {
    pub id: Word,
    pub name: Word,
    pub files: List<Word>,
    pub packages: List<Word>,
    pub tool: Option<Word>,
    pub on_runner: bool,
    pub commands: List<Word>,
    pub by_itself: List<Word>,
    pub signed_in_commands: List<Word>,
    pub signed_in_by: List<Word>,
    pub secrets: List<WantedVariable>,
    pub variables: List<WantedVariable>,
    pub needs_package: bool,
    pub takes_file: Option<Word>,
    pub whole_checkout: bool,
    pub before: List<Word>,
}

/// A variable that a person has to give a value once.
#[derive(Debug, PartialEq, Eq)]
pub struct WantedVariable {
    /// Its name.
    pub name: Word,
    /// What to put there.
    pub what: Word,
    /// It has many lines, and its reader wants a file.
    pub a_file: bool,
}

/// A step by which a run of a format signs in at a host without a stored key.
#[derive(Debug)]
pub struct SignIn {
    /// The action.
    pub action: Word,
    /// What it takes.
    pub with: Table<Word>,
    /// The variables that this reads.
    pub variables: List<WantedVariable>,
}

/// `catalog/toolchains.toml`.
#[derive(Debug)]
pub struct Toolchains {
    /// The toolchains.
    pub toolchain: List<Toolchain>,
}

impl Toolchains {
    /// A toolchain by its id.
    pub fn get(&self, id: &str) -> Option<&Toolchain> {
        self.toolchain.iter().find(|toolchain| toolchain.id == id)
    }
}

/// One toolchain; catalog/toolchains.toml says what the fields mean.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are described once, at the top of catalog/toolchains.toml")]
pub struct Toolchain {
    pub id: Word,
    pub image: Option<Word>,
    pub version: Option<Word>,
    pub fetch: List<Word>,
}

/// How a format sets a toolchain up: the step that does it, or a word of the format.
#[derive(Debug, Default)]
pub struct SetUp {
    /// The action, or the word that the format has for the toolchain.
    pub name: Word,
    /// The input that takes the version.
    pub version: Option<Word>,
    /// The input that takes the file in which the version stands.
    pub file: Option<Word>,
    /// The input that takes the manager whose downloads are kept.
    pub cache: Option<Word>,
    /// The input that takes the lockfiles, where these do not lie at the root.
    pub lockfiles: Option<Word>,
    /// Inputs that are always given.
    pub with: Table<Word>,
    /// It installs the packages as well.
    pub installs: bool,
    /// It finds the version in a file of its own accord.
    pub finds_file: bool,
}
