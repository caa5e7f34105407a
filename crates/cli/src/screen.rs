//! The terminal: colours, width, and text from files made harmless.

use std::borrow::Cow;
use std::io::{IsTerminal, Write};

use anstream::{AutoStream, ColorChoice};
use anstyle::Style;

use crate::args::Color;

/// Where there is no terminal, lines are made for this many columns.
const WIDTH_WITHOUT_TERMINAL: usize = 100;
const WIDTH_LIMITS: std::ops::RangeInclusive<usize> = 40..=140;

/// Collects what is shown and writes it whole.
pub struct Screen {
    text: String,
    choice: ColorChoice,
    /// In columns.
    pub width: usize,
}

impl Screen {
    /// For standard output.
    pub fn new(color: Color) -> Self {
        let choice = match color {
            Color::Auto => ColorChoice::Auto,
            Color::Always => ColorChoice::Always,
            Color::Never => ColorChoice::Never,
        };
        Self { text: String::new(), choice, width: width() }
    }

    /// Adds a line.
    pub fn line(&mut self, text: &str) {
        self.text.push_str(text);
        self.text.push('\n');
    }

    /// Takes what was collected, without colours; nothing is left to write.
    pub fn take_plain(&mut self) -> String {
        let text = std::mem::take(&mut self.text);
        anstream::adapter::strip_str(&text).to_string()
    }

    /// Writes what was collected.
    ///
    /// # Errors
    /// When standard output cannot be written.
    pub fn flush(&mut self) -> anyhow::Result<()> {
        let mut out = AutoStream::new(std::io::stdout(), self.choice);
        out.write_all(self.text.as_bytes())?;
        out.flush()?;
        self.text.clear();
        Ok(())
    }
}

fn width() -> usize {
    if !std::io::stdout().is_terminal() {
        return WIDTH_WITHOUT_TERMINAL;
    }
    let columns = terminal_size::terminal_size().map_or(WIDTH_WITHOUT_TERMINAL, |(width, _)| usize::from(width.0));
    columns.clamp(*WIDTH_LIMITS.start(), *WIDTH_LIMITS.end())
}

/// One line on standard error.
pub fn complain(text: &str) {
    let text = harmless(text);
    let mut out = AutoStream::new(std::io::stderr(), ColorChoice::Auto);
    // There is nowhere left to tell that standard error is closed.
    let _ = writeln!(out, "dulk: {text}");
}

/// A text in a style.
pub fn styled(style: Style, text: &str) -> String {
    format!("{style}{text}{style:#}")
}

/// Text of a file without what steers a terminal: control characters become signs, and characters that turn the direction of
/// writing are shown by their number.
pub fn harmless(text: &str) -> Cow<'_, str> {
    let steers = |c: char| {
        c.is_control() || matches!(c, '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{feff}')
    };
    if !text.contains(steers) {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\t' => out.push(' '),
            c if (c as u32) < 0x20 => out.push(char::from_u32(0x2400 + c as u32).unwrap_or('\u{fffd}')),
            c if steers(c) => out.push_str(&format!("<{:04X}>", c as u32)),
            c => out.push(c),
        }
    }
    Cow::Owned(out)
}

#[cfg(test)]
mod tests {
    use super::harmless;

    #[test]
    fn control_characters_become_signs() {
        assert_eq!(harmless("a\x1b[31mb\tc"), "a\u{241b}[31mb c");
        assert_eq!(harmless("a\u{202e}b\u{9b}c"), "a<202E>b<009B>c");
        assert_eq!(harmless("plain é"), "plain é");
    }
}
