//! Repositories made of the examples of the rules, changed here and there: what is nearly right reaches further than noise.

use std::collections::BTreeMap;

use arbitrary::{Result, Unstructured};
use dulk_core::facts::{Fact, GitFacts, Origin, Remote};
use dulk_core::rules::{self, Slip};

use crate::held::Held;

/// So many changes are made.
const CHANGES: usize = 12;
/// Names that a filter, a condition or a fact may speak of.
const NAMES: [&str; 8] = ["main", "master", "winter-plan", "gh-pages", "v1.2", "feature/x", "", "ünder"];
/// Words that mean something somewhere.
const WORDS: [&str; 56] = [
    "on", "push", "branches", "tags", "paths", "pull_request", "workflow_call", "workflow_dispatch", "schedule", "cron", "jobs", "needs", "if",
    "steps", "uses", "run", "with", "env", "secrets", "outputs", "matrix", "strategy", "permissions", "write", "read", "environment", "stages",
    "script", "before_script", "extends", "include", "local", "rules", "when", "manual", "only", "except", "artifacts", "cache", "key", "pages",
    "deploy", "provider", "phases", "build", "commands", "files", "base-directory", "pipeline", "agent", "stage", "post", "always()", "${{",
    "${{ github.ref == 'refs/heads/main' }}", "$CI_COMMIT_BRANCH == \"main\"",
];
/// Lines that scripts are made of.
const LINES: [&str; 14] = [
    "npm ci", "npm run build", "npx vite build --outDir out", "cp -r dist public", "cd site && make", "rm -rf dist", "mv dist/* .",
    "for f in *; do cp $f out; done", "if [ -d a ]; then exit 1; fi", "echo x >> $GITHUB_OUTPUT", "tar czf s.tgz dist", "git push origin HEAD",
    "rsync -a dist/ user@pier.example:/www", "cat <<EOF > a\nx\nEOF",
];

/// All examples of all rules.
pub fn examples() -> &'static [Slip] {
    static ALL: std::sync::OnceLock<Vec<Slip>> = std::sync::OnceLock::new();
    ALL.get_or_init(|| rules::all().flat_map(|rule| rule.bad.iter().chain(rule.good)).map(|text| Slip::read(text)).collect())
}

/// The files of an example.
pub fn files(slip: &Slip) -> BTreeMap<String, String> {
    slip.sections.iter().filter_map(|section| Some((section.path()?.to_owned(), section.text.clone()))).collect()
}

/// A repository out of bytes.
///
/// # Errors
/// When there are no bytes left.
pub fn repository(bytes: &mut Unstructured<'_>) -> Result<Held> {
    let mut all = files(bytes.choose(examples())?);
    for _ in 0..bytes.int_in_range(0..=2)? {
        all.extend(files(bytes.choose(examples())?));
    }
    for _ in 0..bytes.int_in_range(0..=CHANGES)? {
        let paths: Vec<String> = all.keys().cloned().collect();
        let path = bytes.choose(&paths)?;
        if let Some(text) = all.get_mut(path) {
            *text = changed(text, bytes)?;
        }
    }
    let mut held = Held::new(all);
    held.git = git(bytes)?;
    held.is_listed = bytes.ratio(3, 4)?;
    Ok(held)
}

/// A text with one change in one of its lines.
fn changed(text: &str, bytes: &mut Unstructured<'_>) -> Result<String> {
    let mut lines: Vec<String> = text.split('\n').map(str::to_owned).collect();
    let at = bytes.choose_index(lines.len())?;
    let indent: String = lines[at].chars().take_while(|c| *c == ' ' || *c == '-').collect();
    match bytes.int_in_range(0..=9_u8)? {
        0 => drop(lines.remove(at)),
        1 => lines.insert(at, lines[at].clone()),
        2 => {
            let other = bytes.choose_index(lines.len())?;
            lines.swap(at, other);
        }
        3 => lines[at] = replaced_word(&lines[at], bytes.choose(&WORDS)?, bytes)?,
        4 => lines[at] = replaced_word(&lines[at], bytes.choose(&NAMES)?, bytes)?,
        5 => lines.insert(at, format!("{indent}{}: {}", bytes.choose(&WORDS)?, bytes.choose(&WORDS)?)),
        6 => lines.insert(at, format!("{indent}- {}", bytes.choose(&LINES)?)),
        7 => lines[at] = format!("{}{}", "  ".repeat(bytes.int_in_range(0..=5)?), lines[at].trim_start()),
        8 => lines[at].push_str(bytes.choose(&[":", " #", " &a", " *a", "'", "\"", " |", "[", "]", "{", "}", " >-", "\r", "\t", "é", "\u{202e}"])?),
        _ => {
            let sign: char = bytes.arbitrary()?;
            let place = bytes.choose_index(lines[at].len() + 1)?;
            let place = lines[at].floor_char_boundary(place);
            lines[at].insert(place, sign);
        }
    }
    Ok(lines.join("\n"))
}

fn replaced_word(line: &str, word: &str, bytes: &mut Unstructured<'_>) -> Result<String> {
    let is_part = |c: char| c.is_alphanumeric() || "-_./$".contains(c);
    let starts: Vec<usize> = line
        .char_indices()
        .filter(|(index, c)| is_part(*c) && !line[..*index].chars().next_back().is_some_and(is_part))
        .map(|(index, _)| index)
        .collect();
    if starts.is_empty() {
        return Ok(format!("{line}{word}"));
    }
    let start = *bytes.choose(&starts)?;
    let end = line[start..].find(|c| !is_part(c)).map_or(line.len(), |length| start + length);
    Ok(format!("{}{word}{}", &line[..start], &line[end..]))
}

/// What git knows, which may be nothing.
fn git(bytes: &mut Unstructured<'_>) -> Result<GitFacts> {
    let mut facts = GitFacts::default();
    if bytes.ratio(3, 4)? {
        let mut branches: Vec<String> = Vec::new();
        for name in &NAMES[..5] {
            if bytes.arbitrary()? {
                branches.push((*name).to_owned());
            }
        }
        branches.sort_unstable();
        facts.branches = Fact::Known(branches, Origin::Git);
        facts.tags = Fact::Known(vec!["v1".to_owned()], Origin::Git);
    }
    if bytes.arbitrary()? {
        facts.default_branch = Fact::Known((*bytes.choose(&NAMES[..2])?).to_owned(), Origin::Git);
    }
    if bytes.arbitrary()? {
        let host = (*bytes.choose(&["github.com", "gitlab.com", "forge.tarnsay.example"])?).to_owned();
        facts.remote = Fact::Known(Remote { host, owner: "tarnsay".into(), name: "timetable".into() }, Origin::Git);
    }
    Ok(facts)
}
