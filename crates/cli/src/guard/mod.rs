//! `dulk guard`: the hook is put in place, looked at and taken away.

mod push;

use dulk_core::knowledge::Date;
use dulk_gather::{HookState, hook_off, hook_on, hook_status};

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
        GuardAction::On { shared } => {
            let program = std::env::current_exe()?;
            let state = hook_on(&start, &program, *shared).map_err(anyhow::Error::msg)?;
            say(&format!("Dulk looks at every push from here on, by {}.", state.path.display()), screen);
            if state.kept {
                say("The hook that was there is kept beside it, and runs after it.", screen);
            }
            if state.managed {
                say(
                    "What else runs here before a push goes on running; an install of packages leaves this file as it is.",
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
        GuardAction::Status => status(&hook_status(&start).map_err(anyhow::Error::msg)?, screen),
        GuardAction::Check { .. } => return push::check(&start, today, screen),
    }
    Ok(Outcome::Clean)
}

fn say(text: &str, screen: &mut Screen) {
    screen.hang("", &shown(text));
}

fn status(state: &HookState, screen: &mut Screen) {
    let path = state.path.display();
    let text = match (state.on, state.other, state.kept, &state.aside) {
        (true, _, true, _) => format!("The guard is on, by {path}; the hook that was there before runs after it."),
        (true, ..) => format!("The guard is on, by {path}."),
        (false, _, _, Some(aside)) => format!(
            "Another hook was put at {path} after the guard, which now lies in {}: whether it still runs is up to that hook. dulk guard on puts it in front again.",
            aside.display()
        ),
        (false, true, ..) => format!("The guard is off; another hook stands at {path}. dulk guard on keeps and runs it."),
        (false, false, ..) => "The guard is off. dulk guard on looks at every push before it is made.".to_owned(),
    };
    say(&text, screen);
}
