//! The grammar of a format as data: its places, what each key takes, and which names an expression may use there.

use super::{List, Table, Word};
use crate::model::{FilterOf, FilterSide};

/// The grammar of one format.
#[derive(Debug, Default)]
pub struct Grammar {
    /// Events by name.
    pub event: Table<EventEntry>,
    /// Filters of events by name.
    pub filter: Table<FilterEntry>,
    /// The key that lists the kinds of an event.
    pub kinds_key: Word,
    /// What stands below an event, in words.
    pub event_holds: Word,
    /// What is filled in when it runs.
    pub(super) hole: Option<HoleEntry>,
    /// Words written for an event, and the event that is meant.
    pub mistaken_event: Table<Word>,
    /// The place to start with, by what a file is.
    pub(super) start: Table<Word>,
    pub(super) place: Table<PlaceEntry>,
    pub(super) event_key: Table<Table<Takes>>,
    pub(super) mistaken: Table<Table<Word>>,
    /// What keys mean, by place.
    pub(super) meaning: Table<Table<Word>>,
    /// What stands under keys, by place: the word of a kind of names. `*` are the values of free keys, `+` those keys themselves.
    pub(super) offers: Table<Table<Word>>,
    /// `yes`, `no`, `on` and `off` stand for true and false as well.
    pub old_yes: bool,
    /// What a value holds that is filled in later, whatever its key takes.
    pub filled_in: List<Word>,
    /// A key that no place takes is told of, whatever it may mean; not one that holds an anchor, or begins as those do that nobody reads.
    pub tells_unknown: bool,
    /// A value of another shape than its key takes is refused, whatever becomes of keys that are not known.
    pub refuses_shapes: bool,
    /// A list in a list is laid flat.
    pub flattens: bool,
    /// How lengths of time are written.
    pub durations: Durations,
    /// Keys by which a mapping takes over what another one holds, so that nothing is missing in it for sure.
    pub completed_by: List<Word>,
    /// Which names expressions may use, by the name that keys refer to.
    pub(super) contexts: Table<Contexts>,
    /// What is known of the names that expressions use.
    pub names: Names,
}

/// One event.
#[derive(Debug)]
pub struct EventEntry {
    /// The neutral event.
    pub is: Option<Word>,
    /// Filters that it takes.
    pub filters: List<Word>,
    /// Its kinds.
    pub types: List<Word>,
    /// The kinds that count when none is written; without any, all.
    pub default_types: List<Word>,
    /// Its value is a list, and what each item is.
    pub each: Option<Word>,
    /// Its kinds are made up by the repository's owner, or not known here.
    pub open_types: bool,
    /// Other keys that it takes.
    pub keys: List<Word>,
    /// Keys that must be there.
    pub required: List<Word>,
}

/// What a filter of an event does.
#[derive(Clone, Copy, Debug)]
pub struct FilterEntry {
    /// What it looks at.
    pub of: FilterOf,
    /// Whether what fits is taken in or left out.
    pub side: FilterSide,
}

/// How a part of a text begins and ends that is filled in when it runs.
#[derive(Debug)]
pub struct HoleEntry {
    pub(super) opens: Word,
    pub(super) closes: Word,
}

/// A place of the grammar.
#[derive(Debug)]
pub struct PlaceEntry {
    /// How people call it.
    pub label: Word,
    /// Keys and what they take.
    pub keys: Table<Takes>,
    /// Keys that must be there.
    pub required: List<Word>,
    /// One of these must be there.
    pub one_of: List<Word>,
    /// With the first key, the others must be there.
    pub together: Table<List<Word>>,
    /// With the first key, none of the others may be there.
    pub apart: Table<List<Word>>,
    /// With this word under this key another one must be there, and that one without it must not.
    pub with_word: List<WithWord>,
    /// What any other key takes.
    pub free: Option<Takes>,
    /// Its keys are the events.
    pub events: bool,
    /// Keys whose value cannot be a hole.
    pub no_holes: List<Word>,
    /// Its keys are names: letters, digits, `-` and `_`, a letter or `_` first.
    pub named: bool,
    /// It is a step, and this key holds the name by which others read what it gives.
    pub step_id: Option<Word>,
    /// Keys that start with a point may hold anything; where another key takes them over, what they hold is what the free keys take.
    pub hidden: bool,
}

/// The words of lengths of time.
#[derive(Debug, Default)]
pub struct Durations {
    /// Units, long and short.
    pub units: List<Word>,
    /// Words between them.
    pub joiners: List<Word>,
    /// Words for numbers.
    pub numbers: List<Word>,
    /// Words that are a length by themselves.
    pub whole: List<Word>,
}

impl Durations {
    /// Whether a text may be a length of time: numbers with known units, or a word that is one by itself.
    pub fn takes(&self, text: &str) -> bool {
        let text = text.trim().to_ascii_lowercase();
        let has = |list: &[&str], word: &str| list.contains(&word);
        let words: Vec<&str> = text.split(|c: char| !c.is_ascii_alphabetic()).filter(|word| !word.is_empty()).collect();
        let counts = text.bytes().any(|byte| byte.is_ascii_digit()) || words.iter().any(|word| has(self.numbers, word));
        let known = |word: &&str| [&self.units, &self.joiners, &self.numbers].iter().any(|list| has(list, word));
        has(self.whole, &text) || (counts && words.iter().all(known))
    }
}

/// What a word asks for beside itself.
#[derive(Debug)]
pub struct WithWord {
    /// The key.
    pub key: Word,
    /// Its word.
    pub word: Word,
    /// A key that must be there then.
    pub wants: Word,
    /// That key may stand with this word only.
    pub only: bool,
}

/// Which names an expression may use in a place.
#[derive(Debug, Default)]
pub struct Contexts {
    /// Contexts.
    pub names: List<Word>,
    /// Functions beside those that go everywhere.
    pub functions: List<Word>,
    /// The whole value is a condition, with or without braces round it.
    pub condition: bool,
}

/// What is known of the names that expressions use.
#[derive(Debug, Default)]
pub struct Names {
    /// The names below a context that has a fixed set of them.
    pub properties: Table<List<Word>>,
    /// All contexts.
    pub contexts: List<Word>,
    /// Functions with the least and the most arguments; 255 stands for any number.
    pub functions: Table<(u8, u8)>,
    /// Names that people write below a context, and the one they mean.
    pub mistaken: Table<Table<Word>>,
    /// Contexts that hold what the file itself declares.
    pub declared: Table<Declared>,
    /// Paths of which the value is always a text; `*` stands for any name.
    pub texts: List<Word>,
    /// Functions that go everywhere.
    pub everywhere: List<Word>,
}

/// What a context holds that the file itself declares.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Declared {
    /// Its jobs.
    Jobs,
    /// The steps of the job.
    Steps,
    /// The keys of the job's matrix.
    Axes,
    /// What the file is given.
    Inputs,
    /// Variables.
    Variables,
}

impl Names {
    /// What a context holds that the file itself declares; upper and lower case do not matter.
    pub fn declared(&self, context: &str) -> Option<Declared> {
        self.declared.get(&context.to_ascii_lowercase()).copied()
    }

    /// Whether the value of a path is always a text.
    pub fn is_text(&self, path: &[&str]) -> bool {
        self.texts.iter().any(|known| {
            let parts: Vec<&str> = known.split('.').collect();
            parts.len() == path.len() && parts.iter().zip(path).all(|(known, part)| *known == "*" || known == part)
        })
    }
}

/// What a key takes; catalog/formats/workflow/grammar.toml says how it is written.
#[derive(Clone, Debug, Default)]
pub struct Takes {
    /// Not looked into.
    pub any: bool,
    /// Any scalar.
    pub text: bool,
    /// A version: without quotes, one that ends with a nought is read as another.
    pub version: bool,
    /// A number.
    pub number: bool,
    /// A whole number from the first to the second.
    pub count: Option<(u32, u32)>,
    /// A length of time in words, such as `1h 30m`.
    pub duration: bool,
    /// A regular expression between slashes.
    pub pattern: bool,
    /// `true` or `false`.
    pub boolean: bool,
    /// Nothing at all.
    pub null: bool,
    /// A name of an event.
    pub event: bool,
    /// Texts in lists in lists.
    pub nested: bool,
    /// One of these words.
    pub words: List<Word>,
    /// A list of these.
    pub list: Option<&'static Takes>,
    /// A mapping with free keys and these values.
    pub map: Option<&'static Takes>,
    /// A mapping with the keys of a place.
    pub place: Option<Word>,
    /// The names that an expression in it may use.
    pub contexts: Option<Word>,
}

impl Takes {
    /// Takes any scalar.
    pub const TEXT: Self = Self { text: true, ..Self::NOTHING };

    /// Takes nothing at all.
    pub(super) const NOTHING: Self = Self {
        any: false,
        text: false,
        version: false,
        number: false,
        count: None,
        duration: false,
        pattern: false,
        boolean: false,
        null: false,
        event: false,
        nested: false,
        words: &[],
        list: None,
        map: None,
        place: None,
        contexts: None,
    };

    /// In words, as the end of "it takes …".
    pub fn words_for(&self) -> String {
        let mut parts: Vec<String> = Vec::new();
        if !self.words.is_empty() {
            parts.push(format!("one of {}", self.words.join(", ")));
        }
        if self.text || self.event {
            parts.push("a text".into());
        } else if let Some((least, most)) = self.count {
            parts.push(format!("a number from {least} to {most}"));
        } else if self.number {
            parts.push("a number".into());
        } else if self.boolean {
            parts.push("true or false".into());
        } else if self.duration {
            parts.push("a length of time, such as `1h 30m`".into());
        } else if self.pattern {
            parts.push("a regular expression between slashes".into());
        }
        if self.list.is_some() || self.nested {
            parts.push("a list".into());
        }
        if self.map.is_some() || self.place.is_some() {
            parts.push("keys with values".into());
        }
        parts.join(", or ")
    }
}

impl Grammar {
    /// The place that a kind of file starts with.
    pub fn start(&'static self, kind: &str) -> Option<&'static str> {
        self.start.get(kind).copied()
    }

    /// The place to start with where all files begin alike.
    pub fn only_start(&'static self) -> Option<&'static str> {
        let mut all = self.start.values();
        all.next().copied().filter(|_| all.next().is_none())
    }

    /// A place by its name.
    pub fn place(&'static self, name: &str) -> Option<&'static PlaceEntry> {
        self.place.get(name)
    }

    /// Names and labels of the places that take a key.
    pub fn places_with(&'static self, key: &str) -> Vec<&'static str> {
        let mut labels: Vec<_> = self.place.values().filter(|place| place.keys.has(key)).map(|place| place.label).collect();
        labels.sort_unstable();
        labels.dedup();
        labels
    }

    /// What an event's own key takes.
    pub fn event_key(&'static self, event: &str, key: &str) -> Option<&'static Takes> {
        self.event_key.get(key)?.get(event)
    }

    /// Whether some event takes a filter of this name; under one that does not take it, it is no question of form.
    pub fn is_filter(&self, name: &str) -> bool {
        self.lists_kinds(name) || self.event.values().any(|event| event.filters.contains(&name))
    }

    /// The event of a name.
    pub fn event(&'static self, name: &str) -> Option<&'static EventEntry> {
        self.event.get(name)
    }

    /// Whether a key lists the kinds of an event.
    pub fn lists_kinds(&self, name: &str) -> bool {
        !self.kinds_key.is_empty() && name == self.kinds_key
    }

    /// Whether this filter or key may stand under an event.
    pub fn takes(&self, event: &EventEntry, name: &str) -> bool {
        event.filters.iter().chain(event.keys).any(|key| *key == name)
            || (self.lists_kinds(name) && (event.open_types || !event.types.is_empty()))
    }

    /// Whether a part of a text is filled in when it runs.
    pub fn has_hole(&self, text: &str) -> bool {
        self.hole.as_ref().is_some_and(|hole| crate::text::holds(text, hole.opens))
    }

    /// How a part of a text begins and ends that is filled in when it runs.
    pub fn hole_signs(&self) -> Option<(Word, Word)> {
        self.hole.as_ref().map(|hole| (hole.opens, hole.closes))
    }

    /// Whether a text is a hole from its beginning to its end, space round it left out.
    pub fn is_hole(&self, text: &str) -> bool {
        let text = text.trim();
        self.hole.as_ref().is_some_and(|hole| text.starts_with(hole.opens) && text.ends_with(hole.closes))
    }

    /// The kinds of an event.
    pub fn kinds(&'static self, event: &str) -> List<Word> {
        self.event(event).map_or(&[], |entry| entry.types)
    }

    /// The filters that an event takes.
    pub fn filters(&'static self, event: &str) -> Vec<String> {
        let entry = self.event(event);
        let types = entry.filter(|entry| entry.open_types || !entry.types.is_empty()).map(|_| self.kinds_key);
        entry.into_iter().flat_map(|entry| entry.filters.iter().copied()).chain(types).map(str::to_owned).collect()
    }

    /// The names of all events.
    pub fn events(&'static self) -> impl Iterator<Item = &'static str> {
        self.event.names()
    }

    /// The key that is meant by a word that people write at a place.
    pub fn meant(&'static self, place: &str, word: &str) -> Option<&'static str> {
        self.mistaken.get(place)?.get(word).copied()
    }

    /// What a key of a place means, as what follows a colon.
    pub fn meaning(&'static self, place: &str, key: &str) -> Option<&'static str> {
        self.meaning.get(place)?.get(key).copied()
    }

    /// The kind of names that stand under a key of a place.
    pub fn offered(&'static self, place: &str, key: &str) -> Option<&'static str> {
        self.offers.get(place)?.get(key).copied()
    }

    /// The names that may be used, by the name that keys refer to.
    pub fn contexts(&'static self, name: &str) -> Option<&'static Contexts> {
        self.contexts.get(name)
    }

    /// Whether some place has a key.
    #[cfg(test)]
    pub(super) fn has_key(&self, key: &str) -> bool {
        self.place.values().any(|place| place.keys.has(key))
    }

    /// Every reference of the data to another part of it that is not there, for the test of the catalog.
    #[cfg(test)]
    pub(super) fn loose_ends(&'static self) -> Vec<String> {
        fn walk(grammar: &Grammar, takes: &Takes, from: &str, loose: &mut Vec<String>) {
            if let Some(place) = takes.place.as_ref().filter(|place| !grammar.place.has(place)) {
                loose.push(format!("{from}: no place {place}"));
            }
            if let Some(name) = takes.contexts.as_ref().filter(|name| !grammar.contexts.has(name)) {
                loose.push(format!("{from}: no contexts {name}"));
            }
            for inner in takes.list.iter().chain(&takes.map) {
                walk(grammar, inner, from, loose);
            }
        }
        let mut loose = Vec::new();
        for (place, words) in &self.mistaken {
            let of_place = |key: &str| self.place.get(place).is_some_and(|known| known.keys.has(key));
            let of_event = |key: &str| place == "event" && self.is_filter(key);
            let unknown = words.values().filter(|key| !of_place(key) && !of_event(key));
            loose.extend(unknown.map(|key| format!("mistaken.{place}: no key {key}")));
        }
        for (table, all) in [("meaning", &self.meaning), ("offers", &self.offers)] {
            for (place, words) in all {
                let of_place = |key: &str| {
                    let known = self.place.get(place);
                    known.is_some_and(|known| known.keys.has(key) || (known.free.is_some() && ["*", "+"].contains(&key)))
                };
                let of_event = |key: &str| place == "event" && (self.is_filter(key) || self.event_key.has(key));
                let unknown = words.names().filter(|key| !of_place(key) && !of_event(key));
                loose.extend(unknown.map(|key| format!("{table}.{place}: no key {key}")));
            }
        }
        for (name, place) in &self.place {
            for (key, takes) in place.keys.iter().chain(place.free.iter().map(|free| ("*", free))) {
                walk(self, takes, &format!("{name}.{key}"), &mut loose);
            }
        }
        for (key, events) in &self.event_key {
            events.iter().for_each(|(event, takes)| walk(self, takes, &format!("{event}.{key}"), &mut loose));
        }
        loose
    }
}
