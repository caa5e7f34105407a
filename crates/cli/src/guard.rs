//! `dulk guard`.

use std::io::Read;
use std::path::Path;

use anyhow::bail;
use dulk_core::finding::{Finding, Severity, listed};
use dulk_core::formats::Prepared;
use dulk_core::knowledge::Date;
use dulk_core::model::Event;
use dulk_core::project::Project;
use dulk_core::rehearsal::{Answer, Occasion, OccasionKind, Rehearsal};
use dulk_gather::{HookState, Repository, changed_paths, hook_off, hook_on, hook_status};
use dulk_snapshot::Snapshot;

use crate::Outcome;
use crate::args::GuardAction;
use crate::render::detail;
use crate::render::text::{BOLD, CYAN, DIM, GREEN, RED, place, shown, wrap};
use crate::screen::{Screen, styled};

/// Lines on standard input; git gives one for each ref.
const LINE_LIMIT: usize = 1_000;
/// Findings that are named; the rest is counted.
const SHOWN: usize = 6;

/// Runs the command.
///
/// # Errors
/// Outside git, when a hook cannot be written, or standard input is not git's.
pub fn run(action: &GuardAction, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    match action {
        GuardAction::On => {
            let program = std::env::current_exe()?;
            let state = hook_on(&start, &program).map_err(anyhow::Error::msg)?;
            screen.line(&format!("Dulk looks at every push from here on, by {}.", state.path.display()));
            if state.kept {
                screen.line("The hook that was there is kept beside it, and runs after it.");
            }
        }
        GuardAction::Off => {
            let before = hook_status(&start).map_err(anyhow::Error::msg)?;
            let state = hook_off(&start).map_err(anyhow::Error::msg)?;
            screen.line(match (before.on, state.other) {
                (false, _) => "The guard was not on; nothing was changed.",
                (true, true) => "The guard is off, and the hook that was there before is back in its place.",
                (true, false) => "The guard is off.",
            });
        }
        GuardAction::Status => status(&hook_status(&start).map_err(anyhow::Error::msg)?, screen),
        GuardAction::Check { .. } => return check_push(&start, today, screen),
    }
    Ok(Outcome::Clean)
}

fn status(state: &HookState, screen: &mut Screen) {
    let path = state.path.display();
    screen.line(&match (state.on, state.other, state.kept) {
        (true, _, true) => format!("The guard is on, by {path}; the hook that was there before runs after it."),
        (true, _, false) => format!("The guard is on, by {path}."),
        (false, true, _) => format!("The guard is off; another hook stands at {path}. dulk guard on keeps and runs it."),
        (false, false, _) => "The guard is off. dulk guard on looks at every push before it is made.".to_owned(),
    });
}

/// One ref that is pushed.
struct Pushed {
    local: String,
    occasion: Option<Occasion>,
    remote_ref: String,
    remote: String,
}

fn is_id(text: &str) -> bool {
    matches!(text.len(), 40 | 64) && text.bytes().all(|byte| byte.is_ascii_hexdigit())
}

fn is_none(id: &str) -> bool {
    id.bytes().all(|byte| byte == b'0')
}

/// Reads git's lines: local ref, local id, remote ref, remote id.
fn read_lines(text: &str) -> anyhow::Result<Vec<Pushed>> {
    let mut found = Vec::new();
    for line in text.lines().filter(|line| !line.trim().is_empty()).take(LINE_LIMIT) {
        let words: Vec<&str> = line.split_whitespace().collect();
        let [_, local, remote_ref, remote] = words.as_slice() else {
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
        found.push(Pushed {
            local: (*local).to_owned(),
            occasion,
            remote_ref: (*remote_ref).to_owned(),
            remote: (*remote).to_owned(),
        });
    }
    Ok(found)
}

fn check_push(start: &Path, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let mut text = String::new();
    std::io::stdin().take(1 << 20).read_to_string(&mut text)?;
    let mut stopped = 0;
    let mut mendable = false;
    for pushed in read_lines(&text)? {
        let Some(occasion) = &pushed.occasion else { continue };
        if is_none(&pushed.local) {
            screen.line(&format!("dulk: {} is deleted; a deletion starts nothing.", shown(&pushed.remote_ref)));
            continue;
        }
        match Snapshot::of_commit(start, &pushed.local, occasion.branch(), Some(today)) {
            Ok(snapshot) => {
                let (count, certain) = one(start, &pushed, occasion, &snapshot, screen);
                stopped += count;
                mendable |= certain;
            }
            // What is not in the object store cannot be judged, and is no reason to stop anybody.
            Err(error) => screen.line(&format!("dulk: {} was not looked at: {error}", shown(&pushed.remote_ref))),
        }
    }
    if stopped == 0 {
        return Ok(Outcome::Clean);
    }
    let errors = if stopped == 1 { "1 error concerns".to_owned() } else { format!("{stopped} errors concern") };
    let mend = if mendable { ", dulk mend --write mends what is certain" } else { "" };
    for line in wrap(&format!("Stopped: {errors} this push. dulk check shows all of it{mend}."), screen.width) {
        screen.line(&styled(RED, &line));
    }
    screen.line("To push all the same: git push --no-verify");
    Ok(Outcome::Found)
}

/// Looks at one ref; gives how many errors concern it, and whether one of them can be mended.
fn one(start: &Path, pushed: &Pushed, occasion: &Occasion, snapshot: &Snapshot, screen: &mut Screen) -> (usize, bool) {
    let (repository, prepared) = (snapshot.repository(), snapshot.prepared());
    let mut occasion = occasion.clone();
    if !is_none(&pushed.remote) && occasion.kind == OccasionKind::Push {
        occasion.changed = changed_paths(start, &pushed.remote, &pushed.local).ok();
    }
    let project = snapshot.project();
    let played = project.rehearse(&occasion);
    screen.line(&format!("{} {}", styled(BOLD, "dulk guard"), shown(&occasion.told())));
    let mut concern: Vec<Finding> = Vec::new();
    let mut others = 0;
    let mut starts = false;
    for index in project.standalone() {
        starts |= started(&project, index, &played[index], screen);
        let errors = dulk_core::check(&project, index).into_iter().filter(|finding| finding.severity == Severity::Error);
        let touched = concerns(&prepared[index], &played[index], &occasion, repository);
        for finding in errors {
            // A file that this push would start is held up by what keeps it from starting, too.
            let holds_up = played[index].starts.answer > Answer::No || matches!(finding.family(), "form" | "trigger" | "branch");
            // What is wrong inside an action is told once, however many pipelines run it.
            let known = concern.iter().any(|other| (other.rule, other.at) == (finding.rule, finding.at));
            match touched && holds_up {
                true if !known => concern.push(finding),
                true => {}
                false => others += 1,
            }
        }
    }
    if !starts {
        screen.line(&format!("  {}", styled(DIM, "starts nothing")));
    }
    for finding in concern.iter().take(SHOWN) {
        let head = format!("  ✖ {}  ", finding.rule);
        let text = format!("{}  {}", place(finding.at, &repository.sources), shown(&finding.message));
        for (number, line) in wrap(&text, screen.width.saturating_sub(head.chars().count())).iter().enumerate() {
            let start = if number == 0 { styled(RED, &head) } else { " ".repeat(head.chars().count()) };
            screen.line(&format!("{start}{line}"));
        }
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
    (concern.len(), concern.iter().any(|finding| finding.mend.certain))
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
