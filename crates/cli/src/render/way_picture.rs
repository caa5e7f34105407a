//! The way of the site as an SVG drawing that stands alone, on light and on dark pages.

use std::fmt::Write;

use dulk_core::mask::mask;
use dulk_core::project::Project;
use dulk_core::views::{Leg, Way};

use super::text::wrap;

/// In pixels.
const BOX: usize = 300;
const GAP: usize = 56;
const MARGIN: usize = 24;
const LINE: usize = 20;
const HEAD: usize = 34;
/// Characters of a line in a box.
const CHARACTERS: usize = 34;
/// Pixels of a character in a title.
const TITLE_CHARACTER: usize = 10;

const STYLE: &str = "text{font:13px ui-monospace,Menlo,Consolas,'DejaVu Sans Mono',monospace;fill:#1d2630}.ground{fill:#f7f9fb}.title{font-weight:bold;font-size:15px}.job{fill:#ffffff;stroke:#8fa3b5;stroke-width:1.5}.name{font-weight:bold}.word{fill:#5b6c7b}.arrow{stroke:#3d7ea6;stroke-width:2;fill:none}.tip{fill:#3d7ea6}.broken{stroke:#c0392b}.bad{fill:#b03024}.maybe{fill:#9a6a00}.end{fill:#e6f3ea;stroke:#4c9a68}.endbad{fill:#fbe9e7;stroke:#c0392b}@media(prefers-color-scheme:dark){text{fill:#dfe7ee}.ground{fill:#14181d}.job{fill:#1e252d;stroke:#5d7183}.word{fill:#9fb1c1}.bad{fill:#ff8a7a}.maybe{fill:#e3b341}.end{fill:#1d3226;stroke:#4c9a68}.endbad{fill:#3a2220;stroke:#e0604f}}";

/// Draws all ways below each other.
pub fn draw(project: &Project<'_>, found: &[Way]) -> String {
    let mut body = String::new();
    let mut y = MARGIN;
    let mut width = 2 * MARGIN + BOX;
    for way in found {
        let (used, right) = draw_way(project, way, y, &mut body);
        y += used + MARGIN;
        width = width.max(right + MARGIN);
    }
    if found.is_empty() {
        text(&mut body, MARGIN, y + 16, "", "No step here is known to put a site online.");
        y += 2 * LINE;
    }
    let height = y + MARGIN;
    format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\" viewBox=\"0 0 {width} {height}\" role=\"img\" aria-label=\"The way of the site, from its sources to its address\">\n<style>{STYLE}</style>\n<rect class=\"ground\" width=\"{width}\" height=\"{height}\"/>\n{body}</svg>"
    )
}

/// A line of a box: its style and its words.
type Line = (&'static str, String);

fn lines_of(leg: &Leg) -> Vec<Line> {
    let mut lines: Vec<Line> = Vec::new();
    let mut add = |style: &'static str, indent: &str, words: &str| {
        for line in wrap(words, CHARACTERS - indent.len()) {
            lines.push((style, format!("{indent}{line}")));
        }
    };
    if let Some((_, message)) = &leg.broken {
        add("bad", "", &format!("✖ {}", mask(message)));
    }
    for stop in &leg.stops {
        let style = match (&stop.broken, stop.certain) {
            (Some(_), _) => "bad",
            (None, false) => "maybe",
            _ => "",
        };
        let sign = if stop.broken.is_some() {
            "✖ "
        } else if stop.certain {
            ""
        } else {
            "? "
        };
        add(style, "", &format!("{sign}{}: {}", stop.kind.word(), mask(&stop.text)));
        if let Some((_, message)) = &stop.broken {
            add("bad", "  ", &mask(message));
        }
    }
    lines
}

fn draw_way(project: &Project<'_>, way: &Way, top: usize, body: &mut String) -> (usize, usize) {
    let events = if way.events.is_empty() {
        "on no event that is known".to_owned()
    } else {
        format!("on {}", dulk_core::finding::listed(&way.events))
    };
    let title = format!("{}  {}", project.label(way.pipeline), events);
    text(body, MARGIN, top + 14, "title", &title);
    let mut head = 30;
    if let Some((_, message)) = &way.broken {
        for line in wrap(&format!("✖ {}", mask(message)), 100) {
            text(body, MARGIN, top + head + 8, "bad", &line);
            head += LINE;
        }
        head += 8;
    }
    let waves = way.legs.iter().map(|leg| leg.wave).max().map_or(0, |last| last + 1);
    let mut bottom = top + head;
    let mut places: Vec<(String, usize, usize)> = Vec::new();
    for wave in 0..waves {
        let mut y = top + head;
        let x = MARGIN + wave * (BOX + GAP);
        for leg in way.legs.iter().filter(|leg| leg.wave == wave) {
            let lines = lines_of(leg);
            let height = HEAD + lines.len() * LINE + 8;
            let broken = leg.broken.is_some() || leg.stops.iter().any(|stop| stop.broken.is_some());
            let _ = writeln!(
                body,
                "<rect class=\"job{}\" x=\"{x}\" y=\"{y}\" width=\"{BOX}\" height=\"{height}\" rx=\"8\"/>",
                if broken { " broken" } else { "" }
            );
            text(body, x + 14, y + 22, "name", &mask(&leg.id));
            for (index, (style, line)) in lines.iter().enumerate() {
                text(body, x + 14, y + HEAD + 14 + index * LINE, style, line);
            }
            for (_, from_x, from_y) in places.iter().filter(|(id, ..)| leg.waits_for.contains(id)) {
                arrow(body, (*from_x, *from_y), (x, y + HEAD / 2));
            }
            places.push((leg.id.clone(), x + BOX, y + HEAD / 2));
            y += height + MARGIN;
        }
        bottom = bottom.max(y);
    }
    let breaks = way.broken.is_some()
        || way.legs.iter().any(|leg| leg.broken.is_some() || leg.stops.iter().any(|stop| stop.broken.is_some()));
    let x = MARGIN + waves * (BOX + GAP);
    let y = top + head;
    let lines = wrap(&mask(&way.end), 30);
    let height = HEAD + lines.len() * LINE;
    let _ = writeln!(
        body,
        "<rect class=\"{}\" x=\"{x}\" y=\"{y}\" width=\"{BOX}\" height=\"{height}\" rx=\"8\"/>",
        if breaks { "endbad" } else { "end" }
    );
    text(body, x + 14, y + 22, "name", if breaks { "✖ nothing new arrives here" } else { "✔ online" });
    for (index, line) in lines.iter().enumerate() {
        text(body, x + 14, y + HEAD + 12 + index * LINE, "", line);
    }
    if let Some((_, from_x, from_y)) = places.last() {
        arrow(body, (*from_x, *from_y), (x, y + HEAD / 2));
    }
    let right = (x + BOX).max(MARGIN + title.chars().count() * TITLE_CHARACTER);
    (bottom.max(y + height + MARGIN) - top, right)
}

fn arrow(body: &mut String, from: (usize, usize), to: (usize, usize)) {
    let middle = (from.0 + to.0) / 2;
    let tip = to.0.saturating_sub(9);
    let _ = writeln!(
        body,
        "<path class=\"arrow\" d=\"M{} {} C{middle} {} {middle} {} {tip} {}\"/>",
        from.0, from.1, from.1, to.1, to.1
    );
    let _ = writeln!(body, "<path class=\"tip\" d=\"M{} {} l-10 -5 v10 z\"/>", to.0, to.1);
}

fn text(body: &mut String, x: usize, y: usize, class: &str, words: &str) {
    let _ = writeln!(body, "<text x=\"{x}\" y=\"{y}\" class=\"{class}\" xml:space=\"preserve\">{}</text>", escaped(words));
}

fn escaped(words: &str) -> String {
    words.chars().filter(|c| !c.is_control()).collect::<String>().replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}
