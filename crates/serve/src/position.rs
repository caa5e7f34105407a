//! Bytes in a text as the protocol's positions, and back.

use dulk_core::text::{SourceFile, Span};
use lsp_types::{Position, PositionEncodingKind, Range};

/// How the columns of positions are counted.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Encoding {
    /// In bytes.
    Utf8,
    /// In the units of UTF-16, which every client knows.
    #[default]
    Utf16,
}

impl Encoding {
    /// Bytes where the client takes them.
    pub fn of(takes_bytes: bool) -> Self {
        if takes_bytes { Self::Utf8 } else { Self::Utf16 }
    }

    /// Its name in the protocol.
    pub fn kind(self) -> PositionEncodingKind {
        match self {
            Self::Utf8 => PositionEncodingKind::UTF8,
            Self::Utf16 => PositionEncodingKind::UTF16,
        }
    }

    fn width(self, c: char) -> usize {
        match self {
            Self::Utf8 => c.len_utf8(),
            Self::Utf16 => c.len_utf16(),
        }
    }

    /// The position of a byte, moved back where it lies inside a character or behind the end. The mark at the start of a file is no
    /// character of it, as editors take it away.
    pub fn position(self, source: &SourceFile, offset: usize) -> Position {
        let clamp = |number: usize| u32::try_from(number).unwrap_or(u32::MAX);
        let offset = source.text.floor_char_boundary(offset);
        let line = source.position(clamp(offset)).line;
        let start = source.line_start(line);
        let before = source.text[start..offset].trim_start_matches('\u{feff}');
        let column = before.chars().map(|c| self.width(c)).sum();
        Position { line: line - 1, character: clamp(column) }
    }

    /// The range of a span.
    pub fn range(self, source: &SourceFile, span: Span) -> Range {
        let (start, end) = (span.start as usize, span.end.max(span.start) as usize);
        Range { start: self.position(source, start), end: self.position(source, end) }
    }

    /// The byte of a position. One behind the end of its line is that end, as the protocol says; one behind the last line is the end of
    /// the text, and one inside a character is moved back.
    pub fn offset(self, source: &SourceFile, position: Position) -> usize {
        let start = source.line_start(position.line.saturating_add(1));
        let Some(line) = source.text[start..].split(['\n', '\r']).next() else { return start };
        let mut left = position.character as usize;
        let mut at = start;
        for (index, c) in line.char_indices() {
            if c == '\u{feff}' && start + index == 0 {
                at = c.len_utf8();
                continue;
            }
            let width = self.width(c);
            if left < width {
                return at;
            }
            left -= width;
            at = start + index + c.len_utf8();
        }
        at
    }

    /// The span of a range, its ends in order.
    pub fn span(self, source: &SourceFile, range: Range) -> Span {
        let start = self.offset(source, range.start);
        Span::new(start, self.offset(source, range.end).max(start))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_byte_comes_back_in_both_encodings() {
        for text in ["", "a", "é: x\r\nö🚢: yz\rend\n", "\u{feff}🚢 a\n\n  b"] {
            let source = SourceFile::new("a.yml", text);
            for encoding in [Encoding::Utf8, Encoding::Utf16] {
                for (offset, c) in text.char_indices().filter(|(_, c)| !matches!(c, '\n' | '\r' | '\u{feff}')) {
                    let position = encoding.position(&source, offset);
                    assert_eq!(encoding.offset(&source, position), offset, "{c:?} of {text:?}, {encoding:?}");
                }
            }
        }
        let source = SourceFile::new("a.yml", "é🚢x");
        let columns = |encoding: Encoding| encoding.position(&source, 6).character;
        assert_eq!((columns(Encoding::Utf8), columns(Encoding::Utf16)), (6, 3));
    }

    #[test]
    fn positions_that_are_not_there_stay_inside() {
        let source = SourceFile::new("a.yml", "ab\r\nc🚢");
        let at = |line, character| Encoding::Utf16.offset(&source, Position { line, character });
        assert_eq!(at(0, 99), 2);
        assert_eq!(at(9, 0), source.text.len());
        assert_eq!(at(u32::MAX, u32::MAX), source.text.len());
        assert_eq!(at(1, 2), 5, "inside the ship");
        let backwards = Range { start: Position { line: 1, character: 1 }, end: Position { line: 0, character: 0 } };
        assert!(Encoding::Utf16.span(&source, backwards).is_empty());
        assert_eq!(Encoding::Utf16.position(&source, 999), Position { line: 1, character: 3 });
    }
}
