//! Names that are near to one that is not there: which may be meant, and which surely is.

/// The nearest of some words, the first of several, when it is near enough to be a slip of the fingers or a plural.
pub fn nearest<'w>(word: &str, words: impl IntoIterator<Item = &'w str>) -> Option<&'w str> {
    nearest_of(word, &words.into_iter().collect::<Vec<&str>>())
}

fn nearest_of<'w>(word: &str, words: &[&'w str]) -> Option<&'w str> {
    let limit = match word.chars().count() {
        0..=2 => return None,
        3..=4 => 1,
        // Among so many names some are rather near by chance.
        _ if words.len() > MANY => 1,
        5..=8 => 2,
        _ => 3,
    };
    let mut measure = Measure::from(word, limit);
    let mut found = None;
    for other in words.iter().copied() {
        let Some(distance) = measure.to(other).filter(|distance| *distance < other.chars().count()) else { continue };
        found = Some(other);
        // Only what is nearer still can take its place.
        let Some(nearer) = distance.checked_sub(1) else { break };
        measure.limit = nearer;
    }
    found
}

/// More names than a person keeps in mind.
const MANY: usize = 1000;

/// Letters of a word that count: longer names are not told apart by their ends.
const COUNTED: usize = 80;

/// Measures how far words are from one word. Where there are thousands of names, each is held against thousands: what is surely too
/// far is passed over before it is measured.
struct Measure {
    word: Vec<char>,
    letters: u64,
    limit: usize,
    other: Vec<char>,
}

impl Measure {
    fn from(word: &str, limit: usize) -> Self {
        Self { word: folded(word).collect(), letters: outline(word).1, limit, other: Vec::new() }
    }

    /// The distance of a word, in edits; nothing when it is beyond the limit.
    fn to(&mut self, other: &str) -> Option<usize> {
        let (length, letters) = outline(other);
        // An edit takes one letter away and puts one there, at most.
        let differing = (self.letters ^ letters).count_ones() as usize;
        if self.word.len().abs_diff(length) > self.limit || differing > 2 * self.limit {
            return None;
        }
        self.other.clear();
        self.other.extend(folded(other));
        // What both begin and end with changes nothing.
        let same = |(one, other): &(&char, &char)| one == other;
        let begin = self.word.iter().zip(&self.other).take_while(same).count();
        let (word, other) = (&self.word[begin..], &self.other[begin..]);
        let end = word.iter().rev().zip(other.iter().rev()).take_while(same).count();
        let (word, other) = (&word[..word.len() - end], &other[..other.len() - end]);
        let distance = match (word.len(), other.len()) {
            (0, rest) | (rest, 0) => rest,
            (1, 1) => 1,
            _ => strsim::generic_damerau_levenshtein(word, other),
        };
        (distance <= self.limit).then_some(distance)
    }
}

/// How many characters a folded word has, and which: a bit for each, of which some share one.
fn outline(word: &str) -> (usize, u64) {
    let add = |(length, letters): (usize, u64), letter: u32| (length + 1, letters | 1 << (letter % 64));
    if word.is_ascii() {
        // Nearly all names, told many times faster.
        let letters = word.bytes().take(COUNTED).filter(|letter| !matches!(letter, b'-' | b'_' | b' '));
        return letters.map(|letter| u32::from(letter.to_ascii_lowercase())).fold((0, 0), add);
    }
    folded(word).map(u32::from).fold((0, 0), add)
}

/// Without case, and with the ways to join words made one.
fn folded(word: &str) -> impl Iterator<Item = char> {
    word.chars().take(COUNTED).filter(|c| !matches!(c, '-' | '_' | ' ')).flat_map(char::to_lowercase)
}

fn fold(word: &str) -> String {
    folded(word).collect()
}

/// What kind of names a name is looked for among.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Among {
    /// All that there are, by the format's documentation: keys, events, scopes.
    Closed,
    /// All that there are in this repository: branches, jobs, scripts.
    Whole,
    /// Names that people add to as they like: variables, outputs, inputs, keys of a matrix.
    Open,
}

/// A name that is meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Meant {
    /// The name.
    pub word: String,
    /// Nothing else can be meant.
    pub sure: bool,
}

impl Meant {
    /// Nothing else can be meant.
    pub fn surely(word: impl Into<String>) -> Self {
        Self { word: word.into(), sure: true }
    }

    /// Another name may be meant.
    pub fn perhaps(word: impl Into<String>) -> Self {
        Self { word: word.into(), sure: false }
    }

    /// A name of a documented set that a rule has found by itself: surely meant when nothing but a slip of the keys is between the two.
    pub fn of(written: &str, word: &str) -> Self {
        near(written, [word], Among::Closed).unwrap_or_else(|| Self::perhaps(word))
    }

    /// The only one of some names, which need not be the one that is meant.
    pub fn only_of(words: &[&str]) -> Option<Self> {
        if let [only] = words { Some(Self::perhaps(*only)) } else { None }
    }
}

/// The nearest of some names, and whether it is surely meant: nothing but a slip of the keys is between the two, and no other name is as
/// near.
pub fn near<'w>(word: &str, words: impl IntoIterator<Item = &'w str>, among: Among) -> Option<Meant> {
    let words: Vec<&str> = words.into_iter().collect();
    let found = nearest_of(word, &words)?;
    let mut measure = Measure::from(word, 1);
    let mut has_rival = || words.iter().any(|other| *other != found && measure.to(other).is_some());
    let sure = among != Among::Open && is_slip(word, found, among) && !has_rival();
    Some(Meant { word: found.to_owned(), sure })
}

/// One letter left out, doubled, swapped or wrong, another case, or other separators. A digit, a part as a whole, or (unless the names are
/// documented) a letter at the end may be what tells two names apart.
fn is_slip(written: &str, meant: &str, among: Among) -> bool {
    if fold(written) == fold(meant) {
        return true;
    }
    let parts = |text: &str| -> Vec<String> { text.split(['-', '_', ':', '.', '/', ' ', '@']).map(str::to_lowercase).collect() };
    let (one, other) = (parts(written), parts(meant));
    let differing: Vec<(&String, &String)> = one.iter().zip(&other).filter(|(one, other)| one != other).collect();
    let [(one, other)] = differing.as_slice() else { return false };
    let digits = |text: &str| text.chars().filter(char::is_ascii_digit).collect::<String>();
    let longer = if one.len() > other.len() { one } else { other };
    let doubled = longer.chars().rev().take(2).collect::<Vec<_>>();
    let ending = (one.starts_with(other.as_str()) || other.starts_with(one.as_str())) && doubled.first() != doubled.get(1);
    parts(written).len() == parts(meant).len()
        && strsim::osa_distance(one, other) == 1
        && one.chars().count().min(other.chars().count()) >= 3
        && digits(one) == digits(other)
        && (among == Among::Closed || !ending)
}

#[cfg(test)]
mod tests {
    use super::*;

    proptest::proptest! {
        /// What is passed over before it is measured is too far indeed.
        #[test]
        fn measured_is_the_distance(one in "[a-eA-E_ö]{3,9}", other in "[a-eA-E_ö]{0,9}", limit in 1usize..4) {
            let whole = strsim::damerau_levenshtein(&fold(&one), &fold(&other));
            proptest::prop_assert_eq!(Measure::from(&one, limit).to(&other), (whole <= limit).then_some(whole));
        }
    }
}
