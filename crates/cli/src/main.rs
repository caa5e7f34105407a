//! The `dulk` program: what was typed, what is shown, and how it ends.

mod args;
mod check;
mod checked;
mod demo;
mod documents;
mod facts;
mod guard;
mod mend;
mod render;
mod screen;
mod trail;
mod when;
mod why;

use std::process::ExitCode;

use clap::Parser;

use args::{Args, Command};
use screen::Screen;

/// How the program ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Outcome {
    /// Nothing at or above the threshold.
    Clean,
    /// Something was found.
    Found,
}

fn main() -> ExitCode {
    let args = Args::parse();
    let mut screen = Screen::new(args.color);
    let today = args.day();
    let result = match args.command {
        None => check::run(&args.check, &[], today, &mut screen),
        Some(Command::Check { options, paths }) => check::run(&options, &paths, today, &mut screen),
        Some(Command::Facts(options)) => facts::run(&options, &mut screen),
        Some(Command::Mend(options)) => mend::run(&options, today, &mut screen),
        Some(Command::Why { rule }) => why::run(rule.as_deref(), &mut screen),
        Some(Command::Completions { shell }) => documents::completions(shell, &mut screen),
        Some(Command::Manual { dir }) => documents::manual(&dir, &mut screen),
        Some(Command::Guard { action }) => guard::run(&action, today, &mut screen),
        Some(Command::Trail(options)) => trail::run(&options, today, &mut screen),
        Some(Command::When(options)) => when::run(&options, args.today, &mut screen),
        Some(Command::Demo { keep }) => demo::run(keep, today, &mut screen),
    };
    match result.and_then(|outcome| screen.flush().map(|()| outcome)) {
        Ok(Outcome::Clean) => ExitCode::SUCCESS,
        Ok(Outcome::Found) => ExitCode::from(1),
        Err(error) => {
            // Whoever closed the pipe has read enough.
            if error.downcast_ref::<std::io::Error>().is_some_and(|error| error.kind() == std::io::ErrorKind::BrokenPipe) {
                return ExitCode::SUCCESS;
            }
            screen::complain(&format!("{error:#}"));
            ExitCode::from(2)
        }
    }
}
