//! The comment: the same content as the page, as one text for a pull request, with what is long folded away.

mod safe;

use dulk_core::finding::{Finding, HERE_TOO, WitnessSource, listed};
use dulk_core::rehearsal::Answer;
use dulk_core::rules;
use dulk_core::views::{CellKind, Leg, NO_WAY, Way};
use safe::{code, fenced, folded_title, plain, said};

use super::code::{around, changes, line_of};
use super::{Report, sign_of};
use crate::render::grid::head;
use crate::render::{source_word, start_word, text};

/// Forges take comments of 65,536 characters and more; this leaves room for what is put round it.
const LIMIT: usize = 59_000;
/// What comes after the findings is kept within this, so that some of it is always there.
const KEPT_FOR_LAST: usize = 2_000;
/// The same for the last lines.
const KEPT_FOR_END: usize = 500;
/// The grid has no more lines; of a repository with more jobs, the page tells.
const GRID_LINES: usize = 60;

/// Makes the comment.
pub fn comment(report: &Report<'_>) -> String {
    let mut sheet = Sheet::default();
    for verdict in &report.verdicts {
        let sign = sign_of(verdict.standing);
        sheet.add(&format!("### {sign} {}\n", said(&report.shown(&verdict.text))));
    }
    sheet.add(&format!("{}\n", plain(&report.summary())));
    findings(report, &mut sheet);
    sheet.room = LIMIT - KEPT_FOR_END;
    let mut parts = vec![("What runs when", grid(report)), ("The way of the site", ways(report))];
    if !report.accepted.is_empty() {
        parts.push(("What was accepted, and why", accepted(report)));
    }
    parts.push(("What is known of the repository, and what is not", facts(report)));
    if report.findings().next().is_some() {
        parts.push(("Why these rules are there", why(report)));
    }
    for (title, inside) in parts {
        if !sheet.add(&folded(title, &inside)) {
            sheet.room += 100;
            sheet.add(&format!("{title}: too long for a comment; the page that `dulk report` writes has it.\n"));
        }
    }
    sheet.room = LIMIT;
    sheet.add(&format!("Made by dulk {} on {}.\n", env!("CARGO_PKG_VERSION"), report.today));
    sheet.text
}

/// Takes parts as long as there is room.
struct Sheet {
    text: String,
    characters: usize,
    /// In characters.
    room: usize,
}

impl Default for Sheet {
    fn default() -> Self {
        Self { text: String::new(), characters: 0, room: LIMIT - KEPT_FOR_LAST }
    }
}

impl Sheet {
    /// Adds a part with an empty line behind it; whether there was room.
    fn add(&mut self, part: &str) -> bool {
        let characters = part.chars().count() + 1;
        if self.characters + characters > self.room {
            return false;
        }
        self.characters += characters;
        self.text.push_str(part);
        self.text.push('\n');
        true
    }
}

fn folded(title: &str, inside: &str) -> String {
    format!("<details><summary>{}</summary>\n\n{}\n\n</details>\n", folded_title(title), inside.trim_end())
}

/// All findings: whole as long as the sentences of all others have room beside it, and then their sentences alone.
fn findings(report: &Report<'_>, sheet: &mut Sheet) {
    let length = |text: &str| text.chars().count() + 1;
    let sentences: Vec<String> = report.findings().map(|(_, finding)| format!("- {}\n", sentence(report, finding))).collect();
    let mut waiting: usize = sentences.iter().map(|text| length(text)).sum();
    let mut sentences = sentences.iter();
    let mut left_out = 0;
    for file in report.files.iter().filter(|file| !file.findings.is_empty()) {
        sheet.add(&format!("#### {}\n", code(&report.shown(file.path))));
        for ((_, finding), sentence) in file.findings.iter().zip(sentences.by_ref()) {
            waiting -= length(sentence);
            let has_room = sheet.characters + waiting < sheet.room;
            let whole = has_room.then(|| one(report, finding));
            let fits = whole.is_some_and(|whole| sheet.characters + length(&whole) + waiting < sheet.room && sheet.add(&whole));
            left_out += usize::from(!fits && !sheet.add(sentence));
        }
    }
    if left_out > 0 {
        sheet.room += 100;
        let words = if left_out == 1 { "1 finding more does" } else { &format!("{left_out} findings more do") };
        sheet.add(&format!("{words} not fit into a comment.\n"));
    }
}

fn title(finding: &Finding) -> String {
    format!("{} {}", text::sign(finding.severity).0, finding.severity.word())
}

fn sentence(report: &Report<'_>, finding: &Finding) -> String {
    let place = text::place(finding.at, report.project.sources);
    format!(
        "**{}** {}: {} ({})",
        title(finding),
        code(finding.rule),
        said(&report.shown(&finding.message)),
        code(&report.shown(&place))
    )
}

fn one(report: &Report<'_>, finding: &Finding) -> String {
    let mut inside = String::new();
    let place = report.shown(&text::place(finding.at, report.project.sources));
    inside.push_str(&format!("{}, {}\n\n", code(finding.rule), code(&place)));
    let lines: Vec<String> = around(report, finding)
        .iter()
        .map(|line| {
            let is_marked = line.parts.iter().any(|(_, marked)| *marked);
            let text: String = line.parts.iter().map(|(text, _)| text.as_str()).collect();
            format!("{} {:>4} {text}", if is_marked { ">" } else { " " }, line.number)
        })
        .collect();
    if !lines.is_empty() {
        inside.push_str(&fenced("text", &lines.join("\n")));
    }
    for witness in &finding.witnesses {
        let also = witness.text == HERE_TOO;
        let place = match witness.source {
            WitnessSource::At(at) => {
                let line = line_of(report, at);
                let line = if line.is_empty() { String::new() } else { format!(" {}", code(&line)) };
                format!("{}{line}", code(&report.shown(&text::place(at, report.project.sources))))
            }
            _ => source_word(&witness.source).to_owned(),
        };
        let words = if also { String::new() } else { format!(": {}", said(&report.shown(&witness.text))) };
        inside.push_str(&format!("- {} {place}{words}\n", if also { "also" } else { "but" }));
    }
    let done = if finding.mend.certain { " (`dulk mend` does it)" } else { "" };
    inside.push_str(&format!("- do: {}{done}\n", said(&report.shown(&text::action(finding, report.project.sources)))));
    if finding.mend.certain {
        for stretch in changes(report, finding) {
            let lines: Vec<String> = stretch.lines.iter().map(|(change, text)| format!("{}{text}", change.sign())).collect();
            inside.push_str(&format!("\n{}", fenced("diff", &lines.join("\n"))));
        }
    }
    let head = format!("{}: {}", title(finding), report.shown(&finding.message));
    folded(&head, &inside)
}

fn grid(report: &Report<'_>) -> String {
    if report.grid.events.is_empty() {
        return "No pipeline here names an event that can be played.".to_owned();
    }
    let lines: usize = report.grid.pipelines.iter().map(|pipeline| pipeline.jobs.len()).sum();
    if lines > GRID_LINES {
        return format!("There are {lines} jobs, too many for a comment; `dulk when` shows them.");
    }
    let mut out = String::from("| job |");
    for event in &report.grid.events {
        let [kind, name] = head(event);
        out.push_str(&format!(" {} |", plain(format!("{kind} {}", report.shown(&name)).trim())));
    }
    out.push_str(&format!("\n|---|{}\n", "---|".repeat(report.grid.events.len())));
    for pipeline in &report.grid.pipelines {
        for job in &pipeline.jobs {
            let name = format!("{}: {}", report.shown(&pipeline.label), report.shown(&job.id));
            out.push_str(&format!("| {} |", plain(&name)));
            for cell in &job.cells {
                out.push_str(&format!(
                    " {} |",
                    if cell.kind() == CellKind::Publishes { "**publishes**" } else { cell.kind().word() }
                ));
            }
            out.push('\n');
        }
    }
    out.push_str(&reasons(report));
    out
}

/// Why pipelines do not start.
fn reasons(report: &Report<'_>) -> String {
    let mut out = String::new();
    for pipeline in &report.grid.pipelines {
        for (event, starts) in report.grid.events.iter().zip(&pipeline.starts) {
            if starts.answer != Answer::Yes && !starts.because.is_empty() {
                let word = start_word(starts.answer);
                let label = plain(&report.shown(&pipeline.label));
                out.push_str(&format!(
                    "\n- {label} {word} on {}: {}",
                    said(&report.shown(&event.told())),
                    said(&report.shown(&starts.because))
                ));
            }
        }
    }
    out
}

fn ways(report: &Report<'_>) -> String {
    if report.ways.is_empty() {
        return NO_WAY.to_owned();
    }
    report.ways.iter().map(|way| one_way(report, way)).collect::<Vec<_>>().join("\n")
}

fn one_way(report: &Report<'_>, way: &Way) -> String {
    let mut out = format!(
        "{}, on {}:\n\n",
        code(&report.shown(&report.project.label(way.pipeline))),
        said(&report.shown(&way.told_events()))
    );
    if let Some(broken) = &way.broken {
        out.push_str(&format!("- **✖** {}: {}\n", code(broken.rule), said(&report.shown(&broken.message))));
    }
    way.legs.iter().for_each(|leg| out.push_str(&one_leg(report, leg)));
    let ends: Vec<String> = way.ends.iter().map(|end| said(&report.shown(&end.text))).collect();
    let word = match way.doubt() {
        _ if way.breaks() => "✖ nothing new arrives at",
        Some(_) => "? online, unless something beside it keeps it from running, at",
        None => "✔ online at",
    };
    out.push_str(&format!("- {word} {}\n", listed(&ends)));
    out
}

fn one_leg(report: &Report<'_>, leg: &Leg) -> String {
    let after = if leg.waits_for.is_empty() {
        String::new()
    } else {
        format!(", after {}", plain(&report.shown(&listed(&leg.waits_for))))
    };
    let mut out = format!("- **{}**{after}\n", plain(&report.shown(&leg.id)));
    if let Some(broken) = &leg.broken {
        out.push_str(&format!("  - **✖** {}: {}\n", code(broken.rule), said(&report.shown(&broken.message))));
    }
    for stop in &leg.stops {
        let sign = if stop.broken.is_some() {
            "**✖** "
        } else if stop.certain {
            ""
        } else {
            "? "
        };
        let broken = stop.broken.as_ref().map(|broken| format!(": {}", code(broken.rule))).unwrap_or_default();
        out.push_str(&format!("  - {sign}{} {}{broken}\n", stop.kind.word(), plain(&report.shown(&stop.text))));
    }
    out
}

fn accepted(report: &Report<'_>) -> String {
    let one = |one: &dulk_core::views::Accepted| {
        let place = report.shown(&text::place(one.at, report.project.sources));
        format!("- {} because {} ({})", code(&report.shown(&one.rule)), plain(&report.shown(&one.because)), code(&place))
    };
    report.accepted.iter().map(one).collect::<Vec<_>>().join("\n")
}

fn facts(report: &Report<'_>) -> String {
    let one = |line: &dulk_core::views::facts::FactLine| {
        let value = line.value.as_ref().map_or_else(|| "*not known*".to_owned(), |value| plain(&report.shown(value)));
        format!("- {}: {value} ({})", plain(&report.shown(&line.name)), plain(&report.shown(&line.from)))
    };
    report.facts.iter().map(one).collect::<Vec<_>>().join("\n")
}

fn why(report: &Report<'_>) -> String {
    let rules = report.rules().into_iter().filter_map(rules::find);
    rules.map(|rule| format!("- {}: {}. {}", code(rule.id), said(rule.title), said(rule.why))).collect::<Vec<_>>().join("\n")
}
