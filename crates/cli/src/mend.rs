//! `dulk mend`.

use std::fs;
use std::path::PathBuf;

use anyhow::{Context, bail};
use dulk_core::finding::{Finding, listed};
use dulk_core::knowledge::{Date, nearest};
use dulk_core::mask::mask;
use dulk_core::mend::{FileMend, plan};
use dulk_core::rules;
use dulk_core::text::{FileId, Sources};
use dulk_gather::{Repository, gather, replace};
use similar::{ChangeTag, TextDiff};

use crate::Outcome;
use crate::args::MendOptions;
use crate::checked::{check, findings_with};
use crate::render::text::{BOLD, DIM, GREEN, RED, action, place, shown, wrap};
use crate::screen::{Screen, complain, harmless, styled};

/// Lines of context round a change.
const CONTEXT: usize = 3;
/// Mends make room for others; more rounds than this never do.
const ROUNDS: usize = 8;

/// Runs the command.
///
/// # Errors
/// When a rule or a path does not exist, dulk.toml is wrong, or a file cannot be written.
pub fn run(options: &MendOptions, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    for rule in &options.only {
        known_rule(rule)?;
    }
    let start = std::env::current_dir()?;
    let checked = check(gather(&start, &options.paths)?, today);
    let repository = checked.repository;
    let findings: Vec<Finding> = checked.files.into_iter().flat_map(|file| file.findings).collect();
    let wanted = |finding: &Finding| options.only.is_empty() || options.only.iter().any(|rule| rule == finding.rule);
    let mended = mend_all(&repository, findings, today, &wanted);
    if mended.files.is_empty() {
        screen.line("Nothing that can be mended for certain.");
    }
    for (file, text) in &mended.files {
        show_diff(*file, text, &repository.sources, screen);
    }
    for line in &mended.refused {
        complain(line);
    }
    offers(&mended.left, &mended.sources, &wanted, screen);
    if !options.write {
        if !mended.files.is_empty() {
            screen.line(&format!("{} can be mended for certain. dulk mend --write does it.", counted(mended.count)));
        }
        return Ok(Outcome::Clean);
    }
    for (file, text) in &mended.files {
        write(&repository, *file, text)?;
    }
    if !mended.files.is_empty() {
        screen.line(&format!("{} mended.", counted(mended.count)));
    }
    Ok(Outcome::Clean)
}

fn counted(count: usize) -> String {
    if count == 1 { "1 finding".to_owned() } else { format!("{count} findings") }
}

fn known_rule(rule: &str) -> anyhow::Result<()> {
    if rules::find(rule).is_none() {
        let hint =
            nearest(rule, rules::all().map(|rule| rule.id)).map(|near| format!(" Did you mean {near}?")).unwrap_or_default();
        bail!("there is no rule {rule}.{hint}");
    }
    Ok(())
}

/// What comes out of mending.
struct Mended {
    /// New texts.
    files: Vec<(FileId, String)>,
    /// Findings that are gone.
    count: usize,
    /// Findings that are left.
    left: Vec<Finding>,
    /// The texts that those stand in.
    sources: Sources,
    /// Files that are left as they are, and why.
    refused: Vec<String>,
}

/// Mends in rounds, until nothing certain is left; each round is checked again in memory.
fn mend_all(repository: &Repository, findings: Vec<Finding>, today: Date, wanted: &dyn Fn(&Finding) -> bool) -> Mended {
    let mut sources = repository.sources.clone();
    let mut current = findings;
    let mut refused: Vec<String> = Vec::new();
    let mut stuck: Vec<FileId> = Vec::new();
    let mut count = 0;
    for _ in 0..ROUNDS {
        let planned = plan(&current, &sources, &|finding| wanted(finding) && !stuck.contains(&finding.at.file));
        if planned.is_empty() {
            break;
        }
        for mend in planned {
            match holds(repository, &sources, &current, &mend, today) {
                Ok((next, after, gone)) => {
                    (sources, current) = (next, after);
                    count += gone;
                    // Places have moved: what is left of this round waits for the next.
                    break;
                }
                Err(reason) => {
                    stuck.push(mend.file);
                    refused.push(format!("{} is left as it is: {reason}", sources.get(mend.file).path));
                }
            }
        }
    }
    let changed = |file: &FileId| sources.get(*file).text != repository.sources.get(*file).text;
    let files =
        repository.pipelines.iter().flat_map(|pipeline| std::iter::once(pipeline.file).chain(pipeline.parts.iter().copied()));
    let mut files: Vec<FileId> = files.chain(current.iter().map(|finding| finding.at.file)).filter(changed).collect();
    files.sort_unstable();
    files.dedup();
    let files = files.into_iter().map(|file| (file, sources.get(file).text.clone())).collect();
    Mended { files, count, left: current, sources, refused }
}

/// The texts and findings after a mend, and how many are gone; an error when one is left that should be gone, or a new one is there.
fn holds(
    repository: &Repository,
    sources: &Sources,
    before: &[Finding],
    mend: &FileMend,
    today: Date,
) -> Result<(Sources, Vec<Finding>, usize), String> {
    let next = sources.with(mend.file, mend.text.clone());
    let after = findings_with(repository, &next, today);
    let key = |finding: &Finding| (finding.at.file, finding.rule, finding.message.clone());
    let mut old: Vec<_> = before.iter().map(key).collect();
    let weighty = |finding: &&Finding| finding.severity > dulk_core::finding::Severity::Advice;
    for finding in after.iter().filter(weighty) {
        match old.iter().position(|known| *known == key(finding)) {
            Some(index) => {
                old.swap_remove(index);
            }
            None => return Err(format!("mending it would bring a new finding, {}", finding.rule)),
        }
    }
    let count = |findings: &[Finding], wanted: &Finding| findings.iter().filter(|finding| key(finding) == key(wanted)).count();
    let stays = mend.findings.iter().find(|index| {
        let finding = &before[**index];
        count(&after, finding) >= count(before, finding)
    });
    match stays {
        Some(index) => Err(format!("{} would still be there", before[*index].rule)),
        None => Ok((next, after, mend.findings.len())),
    }
}

fn show_diff(file: FileId, text: &str, sources: &Sources, screen: &mut Screen) {
    let source = sources.get(file);
    let path = shown(&source.path);
    screen.line(&styled(BOLD, &format!("--- a/{path}")));
    screen.line(&styled(BOLD, &format!("+++ b/{path}")));
    let diff = TextDiff::from_lines(source.text.as_str(), text);
    for hunk in diff.unified_diff().context_radius(CONTEXT).iter_hunks() {
        screen.line(&styled(DIM, hunk.header().to_string().trim_end()));
        for change in hunk.iter_changes() {
            let (sign, style) = match change.tag() {
                ChangeTag::Delete => ('-', Some(RED)),
                ChangeTag::Insert => ('+', Some(GREEN)),
                ChangeTag::Equal => (' ', None),
            };
            let line = change.value().trim_end_matches(['\n', '\r']);
            let line = format!("{sign}{}", harmless(&mask(line)));
            screen.line(&style.map_or_else(|| line.clone(), |style| styled(style, &line)));
        }
    }
    screen.line("");
}

/// What a person has to decide.
fn offers(left: &[Finding], sources: &Sources, wanted: &dyn Fn(&Finding) -> bool, screen: &mut Screen) {
    let open: Vec<&Finding> =
        left.iter().filter(|finding| wanted(finding) && finding.severity > dulk_core::finding::Severity::Advice).collect();
    if open.is_empty() {
        return;
    }
    screen.line("For you to decide:");
    for finding in open {
        let head = format!("  {}  {}  ", place(finding.at, sources), finding.rule);
        for (index, line) in wrap(&shown(&action(finding, sources)), screen.width.saturating_sub(4)).iter().enumerate() {
            if index == 0 {
                screen.line(&styled(DIM, head.trim_end()));
            }
            screen.line(&format!("    {line}"));
        }
    }
    screen.line("");
}

/// Writes a file, unless it is another one by now. Links are followed inside the repository only.
fn write(repository: &Repository, file: FileId, text: &str) -> anyhow::Result<()> {
    let source = repository.sources.get(file);
    let path = repository.root.join(&source.path);
    let target: PathBuf = fs::canonicalize(&path).with_context(|| format!("{} cannot be written", source.path))?;
    let root = fs::canonicalize(&repository.root)?;
    if !target.starts_with(&root) {
        bail!("{} is a link that leads out of the repository; nothing was written", source.path);
    }
    let now = fs::read(&target).with_context(|| format!("{} cannot be read again", source.path))?;
    if now != source.text.as_bytes() {
        bail!("{} was changed meanwhile; nothing was written to it", source.path);
    }
    replace(&target, text).map_err(|reason| anyhow::anyhow!("{} cannot be written: {reason}", listed(&[source.path.as_str()])))
}
