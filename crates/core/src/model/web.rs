//! Places that serve a site, as far as a file of the repository describes them.

use super::Text;
use crate::text::Place;

/// A store of files that answers visitors.
#[derive(Clone, Debug)]
pub struct WebStore {
    /// The names by which a publish may call it.
    pub names: Vec<String>,
    /// Where it is said that it serves a site.
    pub at: Place,
    /// The page that answers for a folder.
    pub index: Option<Text>,
    /// The page that answers for what is not there.
    pub error: Option<Text>,
    /// What keeps visitors from reading it; nothing where they may, or it is not known.
    pub closed: Option<Closed>,
    /// It is served at the root of an address of its own, with nothing before it that moves paths.
    pub at_root: bool,
}

/// What keeps visitors from reading a store.
#[derive(Clone, Debug)]
pub struct Closed {
    /// Where it is written, or should be.
    pub at: Place,
    /// In a sentence.
    pub because: String,
    /// What to do.
    pub todo: String,
    /// The permission that is meant and does not work.
    pub meant: Option<Place>,
    /// It is refused or does nothing whatever the store was before.
    pub sure: bool,
}
