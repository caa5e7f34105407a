//! Findings that the user accepts: by a comment, `# dulk: accept RULE because REASON`, on the line or alone on the line above, or by an
//! `[[accept]]` of dulk.toml.

use std::collections::HashMap;

use crate::carrier::{Copies, Tree};
use crate::facts::AcceptSetting;
use crate::finding::Finding;
use crate::formats::Format;
use crate::project::Project;
use crate::text::{FileId, Place, SourceFile, Sources, Span};

/// An accepting comment.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Acceptance {
    /// The rule as written.
    pub rule: String,
    /// Why; without one it accepts nothing.
    pub reason: Option<String>,
    /// The comment, from its sign to the end of the line.
    pub at: Place,
    /// The line that it speaks of, from 1; 0 when there is none below it.
    pub line: u32,
    /// It stands alone on its line.
    pub alone: bool,
}

/// What a comment says after its sign.
const START: &str = "dulk: accept";

/// All accepting comments of a file.
pub fn acceptances(file: FileId, source: &SourceFile, tree: &Tree) -> Vec<Acceptance> {
    if !source.text.contains(START) {
        return Vec::new();
    }
    tree.comments.iter().filter_map(|comment| acceptance(file, source, comment.span)).collect()
}

fn acceptance(file: FileId, source: &SourceFile, span: Span) -> Option<Acceptance> {
    let text = source.slice(span).trim_end();
    let said = text.trim_start_matches(['#', '/']).trim().strip_prefix(START)?.trim();
    let (rule, reason) = match said.split_once("because") {
        Some((rule, reason)) => (rule.trim(), Some(reason.trim()).filter(|reason| !reason.is_empty())),
        None => (said, None),
    };
    let rule = rule.split_whitespace().next().unwrap_or_default();
    let own = source.position(span.start).line;
    let before = source.line_at(span.start);
    let alone = before.trim_start().starts_with(['#', '/']);
    let line = if alone { next_line(source, own) } else { own };
    let at = Place { file, span: Span { start: span.start, end: span.start + u32::try_from(text.len()).unwrap_or(0) } };
    Some(Acceptance { rule: rule.to_owned(), reason: reason.map(str::to_owned), at, line, alone })
}

/// The next line below that says something.
fn next_line(source: &SourceFile, own: u32) -> u32 {
    let says = |line: &str| !line.trim().is_empty() && !line.trim_start().starts_with('#');
    let below = source.lines_from(own + 1).zip(own + 1..).find(|(line, _)| says(line));
    below.map_or(0, |(_, number)| number)
}

/// The signs that begin a comment in one format or another.
const SIGNS: [&str; 2] = ["#", "//"];

/// The comment that accepts a finding once a reason is written at its end: the byte where it goes in, and the text. Nothing where no
/// comment can stand above the finding's line, as in a script or in a format without comments.
pub fn comment_for(format: &dyn Format, source: &SourceFile, finding: &Finding) -> Option<(usize, String)> {
    let line = source.position(finding.at.span.start).line;
    let start = source.line_start(line);
    let at = start.max(source.body().1);
    let own = source.line_at(finding.at.span.start);
    let indent = &own[..own.len() - own.trim_start().len()];
    SIGNS.iter().find_map(|sign| {
        let text = format!("{indent}{sign} {START} {} because \n", finding.rule);
        let changed = format!("{}{text}{}", &source.text[..at], &source.text[at..]);
        let changed = SourceFile::new(source.path.clone(), changed);
        let tree = format.parse(&changed.text, &Copies::default());
        let said = acceptances(finding.at.file, &changed, &tree);
        let is_heard = said.iter().any(|one| one.alone && one.line == line + 1 && one.rule == finding.rule);
        let breaks = || tree.is_whole() != format.parse(&source.text, &Copies::default()).is_whole();
        (is_heard && !breaks()).then_some((at, text))
    })
}

/// The entry of dulk.toml that accepts a finding once a reason is written into it.
pub fn entry_for(source: &SourceFile, finding: &Finding) -> String {
    let quoted = |text: &str| toml::Value::String(text.to_owned()).to_string();
    let line = source.line_at(finding.at.span.start).trim();
    // A credential is copied nowhere, whatever the finding is about.
    let hides = finding.hides || crate::mask::mask(line) != line;
    let line = if hides || line.is_empty() { String::new() } else { format!("line = {}\n", quoted(line)) };
    format!("[[accept]]\nrule = {}\nfile = {}\n{line}because = \"\"\n", quoted(finding.rule), quoted(&source.path))
}

/// Takes the accepted findings away; gives which acceptances met one.
pub fn apply(acceptances: &[Acceptance], findings: &mut Vec<Finding>, sources: &Sources) -> Vec<bool> {
    let mut used = vec![false; acceptances.len()];
    let mut first: HashMap<(FileId, u32, &str), usize> = HashMap::new();
    for (index, one) in acceptances.iter().enumerate().filter(|(_, one)| one.reason.is_some()) {
        first.entry((one.at.file, one.line, &one.rule)).or_insert(index);
    }
    findings.retain(|finding| {
        let line = sources.get(finding.at.file).position(finding.at.span.start).line;
        let met = first.get(&(finding.at.file, line, finding.rule)).copied();
        if let Some(index) = met {
            used[index] = true;
        }
        met.is_none()
    });
    used
}

/// Takes away the findings that dulk.toml accepts; gives which entries met one.
pub fn apply_settings(project: &Project<'_>, findings: &mut Vec<Finding>) -> Vec<bool> {
    let entries = &project.facts.settings.accept;
    let mut used = vec![false; entries.len()];
    if entries.is_empty() {
        return used;
    }
    let mut by_rule: HashMap<&str, Vec<usize>> = HashMap::new();
    for (index, entry) in entries.iter().enumerate() {
        by_rule.entry(&entry.rule.name).or_default().push(index);
    }
    findings.retain(|finding| {
        let of_rule = by_rule.get(finding.rule).into_iter().flatten().copied();
        let met = of_rule.into_iter().find(|index| meets(&entries[*index], finding, project));
        if let Some(index) = met {
            used[index] = true;
        }
        met.is_none()
    });
    used
}

/// Whether a finding is what an entry speaks of.
fn meets(entry: &AcceptSetting, finding: &Finding, project: &Project<'_>) -> bool {
    let source = project.sources.get(finding.at.file);
    if entry.rule.name != finding.rule || !entry.is_for(&source.path) {
        return false;
    }
    let on_line = |line: &str| source.line_at(finding.at.span.start).trim() == line.trim();
    let in_job = |name: &str| {
        let jobs = project.prepared.iter().flat_map(|one| &one.pipeline.jobs).filter(|job| job.id.value == name);
        let start = Place { file: finding.at.file, span: Span { start: finding.at.span.start, end: finding.at.span.start } };
        let around = |place: Place| place.holds(start);
        jobs.into_iter().any(|job| around(job.body) || around(job.id.at))
    };
    entry.line.as_ref().is_none_or(|line| on_line(&line.name)) && entry.job.as_ref().is_none_or(|job| in_job(&job.name))
}
