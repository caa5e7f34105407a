//! The box of a job: its stops under each other on a line, each with its words, its marks and what breaks there.

use dulk_core::views::{Leg, Stop, StopKind};
use maud::{Markup, html};

use super::measure::Size;
use super::parts::{Lines, Part, height_of, stack};
use super::pen::{broken_sign, glyph_of};

/// In pixels.
pub const WIDTH: i32 = 296;
/// From the box's left to its line.
const RAIL: i32 = 20;
/// From the box's left to the words.
const TEXT: i32 = 40;
const EDGE: i32 = 14;
/// The room of words beside the line.
const ROOM: i32 = WIDTH - TEXT - EDGE;
/// The middle of a stop's sign below its top.
const SIGN: i32 = 11;
/// Below the head.
const PAD: i32 = 7;
/// Between stops.
const GAP: i32 = 9;

/// How far something comes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reach {
    /// The files come here.
    Reached,
    /// They may come here.
    Perhaps,
    /// The way breaks right here.
    Broken,
    /// It broke before.
    Lost,
}

/// A stop in its box, with the pixels from the box's top.
struct Row {
    top: i32,
    kind: StopKind,
    reach: Reach,
    /// Its words, what it needs, and what breaks there.
    parts: Vec<Part>,
}

/// The box of a job, before anyone knows where it stands.
pub struct JobBox {
    name: Lines,
    times: Option<String>,
    head: i32,
    /// What breaks in the job as a whole, and what that needs.
    parts: Vec<Part>,
    rows: Vec<Row>,
    reach: Reach,
    /// In pixels.
    pub height: i32,
}

impl JobBox {
    /// Lays out a job; `reached` says that the files come to it at all.
    pub fn new(leg: &Leg, reached: bool) -> Self {
        let times = leg.times.map(|times| format!("{times} times"));
        let reach = match (&leg.broken, reached) {
            (Some(_), _) => Reach::Broken,
            (None, false) => Reach::Lost,
            (None, true) => Reach::Reached,
        };
        let beside = times.as_ref().map_or(0, |times| Size::Small.width(times) + 12) + sign_room(reach);
        let name = Lines::new(&leg.id, (Size::Name, "w-name"), WIDTH - 2 * EDGE - beside, 2);
        let head = name.height() + 12;
        let mut parts: Vec<Part> = leg.broken.iter().flat_map(|broken| Part::of_break(broken, ROOM)).collect();
        parts.extend(leg.needs.iter().map(|need| Part::of_need(need, ROOM)));
        let mut y = head + PAD + height_of(&parts) + if parts.is_empty() { 0 } else { PAD };
        let mut lost = !reached || leg.broken.is_some();
        let mut rows = Vec::new();
        for stop in &leg.stops {
            let reach_of_stop = match (lost, &stop.broken, stop.certain) {
                (_, Some(_), _) => Reach::Broken,
                (true, ..) => Reach::Lost,
                (.., false) => Reach::Perhaps,
                _ => Reach::Reached,
            };
            lost |= stop.broken.is_some();
            let row = Row { top: y, reach: reach_of_stop, kind: stop.kind, parts: parts_of(stop) };
            y += row.height() + GAP;
            rows.push(row);
        }
        Self { name, times, head, parts, rows, reach, height: y + 4 }
    }

    /// Where a line meets the box's head, in pixels from its top.
    pub fn head_port(&self) -> i32 {
        self.head / 2
    }

    /// Where a line meets a stop, in pixels from the box's top.
    pub fn port(&self, stop: usize) -> i32 {
        self.rows.get(stop).map_or(self.head_port(), |row| row.top + SIGN)
    }

    /// How far the files come at a stop.
    pub fn reach(&self, stop: usize) -> Reach {
        self.rows.get(stop).map_or(self.reach, |row| row.reach)
    }

    /// How far they come at the job's end.
    pub fn last_reach(&self) -> Reach {
        self.rows.last().map_or(self.reach, |row| row.reach)
    }

    /// Draws it with its top left corner there.
    pub fn draw(&self, x: i32, y: i32) -> Markup {
        let breaks = self.reach == Reach::Broken || self.rows.iter().any(|row| row.reach == Reach::Broken);
        html! {
            g.w-job.w-bad-job[breaks] {
                rect.w-box x=(x) y=(y) width=(WIDTH) height=(self.height) rx="5" {}
                path.w-flag d={ "M" (x) " " (y + 5) "a5 5 0 0 1 5 -5h" (WIDTH - 10) "a5 5 0 0 1 5 5v" (self.head - 5) "h-" (WIDTH) "z" } {}
                (self.name.draw(x + EDGE, y + 5))
                @if let Some(times) = &self.times {
                    text.w-word x=(x + WIDTH - EDGE - sign_room(self.reach)) y=(y + 5 + Size::Name.leading() - 5) text-anchor="end" { (times) }
                }
                @if self.reach == Reach::Broken {
                    g.w-sign transform={ "translate(" (x + WIDTH - EDGE - 8) " " (y + self.head / 2) ")" } { (broken_sign()) }
                }
                (stack(&self.parts, x + EDGE, y + self.head + PAD))
                (self.rail(x + RAIL, y))
                @for row in &self.rows { (row.draw(x, y)) }
            }
        }
    }

    /// The line through the stops: it goes on as far as the files do.
    fn rail(&self, x: i32, y: i32) -> Markup {
        let style = |reach: Reach| match reach {
            Reach::Reached => "w-sure",
            Reach::Perhaps => "w-perhaps",
            Reach::Broken | Reach::Lost => "w-lost",
        };
        html! {
            @for pair in self.rows.windows(2) {
                path.(style(pair[0].reach)) d={ "M" (x) " " (y + pair[0].top + SIGN + 10) "V" (y + pair[1].top + SIGN - 10) } {}
            }
        }
    }
}

impl Row {
    fn height(&self) -> i32 {
        Size::Small.leading() + height_of(&self.parts)
    }

    fn draw(&self, x: i32, y: i32) -> Markup {
        let top = y + self.top;
        let (sign, style) = match self.reach {
            Reach::Reached => ("w-sign", "w-word"),
            Reach::Perhaps => ("w-sign w-unsure", "w-word w-unsure-word"),
            Reach::Broken => ("w-sign w-bad", "w-word w-bad-word"),
            Reach::Lost => ("w-sign w-gone", "w-word"),
        };
        let aside = match self.reach {
            Reach::Perhaps => ", may not be there",
            Reach::Broken => ": the way breaks here",
            Reach::Reached | Reach::Lost => "",
        };
        html! {
            g class=(sign) transform={ "translate(" (x + RAIL) " " (top + SIGN) ")" } { (glyph_of(self.kind, self.reach)) }
            text class=(style) x=(x + TEXT) y=(top + 11) { (self.kind.word()) (aside) }
            (stack(&self.parts, x + TEXT, top + Size::Small.leading()))
        }
    }
}

/// The room beside a job's name for the sign of what breaks in the job itself, in pixels.
fn sign_room(reach: Reach) -> i32 {
    if reach == Reach::Broken { 26 } else { 0 }
}

fn parts_of(stop: &Stop) -> Vec<Part> {
    let text = Part::lines(&stop.text, (Size::Text, "w-text"), ROOM, 3);
    let broken = stop.broken.iter().flat_map(|broken| Part::of_break(broken, ROOM));
    std::iter::once(text).chain(stop.needs.iter().map(|need| Part::of_need(need, ROOM))).chain(broken).collect()
}
