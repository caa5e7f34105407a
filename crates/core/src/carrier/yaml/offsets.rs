//! From an offset in a scalar's value back to the byte in the file that wrote it.

use crate::carrier::Style;
use crate::text::Span;

/// Runs of equal distance: (offset in the value, offset in the source), both ascending.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OffsetMap {
    runs: Vec<(u32, u32)>,
    /// No byte of the source behind this one.
    limit: u32,
}

impl OffsetMap {
    /// The map of a value that stands in the source as it is.
    pub fn identity(start: u32) -> Self {
        Self { runs: vec![(0, start)], limit: u32::MAX }
    }

    /// The map of a value that stands for other bytes: no place in it leads out of them.
    pub fn within(span: Span) -> Self {
        Self { runs: vec![(0, span.start)], limit: span.end }
    }

    /// The map of a scalar, by walking its value and its source side by side.
    pub fn of(source: &str, span: Span, value: &str, style: Style) -> Self {
        let quote = u32::from(matches!(style, Style::Single | Style::Double));
        let written = source.get(span.range()).unwrap_or_default();
        if written.get(quote as usize..).is_some_and(|rest| rest.starts_with(value)) {
            return Self::identity(span.start + quote);
        }
        Walk { source: written.as_bytes(), base: span.start, at: quote as usize, runs: Vec::new() }.run(value, style)
    }

    /// The byte in the file for a byte in the value.
    pub fn to_source(&self, offset: u32) -> u32 {
        let index = self.runs.partition_point(|(value, _)| *value <= offset).saturating_sub(1);
        let (value, source) = self.runs[index];
        (source + (offset - value.min(offset))).min(self.limit)
    }

    /// The span in the file for a range in the value. The end is taken from the last byte inside, so that a range which
    /// ends with a line does not run into the next line's indentation.
    pub fn span(&self, range: std::ops::Range<usize>) -> Span {
        let start = self.to_source(Span::new(range.start, 0).start);
        if range.is_empty() {
            return Span { start, end: start };
        }
        let last = self.to_source(Span::new(range.end - 1, 0).start);
        Span { start, end: (last + 1).min(self.limit) }
    }
}

struct Walk<'s> {
    source: &'s [u8],
    base: u32,
    at: usize,
    runs: Vec<(u32, u32)>,
}

impl Walk<'_> {
    fn run(mut self, value: &str, style: Style) -> OffsetMap {
        let mut offset = 0;
        while offset < value.len() {
            let byte = value.as_bytes()[offset];
            // Folding and indentation make the white space of value and source differ: wait for the next word.
            let escaped = style == Style::Double
                && self.source.get(self.at) == Some(&b'\\')
                && self.source.get(self.at + 1).is_none_or(|b| !matches!(b, b'\r' | b'\n'));
            if byte.is_ascii_whitespace() && !escaped {
                self.note(offset);
                if self.source.get(self.at) == Some(&byte) {
                    self.at += 1;
                }
                offset += 1;
                continue;
            }
            if !escaped {
                self.skip_white_space(style);
            }
            self.note(offset);
            offset += self.take_one(value, offset, style);
        }
        if self.runs.is_empty() {
            self.runs.push((0, self.base));
        }
        OffsetMap { runs: self.runs, limit: u32::MAX }
    }

    fn note(&mut self, offset: usize) {
        let span = Span::new(offset, self.at);
        let source = self.base + span.end;
        let continues = self.runs.last().is_some_and(|(value, from)| span.start - value == source.wrapping_sub(*from));
        if !continues {
            self.runs.push((span.start, source));
        }
    }

    fn skip_white_space(&mut self, style: Style) {
        while let Some(byte) = self.source.get(self.at) {
            let line_continues =
                style == Style::Double && *byte == b'\\' && matches!(self.source.get(self.at + 1), Some(b'\r' | b'\n'));
            if !byte.is_ascii_whitespace() && !line_continues {
                break;
            }
            self.at += 1;
        }
    }

    /// Moves over one character of the value; gives its length there.
    fn take_one(&mut self, value: &str, offset: usize, style: Style) -> usize {
        let length = value[offset..].chars().next().map_or(1, char::len_utf8);
        self.at += match (style, self.source.get(self.at)) {
            (Style::Double, Some(b'\\')) => match self.source.get(self.at + 1) {
                Some(b'x') => 4,
                Some(b'u') => 6,
                Some(b'U') => 10,
                _ => 2,
            },
            (Style::Single, Some(b'\'')) => 2,
            _ => length,
        };
        length
    }
}
