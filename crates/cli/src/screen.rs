//! The terminal: colours and width.

use std::borrow::Cow;
use std::io::{IsTerminal, Write};

use anstream::{AutoStream, ColorChoice};
use anstyle::Style;
use dulk_core::shown::harmless;
use rayon::prelude::*;

use crate::args::Color;

/// Where there is no terminal, lines are made for this many columns.
const WIDTH_WITHOUT_TERMINAL: usize = 100;
/// With fewer things to show, sharing the work takes longer than it saves.
const PARALLEL_FROM: usize = 32;
/// Text is broken into no narrower columns than this.
const NARROWEST: usize = 20;
/// Every colour begins with it, and nothing else that is shown holds it.
const ESCAPE: char = '\u{1b}';
const WIDTH_LIMITS: std::ops::RangeInclusive<usize> = 40..=140;

/// Collects what is shown and writes it whole.
pub struct Screen {
    text: String,
    choice: ColorChoice,
    /// Nothing is coloured.
    is_plain: bool,
    /// In columns.
    pub width: usize,
    on_terminal: bool,
    /// Somebody has said how wide it is.
    is_bounded: bool,
}

impl Screen {
    /// For standard output.
    pub fn new(color: Color) -> Self {
        let choice = match color {
            Color::Auto => ColorChoice::Auto,
            Color::Always => ColorChoice::Always,
            Color::Never => ColorChoice::Never,
        };
        let is_plain = match choice {
            ColorChoice::Auto => AutoStream::choice(&std::io::stdout()) == ColorChoice::Never,
            choice => choice == ColorChoice::Never,
        };
        if is_plain {
            // Then colours are not made in the first place, which is much of the work.
            ColorChoice::Never.write_global();
        }
        let (on_terminal, columns) = (std::io::stdout().is_terminal(), columns());
        let width = columns.unwrap_or(WIDTH_WITHOUT_TERMINAL).clamp(*WIDTH_LIMITS.start(), *WIDTH_LIMITS.end());
        Self { text: String::new(), choice, is_plain, width, on_terminal, is_bounded: columns.is_some() }
    }

    /// Adds what a call shows of each of many things, in their order, worked out at the same time.
    pub fn each<T: Sync>(&mut self, things: &[T], show: impl Fn(&T, &mut Self) + Sync) {
        if things.len() < PARALLEL_FROM {
            return things.iter().for_each(|thing| show(thing, self));
        }
        let sheet = |part: &[T]| {
            let mut sheet = Self { text: String::new(), ..*self };
            part.iter().for_each(|thing| show(thing, &mut sheet));
            sheet.text
        };
        let parts: Vec<String> = things.par_chunks(PARALLEL_FROM).map(sheet).collect();
        self.text.reserve(parts.iter().map(String::len).sum());
        self.text.extend(parts);
    }

    /// Adds a line, broken where the screen ends.
    pub fn line(&mut self, text: &str) {
        if self.is_bounded && textwrap::core::display_width(text) > self.width {
            let inner = text.trim_start_matches(' ');
            let indent = " ".repeat((text.len() - inner.len()).min(self.width / 2));
            for line in wrap(inner, self.width - indent.len()) {
                self.data(&format!("{indent}{line}"));
            }
            return;
        }
        self.data(text);
    }

    /// Adds what other programs read, as it is.
    pub fn data(&mut self, text: &str) {
        self.text.push_str(text);
        self.text.push('\n');
    }

    /// Adds a text after what begins its first line, broken where the screen ends; what follows stands under where the text began.
    pub fn hang(&mut self, start: &str, text: &str) {
        let before = textwrap::core::display_width(start);
        let lines = wrap(text, self.width.saturating_sub(before));
        for (number, line) in lines.iter().enumerate() {
            let start = if number == 0 { start.to_owned() } else { " ".repeat(before) };
            self.line(format!("{start}{line}").trim_end());
        }
    }

    /// Adds a line of a file. On a terminal it is broken where the screen ends, with what follows a little further in; elsewhere it stays
    /// whole, for programs.
    pub fn of_file(&mut self, style: Style, text: &str) {
        if !self.on_terminal {
            return self.data(&styled(style, text));
        }
        let inner = text.trim_start_matches(' ');
        let indent = (text.len() - inner.len()).min(self.width / 2);
        for (number, line) in wrap(inner, self.width.saturating_sub(indent + 4)).iter().enumerate() {
            let indent = if number == 0 { indent } else { indent + 4 };
            self.line(&styled(style, &format!("{}{line}", " ".repeat(indent))));
        }
    }

    /// Takes what was collected, without colours; nothing is left to write.
    pub fn take_plain(&mut self) -> String {
        let text = std::mem::take(&mut self.text);
        if text.contains(ESCAPE) { anstream::adapter::strip_str(&text).to_string() } else { text }
    }

    /// Writes what was collected.
    ///
    /// # Errors
    /// When standard output cannot be written.
    pub fn flush(&mut self) -> std::io::Result<()> {
        let out = std::io::stdout();
        // In one piece: what takes colours away piece by piece would write each of them by itself.
        let text = if self.is_plain { self.take_plain() } else { std::mem::take(&mut self.text) };
        let mut out = AutoStream::new(out, if self.is_plain { ColorChoice::AlwaysAnsi } else { self.choice });
        out.write_all(text.as_bytes())?;
        out.flush()
    }
}

/// What is made of each of many things, in their order, worked out at the same time.
pub fn of_each<T: Sync, R: Send>(things: &[T], make: impl Fn(&T) -> R + Sync + Send) -> Vec<R> {
    match things.len() < PARALLEL_FROM {
        true => things.iter().map(make).collect(),
        false => things.par_iter().map(make).collect(),
    }
}

/// The terminal's columns, or what COLUMNS says where there is none.
fn columns() -> Option<usize> {
    if std::io::stdout().is_terminal() {
        return terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    }
    std::env::var("COLUMNS").ok()?.parse().ok()
}

/// Breaks a text at spaces, or anywhere when a word is too long. What colours it counts for nothing.
pub fn wrap(text: &str, width: usize) -> Vec<String> {
    wrap_at(text, width.max(NARROWEST))
}

/// The same at any width.
pub fn wrap_at(text: &str, width: usize) -> Vec<String> {
    let options = textwrap::Options::new(width)
        .word_separator(textwrap::WordSeparator::AsciiSpace)
        .word_splitter(textwrap::WordSplitter::NoHyphenation)
        .wrap_algorithm(textwrap::WrapAlgorithm::FirstFit);
    textwrap::wrap(text, options).into_iter().map(Cow::into_owned).collect()
}

/// One line on standard error.
pub fn complain(text: &str) {
    let text = harmless(text);
    let mut out = AutoStream::new(std::io::stderr(), ColorChoice::Auto);
    // There is nowhere left to tell that standard error is closed.
    let _ = writeln!(out, "dulk: {text}");
}

/// A text in a style; as it is where nothing is coloured.
pub fn styled(style: Style, text: &str) -> String {
    if ColorChoice::global() == ColorChoice::Never {
        return text.to_owned();
    }
    format!("{style}{text}{style:#}")
}
