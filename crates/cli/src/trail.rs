//! `dulk trail`.

use dulk_core::knowledge::Date;
use dulk_core::mask::mask;
use dulk_core::project::Project;
use dulk_core::views::{Break, Leg, NO_WAY, Need, Parcel, Stop, StopAt, Way, ways};
use dulk_snapshot::Snapshot;
use serde_json::{Value, json};

use crate::Outcome;
use crate::args::{TrailFormat, TrailOptions};
use crate::output;
use crate::render::picture;
use crate::render::text::{BOLD, CYAN, DIM, GREEN, RED, YELLOW, shown, wrap};
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
        TrailFormat::Svg => screen.data(&picture::alone(&project, &found)),
    }
    if let Some(file) = &options.output {
        let text = screen.take_plain();
        output::write(&start, file, &text)?;
    }
    Ok(Outcome::Clean)
}

/// Shows every way.
pub fn show(project: &Project<'_>, found: &[Way], screen: &mut Screen) {
    if found.is_empty() {
        screen.line(NO_WAY);
    }
    for way in found {
        show_way(project, way, screen);
        screen.line("");
    }
}

fn show_way(project: &Project<'_>, way: &Way, screen: &mut Screen) {
    let head = format!("{}  on {}", shown(&project.label(way.pipeline)), shown(&way.told_events()));
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
    let breaks = way.breaks();
    let (sign, style) = match way.doubt() {
        _ if breaks => ("✖", RED),
        Some(_) => ("?", YELLOW),
        None => ("✔", GREEN),
    };
    for end in &way.ends {
        let text = shown(&end.text);
        let text = if breaks { format!("{text} — the way breaks before it gets here") } else { text };
        for (index, line) in wrap(&text, screen.width.saturating_sub(4)).iter().enumerate() {
            screen.line(&format!("{} {}", if index == 0 { styled(style, sign) } else { " ".into() }, styled(BOLD, line)));
        }
    }
    if let Some(doubt) = way.doubt() {
        let text = format!("unless what is wrong beside it keeps it from running: {}", shown(&doubt.message));
        screen.hang("  ", &format!("{text} ({})", styled(YELLOW, doubt.rule)));
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
    show_needs(&leg.needs, screen);
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
    show_needs(&stop.needs, screen);
    if let Some(broken) = &stop.broken {
        show_break("│ ", broken, screen);
    }
}

/// What a stop needs beside the files.
fn show_needs(needs: &[Need], screen: &mut Screen) {
    if needs.is_empty() {
        return;
    }
    let told: Vec<String> = needs.iter().map(|need| format!("{} {}", need.kind.word(), shown(&need.name))).collect();
    let indent = format!("{}{}", styled(CYAN, "│"), " ".repeat(INDENT + WORD - 1));
    for line in wrap(&format!("needs {}", told.join(", ")), screen.width.saturating_sub(INDENT + WORD)) {
        screen.line(&format!("{indent}{}", styled(DIM, &line)));
    }
}

fn show_break(start: &str, broken: &Break, screen: &mut Screen) {
    let indent = format!("{}{}", styled(CYAN, start), " ".repeat((INDENT + WORD).saturating_sub(start.chars().count())));
    let text = format!("{} {}", styled(RED, &format!("{}:", broken.rule)), shown(&broken.message));
    for line in wrap(&text, screen.width.saturating_sub(INDENT + WORD)) {
        screen.line(&format!("{indent}{line}"));
    }
}

fn as_json(project: &Project<'_>, found: &[Way]) -> Value {
    let broken =
        |broken: &Option<Break>| broken.as_ref().map(|broken| json!({ "rule": broken.rule, "message": mask(&broken.message) }));
    let need = |need: &Need| json!({ "kind": need.kind.word(), "name": mask(&need.name) });
    let needs = |needs: &[Need]| needs.iter().map(need).collect::<Vec<_>>();
    let stop = |stop: &Stop| {
        let source = project.sources.get(stop.at.file);
        json!({
            "kind": stop.kind.word(), "text": mask(&stop.text), "file": source.path,
            "line": source.position(stop.at.span.start).line, "certain": stop.certain, "needs": needs(&stop.needs),
            "broken": broken(&stop.broken),
        })
    };
    let leg = |leg: &Leg| {
        json!({
            "id": mask(&leg.id), "wave": leg.wave, "waitsFor": leg.waits_for, "times": leg.times.unwrap_or(1),
            "needs": needs(&leg.needs), "broken": broken(&leg.broken), "stops": leg.stops.iter().map(stop).collect::<Vec<_>>(),
        })
    };
    let way = |way: &Way| {
        let id = |at: &StopAt| mask(&way.legs[at.leg].id);
        let parcel = |parcel: &Parcel| {
            json!({
                "name": parcel.name.as_deref().map(mask), "holds": mask(&parcel.holds), "from": id(&parcel.from),
                "to": parcel.to.iter().map(id).collect::<Vec<_>>(),
            })
        };
        let ends: Vec<_> = way.ends.iter().map(|end| mask(&end.text)).collect();
        json!({
            "file": project.path(way.pipeline), "events": way.events, "jobs": way.legs.iter().map(leg).collect::<Vec<_>>(),
            "handedOn": way.parcels.iter().map(parcel).collect::<Vec<_>>(), "end": ends.first(), "ends": ends, "beside": broken(&way.aside),
            "broken": broken(&way.broken),
        })
    };
    json!({ "schema": 1, "ways": found.iter().map(way).collect::<Vec<_>>() })
}
