//! Shell text as commands: words, redirects and what joins them, with their places.
//!
//! It reads what stands in pipeline files, where `${{ … }}` holes sit in the middle of words, and goes on after anything it
//! does not understand. It runs nothing and expands nothing: a word whose value depends on the run says so.

mod scan;
mod variables;

pub use scan::parse;
pub use variables::{sets_unknown_variables, variable_reads, variables_set};

use std::ops::Range;

/// What stands before a command.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Join {
    /// The start, a new line or `;`: it runs whatever happened before.
    Next,
    /// `&&`: only after success.
    And,
    /// `||`: only after failure.
    Or,
    /// `|`: it reads what the command before writes.
    Pipe,
}

/// A word after the shell has taken its quotes away.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Word {
    /// Bytes in the script, quotes included.
    pub range: Range<usize>,
    /// Without quotes and escapes; holes and variables stand as they are written.
    pub text: String,
    /// Holds a hole, a variable or a command substitution: the text is not what the command gets.
    pub dynamic: bool,
    /// Holds an unquoted `*`, `?` or `[`.
    pub glob: bool,
    /// Any part was quoted.
    pub quoted: bool,
}

impl Word {
    /// The text when it is what the command gets.
    pub fn known(&self) -> Option<&str> {
        (!self.dynamic).then_some(self.text.as_str())
    }
}

/// `> file` and its kin.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Redirect {
    /// Whether the command writes there (`>`, `>>`), rather than reads.
    pub writes: bool,
    /// Whether it adds to what is there (`>>`).
    pub appends: bool,
    /// The file.
    pub target: Word,
}

/// One simple command.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Command {
    /// `NAME=value` before the command, or alone.
    pub assignments: Vec<(String, Word)>,
    /// The command's name and arguments; empty when there are only assignments.
    pub words: Vec<Word>,
    /// In the order they are written.
    pub redirects: Vec<Redirect>,
    /// What stands before it.
    pub join: Join,
    /// Which subshells it is in, from the outside: a `cd` there ends with them.
    pub subshells: Vec<u32>,
    /// Inside `if`, a loop, `case` or a function: it may run never, once or often.
    pub guarded: bool,
    /// Bytes in the script.
    pub range: Range<usize>,
}

impl Command {
    /// The command's name when it is known.
    pub fn name(&self) -> Option<&str> {
        self.words.first()?.known()
    }
}

/// A whole script.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Script {
    /// In the order they are written, commands of substitutions left out.
    pub commands: Vec<Command>,
    /// Something was not understood; the commands are then not all there are.
    pub torn: bool,
}

#[cfg(test)]
mod tests;
