//! Names of the catalog by the letter that they begin with: nearly all differ from a word there already.

use super::Word;

/// How many first bytes are told apart: names of the catalog are ASCII.
const LETTERS: usize = 128;

/// Names, each with what it names.
pub struct ByLetter<T: 'static> {
    /// Those of one letter beside each other, in the order that they were given in.
    names: Vec<(Word, &'static T)>,
    /// By letter: the number of the first that begins with it, or with a later one.
    starts: Vec<usize>,
}

impl<T> ByLetter<T> {
    /// Of these; an empty name, or one that begins with another letter than those of ASCII, is left out.
    pub fn of(names: impl Iterator<Item = (Word, &'static T)>) -> Self {
        let letter = |(name, _): &(Word, &T)| name.bytes().next().map_or(LETTERS, usize::from);
        let mut names: Vec<_> = names.filter(|one| letter(one) < LETTERS).collect();
        names.sort_by_key(letter);
        let mut starts = vec![names.len(); LETTERS + 1];
        for (number, one) in names.iter().enumerate().rev() {
            starts[letter(one)] = number;
        }
        for index in (0..LETTERS).rev() {
            starts[index] = starts[index].min(starts[index + 1]);
        }
        Self { names, starts }
    }

    /// Those that begin with a byte.
    pub fn beginning_with(&self, byte: u8) -> &[(Word, &'static T)] {
        match self.starts.get(usize::from(byte)..=usize::from(byte) + 1) {
            Some([from, to]) => &self.names[*from..*to],
            _ => &[],
        }
    }

    /// Those that begin with the letter that a word begins with.
    pub fn beginning_as(&self, word: &str) -> &[(Word, &'static T)] {
        word.bytes().next().map_or(&[], |byte| self.beginning_with(byte))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_one_letter_stand_in_their_order() {
        static NUMBERS: [u8; 5] = [0, 1, 2, 3, 4];
        let by_letter = ByLetter::of(["sail", "buoy", "", "shoal", "éire"].into_iter().zip(&NUMBERS));
        let found = |word: &str| by_letter.beginning_as(word).iter().map(|(name, number)| (*name, **number)).collect::<Vec<_>>();
        assert_eq!(found("s"), [("sail", 0), ("shoal", 3)]);
        assert_eq!(found("bay"), [("buoy", 1)]);
        assert!(["", "a", "tide", "~", "\u{7f}", "été"].iter().all(|word| found(word).is_empty()));
    }
}
