//! `dulk report`: all that is known of a repository's pipelines in one page, or in one comment.

mod code;
mod comment;
mod page;

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use aho_corasick::{AhoCorasick, MatchKind};
use dulk_core::finding::Finding;
use dulk_core::knowledge::Date;
use dulk_core::mask::MASK;
use dulk_core::project::{Project, columns};
use dulk_core::rules::FAMILIES;
use dulk_core::text::Place;
use dulk_core::views::facts::FactLine;
use dulk_core::views::{Accepted, Break, Grid, Standing, Verdict, Way, accepted, grid, verdicts, ways};

use crate::Outcome;
use crate::args::{ReportFormat, ReportOptions};
use crate::checked::Checked;
use crate::facts;
use crate::output;
use crate::render::text;
use crate::screen::Screen;

/// Runs the command.
///
/// # Errors
/// When dulk.toml is wrong, or the file cannot be written.
pub fn run(options: &ReportOptions, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    let checked = Checked::kept(&start, today)?;
    let project = checked.snapshot.project();
    let report = Report::of(&checked, &project, today);
    let text = match options.format {
        ReportFormat::Html => page::page(&report),
        ReportFormat::Markdown => comment::comment(&report),
    };
    let file = options.output.clone().unwrap_or_else(|| PathBuf::from(options.format.usual_file()));
    if file == Path::new("-") {
        screen.data(text.trim_end());
    } else {
        output::write(&start, &file, &text)?;
        screen.line(&format!("{} is written: {}", file.display(), report.summary()));
    }
    Ok(Outcome::Clean)
}

/// What is found in one pipeline file, in the order of work.
pub struct FileFindings<'r> {
    /// Its path from the repository's root.
    pub path: &'r str,
    /// Its text could be read to the end.
    pub whole: bool,
    /// All of it as it was found, for the strip.
    pub all: &'r [Finding],
    /// Each with its number in the report, from 1.
    pub findings: Vec<(usize, &'r Finding)>,
}

/// The sign of how it stands with a site.
fn sign_of(standing: Standing) -> &'static str {
    match standing {
        Standing::Online => "✔",
        Standing::Perhaps => "?",
        Standing::Broken => "✖",
        Standing::Otherwise => "•",
    }
}

/// All that a report says, before it has a form.
pub struct Report<'r> {
    /// All pipelines together.
    pub project: &'r Project<'r>,
    /// What people call the repository.
    pub name: String,
    /// The day it is made.
    pub today: Date,
    /// Whether the site goes online.
    pub verdicts: Vec<Verdict>,
    /// Events and jobs.
    pub grid: Grid,
    /// Every way to a published site.
    pub ways: Vec<Way>,
    /// What is wrong, file by file.
    pub files: Vec<FileFindings<'r>>,
    /// What was accepted.
    pub accepted: Vec<Accepted>,
    /// What is known.
    pub facts: Vec<FactLine>,
    checked: &'r Checked,
    numbers: HashMap<(&'static str, Place), usize>,
    /// Credentials that stand in the files, and are shown nowhere.
    hidden: Option<AhoCorasick>,
}

impl<'r> Report<'r> {
    fn of(checked: &'r Checked, project: &'r Project<'r>, today: Date) -> Self {
        let events = columns(project);
        let ways = ways(project);
        let noon = format!("{today}T12:00:00Z").parse::<jiff::Timestamp>().map_or(0, jiff::Timestamp::as_second);
        let files = files(checked);
        let all = files.iter().flat_map(|file| &file.findings);
        Self {
            numbers: all.map(|(number, finding)| ((finding.rule, finding.at), *number)).collect(),
            name: name_of(checked),
            verdicts: verdicts(project, &events, &ways),
            grid: grid(project, &events, noon),
            files,
            accepted: accepted(project),
            hidden: hidden(checked),
            project,
            today,
            ways,
            facts: facts::lines_of(&checked.snapshot),
            checked,
        }
    }

    /// "2 errors and 1 warning in 3 pipeline files."
    pub fn summary(&self) -> String {
        text::summary(self.checked)
    }

    /// A text that may hold parts of files, as it may be shown.
    pub fn shown(&self, text: &str) -> String {
        let shown = text::shown(text);
        match &self.hidden {
            Some(hidden) if hidden.is_match(&shown) => hidden.replace_all(&shown, &vec![MASK; hidden.patterns_len()]),
            _ => shown,
        }
    }

    /// The same for several lines.
    pub fn shown_lines(&self, text: &str) -> String {
        text.lines().map(|line| self.shown(line) + "\n").collect()
    }

    /// Every finding with its number, from 1.
    pub fn findings(&self) -> impl Iterator<Item = (usize, &'r Finding)> + '_ {
        self.files.iter().flat_map(|file| file.findings.iter().copied())
    }

    /// The rules that found something, in the order of work.
    pub fn rules(&self) -> Vec<&'static str> {
        let mut found: Vec<&'static str> = self.findings().map(|(_, finding)| finding.rule).collect();
        let family = |rule: &&str| FAMILIES.iter().position(|family| rule.split('.').next() == Some(family));
        found.sort_by_key(|rule| (family(rule), *rule));
        found.dedup();
        found
    }

    /// The pipeline formats of the repository.
    pub fn formats(&self) -> Vec<&'static str> {
        let mut found: Vec<&'static str> = Vec::new();
        for one in self.project.prepared {
            if !found.contains(&one.pipeline.format.id()) {
                found.push(one.pipeline.format.id());
            }
        }
        found
    }

    /// The number of the finding that a break tells of, when it is in the report.
    pub fn number_of(&self, broken: &Break) -> Option<usize> {
        self.numbers.get(&(broken.rule, broken.at)).copied()
    }
}

/// The owner and name at the forge, or else the folder's name.
fn name_of(checked: &Checked) -> String {
    let repository = checked.repository();
    let folder = || repository.root.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let remote = repository.facts.git.remote.known().map(|remote| format!("{}/{}", remote.owner, remote.name));
    text::shown(&remote.unwrap_or_else(folder))
}

fn files(checked: &Checked) -> Vec<FileFindings<'_>> {
    let repository = checked.repository();
    let mut numbers = 1..;
    let mut found = Vec::new();
    for (one, file) in repository.pipelines.iter().zip(&checked.files) {
        let findings = text::in_order_of_work(&file.findings)
            .into_iter()
            .zip(numbers.by_ref())
            .map(|(finding, number)| (number, finding))
            .collect();
        found.push(FileFindings {
            path: &repository.sources.get(one.file).path,
            whole: file.whole,
            all: &file.findings,
            findings,
        });
    }
    found
}

/// One search for all values of files that are credentials; nothing where there are none.
fn hidden(checked: &Checked) -> Option<AhoCorasick> {
    let sources = checked.snapshot.sources();
    let found = checked.files.iter().flat_map(|file| &file.findings).filter(|finding| finding.hides);
    let lines = found.flat_map(|finding| sources.get(finding.at.file).slice(finding.at.span).lines());
    let mut values: Vec<&str> = lines.map(str::trim).filter(|line| !line.is_empty()).collect();
    values.sort_unstable();
    values.dedup();
    let search = || AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(&values).ok();
    if values.is_empty() { None } else { search() }
}

/// The pieces of a sentence of ours, in which `…` stands round words of others, and whether each of them is such words. With one sign too
/// many, nobody knows which are ours, and the whole is one piece.
fn pieces(text: &str) -> Vec<(bool, &str)> {
    let pieces: Vec<&str> = text.split('`').collect();
    if pieces.len().is_multiple_of(2) {
        return vec![(false, text)];
    }
    pieces
        .into_iter()
        .enumerate()
        .map(|(number, piece)| (number % 2 == 1, piece))
        .filter(|(_, piece)| !piece.is_empty())
        .collect()
}
