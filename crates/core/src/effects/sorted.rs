//! The words of a command, sorted into arguments and options.

use crate::shell::Word;

/// Arguments and options in the order they are written.
pub(super) struct Sorted<'w> {
    pub arguments: Vec<&'w Word>,
    /// Options with the words that follow them, where those are their values.
    options: Vec<(&'w str, Option<&'w Word>)>,
    /// `--name=value`, with the value's text.
    joined: Vec<(&'w str, &'w str)>,
}

impl<'w> Sorted<'w> {
    /// Sorts the words behind a command's name; `takes_value` says of which options the next word is the value.
    pub fn of(words: &'w [Word], takes_value: impl Fn(&str) -> bool) -> Self {
        let mut sorted = Self { arguments: Vec::new(), options: Vec::new(), joined: Vec::new() };
        let mut index = 0;
        while index < words.len() {
            let word = &words[index];
            if !word.text.starts_with('-') {
                sorted.arguments.push(word);
            } else if let Some((name, value)) = word.text.split_once('=').filter(|_| !word.dynamic) {
                sorted.joined.push((name, value));
            } else {
                let takes_value = takes_value(&word.text);
                sorted.options.push((&word.text, takes_value.then(|| words.get(index + 1)).flatten()));
                index += usize::from(takes_value);
            }
            index += 1;
        }
        sorted
    }

    /// Whether one of these options is among them.
    pub fn has<T: AsRef<str>>(&self, names: &[T]) -> bool {
        let is = |name: &str| names.iter().any(|known| known.as_ref() == name);
        self.options.iter().any(|(name, _)| is(name)) || self.joined.iter().any(|(name, _)| is(name))
    }

    /// The values of all of these options, in the same way.
    pub fn values<'s, T: AsRef<str>>(&'s self, names: &'s [T]) -> impl Iterator<Item = (Option<&'w str>, Option<&'w Word>)> + 's {
        let is = |name: &str| names.iter().any(|known| known.as_ref() == name);
        let apart = self.options.iter().filter(move |(name, _)| is(name)).map(|(_, word)| (word.and_then(Word::known), *word));
        let is = |name: &str| names.iter().any(|known| known.as_ref() == name);
        apart.chain(self.joined.iter().filter(move |(name, _)| is(name)).map(|(_, value)| (Some(*value), None)))
    }

    /// The value of the first of these options: what it is, and its word when it is one of its own.
    pub fn value<T: AsRef<str>>(&self, names: &[T]) -> Option<(Option<&'w str>, Option<&'w Word>)> {
        let is = |name: &str| names.iter().any(|known| known.as_ref() == name);
        if let Some((_, word)) = self.options.iter().find(|(name, _)| is(name)) {
            return word.map(|word| (word.known(), Some(word)));
        }
        self.joined.iter().find(|(name, _)| is(name)).map(|(_, value)| (Some(*value), None))
    }
}
