//! What the hook runs: the refs of a push are looked at in the commits that they are to stand for.

use std::collections::HashMap;
use std::io::Read;
use std::path::Path;

use anyhow::bail;
use dulk_core::finding::{Finding, Severity, listed};
use dulk_core::formats::Prepared;
use dulk_core::knowledge::Date;
use dulk_core::model::Event;
use dulk_core::project::Project;
use dulk_core::rehearsal::{Answer, Occasion, OccasionKind, Rehearsal};
use dulk_gather::{Repository, changed_paths};
use dulk_snapshot::Snapshot;
use indexmap::IndexMap;

use super::say;
use crate::Outcome;
use crate::render::detail;
use crate::render::text::{BOLD, CYAN, DIM, GREEN, RED, place, shown, wrap};
use crate::screen::{Screen, styled};

/// What git says of a push is no longer than this: some hundred thousand refs.
const INPUT_LIMIT: u64 = 64 << 20;
/// Findings that are named; the rest is counted.
const SHOWN: usize = 6;
/// Refs that are told one by one; of the others only those that are held up.
const REFS_SHOWN: usize = 12;

/// One ref that is pushed.
struct Pushed {
    /// The commit that it is to stand for.
    local: String,
    occasion: Option<Occasion>,
    remote_ref: String,
    /// What it stands for now, as far as this clone has seen.
    remote: String,
}

fn is_id(text: &str) -> bool {
    matches!(text.len(), 40 | 64) && text.bytes().all(|byte| byte.is_ascii_hexdigit())
}

fn is_none(id: &str) -> bool {
    id.bytes().all(|byte| byte == b'0')
}

/// Reads git's lines: local ref, local id, remote ref, remote id. The first is whatever was typed, and may hold spaces; the others hold none.
/// Source: the manual page githooks(5), pre-push, 2026-11.
fn read_lines(text: &str) -> anyhow::Result<Vec<Pushed>> {
    let mut found = Vec::new();
    for line in text.split('\n').filter(|line| !line.is_empty()) {
        let mut words = line.rsplitn(4, ' ');
        let (Some(remote), Some(remote_ref), Some(local), Some(_)) = (words.next(), words.next(), words.next(), words.next())
        else {
            bail!("this is no line of git's pre-push hook: {}", line.chars().take(60).collect::<String>());
        };
        if !is_id(local) || !is_id(remote) {
            bail!("this is no line of git's pre-push hook: {}", line.chars().take(60).collect::<String>());
        }
        let occasion = match (remote_ref.strip_prefix("refs/heads/"), remote_ref.strip_prefix("refs/tags/")) {
            (Some(branch), _) => Some(Occasion::new(OccasionKind::Push, Some(branch))),
            (_, Some(tag)) => Some(Occasion::new(OccasionKind::Tag, Some(tag))),
            _ => None,
        };
        found.push(Pushed { local: local.to_owned(), occasion, remote_ref: remote_ref.to_owned(), remote: remote.to_owned() });
    }
    Ok(found)
}

/// What was said about a whole push.
#[derive(Default)]
struct Told {
    /// Refs of which something was said.
    refs: usize,
    /// Refs of which nothing was said, as nothing holds them up.
    passed: usize,
    /// Errors that stop the push.
    errors: usize,
    /// One of them can be mended for certain.
    mendable: bool,
}

/// Looks at a push.
///
/// # Errors
/// When standard input is not git's.
pub fn check(start: &Path, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let mut bytes = Vec::new();
    std::io::stdin().take(INPUT_LIMIT + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > INPUT_LIMIT {
        bail!("git names more refs than can be looked at");
    }
    let pushed = read_lines(&String::from_utf8_lossy(&bytes))?;
    let mut told = Told::default();
    // All of them are about to exist, and each commit is read once.
    let branches: Vec<&str> = pushed.iter().filter(|one| !is_none(&one.local)).filter_map(branch_of).collect();
    let mut by_commit: IndexMap<&str, Vec<&Pushed>> = IndexMap::new();
    for one in pushed.iter().filter(|one| one.occasion.is_some()) {
        by_commit.entry(one.local.as_str()).or_default().push(one);
    }
    let mut last = None;
    for (commit, refs) in by_commit {
        if is_none(commit) {
            deleted(&refs, &mut told, screen);
            continue;
        }
        match Snapshot::of_commit(start, commit, &branches, Some(today)) {
            Ok(snapshot) => {
                look_at(start, &refs, &snapshot, &mut told, screen);
                last = Some(snapshot);
            }
            // What is not in the object store cannot be judged, and is no reason to stop anybody.
            Err(error) => {
                let names: Vec<&str> = refs.iter().map(|one| one.remote_ref.as_str()).take(REFS_SHOWN).collect();
                let more =
                    if refs.len() > names.len() { format!(" and {} more", refs.len() - names.len()) } else { String::new() };
                say(&format!("dulk: {}{more} not looked at: {error}", listed(&names)), screen);
            }
        }
    }
    // The process ends here; giving back what thousands of files hold, piece by piece, would only take time.
    std::mem::forget(last);
    if told.passed > 0 {
        let text = if told.passed == 1 { "and 1 more ref".to_owned() } else { format!("and {} more refs", told.passed) };
        screen.line(&styled(DIM, &format!("{text}, all looked at, with no error that concerns them")));
    }
    if told.errors == 0 {
        return Ok(Outcome::Clean);
    }
    let errors = if told.errors == 1 { "1 error concerns".to_owned() } else { format!("{} errors concern", told.errors) };
    let mend = if told.mendable { ", dulk mend --write mends what is certain" } else { "" };
    let stopped = styled(RED, "Stopped:");
    for line in wrap(&format!("{stopped} {errors} this push. dulk check shows all of it{mend}."), screen.width) {
        screen.line(&line);
    }
    screen.line("To push all the same: git push --no-verify");
    Ok(Outcome::Found)
}

fn branch_of(pushed: &Pushed) -> Option<&str> {
    pushed.occasion.as_ref().filter(|occasion| occasion.kind == OccasionKind::Push)?.branch()
}

fn deleted(refs: &[&Pushed], told: &mut Told, screen: &mut Screen) {
    for pushed in refs {
        if told.refs < REFS_SHOWN {
            told.refs += 1;
            say(&format!("dulk: {} is deleted; a deletion starts nothing.", pushed.remote_ref), screen);
        } else {
            told.passed += 1;
        }
    }
}

/// Looks at the refs that are to stand for one commit.
fn look_at(start: &Path, refs: &[&Pushed], snapshot: &Snapshot, told: &mut Told, screen: &mut Screen) {
    let project = snapshot.project();
    let is_error = |finding: &Finding| finding.severity == Severity::Error;
    let errors: Vec<(usize, Vec<Finding>)> = project
        .standalone()
        .into_iter()
        .map(|index| (index, dulk_core::check(&project, index).into_iter().filter(is_error).collect()))
        .collect();
    // Refs that come from the same commit differ in the same files.
    let mut changed: HashMap<&str, Option<Vec<String>>> = HashMap::new();
    for pushed in refs {
        let Some(mut occasion) = pushed.occasion.clone() else { continue };
        if !is_none(&pushed.remote) && occasion.kind == OccasionKind::Push {
            let paths = changed.entry(&pushed.remote).or_insert_with(|| changed_paths(start, &pushed.remote, &pushed.local).ok());
            occasion.changed = paths.clone();
        }
        one(&occasion, (&project, &errors), snapshot, told, screen);
    }
}

/// Looks at one ref.
fn one(
    occasion: &Occasion,
    (project, errors): (&Project<'_>, &[(usize, Vec<Finding>)]),
    snapshot: &Snapshot,
    told: &mut Told,
    screen: &mut Screen,
) {
    let (repository, prepared) = (snapshot.repository(), snapshot.prepared());
    let played = project.rehearse(occasion);
    let mut concern: Vec<&Finding> = Vec::new();
    let mut others = 0;
    for (index, errors) in errors {
        let touched = concerns(&prepared[*index], &played[*index], occasion, repository);
        for finding in errors {
            // A file that this push would start is held up by what keeps it from starting, too.
            let holds_up = played[*index].starts.answer > Answer::No || matches!(finding.family(), "form" | "trigger" | "branch");
            // What is wrong inside an action is told once, however many pipelines run it.
            let known = concern.iter().any(|other| (other.rule, other.at) == (finding.rule, finding.at));
            match touched && holds_up {
                true if !known => concern.push(finding),
                true => {}
                false => others += 1,
            }
        }
    }
    if concern.is_empty() && told.refs >= REFS_SHOWN {
        told.passed += 1;
        return;
    }
    told.refs += 1;
    told.errors += concern.len();
    told.mendable |= concern.iter().any(|finding| finding.mend.certain);
    screen.line(&format!("{} {}", styled(BOLD, "dulk guard"), shown(&occasion.told())));
    let mut starts = false;
    for (index, _) in errors {
        starts |= started(project, *index, &played[*index], screen);
    }
    if !starts {
        screen.line(&format!("  {}", styled(DIM, "starts nothing")));
    }
    for finding in concern.iter().take(SHOWN) {
        let head = format!("  ✖ {}  ", finding.rule);
        let text = format!("{}  {}", place(finding.at, &repository.sources), shown(&finding.message));
        screen.hang(&styled(RED, &head), &text);
    }
    if concern.len() > SHOWN {
        screen.line(&format!("  and {} more", concern.len() - SHOWN));
    }
    if others > 0 {
        let text = if others == 1 {
            "1 error in a pipeline that this push does not start".to_owned()
        } else {
            format!("{others} errors in pipelines that this push does not start")
        };
        screen.line(&format!("  {}", styled(DIM, &text)));
    }
}

/// Says what a pipeline does on the push; whether it does anything.
fn started(project: &Project<'_>, index: usize, rehearsal: &Rehearsal, screen: &mut Screen) -> bool {
    if rehearsal.starts.answer == Answer::No {
        return false;
    }
    let case = project.case(index);
    let jobs: Vec<String> = case
        .pipeline
        .jobs
        .iter()
        .zip(&rehearsal.jobs)
        .filter(|(_, verdict)| verdict.answer > Answer::No)
        .map(
            |(job, verdict)| {
                if verdict.answer == Answer::Yes { shown(&job.id.value) } else { format!("{} (maybe)", shown(&job.id.value)) }
            },
        )
        .collect();
    let verb = if rehearsal.starts.answer == Answer::Yes { "starts" } else { "may start" };
    screen.line(&format!(
        "  {} {}: {}",
        styled(CYAN, verb),
        shown(&project.label(index)),
        if jobs.is_empty() { "no job".to_owned() } else { listed(&jobs) }
    ));
    for line in detail::published_lines(&case, rehearsal) {
        screen.line(&format!("  {}", styled(GREEN, &line)));
    }
    true
}

/// Whether a pipeline has to do with a push: it is started by it, or would be if it were in order.
fn concerns(prepared: &Prepared, rehearsal: &Rehearsal, occasion: &Occasion, repository: &Repository) -> bool {
    if rehearsal.starts.answer > Answer::No {
        return true;
    }
    let default = repository.facts.git.default_branch.known();
    let to_default = occasion.kind == OccasionKind::Push && default.is_none_or(|default| occasion.name.as_ref() == Some(default));
    let waits_for_pushes = prepared.pipeline.triggers.iter().any(|trigger| trigger.event == Event::Push) || !prepared.whole;
    to_default && waits_for_pushes
}
