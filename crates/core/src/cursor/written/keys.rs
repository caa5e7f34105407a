//! What the grammar takes at a place of a text.

use super::path::{Part, Written};
use crate::knowledge::{EventEntry, Grammar, PlaceEntry, Takes};

/// What may stand somewhere.
#[derive(Clone, Copy, Debug)]
pub(super) enum Here {
    /// The keys of a place, by its name.
    Place(&'static str, &'static PlaceEntry),
    /// What a key takes.
    Takes(&'static Takes),
    /// What stands below an event, by its name.
    Event(&'static str, &'static EventEntry),
    /// A list of patterns of branches or tags, or of paths.
    Patterns(&'static str),
    /// The kinds of an event.
    Kinds(&'static EventEntry),
}

/// A place of the grammar, and the names that lead there.
#[derive(Clone, Debug)]
pub(super) struct Spot {
    /// What may stand there.
    pub here: Here,
    /// The kind of names that the nearest key holds.
    pub offered: Option<&'static str>,
    /// The contexts that expressions may use there.
    pub contexts: Option<&'static str>,
    /// The input of an action whose value stands there.
    pub input: Option<String>,
}

/// Follows a path from the top of a file.
pub(super) fn follow(grammar: &'static Grammar, top: &'static str, written: &Written) -> Option<Spot> {
    let start = Here::Place(top, grammar.place(top)?);
    let mut spot = Spot { here: start, offered: None, contexts: None, input: None };
    for part in &written.path {
        spot = match part {
            Part::Item => item(grammar, spot),
            Part::Key(key) => below(grammar, spot, key)?,
        };
    }
    Some(spot)
}

/// What an item of a list is there.
pub(super) fn item(grammar: &'static Grammar, spot: Spot) -> Spot {
    let here = match spot.here {
        Here::Takes(takes) => Here::Takes(takes.list.unwrap_or(takes)),
        Here::Event(_, entry) => match entry.each.and_then(|place| Some((place, grammar.place(place)?))) {
            Some((name, place)) => Here::Place(name, place),
            None => spot.here,
        },
        // A file may be a list of what it begins with.
        other => other,
    };
    Spot { here, ..spot }
}

fn below(grammar: &'static Grammar, spot: Spot, key: &str) -> Option<Spot> {
    match mapping(grammar, spot.here)? {
        Here::Place(name, place) => {
            if place.events {
                let (name, entry) = grammar.event.entry(key)?;
                return Some(Spot { here: Here::Event(name, entry), offered: None, ..spot });
            }
            let takes = place.keys.get(key).or(place.free.as_ref())?;
            let word = if place.keys.has(key) { key } else { "*" };
            let offered = grammar.offered(name, word);
            Some(Spot { here: Here::Takes(takes), offered, contexts: takes.contexts.or(spot.contexts), input: None })
        }
        Here::Event(name, entry) => {
            let here = match grammar.event_key(name, key) {
                Some(takes) => Here::Takes(takes),
                None if grammar.lists_kinds(key) => Here::Kinds(entry),
                None => Here::Patterns(grammar.filter.entry(key)?.0),
            };
            Some(Spot { here, offered: None, ..spot })
        }
        Here::Takes(takes) => {
            let input = (spot.offered == Some("inputs")).then(|| key.to_owned());
            Some(Spot { here: Here::Takes(takes), offered: spot.offered.filter(|_| input.is_none()), input, ..spot })
        }
        Here::Patterns(_) | Here::Kinds(_) => None,
    }
}

/// What the keys of a mapping are, where one may stand.
pub(super) fn mapping(grammar: &'static Grammar, here: Here) -> Option<Here> {
    match here {
        Here::Takes(takes) => match (takes.place, takes.map) {
            (Some(name), _) => Some(Here::Place(name, grammar.place(name)?)),
            (None, Some(inner)) => Some(Here::Takes(inner)),
            (None, None) => None,
        },
        other => Some(other),
    }
}
