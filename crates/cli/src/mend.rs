//! `dulk mend`.

use std::collections::BTreeSet;
use std::fs;
use std::path::PathBuf;

use anyhow::{Context, bail};
use dulk_core::finding::{Finding, listed};
use dulk_core::knowledge::{Date, nearest};
use dulk_core::mask::mask;
use dulk_core::mend::mend_all;
use dulk_core::rules;
use dulk_core::text::{FileId, Sources};
use dulk_gather::{Repository, remove_left_over, replace};
use similar::{ChangeTag, TextDiff};

use crate::Outcome;
use crate::args::MendOptions;
use crate::checked::Checked;
use crate::render::text::{BOLD, DIM, GONE, GREEN, action, place, shown, wrap};
use crate::screen::{Screen, complain, styled};
use dulk_core::shown::harmless;

/// Lines of context round a change.
const CONTEXT: usize = 3;

/// Runs the command.
///
/// # Errors
/// When a rule or a path does not exist, or dulk.toml is wrong.
pub fn run(options: &MendOptions, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    for rule in &options.only {
        known_rule(rule)?;
    }
    let start = std::env::current_dir()?;
    let checked = Checked::of(&start, &options.paths, today)?;
    let (snapshot, repository) = (&checked.snapshot, checked.snapshot.repository());
    let findings: Vec<Finding> = checked.files.iter().flat_map(|file| file.findings.iter().cloned()).collect();
    let wanted = |finding: &Finding| options.only.is_empty() || options.only.iter().any(|rule| rule == finding.rule);
    let check_again = |sources: &Sources| snapshot.findings_with(sources);
    let mended = mend_all(findings, &repository.sources, &wanted, &check_again);
    let changed = changed_files(&repository.sources, &mended.sources);
    if changed.is_empty() {
        screen.line("Nothing that can be mended for certain.");
    }
    for (file, text) in &changed {
        show_diff(*file, text, &repository.sources, screen);
    }
    for (finding, reason) in &mended.refused {
        let path = &repository.sources.get(finding.at.file).path;
        complain(&format!("{}: {} is not mended: {reason}", shown(path), finding.rule));
    }
    offers(&mended.left, &mended.sources, &wanted, screen);
    if !options.write {
        if !changed.is_empty() {
            screen.line(&format!("{} can be mended for certain. dulk mend --write does it.", counted(mended.count)));
        }
        return Ok(Outcome::Clean);
    }
    clear_left_over(repository);
    let mut failed = 0;
    for (file, text) in &changed {
        // One that cannot be written is told, and keeps none of the others from being written.
        if let Err(error) = write(repository, *file, text) {
            complain(&format!("{error:#}"));
            failed += 1;
        }
    }
    if failed > 0 {
        screen.line(&format!("{} of {} files were mended.", changed.len() - failed, changed.len()));
        return Ok(Outcome::Failed);
    }
    if mended.count > 0 {
        screen.line(&format!("{} mended.", counted(mended.count)));
    }
    Ok(Outcome::Clean)
}

/// Removes what a killed run left behind beside the files that can be mended.
fn clear_left_over(repository: &Repository) {
    let folders: BTreeSet<&str> =
        repository.sources.iter().map(|(_, source)| source.path.rsplit_once('/').map_or("", |(folder, _)| folder)).collect();
    for folder in folders {
        remove_left_over(&repository.root.join(folder));
    }
}

/// The files whose texts are other ones now, with those.
fn changed_files<'m>(before: &Sources, after: &'m Sources) -> Vec<(FileId, &'m str)> {
    after
        .iter()
        .filter(|(file, source)| source.text != before.get(*file).text)
        .map(|(file, source)| (file, source.text.as_str()))
        .collect()
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
                ChangeTag::Delete => ('-', Some(GONE)),
                ChangeTag::Insert => ('+', Some(GREEN)),
                ChangeTag::Equal => (' ', None),
            };
            let line = change.value().trim_end_matches(['\n', '\r']);
            let line = format!("{sign}{}", harmless(&mask(line)));
            screen.of_file(style.unwrap_or_default(), &line);
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
        let head = format!("{}  {}", place(finding.at, sources), finding.rule);
        for (index, line) in wrap(&shown(&action(finding, sources)), screen.width.saturating_sub(4)).iter().enumerate() {
            if index == 0 {
                screen.hang("  ", &styled(DIM, &head));
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
