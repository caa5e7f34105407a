//! What a format itself puts online, by the word that asks for it.

use super::{List, Word};
use crate::model::Target;

/// A kind of publish that a format knows.
#[derive(Debug)]
pub struct OwnPublisher {
    /// The word that asks for it.
    pub name: Word,
    /// The kind of place; nothing where it puts no site online.
    pub target: Option<Target>,
    /// The keys that name the folder, of which one is taken.
    pub folder: List<Word>,
    /// The folder that is taken without one of them.
    pub usual_folder: Option<Word>,
    /// The key that names the branch.
    pub branch: Option<Word>,
    /// The branch that is taken without it.
    pub usual_branch: Option<Word>,
    /// The keys that name the place.
    pub place: List<Word>,
    /// The key that names a folder in the place.
    pub inside: Option<Word>,
    /// Keys by which it goes to another repository than this.
    pub elsewhere: List<Word>,
    /// Keys whose values nobody may read.
    pub secrets: List<Word>,
    /// Groups of keys, and of variables as `env:NAME`, of which one must be given.
    pub needs: List<List<Word>>,
}
