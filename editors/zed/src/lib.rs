//! Starts the language server in Zed: the program that lies on the path of the project's shell.

use zed_extension_api::{self as zed, Command, LanguageServerId, Result, Worktree};

struct Dulk;

impl zed::Extension for Dulk {
    fn new() -> Self {
        Self
    }

    fn language_server_command(&mut self, _: &LanguageServerId, worktree: &Worktree) -> Result<Command> {
        let program = worktree.which("dulk").ok_or("dulk is not on the path: `npm install --global dulk` brings it there")?;
        Ok(Command { command: program, args: vec!["serve".into()], env: worktree.shell_env() })
    }
}

zed::register_extension!(Dulk);
