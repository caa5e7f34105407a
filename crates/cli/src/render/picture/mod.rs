//! The way of the site as a drawing: from the sources on the left, through the jobs in their order, with what they hand to each other, to
//! the address. A place where the way breaks is barred.

mod job;
mod lines;
mod measure;
mod parts;
mod pen;
mod plan;

use dulk_core::finding::listed_short;
use dulk_core::project::Project;
use dulk_core::views::{NO_WAY, Way};
use lines::{Bar, Channel, Edge, Form, LANE, Lanes, channels, edges};
use maud::{Markup, html};
use measure::{Fitted, Size};
use parts::{Lines, stack};
use plan::{Column, MARGIN, Plan, Thing};

use super::text::shown;

pub use pen::{DARK, LIGHT, LOOK};

/// Before the first lane of a gap, and behind its last; in pixels.
const CLEAR: i32 = 12;
/// Between the rows of a way, without lanes.
const BETWEEN: i32 = 26;

/// All ways below each other, as a picture that stands alone.
pub fn alone(project: &Project<'_>, ways: &[Way]) -> String {
    if ways.is_empty() {
        let body = Lines::new(NO_WAY, (Size::Text, "w-text"), 600, 1).draw(MARGIN, MARGIN);
        return picture(&body, (640, 2 * MARGIN + 20), NO_WAY, true).into_string();
    }
    let mut parts = Vec::new();
    let (mut width, mut height) = (0, 0);
    for way in ways {
        let drawn = draw(project, way);
        parts.push((drawn.body, height));
        width = width.max(drawn.size.0);
        height += drawn.size.1;
    }
    let body = html! { @for (body, y) in &parts { g transform={ "translate(0 " (y) ")" } { (body) } } };
    picture(&body, (width, height), "The way of the site, from its sources to its address", true).into_string()
}

/// One way, for a page that brings the colours and [`LOOK`].
pub fn within_page(project: &Project<'_>, way: &Way) -> Markup {
    let drawn = draw(project, way);
    picture(&drawn.body, drawn.size, &format!("The way of the site to {}", shown(&way.told_ends())), false)
}

fn picture(body: &Markup, (width, height): (i32, i32), label: &str, is_alone: bool) -> Markup {
    html! {
        svg.w-way xmlns="http://www.w3.org/2000/svg" width=(width) height=(height) viewBox={ "0 0 " (width) " " (height) }
            role="img" aria-label=(label) {
            @if is_alone { (pen::style_alone()) }
            rect.w-ground width=(width) height=(height) {}
            (body)
        }
    }
}

struct Drawn {
    body: Markup,
    /// Width and height in pixels.
    size: (i32, i32),
}

/// Where columns and rows stand, in pixels.
struct Ground {
    columns: Vec<i32>,
    rows: Vec<i32>,
    lanes: Lanes,
    /// Where the first lane of the left edge runs.
    side: i32,
    size: (i32, i32),
}

fn draw(project: &Project<'_>, way: &Way) -> Drawn {
    let plan = Plan::of(way);
    let edges = edges(way, &plan);
    let title = Fitted::new(&title(project, way), Size::Name, 1180, 2);
    let ground = Ground::of(&plan, &edges, MARGIN + title.height(Size::Name) + 10);
    let lines: Vec<(&Edge, Vec<(i32, i32)>)> = edges.iter().map(|edge| (edge, ground.points(edge, &plan))).collect();
    let at = |thing: Thing| {
        let (column, y) = plan.place_of(thing);
        (ground.columns[column], ground.rows[plan.columns[column].row] + y)
    };
    let body = html! {
        (pen::words(&title, Size::Name, "w-title", MARGIN, MARGIN - 4))
        @for (edge, points) in &lines { (line(edge, points)) }
        @for thing in plan.things() { (draw_thing(thing, at(thing), &plan, way)) }
        @for (edge, points) in &lines { (bar(edge, points)) }
    };
    let width = ground.size.0.max(2 * MARGIN + title.lines.iter().map(|line| Size::Name.width(line)).max().unwrap_or(0));
    Drawn { body, size: (width, ground.size.1) }
}

/// What the drawing is of, and how it ends.
fn title(project: &Project<'_>, way: &Way) -> String {
    let label = shown(&project.label(way.pipeline));
    let breaking: Vec<String> = way.legs.iter().filter(|leg| leg.breaks()).map(|leg| shown(&leg.id)).collect();
    match (&way.broken, breaking.as_slice()) {
        (Some(_), _) => format!("{label}: the way breaks before its first job"),
        (None, []) => label,
        (None, breaking) => format!("{label}: the way breaks in {}", listed_short(breaking)),
    }
}

impl Ground {
    fn of(plan: &Plan, edges: &[Edge], top: i32) -> Self {
        let mut lanes = Lanes::default();
        for edge in edges {
            for channel in channels(edge, plan) {
                lanes.take(channel, edge);
            }
        }
        let wide = |channel: Channel| 2 * CLEAR + LANE * lanes.count(channel);
        let side = lanes.count(Channel::Side) * LANE;
        let mut ground = Self { columns: Vec::new(), rows: Vec::new(), side: MARGIN, size: (0, 0), lanes: Lanes::default() };
        let mut x = MARGIN + side;
        let mut row = None;
        for (number, Column { row: own, width, .. }) in plan.columns.iter().enumerate() {
            if row != Some(*own) {
                x = MARGIN + side;
                row = Some(*own);
            }
            // The very first column has nothing before it.
            let gap = if number == 0 { 0 } else { wide(Channel::Before(number)) };
            ground.columns.push(x + gap);
            x += gap + width;
            ground.size.0 = ground.size.0.max(x + wide(Channel::Behind(*own)) - 2 * CLEAR + MARGIN);
        }
        let mut y = top;
        for (row, height) in plan.rows.iter().enumerate() {
            y += LANE * lanes.count(Channel::Over(row));
            ground.rows.push(y);
            y += height + BETWEEN + LANE * lanes.count(Channel::Under(row));
        }
        ground.size.1 = y - BETWEEN + MARGIN;
        ground.lanes = lanes;
        ground
    }

    /// The points of a line.
    fn points(&self, edge: &Edge, plan: &Plan) -> Vec<(i32, i32)> {
        let (from, to) = (plan.place_of(edge.from.0).0, plan.place_of(edge.to.0).0);
        let start = (self.columns[from] + plan.columns[from].width, self.rows[plan.columns[from].row] + edge.from.1);
        let end = (self.columns[to], self.rows[plan.columns[to].row] + edge.to.1);
        let mut points = vec![start];
        let mut last = start;
        for channel in channels(edge, plan) {
            let lane = LANE * self.lanes.of(channel, edge);
            let next = match channel {
                Channel::Before(column) => {
                    let gap = 2 * CLEAR + LANE * self.lanes.count(channel);
                    (self.columns[column] - gap + CLEAR + lane, last.1)
                }
                Channel::Behind(_) => (self.columns[from] + plan.columns[from].width + CLEAR + lane, last.1),
                Channel::Under(row) => (last.0, self.rows[row] + plan.rows[row] + CLEAR + lane),
                Channel::Over(row) => (last.0, self.rows[row] - CLEAR / 2 - lane),
                Channel::Side => (self.side + lane, last.1),
            };
            points.push(next);
            last = next;
        }
        points.push((last.0, end.1));
        points.push(end);
        points.dedup();
        points
    }
}

/// A line through points, with its tip.
fn line(edge: &Edge, points: &[(i32, i32)]) -> Markup {
    let (style, tip) = match edge.form {
        Form::Sure => ("w-sure", "w-tip-sure"),
        Form::Perhaps => ("w-perhaps", "w-tip-perhaps"),
        Form::Lost => ("w-lost", "w-tip-lost"),
        Form::Wait => ("w-wait", "w-tip-wait"),
    };
    let Some((x, y)) = points.last() else { return html! {} };
    html! {
        path class=(style) d=(pen::path(points)) {}
        @if edge.bar != Bar::End { polygon class=(tip) points={ (x) "," (y) " " (x - 8) "," (y - 4) " " (x - 8) "," (y + 4) } {} }
    }
}

/// The bar where a line ends on the way.
fn bar(edge: &Edge, points: &[(i32, i32)]) -> Markup {
    let at = match edge.bar {
        Bar::No => None,
        Bar::Start => points.first().map(|(x, y)| (x + 8, y)),
        Bar::End => points.last().map(|(x, y)| (x - 10, y)),
    };
    html! { @if let Some((x, y)) = at { path.w-stop d={ "M" (x) " " (y - 9) "v18M" (x - 4) " " (y - 9) "h8M" (x - 4) " " (y + 9) "h8" } {} } }
}

fn draw_thing(thing: Thing, (x, y): (i32, i32), plan: &Plan, way: &Way) -> Markup {
    match thing {
        Thing::Job(job) => plan.jobs[job].draw(x, y),
        Thing::Source => {
            let (width, height) = (plan::SOURCE, plan.source.height);
            html! {
                path.w-source d={ "M" (x) " " (y) "h" (width - 16) "l16 16v" (height - 16) "h-" (width) "zM" (x + width - 16) " " (y) "v16h16" } {}
                (stack(&plan.source.parts, x + 12, y + 8))
            }
        }
        Thing::Parcel(parcel) => {
            let (width, height) = (plan::PARCEL, plan.parcels[parcel].height);
            let style = match plan.reach(way.parcels[parcel].from) {
                job::Reach::Reached => "w-tag",
                job::Reach::Perhaps => "w-tag w-tag-perhaps",
                job::Reach::Broken | job::Reach::Lost => "w-tag w-tag-lost",
            };
            html! {
                path class=(style) d={ "M" (x) " " (y + height / 2) "l18 -" (height / 2) "h" (width - 22) "q4 0 4 4v" (height - 8) "q0 4 -4 4h-" (width - 22) "z" } {}
                circle.w-hole cx=(x + 15) cy=(y + height / 2) r="3.2" {}
                (stack(&plan.parcels[parcel].parts, x + 26, y + 8))
            }
        }
        Thing::End(end) => {
            let (width, height) = (plan::END, plan.ends[end].height);
            let style = match way.doubt() {
                _ if way.breaks() => "w-end w-end-bad",
                Some(_) => "w-end w-end-unsure",
                None => "w-end",
            };
            html! {
                path class=(style) d={ "M" (x) " " (y) "h" (width - 26) "q26 0 26 26v" (height - 52) "q0 26 -26 26h-" (width - 26) "z" } {}
                (stack(&plan.ends[end].parts, x + 14, y + 9))
            }
        }
    }
}
