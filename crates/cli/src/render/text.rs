//! The view for people: each finding as says / but / do, and per file one strip in the order of work.

use std::collections::HashMap;
use std::sync::LazyLock;

use anstyle::{AnsiColor, Style};
use dulk_core::finding::{Finding, HERE_TOO, Severity, WitnessSource};
use dulk_core::formats::PipelineFile;
use dulk_core::mask::{MASK, mask};
use dulk_core::rules::FAMILIES;
use dulk_core::shown::harmless;
pub use dulk_core::shown::shown;
use dulk_core::text::{Place, Sources, file_name};
use dulk_core::views::{Mark, strip};
use dulk_snapshot::CheckedFile;
use unicode_width::UnicodeWidthStr;

use super::source_word;

use crate::checked::Checked;
pub use crate::screen::wrap;
use crate::screen::{Screen, of_each, styled};

/// A style of the views.
pub const BOLD: Style = Style::new().bold();
/// A style of the views.
pub const DIM: Style = Style::new().dimmed();
const MARK: Style = Style::new().bold().underline();
/// A style of the views.
pub const RED: Style = AnsiColor::Red.on_default().bold();
/// What goes, or is wrong, in an excerpt: quieter than a sign, as it may be long.
pub const GONE: Style = AnsiColor::Red.on_default();
/// A style of the views.
pub const YELLOW: Style = AnsiColor::Yellow.on_default().bold();
/// A style of the views.
pub const CYAN: Style = AnsiColor::Cyan.on_default();
/// A style of the views.
pub const GREEN: Style = AnsiColor::Green.on_default();

/// What is said of mends that are certain.
const DONE: &str = "dulk mend does it";

/// A family's mark with the spaces round it, in columns.
const MARK_WIDTH: usize = 4;
/// What stands beside a family without a fault; it is shown more often than all else together.
static FINE: LazyLock<String> = LazyLock::new(|| styled(GREEN, "✔"));
/// Before the columns of a finding.
const INDENT: usize = 2;
/// Between a word and its column.
const LABEL: usize = 6;
/// Signs for what is left out on both sides of an excerpt.
const CUT: usize = 2;
/// The column of places is no wider, so that a long path does not push the text away.
const PLACE_LIMIT: usize = 44;

/// Shows a check.
pub fn show(checked: &Checked, screen: &mut Screen) {
    show_findings(checked, screen);
    show_strips(checked, screen);
    screen.line("");
    screen.line(&summary(checked));
}

/// Every finding, and nothing beside.
pub fn show_findings(checked: &Checked, screen: &mut Screen) {
    let sources = &checked.repository().sources;
    screen.each(&checked.files, |file, screen| {
        for finding in in_order_of_work(&file.findings) {
            show_finding(finding, sources, screen);
            screen.line("");
        }
    });
}

/// Findings family by family, as work goes; within one as they stand.
pub fn in_order_of_work(findings: &[Finding]) -> Vec<&Finding> {
    let mut sorted: Vec<&Finding> = findings.iter().collect();
    sorted.sort_by_key(|finding| FAMILIES.iter().position(|family| *family == finding.family()));
    sorted
}

/// The sign of a severity, and its style.
pub fn sign(severity: Severity) -> (&'static str, Style) {
    match severity {
        Severity::Error => ("✖", RED),
        Severity::Warning => ("!", YELLOW),
        Severity::Advice => ("•", CYAN),
    }
}

/// Places of one cause that are shown beside the first; the rest are counted.
const PLACES_SHOWN: usize = 5;

/// A line of a finding: the word, where, and what.
struct Row {
    word: &'static str,
    place: String,
    /// Of the place, in columns.
    width: usize,
    text: String,
}

impl Row {
    fn new(word: &'static str, place: String, text: String) -> Self {
        Self { word, width: place.width(), place, text }
    }
}

fn show_finding(finding: &Finding, sources: &Sources, screen: &mut Screen) {
    let (sign, style) = sign(finding.severity);
    let head = format!("{sign} {}  ", finding.rule);
    let message = shown(&finding.message);
    screen.hang(&styled(style, &head), &message);
    let mut rows = vec![Row::new("says", place(finding.at, sources), String::new())];
    let mut same = 0;
    for witness in &finding.witnesses {
        let place = match witness.source {
            WitnessSource::At(at) => place(at, sources),
            _ => source_word(&witness.source).to_owned(),
        };
        let here_too = witness.text == HERE_TOO;
        same += usize::from(here_too);
        if !here_too || same <= PLACES_SHOWN {
            rows.push(Row::new(if here_too { "" } else { "but" }, place, shown(&witness.text)));
        }
    }
    if same > PLACES_SHOWN {
        rows.push(Row::new("", String::new(), format!("and {} more", same - PLACES_SHOWN)));
    }
    let column = rows.iter().map(|row| row.width).filter(|width| *width <= PLACE_LIMIT).max().unwrap_or(0);
    let room = screen.width.saturating_sub(INDENT + LABEL + column + 3 + CUT);
    rows[0].text = if finding.hides { hidden(finding.at, sources, room) } else { excerpt(finding.at, sources, room) };
    for row in &rows {
        show_row(row, column, screen);
    }
    let action = shown(&action(finding, sources));
    let lines = wrap(&action, screen.width.saturating_sub(INDENT + LABEL));
    let fits = lines.last().is_some_and(|line| screen.width >= INDENT + LABEL + line.width() + DONE.len() + 3);
    for (index, line) in lines.iter().enumerate() {
        let word = if index == 0 { "do" } else { "" };
        let beside = finding.mend.certain && index + 1 == lines.len() && fits;
        let done = if beside { format!("   {}", styled(DIM, DONE)) } else { String::new() };
        screen.line(&format!("{}{}{line}{done}", " ".repeat(INDENT), styled(DIM, &format!("{word:<LABEL$}"))));
    }
    if finding.mend.certain && !fits {
        screen.line(&format!("{}{}", " ".repeat(INDENT + LABEL), styled(DIM, DONE)));
    }
}

fn show_row(row: &Row, column: usize, screen: &mut Screen) {
    let before = INDENT + LABEL + column + 3;
    let mut start = format!("{}{}", " ".repeat(INDENT), styled(DIM, &format!("{:<LABEL$}", row.word)));
    if row.width > column {
        // A long path has a line of its own.
        screen.hang(&start, &row.place);
        start = " ".repeat(before);
    } else {
        start = format!("{start}{}{}", row.place, " ".repeat(column + 3 - row.width));
    }
    // An excerpt is one line already; other text is wrapped under itself.
    let lines = if row.word == "says" { vec![row.text.clone()] } else { wrap(&row.text, screen.width.saturating_sub(before)) };
    for (index, line) in lines.iter().enumerate() {
        let prefix = if index == 0 { start.clone() } else { " ".repeat(before) };
        screen.line(format!("{prefix}{line}").trim_end());
    }
}

/// What to do, with the line it is done on.
pub fn action(finding: &Finding, sources: &Sources) -> String {
    let title = &finding.mend.title;
    let [edit] = finding.mend.edits.as_slice() else { return title.clone() };
    let file = sources.get(edit.at.file);
    let line = file.position(edit.at.span.start).line;
    let elsewhere = if edit.at.file == finding.at.file { String::new() } else { format!(" of {}", file.path) };
    format!("{title} on line {line}{elsewhere}")
}

pub fn place(place: Place, sources: &Sources) -> String {
    let file = sources.get(place.file);
    if file.text.is_empty() {
        return shown(&file.path);
    }
    format!("{}:{}", shown(&file.path), file.position(place.span.start).line)
}

/// The line of a place with the place marked, cut round it when it is longer than `room` columns.
pub fn excerpt(place: Place, sources: &Sources, room: usize) -> String {
    let room = room.max(30);
    let file = sources.get(place.file);
    let line = file.line_at(place.span.start);
    let start = file.position(place.span.start).column as usize - 1;
    let end_position = file.position(place.span.end);
    let same_line = end_position.line == file.position(place.span.start).line;
    let chars: Vec<char> = line.chars().collect();
    let end = if same_line { end_position.column as usize - 1 } else { chars.len() };
    let indent = chars.iter().take_while(|c| c.is_whitespace()).count().min(start);
    let from = if end.saturating_sub(indent) > room { start.saturating_sub(8).max(indent) } else { indent };
    let to = chars.len().min(from + room);
    let (start, end) = (start.clamp(from, to), end.clamp(from, to));
    let part = |range: std::ops::Range<usize>| chars[range].iter().collect::<String>();
    // Masking looks at the whole line: a credential that is cut in two is still one.
    if mask(line) != line {
        return shown(line.trim());
    }
    let cut = |there: bool| if there { "…" } else { "" };
    let marked = part(start..end);
    let marked = if marked.is_empty() { marked } else { styled(MARK, &harmless(&marked)) };
    format!(
        "{}{}{marked}{}{}",
        cut(from > indent),
        harmless(&part(from..start)),
        harmless(part(end..to).trim_end()),
        cut(to < chars.len())
    )
}

/// The line of a place with something else in the place of what stands there.
fn hidden(place: Place, sources: &Sources, room: usize) -> String {
    let file = sources.get(place.file);
    let line: Vec<char> = file.line_at(place.span.start).chars().collect();
    let (first, last) = (file.position(place.span.start), file.position(place.span.end));
    let start = (first.column as usize - 1).min(line.len());
    let end = if first.line == last.line { (last.column as usize - 1).clamp(start, line.len()) } else { line.len() };
    let part = |chars: &[char]| shown(&chars.iter().collect::<String>());
    let whole = format!("{}{MASK}{}", part(&line[..start]), part(&line[end..]));
    let whole = whole.trim();
    if whole.width() > room { MASK.to_owned() } else { whole.to_owned() }
}

fn show_strips(checked: &Checked, screen: &mut Screen) {
    let names = names(checked);
    let column = names.iter().map(|name| name.width()).max().unwrap_or(0).min(PLACE_LIMIT);
    let named: Vec<(&CheckedFile, &String)> = checked.files.iter().zip(&names).collect();
    screen.each(&named, |(file, name), screen| show_strip(file, name, column, screen));
}

/// The families of one file with their marks, beside its name.
fn show_strip(file: &CheckedFile, name: &str, column: usize, screen: &mut Screen) {
    let padding = " ".repeat(column.saturating_sub(name.width()) + 3);
    let mut line = format!("{}{padding}", styled(BOLD, name));
    let mut used = column + 3;
    for (family, mark) in strip(&file.findings, file.whole) {
        let cell = family.width() + MARK_WIDTH;
        if used + cell > screen.width + 2 {
            screen.line(line.trim_end());
            line = " ".repeat(column + 3);
            used = column + 3;
        }
        used += cell;
        match mark {
            Mark::Found(severity) => {
                let (sign, style) = sign(severity);
                line.push_str(&styled(style, &format!("{family} {sign}")));
            }
            Mark::Unknown => line.push_str(&styled(DIM, &format!("{family} ?"))),
            Mark::Fine => line.extend([family, " ", &FINE]),
        }
        line.push_str("  ");
    }
    screen.line(line.trim_end());
}

/// The files' own names; the whole path where another file has the same name.
fn names(checked: &Checked) -> Vec<String> {
    let path = |one: &PipelineFile| checked.repository().sources.get(one.file).path.as_str();
    let paths: Vec<&str> = checked.repository().pipelines.iter().map(path).collect();
    let mut count: HashMap<&str, usize> = HashMap::with_capacity(paths.len());
    paths.iter().for_each(|path| *count.entry(file_name(path)).or_default() += 1);
    of_each(&paths, |path| match count.get(file_name(path)) {
        Some(1) => shown(file_name(path)),
        _ => shown(path),
    })
}

/// "2 errors and 1 warning in 3 pipeline files."
pub fn summary(checked: &Checked) -> String {
    let count = |severity: Severity| {
        checked.files.iter().flat_map(|file| &file.findings).filter(|finding| finding.severity == severity).count()
    };
    let files = counted(checked.files.len(), "pipeline file", "pipeline files");
    let parts: Vec<String> = [
        (count(Severity::Error), "error", "errors"),
        (count(Severity::Warning), "warning", "warnings"),
        (count(Severity::Advice), "piece of advice", "pieces of advice"),
    ]
    .into_iter()
    .filter(|(number, ..)| *number > 0)
    .map(|(number, one, many)| counted(number, one, many))
    .collect();
    match parts.as_slice() {
        [] => format!("Nothing wrong found in {files}."),
        parts => format!("{} in {files}.", dulk_core::finding::listed(parts)),
    }
}

fn counted(number: usize, one: &str, many: &str) -> String {
    format!("{number} {}", if number == 1 { one } else { many })
}
