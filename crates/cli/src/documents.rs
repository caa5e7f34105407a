//! Shell completions and manual pages, from the definitions of the commands themselves.

use std::path::Path;

use anyhow::Context;
use clap::CommandFactory;

use crate::Outcome;
use crate::args::Args;
use crate::screen::Screen;

/// Prints the completions for a shell.
///
/// # Errors
/// Never; like the other commands it says so.
pub fn completions(shell: clap_complete::Shell, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let mut out = Vec::new();
    clap_complete::generate(shell, &mut Args::command(), "dulk", &mut out);
    screen.data(String::from_utf8_lossy(&out).trim_end());
    Ok(Outcome::Clean)
}

/// Writes one manual page for the program and one for each command.
///
/// # Errors
/// When the folder cannot be written.
pub fn manual(dir: &Path, screen: &mut Screen) -> anyhow::Result<Outcome> {
    std::fs::create_dir_all(dir).with_context(|| format!("{} cannot be made", dir.display()))?;
    clap_mangen::generate_to(Args::command(), dir)
        .with_context(|| format!("the pages cannot be written into {}", dir.display()))?;
    screen.line(&format!("The manual pages are in {}.", dir.display()));
    Ok(Outcome::Clean)
}
