//! Forges, whatever format their pipelines are written in.

use super::{List, Word};

/// `catalog/forges.toml`.
#[derive(Debug)]
pub struct Forges {
    /// Where forges serve a repository's pages.
    pub pages: List<PagesHost>,
    /// Where forges answer questions about a repository.
    pub interfaces: List<Interface>,
}

/// Where a kind of forge answers questions.
#[derive(Debug)]
pub struct Interface {
    /// The format of the pipelines that it runs.
    pub kind: Word,
    /// The forge's own host.
    pub forge: Word,
    /// The address that every question to it begins with.
    pub address: Word,
    /// The path that questions to an own installation begin with.
    pub elsewhere: Word,
}

impl Forges {
    /// Where the forge of a host serves the pages of its repositories.
    pub fn pages_of(&self, host: &str) -> Option<&PagesHost> {
        self.pages.iter().find(|pages| pages.forge == host)
    }
}

/// Where a forge serves the pages of its repositories.
#[derive(Debug)]
pub struct PagesHost {
    /// The forge's own host.
    pub forge: Word,
    /// The host of the pages; `{owner}` stands for the repository's owner.
    pub host: Word,
}
