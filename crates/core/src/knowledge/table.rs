//! What the catalog's values are made of: all of it stands in the program as it is, and nothing is read or held at start.

use std::ops::Index;

use super::slots::slot_of;

/// A text of the catalog.
pub type Word = &'static str;

/// Several values of the catalog.
pub type List<T> = &'static [T];

/// Values of the catalog by their names, in the order of these; with the slots that the names of more than a few are found by.
#[derive(Debug)]
pub struct Table<T: 'static>(pub(super) List<(Word, T)>, pub(super) List<u16>);

impl<T> Default for Table<T> {
    fn default() -> Self {
        Self::NONE
    }
}

impl<T> Table<T> {
    /// Without any.
    pub const NONE: Self = Self(&[], &[]);

    /// The value of a name.
    pub fn get(&self, name: &str) -> Option<&'static T> {
        self.entry(name).map(|(_, value)| value)
    }

    /// The name as it stands here, with its value.
    pub fn entry(&self, name: &str) -> Option<&'static (Word, T)> {
        let Self(entries, slots) = self;
        if slots.is_empty() {
            return entries.iter().find(|(known, _)| *known == name);
        }
        let start = slot_of(name, slots.len());
        for number in slots[start..].iter().chain(&slots[..start]) {
            // A slot that nothing stands in ends the row of those that the name could have.
            let entry = &entries[usize::from(*number).checked_sub(1)?];
            if entry.0 == name {
                return Some(entry);
            }
        }
        None
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_found_in_tables_of_any_size() {
        fn holds<T>(table: &Table<T>) {
            for (name, value) in table {
                assert!(table.get(name).is_some_and(|found| std::ptr::eq(found, value)), "{name}");
                assert!(!table.has(&format!("{name} ")));
            }
            assert!(!table.has(""));
        }
        let names = crate::knowledge::names();
        let tables = [&names.images, &names.image_programs, &Table::NONE];
        assert!(tables[1].0.len() > 20 && !tables[1].1.is_empty(), "a large one is among them");
        tables.into_iter().for_each(holds);
        holds(&names.brings);
    }
}
