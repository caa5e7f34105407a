//! What the catalog's values are made of: all of it stands in the program as it is, and nothing is read or held at start.

use std::ops::Index;

/// A text of the catalog.
pub type Word = &'static str;

/// Several values of the catalog.
pub type List<T> = &'static [T];

/// Values of the catalog by their names, in the order of these.
#[derive(Debug)]
pub struct Table<T: 'static>(pub(super) List<(Word, T)>);

impl<T> Default for Table<T> {
    fn default() -> Self {
        Self::NONE
    }
}

impl<T> Table<T> {
    /// Without any.
    pub const NONE: Self = Self(&[]);

    /// The value of a name.
    pub fn get(&self, name: &str) -> Option<&'static T> {
        self.entry(name).map(|(_, value)| value)
    }

    /// The name as it stands here, with its value.
    pub fn entry(&self, name: &str) -> Option<&'static (Word, T)> {
        self.0.binary_search_by(|(known, _)| (*known).cmp(name)).ok().map(|index| &self.0[index])
    }

    /// Whether there is a value of a name.
    pub fn has(&self, name: &str) -> bool {
        self.get(name).is_some()
    }

    /// All of them.
    pub fn iter(&self) -> impl Iterator<Item = (Word, &'static T)> + use<T> {
        self.into_iter()
    }

    /// The names.
    pub fn names(&self) -> impl Iterator<Item = Word> + use<T> {
        self.0.iter().map(|(name, _)| *name)
    }

    /// The values.
    pub fn values(&self) -> impl Iterator<Item = &'static T> + use<T> {
        self.0.iter().map(|(_, value)| value)
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

impl<T> Index<&str> for Table<T> {
    type Output = T;

    /// # Panics
    /// When there is no value of the name: for what stands in the catalog for certain.
    fn index(&self, name: &str) -> &T {
        self.get(name).unwrap_or_else(|| panic!("the catalog has no {name}"))
    }
}

impl<T> IntoIterator for &Table<T> {
    type Item = (Word, &'static T);
    type IntoIter = std::iter::Map<std::slice::Iter<'static, (Word, T)>, fn(&'static (Word, T)) -> (Word, &'static T)>;

    fn into_iter(self) -> Self::IntoIter {
        self.0.iter().map(|(name, value)| (*name, value))
    }
}
