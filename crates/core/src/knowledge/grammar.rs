//! The grammar of a format as data: its places, what each key takes, and which names an expression may use there.

use std::collections::{BTreeMap, HashMap};

use serde::Deserialize;

use crate::model::{FilterOf, FilterSide};

/// The grammar of one format.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Grammar {
    /// Events by name.
    #[serde(default)]
    pub event: BTreeMap<String, EventEntry>,
    /// Filters of events by name.
    #[serde(default)]
    pub filter: BTreeMap<String, FilterEntry>,
    /// The key that lists the kinds of an event.
    #[serde(default)]
    pub kinds_key: String,
    /// What stands below an event, in words.
    #[serde(default)]
    pub event_holds: String,
    /// What is filled in when it runs.
    #[serde(default)]
    hole: Option<HoleEntry>,
    /// Words written for an event, and the event that is meant.
    #[serde(default)]
    pub mistaken_event: HashMap<String, String>,
    /// The place to start with, by what a file is.
    start: HashMap<String, String>,
    place: HashMap<String, PlaceEntry>,
    #[serde(default)]
    event_key: HashMap<String, HashMap<String, Takes>>,
    #[serde(default)]
    mistaken: HashMap<String, HashMap<String, String>>,
    /// `yes`, `no`, `on` and `off` stand for true and false as well.
    #[serde(default)]
    pub old_yes: bool,
    /// What a value holds that is filled in later, whatever its key takes.
    #[serde(default)]
    pub filled_in: Vec<String>,
    /// A key that no place takes is told of, whatever it may mean; not one that holds an anchor, or begins as those do that nobody reads.
    #[serde(default)]
    pub tells_unknown: bool,
    /// A value of another shape than its key takes is refused, whatever becomes of keys that are not known.
    #[serde(default)]
    pub refuses_shapes: bool,
    /// A list in a list is laid flat.
    #[serde(default)]
    pub flattens: bool,
    /// How lengths of time are written.
    #[serde(default)]
    pub durations: Durations,
    /// Keys by which a mapping takes over what another one holds, so that nothing is missing in it for sure.
    #[serde(default)]
    pub completed_by: Vec<String>,
    /// Which names expressions may use, by the name that keys refer to.
    #[serde(default)]
    contexts: HashMap<String, Contexts>,
    /// What is known of the names that expressions use.
    #[serde(default)]
    pub names: Names,
}

/// One event.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct EventEntry {
    /// The neutral event.
    pub is: Option<String>,
    /// Filters that it takes.
    #[serde(default)]
    pub filters: Vec<String>,
    /// Its kinds.
    #[serde(default)]
    pub types: Vec<String>,
    /// The kinds that count when none is written; without any, all.
    #[serde(default)]
    pub default_types: Vec<String>,
    /// Its value is a list, and what each item is.
    pub each: Option<String>,
    /// Its kinds are made up by the repository's owner, or not known here.
    #[serde(default)]
    pub open_types: bool,
    /// Other keys that it takes.
    #[serde(default)]
    pub keys: Vec<String>,
    /// Keys that must be there.
    #[serde(default)]
    pub required: Vec<String>,
}

/// What a filter of an event does.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FilterEntry {
    /// What it looks at.
    pub of: FilterOf,
    /// Whether what fits is taken in or left out.
    pub side: FilterSide,
}

/// How a part of a text begins and ends that is filled in when it runs.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HoleEntry {
    opens: String,
    closes: String,
}

/// A place of the grammar.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct PlaceEntry {
    /// How people call it.
    pub label: String,
    /// Keys and what they take.
    #[serde(default)]
    pub keys: BTreeMap<String, Takes>,
    /// Keys that must be there.
    #[serde(default)]
    pub required: Vec<String>,
    /// One of these must be there.
    #[serde(default)]
    pub one_of: Vec<String>,
    /// With the first key, the others must be there.
    #[serde(default)]
    pub together: BTreeMap<String, Vec<String>>,
    /// With the first key, none of the others may be there.
    #[serde(default)]
    pub apart: BTreeMap<String, Vec<String>>,
    /// With this word under this key another one must be there, and that one without it must not.
    #[serde(default)]
    pub with_word: Vec<WithWord>,
    /// What any other key takes.
    pub free: Option<Takes>,
    /// Its keys are the events.
    #[serde(default)]
    pub events: bool,
    /// Keys whose value cannot be a hole.
    #[serde(default)]
    pub no_holes: Vec<String>,
    /// Its keys are names: letters, digits, `-` and `_`, a letter or `_` first.
    #[serde(default)]
    pub named: bool,
    /// It is a step, and this key holds the name by which others read what it gives.
    pub step_id: Option<String>,
    /// Keys that start with a point may hold anything; where another key takes them over, what they hold is what the free keys take.
    #[serde(default)]
    pub hidden: bool,
}

/// The words of lengths of time.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Durations {
    /// Units, long and short.
    pub units: Vec<String>,
    /// Words between them.
    pub joiners: Vec<String>,
    /// Words for numbers.
    pub numbers: Vec<String>,
    /// Words that are a length by themselves.
    pub whole: Vec<String>,
}

impl Durations {
    /// Whether a text may be a length of time: numbers with known units, or a word that is one by itself.
    pub fn takes(&self, text: &str) -> bool {
        let text = text.trim().to_ascii_lowercase();
        let has = |list: &[String], word: &str| list.iter().any(|one| one == word);
        let words: Vec<&str> = text.split(|c: char| !c.is_ascii_alphabetic()).filter(|word| !word.is_empty()).collect();
        let counts = text.bytes().any(|byte| byte.is_ascii_digit()) || words.iter().any(|word| has(&self.numbers, word));
        let known = |word: &&str| [&self.units, &self.joiners, &self.numbers].iter().any(|list| has(list, word));
        has(&self.whole, &text) || (counts && words.iter().all(known))
    }
}

/// What a word asks for beside itself.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WithWord {
    /// The key.
    pub key: String,
    /// Its word.
    pub word: String,
    /// A key that must be there then.
    pub wants: String,
    /// That key may stand with this word only.
    #[serde(default)]
    pub only: bool,
}

/// Which names an expression may use in a place.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Contexts {
    /// Contexts.
    pub names: Vec<String>,
    /// Functions beside those that go everywhere.
    #[serde(default)]
    pub functions: Vec<String>,
    /// The whole value is a condition, with or without braces round it.
    #[serde(default)]
    pub condition: bool,
}

/// What is known of the names that expressions use.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Names {
    /// The names below a context that has a fixed set of them.
    #[serde(default)]
    pub properties: HashMap<String, Vec<String>>,
    /// All contexts.
    #[serde(default)]
    pub contexts: Vec<String>,
    /// Functions with the least and the most arguments; 255 stands for any number.
    #[serde(default)]
    pub functions: BTreeMap<String, (u8, u8)>,
    /// Names that people write below a context, and the one they mean.
    #[serde(default)]
    pub mistaken: HashMap<String, HashMap<String, String>>,
    /// Contexts that hold what the file itself declares.
    #[serde(default)]
    pub declared: HashMap<String, Declared>,
    /// Paths of which the value is always a text; `*` stands for any name.
    #[serde(default)]
    pub texts: Vec<String>,
    /// Functions that go everywhere.
    #[serde(default)]
    pub everywhere: Vec<String>,
}

/// What a context holds that the file itself declares.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
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
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(from = "String")]
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
    pub words: Vec<String>,
    /// A list of these.
    pub list: Option<Box<Takes>>,
    /// A mapping with free keys and these values.
    pub map: Option<Box<Takes>>,
    /// A mapping with the keys of a place.
    pub place: Option<String>,
    /// The names that an expression in it may use.
    pub contexts: Option<String>,
}

impl From<String> for Takes {
    fn from(written: String) -> Self {
        let (alternatives, contexts) = match written.rsplit_once('#') {
            Some((before, name)) if !name.contains([')', '|']) => (before, Some(name.to_owned())),
            _ => (written.as_str(), None),
        };
        let mut takes = Self { contexts, ..Self::default() };
        for one in split(alternatives) {
            let inside = |name: &str| one.strip_prefix(name)?.strip_prefix('(')?.strip_suffix(')');
            match one {
                "any" => takes.any = true,
                "text" => takes.text = true,
                "version" => (takes.text, takes.version) = (true, true),
                "number" => takes.number = true,
                "duration" => takes.duration = true,
                "pattern" => takes.pattern = true,
                "bool" => takes.boolean = true,
                "null" => takes.null = true,
                "event" => takes.event = true,
                "nested" => takes.nested = true,
                _ => {
                    if let Some(inner) = inside("list") {
                        takes.list = Some(Box::new(inner.to_owned().into()));
                    } else if let Some(inner) = inside("map") {
                        takes.map = Some(Box::new(inner.to_owned().into()));
                    } else if let Some(range) = inside("count").and_then(|inner| inner.split_once(',')) {
                        takes.count = range.0.parse().ok().zip(range.1.parse().ok());
                    } else if let Some(inner) = inside("one") {
                        takes.words = inner.split(',').map(str::to_owned).collect();
                    } else {
                        takes.place = one.strip_prefix('@').map(str::to_owned);
                    }
                }
            }
        }
        takes
    }
}

/// The alternatives of what a key takes, brackets kept together.
fn split(takes: &str) -> impl Iterator<Item = &str> {
    let mut depth = 0usize;
    takes.split(move |c: char| {
        match c {
            '(' => depth += 1,
            ')' => depth = depth.saturating_sub(1),
            _ => {}
        }
        c == '|' && depth == 0
    })
}

impl Takes {
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
        self.start.get(kind).map(String::as_str)
    }

    /// A place by its name.
    pub fn place(&'static self, name: &str) -> Option<&'static PlaceEntry> {
        self.place.get(name)
    }

    /// Names and labels of the places that take a key.
    pub fn places_with(&'static self, key: &str) -> Vec<&'static str> {
        let mut labels: Vec<_> =
            self.place.values().filter(|place| place.keys.contains_key(key)).map(|place| place.label.as_str()).collect();
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
        self.lists_kinds(name) || self.event.values().any(|event| event.filters.iter().any(|filter| filter == name))
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
        event.filters.iter().chain(&event.keys).any(|key| key == name)
            || (self.lists_kinds(name) && (event.open_types || !event.types.is_empty()))
    }

    /// Whether a part of a text is filled in when it runs.
    pub fn has_hole(&self, text: &str) -> bool {
        self.hole.as_ref().is_some_and(|hole| text.contains(hole.opens.as_str()))
    }

    /// Whether a text is a hole from its beginning to its end, space round it left out.
    pub fn is_hole(&self, text: &str) -> bool {
        let text = text.trim();
        self.hole.as_ref().is_some_and(|hole| text.starts_with(hole.opens.as_str()) && text.ends_with(hole.closes.as_str()))
    }

    /// The kinds of an event.
    pub fn kinds(&'static self, event: &str) -> &'static [String] {
        self.event(event).map_or(&[], |entry| &entry.types)
    }

    /// The filters that an event takes.
    pub fn filters(&'static self, event: &str) -> Vec<String> {
        let entry = self.event(event);
        let types = entry.filter(|entry| entry.open_types || !entry.types.is_empty()).map(|_| self.kinds_key.clone());
        entry.into_iter().flat_map(|entry| entry.filters.iter().cloned()).chain(types).collect()
    }

    /// The names of all events.
    pub fn events(&'static self) -> impl Iterator<Item = &'static str> {
        self.event.keys().map(String::as_str)
    }

    /// The key that is meant by a word that people write at a place.
    pub fn meant(&'static self, place: &str, word: &str) -> Option<&'static str> {
        self.mistaken.get(place)?.get(word).map(String::as_str)
    }

    /// The names that may be used, by the name that keys refer to.
    pub fn contexts(&'static self, name: &str) -> Option<&'static Contexts> {
        self.contexts.get(name)
    }

    /// Whether some place has a key.
    #[cfg(test)]
    pub(super) fn has_key(&self, key: &str) -> bool {
        self.place.values().any(|place| place.keys.contains_key(key))
    }

    /// Every reference of the data to another part of it that is not there, for the test of the catalog.
    #[cfg(test)]
    pub(super) fn loose_ends(&'static self) -> Vec<String> {
        fn walk(grammar: &Grammar, takes: &Takes, from: &str, loose: &mut Vec<String>) {
            if let Some(place) = takes.place.as_ref().filter(|place| !grammar.place.contains_key(*place)) {
                loose.push(format!("{from}: no place {place}"));
            }
            if let Some(name) = takes.contexts.as_ref().filter(|name| !grammar.contexts.contains_key(*name)) {
                loose.push(format!("{from}: no contexts {name}"));
            }
            for inner in takes.list.iter().chain(&takes.map) {
                walk(grammar, inner, from, loose);
            }
        }
        let mut loose = Vec::new();
        for (place, words) in &self.mistaken {
            let of_place = |key: &str| self.place.get(place).is_some_and(|known| known.keys.contains_key(key));
            let of_event = |key: &str| place == "event" && self.is_filter(key);
            let unknown = words.values().filter(|key| !of_place(key) && !of_event(key));
            loose.extend(unknown.map(|key| format!("mistaken.{place}: no key {key}")));
        }
        for (name, place) in &self.place {
            for (key, takes) in
                place.keys.iter().map(|(key, takes)| (key.as_str(), takes)).chain(place.free.iter().map(|free| ("*", free)))
            {
                walk(self, takes, &format!("{name}.{key}"), &mut loose);
            }
        }
        for (key, events) in &self.event_key {
            events.iter().for_each(|(event, takes)| walk(self, takes, &format!("{event}.{key}"), &mut loose));
        }
        loose
    }
}

#[cfg(test)]
mod tests {
    use super::Takes;

    #[test]
    fn what_a_key_takes_is_read_with_its_brackets() {
        let takes = Takes::from("text|list(text|map(null))|@job#step".to_owned());
        assert!(takes.text && takes.place.as_deref() == Some("job") && takes.contexts.as_deref() == Some("step"));
        let inner = takes.list.unwrap_or_default();
        assert!(inner.text && inner.map.is_some_and(|map| map.null));
        assert_eq!(Takes::from("bool|one(a,b)".to_owned()).words, ["a", "b"]);
        assert_eq!(Takes::from("map(text#env)".to_owned()).contexts, None);
    }
}
