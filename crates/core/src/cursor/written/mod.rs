//! What may be written at a place, from what is true here.

mod expressions;
mod keys;
mod names;
mod path;
mod script;
mod settings;

pub use settings::setting_offers;

use std::collections::BTreeSet;
use std::ops::Range;

use keys::{Here, Spot, follow, item, mapping};
use path::{Position, Written, locate};

use crate::formats::{Format, prepare_alone};
use crate::knowledge::{EventEntry, Grammar, PlaceEntry, Takes};
use crate::model::{Job, Pipeline, Step};
use crate::project::Project;
use crate::rules;
use crate::text::{FileId, SourceFile, Span};

/// The kinds of what may be written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum OfferKind {
    /// A key.
    Key,
    /// An event.
    Event,
    /// One of a few words.
    Word,
    /// A job, a stage, a branch and other names.
    Name,
    /// A secret, a variable or another value that is read.
    Read,
    /// A function.
    Function,
    /// A file or folder.
    Path,
    /// An action, or a called pipeline.
    Action,
    /// A script of a package.
    Script,
    /// A rule.
    Rule,
}

/// Something that may be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Offer {
    /// What is shown.
    pub label: String,
    /// What is written.
    pub insert: String,
    /// Its kind.
    pub kind: OfferKind,
    /// What it means, or where it is known from.
    pub meaning: String,
}

/// All that may be written at a place.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Offers {
    /// The bytes that it takes the place of.
    pub instead_of: Span,
    /// In an order that people would choose in.
    pub list: Vec<Offer>,
}

impl Offer {
    fn new(kind: OfferKind, label: impl Into<String>, meaning: impl Into<String>) -> Self {
        let label = label.into();
        Self { insert: label.clone(), label, kind, meaning: meaning.into() }
    }

    fn key(name: &str, meaning: String) -> Self {
        Self { insert: format!("{name}: "), ..Self::new(OfferKind::Key, name, meaning) }
    }
}

/// Leaves the first of those with one label.
fn keep_first(offers: &mut Vec<Offer>) {
    let mut seen = BTreeSet::new();
    offers.retain(|offer| !offer.label.is_empty() && seen.insert(offer.label.clone()));
}

/// A key that stands somewhere, and what it means.
pub(super) struct KeyThere {
    pub at: Span,
    pub name: String,
    pub meaning: String,
}

/// What is known of a pipeline whose text is being typed.
struct Desk<'d> {
    project: &'d Project<'d>,
    source: &'d SourceFile,
    format: &'static dyn Format,
    /// The pipeline: as it is, or without the line that is being typed where the text is not whole.
    pipeline: &'d Pipeline,
    /// Its number in the project.
    index: usize,
    offset: usize,
}

impl Desk<'_> {
    fn grammar(&self) -> &'static Grammar {
        self.format.grammar()
    }

    /// The step that the byte stands in: the last one that begins before it.
    fn own_step(&self) -> Option<&Step> {
        let own = self.pipeline.jobs.iter().flat_map(|job| &job.steps).filter(|step| step.at.file == self.pipeline.file);
        own.filter(|step| (step.at.span.start as usize) <= self.offset).max_by_key(|step| step.at.span.start)
    }

    /// The job that the byte stands in: the last one that begins before it.
    fn own_job(&self) -> Option<&Job> {
        let own = self.pipeline.jobs.iter().filter(|job| job.id.at.file == self.pipeline.file);
        own.filter(|job| (job.id.at.span.start as usize) <= self.offset).max_by_key(|job| job.id.at.span.start)
    }
}

/// What may be written at a byte of a file.
pub fn offers(project: &Project<'_>, file: FileId, offset: usize) -> Offers {
    let source = project.sources.get(file);
    let Some(index) = project.in_file(file) else { return Offers::default() };
    let prepared = &project.prepared[index];
    let mended = if prepared.whole { None } else { without_line(source, prepared.pipeline.format, file, offset) };
    let pipeline = mended.as_ref().unwrap_or(&prepared.pipeline);
    let desk = Desk { project, source, format: prepared.pipeline.format, pipeline, index, offset };
    desk.offers()
}

/// The pipeline of a text without the line that a byte is on.
fn without_line(source: &SourceFile, format: &'static dyn Format, file: FileId, offset: usize) -> Option<Pipeline> {
    let line = source.position(u32::try_from(offset).ok()?).line;
    let (start, end) = (source.line_start(line), source.line_start(line + 1));
    let text = format!("{}{}", &source.text[..start], &source.text[end..]);
    let prepared = prepare_alone(file, &SourceFile::new(source.path.clone(), text), format);
    prepared.into_iter().next().map(|one| one.pipeline).filter(|pipeline| !pipeline.jobs.is_empty())
}

/// Whether a format's text at a path is YAML.
fn is_yaml(path: &str) -> bool {
    [".yml", ".yaml"].iter().any(|end| path.ends_with(end))
}

/// Where a byte stands in a pipeline file, and what the grammar takes there.
fn stands(format: &'static dyn Format, part: bool, source: &SourceFile, offset: usize) -> Option<(Written, Option<Spot>)> {
    if !is_yaml(&source.path) {
        return None;
    }
    let written = locate(source, offset)?;
    let spot = format.top(part).and_then(|top| follow(format.grammar(), top, &written));
    Some((written, spot))
}

/// The key of the grammar at a byte of a file, with what it means; nothing where none of those stands there.
pub(super) fn key_at(project: &Project<'_>, file: FileId, offset: usize) -> Option<KeyThere> {
    let source = project.sources.get(file);
    let pipeline = &project.prepared[project.in_file(file)?].pipeline;
    let (written, spot) = stands(pipeline.format, pipeline.is_part, source, offset)?;
    let (name, bytes) = written.key.filter(|(_, bytes)| bytes.contains(&offset))?;
    let grammar = pipeline.format.grammar();
    let meaning = match mapping(grammar, spot?.here)? {
        Here::Place(place, entry) => meaning_of(grammar, place, &name, entry.keys.get(&name)?),
        Here::Event(event, _) => meaning_of(grammar, "event", &name, grammar.event_key(event, &name).unwrap_or(&Takes::TEXT)),
        _ => return None,
    };
    Some(KeyThere { at: Span::new(bytes.start, bytes.end), name, meaning })
}

/// What a key means, or else what it takes.
fn meaning_of(grammar: &'static Grammar, place: &str, key: &str, takes: &Takes) -> String {
    match grammar.meaning(place, key) {
        Some(meaning) => meaning.to_owned(),
        None => match takes.words_for() {
            words if words.is_empty() => String::new(),
            words => format!("takes {words}"),
        },
    }
}

impl Desk<'_> {
    fn offers(&self) -> Offers {
        let stood = stands(self.format, self.pipeline.is_part, self.source, self.offset);
        let line = self.line_before();
        if let Some(rules) = accepting(&line, self.offset) {
            return rules;
        }
        let spot = stood.as_ref().and_then(|(_, spot)| spot.as_ref());
        if let Some(offers) = expressions::offers(self, &line, spot) {
            return offers;
        }
        let Some((written, spot)) = &stood else { return Offers::default() };
        match (&written.position, spot) {
            (Position::Comment, _) | (_, None) => Offers::default(),
            (Position::Block, Some(spot)) if spot.offered == Some("script") => script::offers(self, &line),
            (Position::Block, Some(_)) => Offers::default(),
            (Position::Value(start), Some(spot)) => self.values(spot, *start),
            (Position::Key, Some(spot)) => self.keys_and_items(written, spot),
        }
    }

    /// The line up to the byte.
    fn line_before(&self) -> String {
        let offset = u32::try_from(self.offset).unwrap_or(u32::MAX);
        let start = self.source.line_start(self.source.position(offset).line);
        self.source.text.get(start..self.offset).unwrap_or_default().to_owned()
    }

    /// The bytes of the word that is being written, which begins behind one of these signs; nothing before `from` belongs to it.
    fn word(&self, from: usize, ends: &[char]) -> Range<usize> {
        let text = &self.source.text;
        let from = from.min(self.offset);
        let before = &text[from..self.offset];
        let start = before.rfind(ends).map_or(from, |at| from + at + before[at..].chars().next().map_or(1, char::len_utf8));
        let after = text[self.offset..].find(|c: char| c.is_whitespace() || ends.contains(&c) || c == ':');
        start..after.map_or(text.len(), |end| self.offset + end)
    }

    /// What a key's value may be, which begins at a byte.
    fn values(&self, spot: &Spot, start: usize) -> Offers {
        let value = &self.source.text[start.min(self.offset)..self.offset];
        if value.starts_with('{') {
            return Offers::default();
        }
        if spot.offered == Some("script") && !value.starts_with('[') {
            return script::offers(self, value);
        }
        let word = self.word(start, &[' ', '[', ',', '"', '\'']);
        let list = match value.starts_with('[') {
            true => self.words(&item(self.grammar(), spot.clone())),
            false => self.words(spot),
        };
        Offers { instead_of: Span::new(word.start, word.end), list }
    }

    /// Words that may be a value.
    fn words(&self, spot: &Spot) -> Vec<Offer> {
        let mut list = Vec::new();
        match spot.here {
            Here::Takes(takes) => {
                list.extend(takes.words.iter().map(|word| Offer::new(OfferKind::Word, *word, "")));
                if takes.boolean {
                    list.extend(["true", "false"].map(|word| Offer::new(OfferKind::Word, word, "")));
                }
                if takes.event || takes.list.is_some_and(|inner| inner.event) {
                    list.extend(names::events(self));
                }
            }
            Here::Kinds(entry) => {
                list.extend(entry.types.iter().map(|kind| Offer::new(OfferKind::Word, *kind, "a kind of the event")))
            }
            Here::Patterns(filter) => list.extend(names::for_filter(self, filter)),
            Here::Place(..) | Here::Event(..) => {}
        }
        if let Some(kind) = spot.offered {
            list.extend(names::of(self, kind));
        }
        if let Some(input) = &spot.input {
            list.extend(names::for_input(self, input));
        }
        list
    }

    /// The keys that may stand here, those left out that stand beside it already.
    fn keys(&self, written: &Written, spot: &Spot) -> Vec<Offer> {
        let is_free = |key: &str| !written.siblings.iter().any(|beside| beside == key);
        let as_keys = |names: Vec<Offer>| names.into_iter().map(|offer| Offer { insert: format!("{}: ", offer.label), ..offer });
        let mut list: Vec<Offer> = match mapping(self.grammar(), spot.here) {
            Some(Here::Place(_, place)) if place.events => {
                names::events(self).into_iter().map(|event| Offer { insert: format!("{}:", event.label), ..event }).collect()
            }
            Some(Here::Place(name, place)) => {
                let free = self.grammar().offered(name, "+").map(|kind| names::of(self, kind)).unwrap_or_default();
                self.keys_of_place(name, place, &is_free).into_iter().chain(as_keys(free)).collect()
            }
            Some(Here::Event(event, entry)) => self.keys_of_event(event, entry),
            // The inputs of an action stand as keys below the one that names them.
            _ if spot.offered == Some("inputs") => as_keys(names::of(self, "inputs")).collect(),
            _ => Vec::new(),
        };
        list.retain(|offer| is_free(&offer.label));
        list
    }

    /// The keys of a place: those that must be there, then those that people know, then the rest; none that another one rules out.
    fn keys_of_place(&self, name: &str, place: &'static PlaceEntry, is_free: &dyn Fn(&str) -> bool) -> Vec<Offer> {
        let grammar = self.grammar();
        let wanted = |key: &str| place.required.contains(&key) || place.one_of.contains(&key);
        let rules_out = |one: &str, others: &[&str], key: &str| {
            (!is_free(one) && others.contains(&key)) || (one == key && others.iter().any(|other| !is_free(other)))
        };
        let is_ruled_out = |key: &str| place.apart.iter().any(|(one, others)| rules_out(one, others, key));
        let mut keys: Vec<(&str, &Takes)> = place.keys.iter().filter(|(key, _)| !is_ruled_out(key)).collect();
        keys.sort_by_key(|(key, _)| (!wanted(key), grammar.meaning(name, key).is_none()));
        keys.into_iter().map(|(key, takes)| Offer::key(key, meaning_of(grammar, name, key, takes))).collect()
    }

    fn keys_of_event(&self, event: &'static str, entry: &EventEntry) -> Vec<Offer> {
        let grammar = self.grammar();
        let keys = grammar.filters(event).into_iter().chain(entry.keys.iter().map(|key| (*key).to_owned()));
        keys.map(|key| Offer::key(&key, grammar.meaning("event", &key).unwrap_or_default().to_owned())).collect()
    }

    /// The keys that may stand here, or the items of a list of texts.
    fn keys_and_items(&self, written: &Written, spot: &Spot) -> Offers {
        let own = match &written.key {
            Some((_, bytes)) => bytes.start,
            // What follows the dashes of the line.
            None => self.offset - written.before.trim_start_matches(['-', ' ']).len(),
        };
        let word = self.word(own, &[' ', '[', ',', '"', '\'']);
        let instead_of = match &written.key {
            // The colon of a key that is written anew stays.
            Some((_, bytes)) => Span::new(bytes.start, bytes.end),
            None => Span::new(word.start, word.end),
        };
        let mut list = self.keys(written, spot);
        if spot.offered != Some("inputs") && written.opens_item && written.key.is_none() {
            if spot.offered == Some("script") {
                return script::offers(self, &self.source.text[own.min(self.offset)..self.offset]);
            }
            list.extend(self.words(spot));
        }
        if written.key.is_some() {
            // Only the name is written anew.
            list.iter_mut().for_each(|offer| offer.insert.clone_from(&offer.label));
        }
        Offers { instead_of, list }
    }
}

/// The rules, where a comment is about to accept one.
fn accepting(line: &str, offset: usize) -> Option<Offers> {
    let (before, word) = line.rsplit_once(' ')?;
    let said = before.trim_end().trim_start_matches(|c: char| c != '#' && c != '/').trim_start_matches(['#', '/', ' ']);
    (said == "dulk: accept").then(|| Offers {
        instead_of: Span::new(offset - word.len(), offset),
        list: rules::all().map(|rule| Offer { insert: format!("{} because ", rule.id), ..of_rule(rule) }).collect(),
    })
}

fn of_rule(rule: &rules::Rule) -> Offer {
    Offer::new(OfferKind::Rule, rule.id, rule.title)
}
