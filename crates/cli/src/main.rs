//! The `dulk` program: what was typed, what is shown, and how it ends.

mod args;
mod ask;
mod check;
mod checked;
mod demo;
mod documents;
mod draft;
mod facts;
mod guard;
mod mend;
mod output;
mod render;
mod report;
mod screen;
mod serve;
mod trail;
mod when;
mod why;

use std::io::{ErrorKind, Write};
use std::process::ExitCode;

use args::Command;
use screen::Screen;

/// Among many pipelines, half of the time of the programs that are handed out would go into asking their C library for memory: it serves
/// one thread at a time.
#[cfg(target_env = "musl")]
#[global_allocator]
static MEMORY: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// How the program ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Outcome {
    /// Nothing at or above the threshold.
    Clean,
    /// Something was found.
    Found,
    /// Something could not be done, which has been told.
    Failed,
}

impl From<Outcome> for ExitCode {
    fn from(outcome: Outcome) -> Self {
        match outcome {
            Outcome::Clean => Self::SUCCESS,
            Outcome::Found => Self::from(1),
            Outcome::Failed => Self::from(2),
        }
    }
}

fn main() -> ExitCode {
    let args = match args::parse() {
        Ok(args) => args,
        Err(said) => return told(&said),
    };
    let mut screen = Screen::new(args.everywhere.color);
    let today = args.day();
    let result = match args.command {
        None => check::run(&args.check, &[], today, &mut screen),
        Some(Command::Check(check)) => check::run(&check.options, &check.paths, today, &mut screen),
        Some(Command::Facts(options)) => facts::run(&options, &mut screen),
        Some(Command::Draft(options)) => draft::run(&options, today, &mut screen),
        Some(Command::Mend(options)) => mend::run(&options, today, &mut screen),
        Some(Command::Why { rule }) => why::run(rule.as_deref(), &mut screen),
        Some(Command::Completions { shell }) => documents::completions(shell, &mut screen),
        Some(Command::Manual { dir }) => documents::manual(&dir, &mut screen),
        Some(Command::Guard { action }) => guard::run(&action, today, &mut screen),
        Some(Command::Trail(options)) => trail::run(&options, today, &mut screen),
        Some(Command::Report(options)) => report::run(&options, today, &mut screen),
        Some(Command::When(options)) => when::run(&options, args.everywhere.today, &mut screen),
        Some(Command::Serve { stdio: _ }) => Ok(serve::run(today)),
        Some(Command::Demo { draft: true, .. }) => demo::draft(today, &mut screen),
        Some(Command::Demo { keep, ask, draft: false }) => demo::run(keep, ask, today, &mut screen),
    };
    match result {
        Ok(outcome) => written(screen.flush(), outcome),
        Err(error) => {
            screen::complain(&format!("{error:#}"));
            Outcome::Failed.into()
        }
    }
}

/// How it ends when that has been written. Whoever closed the pipe has read enough; what was found is found.
fn written(writing: std::io::Result<()>, outcome: Outcome) -> ExitCode {
    match writing {
        Err(error) if error.kind() != ErrorKind::BrokenPipe => {
            screen::complain(&format!("the output cannot be written: {error}"));
            Outcome::Failed.into()
        }
        _ => outcome.into(),
    }
}

/// Shows help, the version, or what is wrong with the call.
fn told(said: &clap::Error) -> ExitCode {
    let outcome = if said.use_stderr() { Outcome::Failed } else { Outcome::Clean };
    written(said.print().and_then(|()| std::io::stdout().flush()), outcome)
}
