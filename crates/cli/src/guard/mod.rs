//! `dulk guard`: the hook is put in place, looked at and taken away.

mod push;

use std::path::Path;

use dulk_core::knowledge::Date;
use dulk_gather::{HookOptions, HookState, hook_off, hook_on, hook_status, is_fetched_for_one_call};

use crate::Outcome;
use crate::args::GuardAction;
use crate::render::text::shown;
use crate::screen::Screen;

/// Runs the command.
///
/// # Errors
/// Outside git, when a hook cannot be written, or standard input is not git's.
pub fn run(action: &GuardAction, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    match action {
        GuardAction::On { shared, strict } => {
            let program = std::env::current_exe()?;
            let options = HookOptions { shared: *shared, strict: *strict };
            let state = hook_on(&start, &program, options).map_err(anyhow::Error::msg)?;
            if state.called {
                status(&start, &state, screen);
                return Ok(Outcome::Clean);
            }
            say(&format!("Dulk looks at every push from here on, by {}.", near(&state.path, &start)), screen);
            if *strict {
                say("A push that it cannot look at is stopped, too.", screen);
            }
            if state.kept {
                say("The hook that was there is kept beside it, and runs after it.", screen);
            }
            if state.managed {
                say(
                    "What else runs here before a push goes on running; an install of packages leaves this file as it is.",
                    screen,
                );
            }
            if is_fetched_for_one_call(&program) {
                say(
                    "This program lies among those that are fetched for one call and cleared away again: install it in the project, with npm install --save-dev dulk, and turn the guard on with that one.",
                    screen,
                );
            }
        }
        GuardAction::Off => {
            let before = hook_status(&start).map_err(anyhow::Error::msg)?;
            let state = hook_off(&start).map_err(anyhow::Error::msg)?;
            let was_on = before.on || before.aside.is_some();
            say(
                match (was_on, before.kept, state.other) {
                    (false, ..) => "The guard was not on; nothing was changed.",
                    (true, true, true) => "The guard is off, and the hook that was there before is back in its place.",
                    (true, false, true) => "The guard is off; what else stands in the hook is as it was.",
                    (true, _, false) => "The guard is off.",
                },
                screen,
            );
        }
        GuardAction::Status => status(&start, &hook_status(&start).map_err(anyhow::Error::msg)?, screen),
        GuardAction::Check { .. } => return push::check(&start, today, screen),
    }
    Ok(Outcome::Clean)
}

fn say(text: &str, screen: &mut Screen) {
    screen.hang("", &shown(text));
}

/// A path as it is typed in a folder, when it lies below that.
fn near<'p>(path: &'p Path, folder: &Path) -> std::path::Display<'p> {
    path.strip_prefix(folder).unwrap_or(path).display()
}

fn status(start: &Path, state: &HookState, screen: &mut Screen) {
    let path = near(&state.path, start);
    let text = match (state.on, state.other, state.kept, &state.aside) {
        _ if state.called => {
            format!("The hook at {path} runs dulk guard check by itself: every push is looked at, and it is left as it is.")
        }
        (true, _, true, _) => format!("The guard is on, by {path}; the hook that was there before runs after it."),
        (true, ..) => format!("The guard is on, by {path}."),
        (false, _, _, Some(aside)) => format!(
            "Another hook was put at {path} after the guard, which now lies in {}: whether it still runs is up to that hook. dulk guard on puts it in front again.",
            near(aside, start)
        ),
        (false, true, ..) => format!("The guard is off; another hook stands at {path}. dulk guard on keeps and runs it."),
        (false, false, ..) => "The guard is off. dulk guard on looks at every push before it is made.".to_owned(),
    };
    say(&text, screen);
    if state.strict {
        say("It stops a push that it cannot look at, too.", screen);
    }
    if let Some(gone) = &state.gone {
        let gone = near(gone, start);
        say(&format!("The program that it names is not there any more: {gone}. dulk guard on names this one instead."), screen);
    }
}
