//! Forges, whatever format their pipelines are written in.

use super::{List, Word};

/// `catalog/forges.toml`.
#[derive(Debug)]
pub struct Forges {
    /// Where forges serve a repository's pages.
    pub pages: List<PagesHost>,
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
