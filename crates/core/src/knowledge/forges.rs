//! Forges, whatever format their pipelines are written in.

use serde::Deserialize;

/// `catalog/forges.toml`.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Forges {
    /// Where forges serve a repository's pages.
    pub pages: Vec<PagesHost>,
}

impl Forges {
    /// Where the forge of a host serves the pages of its repositories.
    pub fn pages_of(&self, host: &str) -> Option<&PagesHost> {
        self.pages.iter().find(|pages| pages.forge == host)
    }
}

/// Where a forge serves the pages of its repositories.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PagesHost {
    /// The forge's own host.
    pub forge: String,
    /// The host of the pages; `{owner}` stands for the repository's owner.
    pub host: String,
}
