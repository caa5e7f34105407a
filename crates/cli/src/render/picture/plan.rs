//! Where everything of a way stands: columns from left to right in the order of work, broken into rows where a page ends.

use std::collections::{BTreeMap, HashMap};

use dulk_core::views::{End, PERHAPS, Parcel, StopAt, Way};
use indexmap::IndexMap;

use super::job::{self, JobBox, Reach};
use super::measure::Size;
use super::parts::{Part, height_of};

/// All in pixels: the space round a drawing.
pub const MARGIN: i32 = 20;
/// The sources.
pub const SOURCE: i32 = 150;
/// What is handed on.
pub const PARCEL: i32 = 144;
/// The address.
pub const END: i32 = 184;
/// A row takes no more, unless one job does.
const ROW: i32 = 1240;
/// Between things under each other.
const APART: i32 = 16;
/// What a gap between columns is taken to be until its lines are known.
const GAP: i32 = 32;
/// Events that are named.
const EVENTS: usize = 6;

/// Something that lines begin or end at.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Thing {
    /// The repository, with what starts the pipeline.
    Source,
    /// A job, by its number.
    Job(usize),
    /// Something handed on, by its number.
    Parcel(usize),
    /// An address, by its number.
    End(usize),
}

/// A column of one row.
pub struct Column {
    /// What stands in it, from above.
    pub things: Vec<Thing>,
    /// Its row.
    pub row: usize,
    /// In pixels.
    pub width: i32,
}

/// A box with words that is no job.
pub struct Note {
    /// The words.
    pub parts: Vec<Part>,
    /// In pixels.
    pub height: i32,
}

impl Note {
    fn new(parts: Vec<Part>) -> Self {
        let height = height_of(&parts) + 18;
        Self { parts, height }
    }
}

/// Everything with its column, and how far below the top of its row it stands.
pub struct Plan {
    /// From left to right, row by row.
    pub columns: Vec<Column>,
    /// The boxes of the jobs.
    pub jobs: Vec<JobBox>,
    /// The sources.
    pub source: Note,
    /// What is handed on.
    pub parcels: Vec<Note>,
    /// The addresses.
    pub ends: Vec<Note>,
    /// The height of each row in pixels.
    pub rows: Vec<i32>,
    places: IndexMap<Thing, (usize, i32)>,
}

impl Plan {
    /// Lays a way out.
    pub fn of(way: &Way) -> Self {
        let reached = reached(way);
        let jobs: Vec<JobBox> = way.legs.iter().zip(&reached).map(|(leg, reached)| JobBox::new(leg, *reached)).collect();
        let parcels: Vec<Note> = way.parcels.iter().map(parcel_note).collect();
        let mut plan = Self {
            columns: columns(way),
            jobs,
            source: source_note(way),
            parcels,
            ends: way.ends.iter().map(|end| end_note(way, end)).collect(),
            rows: Vec::new(),
            places: IndexMap::new(),
        };
        for column in 0..plan.columns.len() {
            plan.place(way, column);
        }
        plan
    }

    /// The column of a thing, and its pixels below the top of the row.
    pub fn place_of(&self, thing: Thing) -> (usize, i32) {
        self.places.get(&thing).copied().unwrap_or_default()
    }

    /// Everything that has a place.
    pub fn things(&self) -> impl Iterator<Item = Thing> {
        self.places.keys().copied()
    }

    /// The height of a thing in pixels.
    pub fn height(&self, thing: Thing) -> i32 {
        match thing {
            Thing::Source => self.source.height,
            Thing::Job(job) => self.jobs[job].height,
            Thing::Parcel(parcel) => self.parcels[parcel].height,
            Thing::End(end) => self.ends[end].height,
        }
    }

    /// Where lines meet a stop: its pixels below the top of the row.
    pub fn port(&self, at: StopAt) -> i32 {
        self.place_of(Thing::Job(at.leg)).1 + self.jobs[at.leg].port(at.stop)
    }

    /// How far the files come at a stop.
    pub fn reach(&self, at: StopAt) -> Reach {
        self.jobs[at.leg].reach(at.stop)
    }

    /// Stands the things of a column under each other; what is handed on beside who hands it on, and the address beside what goes there.
    fn place(&mut self, way: &Way, column: usize) {
        let row = self.columns[column].row;
        let mut free = 0;
        for thing in self.columns[column].things.clone() {
            let beside = match thing {
                Thing::Parcel(parcel) => Some(way.parcels[parcel].from),
                Thing::End(end) => way.ends[end].at.filter(|at| self.columns[self.place_of(Thing::Job(at.leg)).0].row == row),
                Thing::Source | Thing::Job(_) => None,
            };
            let wanted = beside.map_or(0, |at| self.port(at) - self.height(thing) / 2);
            let y = wanted.max(free);
            self.places.insert(thing, (column, y));
            free = y + self.height(thing) + APART;
        }
        if self.rows.len() <= row {
            self.rows.resize(row + 1, 0);
        }
        self.rows[row] = self.rows[row].max(free - APART);
    }
}

/// By job, whether the files come to it: nothing breaks in a job that it waits for.
fn reached(way: &Way) -> Vec<bool> {
    let mut through: HashMap<&str, bool> = HashMap::new();
    let mut found = Vec::new();
    for leg in &way.legs {
        let reached = way.broken.is_none() && leg.waits_for.iter().all(|name| through.get(name.as_str()) != Some(&false));
        through.insert(&leg.id, reached && !leg.breaks());
        found.push(reached);
    }
    found
}

fn columns(way: &Way) -> Vec<Column> {
    let mut columns = vec![Column { things: vec![Thing::Source], row: 0, width: SOURCE }];
    let mut used = MARGIN + SOURCE;
    let mut row = 0;
    let mut add = |parts: Vec<(Vec<Thing>, i32)>| {
        let width: i32 = parts.iter().map(|(_, width)| GAP + width).sum();
        if used + width + MARGIN > ROW {
            row += 1;
            used = MARGIN;
        }
        used += width;
        columns.extend(parts.into_iter().map(|(things, width)| Column { things, row, width }));
    };
    let mut waves: BTreeMap<usize, (Vec<Thing>, Vec<Thing>)> = BTreeMap::new();
    for (number, leg) in way.legs.iter().enumerate() {
        waves.entry(leg.wave).or_default().0.push(Thing::Job(number));
    }
    for (number, parcel) in way.parcels.iter().enumerate() {
        waves.entry(way.legs[parcel.from.leg].wave).or_default().1.push(Thing::Parcel(number));
    }
    for (jobs, parcels) in waves.into_values() {
        let mut parts = vec![(jobs, job::WIDTH)];
        if !parcels.is_empty() {
            parts.push((parcels, PARCEL));
        }
        add(parts);
    }
    add(vec![((0..way.ends.len()).map(Thing::End).collect(), END)]);
    columns
}

fn source_note(way: &Way) -> Note {
    const SMALL: (Size, &str) = (Size::Small, "w-word");
    let room = SOURCE - 24;
    let mut parts = vec![Part::lines("the repository", (Size::Text, "w-strong"), room - 14, 2)];
    if way.events.is_empty() {
        parts.push(Part::lines(&format!("on {}", way.told_events()), SMALL, room, 3));
    }
    parts.extend(way.events.iter().take(EVENTS).map(|event| Part::lines(&on(event), SMALL, room, 4)));
    if let Some(more @ 1..) = way.events.len().checked_sub(EVENTS) {
        parts.push(Part::lines(&format!("and {more} more"), SMALL, room, 1));
    }
    if let Some(broken) = &way.broken {
        parts.push(Part::lines(broken.rule, (Size::Small, "w-rule"), room, 2));
        parts.push(Part::lines(&broken.message, (Size::Small, "w-broken"), room, 8));
    }
    Note::new(parts)
}

/// "on a push to main", "perhaps on the clock".
fn on(event: &str) -> String {
    event.strip_prefix(PERHAPS).map_or_else(|| format!("on {event}"), |event| format!("{PERHAPS}on {event}"))
}

fn parcel_note(parcel: &Parcel) -> Note {
    let room = PARCEL - 38;
    let mut parts = Vec::new();
    if let Some(name) = &parcel.name {
        parts.push(Part::lines(name, (Size::Text, "w-strong"), room, 2));
    }
    // The name says it already where it is that of the folder.
    if parcel.name.as_ref() != Some(&parcel.holds) && !parcel.holds.is_empty() {
        parts.push(Part::lines(&parcel.holds, (Size::Small, "w-word"), room, 2));
    }
    if parts.is_empty() {
        parts.push(Part::lines("files", (Size::Small, "w-word"), room, 1));
    }
    Note::new(parts)
}

fn end_note(way: &Way, end: &End) -> Note {
    let room = END - 44;
    let (words, style) = match way.doubt() {
        _ if way.breaks() => ("✖ nothing new arrives here".to_owned(), "w-rule"),
        Some(doubt) => (format!("? online, unless something beside it stops it: {}", doubt.rule), "w-unsure-word"),
        None => ("✔ online".to_owned(), "w-word"),
    };
    Note::new(vec![Part::lines(&end.text, (Size::Text, "w-strong"), room, 5), Part::lines(&words, (Size::Small, style), room, 4)])
}
