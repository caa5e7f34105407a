//! `dulk trail`.

use dulk_core::knowledge::Date;
use dulk_core::mask::mask;
use dulk_core::project::Project;
use dulk_core::views::{Leg, Stop, Way, ways};
use dulk_gather::replace;
use dulk_snapshot::Snapshot;
use serde_json::{Value, json};

use crate::Outcome;
use crate::args::{TrailFormat, TrailOptions};
use crate::render::text::{BOLD, CYAN, DIM, GREEN, RED, YELLOW, shown, wrap};
use crate::render::way_picture;
use crate::screen::{Screen, styled};

/// Between a job's line and its words.
const INDENT: usize = 4;
/// The column of words such as `hand on`.
const WORD: usize = 10;

/// Runs the command.
///
/// # Errors
/// When dulk.toml is wrong, or the output cannot be written.
pub fn run(options: &TrailOptions, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    let snapshot = Snapshot::of_disk(&start, &[], Some(today))?;
    let project = snapshot.project();
    let found = ways(&project);
    match options.format {
        TrailFormat::Text => show(&project, &found, screen),
        TrailFormat::Json => screen.data(&serde_json::to_string_pretty(&as_json(&project, &found))?),
        TrailFormat::Svg => screen.data(&way_picture::draw(&project, &found)),
    }
    if let Some(file) = &options.output {
        let text = screen.take_plain();
        replace(&start.join(file), &text).map_err(|reason| anyhow::anyhow!("{} cannot be written: {reason}", file.display()))?;
    }
    Ok(Outcome::Clean)
}

/// Shows every way.
pub fn show(project: &Project<'_>, found: &[Way], screen: &mut Screen) {
    if found.is_empty() {
        screen.line("No step here is known to put a site online.");
    }
    for way in found {
        show_way(project, way, screen);
        screen.line("");
    }
}

fn show_way(project: &Project<'_>, way: &Way, screen: &mut Screen) {
    let events = if way.events.is_empty() {
        "on no event that is known".to_owned()
    } else {
        format!("on {}", dulk_core::finding::listed(&way.events))
    };
    let head = format!("{}  {}", shown(&project.label(way.pipeline)), shown(&events));
    for (index, line) in wrap(&head, screen.width).iter().enumerate() {
        screen.line(&if index == 0 { styled(BOLD, line) } else { line.clone() });
    }
    screen.line("");
    if let Some(broken) = &way.broken {
        show_break("", broken, screen);
    }
    let mut wave = None;
    for leg in &way.legs {
        show_leg(way, leg, wave == Some(leg.wave), screen);
        wave = Some(leg.wave);
    }
    let breaks = way.broken.is_some()
        || way.legs.iter().any(|leg| leg.broken.is_some() || leg.stops.iter().any(|stop| stop.broken.is_some()));
    let (sign, style) = if breaks { ("✖", RED) } else { ("✔", GREEN) };
    let end = if breaks { format!("{} — the way breaks before it gets here", shown(&way.end)) } else { shown(&way.end) };
    for (index, line) in wrap(&end, screen.width.saturating_sub(4)).iter().enumerate() {
        screen.line(&format!("{} {}", if index == 0 { styled(style, sign) } else { " ".into() }, styled(BOLD, line)));
    }
}

fn show_leg(way: &Way, leg: &Leg, beside: bool, screen: &mut Screen) {
    let waits =
        if leg.waits_for.is_empty() { String::new() } else { format!("  after {}", dulk_core::finding::listed(&leg.waits_for)) };
    let aside = if beside { "  at the same time" } else { "" };
    screen.line(&format!(
        "{} {}{}",
        styled(CYAN, "●"),
        styled(BOLD, &shown(&leg.id)),
        styled(DIM, &shown(&format!("{waits}{aside}")))
    ));
    if let Some(broken) = &leg.broken {
        show_break("│ ", broken, screen);
    }
    for stop in &leg.stops {
        show_stop(stop, screen);
    }
    let last = way.legs.last().is_some_and(|last| last.id == leg.id);
    screen.line(&styled(CYAN, if last { "▼" } else { "│" }));
}

fn show_stop(stop: &Stop, screen: &mut Screen) {
    let (sign, style) = match (&stop.broken, stop.certain) {
        (Some(_), _) => ("✖", RED),
        (None, true) => ("│", CYAN),
        (None, false) => ("?", YELLOW),
    };
    let room = screen.width.saturating_sub(INDENT + WORD);
    let text =
        if stop.certain || stop.broken.is_some() { stop.text.clone() } else { format!("{}  (may not be there)", stop.text) };
    for (index, line) in wrap(&shown(&text), room).iter().enumerate() {
        let word = if index == 0 { stop.kind.word() } else { "" };
        let sign = if index == 0 { styled(style, sign) } else { styled(CYAN, "│") };
        screen.line(&format!("{sign}   {}{line}", styled(DIM, &format!("{word:<WORD$}"))));
    }
    if let Some(broken) = &stop.broken {
        show_break("│ ", broken, screen);
    }
}

fn show_break(start: &str, (rule, message): &(&'static str, String), screen: &mut Screen) {
    let indent = format!("{}{}", styled(CYAN, start), " ".repeat((INDENT + WORD).saturating_sub(start.chars().count())));
    for line in wrap(&format!("{rule}: {}", shown(message)), screen.width.saturating_sub(INDENT + WORD)) {
        screen.line(&format!("{indent}{}", styled(RED, &line)));
    }
}

fn as_json(project: &Project<'_>, found: &[Way]) -> Value {
    let broken = |broken: &Option<(&'static str, String)>| {
        broken.as_ref().map(|(rule, message)| json!({ "rule": rule, "message": mask(message) }))
    };
    let stop = |stop: &Stop| {
        let source = project.sources.get(stop.at.file);
        json!({ "kind": stop.kind.word(), "text": mask(&stop.text), "file": source.path, "line": source.position(stop.at.span.start).line, "certain": stop.certain, "broken": broken(&stop.broken) })
    };
    let leg = |leg: &Leg| json!({ "id": mask(&leg.id), "wave": leg.wave, "waitsFor": leg.waits_for, "broken": broken(&leg.broken), "stops": leg.stops.iter().map(stop).collect::<Vec<_>>() });
    let way = |way: &Way| json!({ "file": project.path(way.pipeline), "events": way.events, "jobs": way.legs.iter().map(leg).collect::<Vec<_>>(), "end": mask(&way.end), "broken": broken(&way.broken) });
    json!({ "schema": 1, "ways": found.iter().map(way).collect::<Vec<_>>() })
}
