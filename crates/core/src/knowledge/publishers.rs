//! What a format itself puts online, by the word that asks for it.

use serde::Deserialize;

use crate::model::Target;

/// A kind of publish that a format knows.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct OwnPublisher {
    /// The word that asks for it.
    pub name: String,
    /// The kind of place; nothing where it puts no site online.
    #[serde(default)]
    pub target: Option<Target>,
    /// The keys that name the folder, of which one is taken.
    #[serde(default)]
    pub folder: Vec<String>,
    /// The folder that is taken without one of them.
    #[serde(default)]
    pub usual_folder: Option<String>,
    /// The key that names the branch.
    #[serde(default)]
    pub branch: Option<String>,
    /// The branch that is taken without it.
    #[serde(default)]
    pub usual_branch: Option<String>,
    /// The keys that name the place.
    #[serde(default)]
    pub place: Vec<String>,
    /// The key that names a folder in the place.
    #[serde(default)]
    pub inside: Option<String>,
    /// Keys by which it goes to another repository than this.
    #[serde(default)]
    pub elsewhere: Vec<String>,
    /// Keys whose values nobody may read.
    #[serde(default)]
    pub secrets: Vec<String>,
    /// Groups of keys, and of variables as `env:NAME`, of which one must be given.
    #[serde(default)]
    pub needs: Vec<Vec<String>>,
}
