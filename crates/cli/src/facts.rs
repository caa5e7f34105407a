//! `dulk facts`.

use std::path::Path;

use anstyle::Style;
use dulk_core::facts::SETTINGS_FILE;
use dulk_core::mask::mask;
use dulk_core::text::{Range, Sources};
use dulk_core::views::facts::{FactLine, Group, missing_declarations, setting_lines};
use dulk_snapshot::Snapshot;
use serde::Serialize;
use unicode_width::UnicodeWidthStr;

use crate::Outcome;
use crate::args::{FactsOptions, Format};
use crate::render::text::shown;
use crate::screen::{Screen, styled};
use crate::{ask, output};

const BOLD: Style = Style::new().bold();
const DIM: Style = Style::new().dimmed();
/// Names are short; a longer one pushes only its own line.
const NAME_LIMIT: usize = 30;

/// Runs the command.
///
/// # Errors
/// When dulk.toml is wrong, or cannot be written.
pub fn run(options: &FactsOptions, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let snapshot = Snapshot::of_disk(&std::env::current_dir()?, &[], None)?;
    if options.asking.ask {
        return ask::run(options, &snapshot, screen);
    }
    let lines = lines_of(&snapshot);
    if options.write && options.format == Format::Json {
        anyhow::bail!("--write tells in words what it adds: leave --format json away, or ask the forge with --ask");
    }
    if options.write {
        write(&snapshot, &lines, screen)?;
    } else if options.format == Format::Json {
        show_json(&lines, snapshot.sources(), screen)?;
    } else {
        show(&lines, screen);
    }
    Ok(Outcome::Clean)
}

/// All that is known of a repository, and what is not.
pub fn lines_of(snapshot: &Snapshot) -> Vec<FactLine> {
    let repository = snapshot.repository();
    let mut lines = repository.facts.lines(&repository.sources);
    lines.extend(setting_lines(snapshot.prepared(), &repository.facts, &repository.sources));
    lines
}

fn show(lines: &[FactLine], screen: &mut Screen) {
    let name_width = name_width(lines);
    for group in Group::ALL {
        let own: Vec<&FactLine> = lines.iter().filter(|line| line.group == group).collect();
        if own.is_empty() {
            continue;
        }
        screen.line(&styled(BOLD, group.word()));
        for line in own {
            show_line(line, name_width, screen);
        }
        screen.line("");
    }
    let mut wanted: Vec<(&str, &str)> =
        lines.iter().filter_map(|line| line.declare.as_ref()).map(|(table, line)| (*table, line.as_str())).collect();
    wanted.dedup();
    if wanted.is_empty() {
        return;
    }
    screen.hang("", "What is not known, Dulk says nothing about. These lines in dulk.toml would tell it (dulk facts --write adds them, commented; \
         dulk facts --ask asks the forge):");
    let mut table = "";
    for (within, line) in wanted {
        if within != table {
            screen.line(&format!("  [{within}]"));
            table = within;
        }
        line.lines().for_each(|line| screen.line(&format!("  {line}")));
    }
}

/// The width of the column of names.
pub fn name_width(lines: &[FactLine]) -> usize {
    lines.iter().map(|line| line.name.width()).filter(|width| *width <= NAME_LIMIT).max().unwrap_or(0)
}

/// A fact with where it is known from.
pub fn show_line(line: &FactLine, name_width: usize, screen: &mut Screen) {
    let name = shown(&line.name);
    let padding = " ".repeat(name_width.saturating_sub(name.width()) + 3);
    let (value, from) = match &line.value {
        Some(value) => (shown(value), shown(&line.from)),
        None => ("not known".to_owned(), shown(&line.from)),
    };
    let before = 2 + name.width() + padding.len();
    let start = format!("  {name}{padding}");
    let value_style = if line.value.is_some() { Style::new() } else { DIM };
    // The source stands at the right end of the line when there is room, and under the value when there is none.
    if before + value.width() + 3 + from.width() <= screen.width {
        let gap = " ".repeat(screen.width.min(100).saturating_sub(before + value.width() + from.width()).max(3));
        screen.line(&format!("{start}{}{gap}{}", styled(value_style, &value), styled(DIM, &from)));
    } else {
        screen.hang(&start, &styled(value_style, &value));
        screen.hang(&" ".repeat(before), &styled(DIM, &from));
    }
}

#[derive(Serialize)]
struct Report {
    schema: u32,
    facts: Vec<JsonFact>,
}

#[derive(Serialize)]
struct JsonFact {
    group: &'static str,
    name: String,
    known: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<String>,
    from: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    range: Option<Range>,
    #[serde(skip_serializing_if = "Option::is_none")]
    declare: Option<String>,
}

fn show_json(lines: &[FactLine], sources: &Sources, screen: &mut Screen) -> anyhow::Result<()> {
    let fact = |line: &FactLine| JsonFact {
        group: line.group.word(),
        name: line.name.clone(),
        known: line.value.is_some(),
        value: line.value.as_deref().map(|value| mask(value).into_owned()),
        from: line.from.clone(),
        file: line.at.map(|at| sources.get(at.file).path.clone()),
        range: line.at.map(|at| sources.get(at.file).range(at.span)),
        declare: line.declare.as_ref().map(|(table, line)| format!("[{table}] {line}")),
    };
    let report = Report { schema: 1, facts: lines.iter().map(fact).collect() };
    screen.data(&serde_json::to_string_pretty(&report)?);
    Ok(())
}

fn write(snapshot: &Snapshot, lines: &[FactLine], screen: &mut Screen) -> anyhow::Result<()> {
    let repository = snapshot.repository();
    let text = settings_text(snapshot);
    let default = repository.facts.git.default_branch.known().map(String::as_str);
    let new = missing_declarations(&text, lines, &secrets(snapshot), default);
    if new == text {
        screen.line("Nothing is missing from dulk.toml that Dulk asks for.");
        return Ok(());
    }
    output::write(&repository.root, Path::new(SETTINGS_FILE), &new)?;
    let added = new.lines().count() - text.lines().count();
    screen.line(&format!(
        "{added} lines were added to {SETTINGS_FILE}, all of them comments. Take the # away from those that hold, and fill them in."
    ));
    Ok(())
}

/// The text of dulk.toml; nothing where there is none.
pub fn settings_text(snapshot: &Snapshot) -> String {
    let sources = snapshot.sources();
    sources.find(SETTINGS_FILE).map(|file| sources.get(file).text.clone()).unwrap_or_default()
}

/// The names of the secrets that the pipelines read, sorted.
fn secrets(snapshot: &Snapshot) -> Vec<String> {
    let project = snapshot.project();
    let mut names: Vec<String> =
        (0..project.prepared.len()).flat_map(|index| dulk_core::case::secrets_read(&project.case(index))).collect();
    names.sort_unstable();
    names.dedup();
    names
}
