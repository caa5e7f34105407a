//! Parts of files: the lines round a place with the place marked, and what a mend changes.

use std::collections::BTreeMap;

use dulk_core::finding::{Edit, Finding};
use dulk_core::text::{FileId, Place, SourceFile};
use similar::{ChangeTag, TextDiff};

use super::Report;
use dulk_core::shown::harmless;

/// Lines shown before and after a place.
const AROUND: u32 = 2;
/// Of a place with many lines, so many are shown.
const MARKED: u32 = 8;
/// Lines of context round a change.
const CONTEXT: u32 = 3;
/// A line is shown up to so many characters.
const WIDEST: usize = 400;

/// A line of a file.
pub struct CodeLine {
    /// From 1.
    pub number: u32,
    /// Its text in pieces, and whether each is marked.
    pub parts: Vec<(String, bool)>,
}

/// The lines round a place.
pub fn around(report: &Report<'_>, finding: &Finding) -> Vec<CodeLine> {
    let source = report.project.sources.get(finding.at.file);
    if source.text.is_empty() {
        return Vec::new();
    }
    let range = source.range(finding.at.span);
    let (first, last) = (range.start.line.saturating_sub(AROUND).max(1), range.end.line.min(range.start.line + MARKED - 1));
    let mut lines: Vec<CodeLine> = source
        .lines_from(first)
        .zip(first..=last + AROUND)
        .map(|(text, number)| CodeLine { number, parts: parts(report, source, finding, (text, number)) })
        .collect();
    // Empty lines at both ends say nothing.
    let is_empty = |line: &CodeLine| line.parts.iter().all(|(text, _)| text.trim().is_empty());
    while lines.last().is_some_and(|line| line.number > last && is_empty(line)) {
        lines.pop();
    }
    let skipped = lines.iter().take_while(|line| line.number < range.start.line && is_empty(line)).count();
    lines.drain(..skipped);
    lines
}

/// The line that a witness stands on, without what is before and after it.
pub fn line_of(report: &Report<'_>, place: Place) -> String {
    let text = report.project.sources.get(place.file).line_at(place.span.start);
    cut(report.shown(text.trim()))
}

fn parts(report: &Report<'_>, source: &SourceFile, finding: &Finding, (text, number): (&str, u32)) -> Vec<(String, bool)> {
    let text = text.trim_start_matches('\u{feff}').trim_end();
    // A credential that is cut in two is still one, so that such a line is shown without marks.
    if report.shown(text) != harmless(text) {
        return vec![(cut(report.shown(text)), finding.hides)];
    }
    let range = source.range(finding.at.span);
    if number < range.start.line || number > range.end.line {
        return vec![(cut(report.shown(text)), false)];
    }
    let letters: Vec<char> = text.chars().collect();
    let indent = letters.iter().take_while(|letter| letter.is_whitespace()).count();
    let column =
        |line: u32, column: u32, other: usize| if line == number { (column as usize - 1).min(letters.len()) } else { other };
    let start = column(range.start.line, range.start.column, indent);
    let end = column(range.end.line, range.end.column, letters.len()).max(start);
    let part =
        |from: usize, to: usize| harmless(&letters[from..to.min(WIDEST).max(from)].iter().collect::<String>()).into_owned();
    [(part(0, start), false), (part(start, end), true), (part(end, letters.len()), false)]
        .into_iter()
        .filter(|(text, _)| !text.is_empty())
        .collect()
}

fn cut(text: String) -> String {
    match text.char_indices().nth(WIDEST) {
        Some((end, _)) => format!("{}…", &text[..end]),
        None => text,
    }
}

/// What becomes of a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Change {
    /// It stays.
    Stays,
    /// It goes.
    Goes,
    /// It comes.
    Comes,
}

impl Change {
    /// The sign before the line.
    pub fn sign(self) -> char {
        match self {
            Self::Stays => ' ',
            Self::Goes => '-',
            Self::Comes => '+',
        }
    }
}

/// What a mend changes in one stretch of a file.
pub struct Stretch {
    /// The file.
    pub path: String,
    /// Its first line, from 1.
    pub line: u32,
    /// Its lines.
    pub lines: Vec<(Change, String)>,
}

/// What a certain mend changes, stretch by stretch; nothing where its edits do not fit together.
pub fn changes(report: &Report<'_>, finding: &Finding) -> Vec<Stretch> {
    let mut by_file: BTreeMap<u32, Vec<&Edit>> = BTreeMap::new();
    for edit in &finding.mend.edits {
        by_file.entry(edit.at.file.0).or_default().push(edit);
    }
    let mut found = Vec::new();
    for (file, mut edits) in by_file {
        edits.sort_by_key(|edit| edit.at.span);
        let source = report.project.sources.get(FileId(file));
        for group in near(source, &edits) {
            found.extend(stretch(report, source, group));
        }
    }
    found
}

/// Edits whose context touches, together.
fn near<'e, 'f>(source: &SourceFile, edits: &'e [&'f Edit]) -> Vec<&'e [&'f Edit]> {
    let far = |one: &&Edit, next: &&Edit| {
        source.position(next.at.span.start).line > source.position(one.at.span.end).line + 2 * CONTEXT
    };
    edits.chunk_by(|one, next| !far(one, next)).collect()
}

fn stretch(report: &Report<'_>, source: &SourceFile, edits: &[&Edit]) -> Option<Stretch> {
    let (first, last) = (edits.first()?, edits.last()?);
    let line = source.position(first.at.span.start).line.saturating_sub(CONTEXT).max(1);
    let until = source.position(last.at.span.end).line + CONTEXT + 1;
    let start = source.line_start(line);
    let end = source.line_start(until);
    let before = source.text.get(start..end)?;
    let mut after = String::new();
    let mut from = start;
    for edit in edits {
        let range = edit.at.span.range();
        after.push_str(source.text.get(from..range.start)?);
        after.push_str(&edit.text);
        from = range.end;
    }
    after.push_str(source.text.get(from..end)?);
    let diff = TextDiff::from_lines(before, &after);
    let change = |change: similar::Change<&str>| {
        let kind = match change.tag() {
            ChangeTag::Equal => Change::Stays,
            ChangeTag::Delete => Change::Goes,
            ChangeTag::Insert => Change::Comes,
        };
        (kind, cut(report.shown(change.value().trim_end_matches(['\n', '\r']))))
    };
    let lines: Vec<(Change, String)> = diff.iter_all_changes().map(change).collect();
    let says = |(change, text): &(Change, String)| *change != Change::Stays || !text.trim().is_empty();
    let (from, to) = (lines.iter().position(says)?, lines.iter().rposition(says)?);
    let line = line + u32::try_from(from).unwrap_or(0);
    Some(Stretch { path: report.shown(&source.path), line, lines: lines.into_iter().take(to + 1).skip(from).collect() })
}
