//! Source texts, and the one way to point into them: byte ranges.
//!
//! Everything in core speaks in byte offsets. Lines and columns are made at the edge, by [`SourceFile::range`].

use std::sync::OnceLock;

use serde::Serialize;

/// A byte range in one file; the end is exclusive.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Span {
    /// First byte.
    pub start: u32,
    /// The byte after the last.
    pub end: u32,
}

impl Span {
    /// A span from two offsets. Files are limited to 4 GiB long before they come here.
    pub fn new(start: usize, end: usize) -> Self {
        let clamp = |offset: usize| u32::try_from(offset).unwrap_or(u32::MAX);
        Self { start: clamp(start), end: clamp(end) }
    }

    /// The range as indices.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// Whether nothing lies between start and end, as for a value that is not written.
    pub fn is_empty(self) -> bool {
        self.start >= self.end
    }
}

/// Which file of [`Sources`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FileId(pub u32);

/// A span in a known file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Place {
    /// The file.
    pub file: FileId,
    /// Where in it, in bytes.
    pub span: Span,
}

impl Place {
    /// Whether another place lies in this one, both ends included.
    pub fn holds(self, inner: Self) -> bool {
        self.file == inner.file && self.span.start <= inner.span.start && inner.span.end <= self.span.end
    }
}

/// A line and a column, both from 1; the column counts characters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
pub struct Position {
    /// From 1.
    pub line: u32,
    /// In characters, from 1.
    pub column: u32,
}

/// Two positions; the end is exclusive.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
pub struct Range {
    /// The first character.
    pub start: Position,
    /// The one after the last.
    pub end: Position,
}

/// One text with its path and the table of its lines.
#[derive(Clone, Debug)]
pub struct SourceFile {
    /// Relative to the repository's root, with `/`.
    pub path: String,
    /// The text as read, byte-order mark included.
    pub text: String,
    /// Found when the first place of the file is asked for.
    line_starts: OnceLock<Vec<u32>>,
}

const BYTE_ORDER_MARK: &str = "\u{feff}";

impl SourceFile {
    /// Takes a text in.
    pub fn new(path: impl Into<String>, text: impl Into<String>) -> Self {
        Self { path: path.into(), text: text.into(), line_starts: OnceLock::new() }
    }

    /// The bytes at which its lines begin: `\n`, `\r\n` and a lone `\r` end one.
    fn line_starts(&self) -> &[u32] {
        self.line_starts.get_or_init(|| {
            let bytes = self.text.as_bytes();
            // Most files have more bytes in a line.
            let mut line_starts = Vec::with_capacity(1 + bytes.len() / 24);
            line_starts.push(0);
            for index in memchr::memchr2_iter(b'\n', b'\r', bytes) {
                let ends_line = bytes[index] == b'\n' || bytes.get(index + 1) != Some(&b'\n');
                if ends_line {
                    line_starts.push(Span::new(index + 1, 0).start);
                }
            }
            line_starts
        })
    }

    /// The text without a byte-order mark, and how many bytes the mark takes.
    pub fn body(&self) -> (&str, usize) {
        match self.text.strip_prefix(BYTE_ORDER_MARK) {
            Some(rest) => (rest, BYTE_ORDER_MARK.len()),
            None => (&self.text, 0),
        }
    }

    /// The source between two offsets; empty when the span does not fit the text.
    pub fn slice(&self, span: Span) -> &str {
        self.text.get(span.range()).unwrap_or_default()
    }

    /// Line and column of an offset. An offset past the end, or inside a character, is moved back to the last one that fits.
    pub fn position(&self, offset: u32) -> Position {
        let mut offset = (offset as usize).min(self.text.len());
        while !self.text.is_char_boundary(offset) {
            offset -= 1;
        }
        let line_starts = self.line_starts();
        let line = line_starts.partition_point(|start| *start as usize <= offset).max(1);
        let before = &self.text[line_starts[line - 1] as usize..offset];
        let column = before.trim_start_matches(BYTE_ORDER_MARK).chars().count() + 1;
        let clamp = |number: usize| u32::try_from(number).unwrap_or(u32::MAX);
        Position { line: clamp(line), column: clamp(column) }
    }

    /// Start and end of a span.
    pub fn range(&self, span: Span) -> Range {
        Range { start: self.position(span.start), end: self.position(span.end.max(span.start)) }
    }

    /// The byte at which a line begins, which is counted from 1; the end of the text where there are fewer lines.
    pub fn line_start(&self, line: u32) -> usize {
        self.line_starts().get((line as usize).saturating_sub(1)).map_or(self.text.len(), |start| *start as usize)
    }

    /// The lines from one on, which is counted from 1.
    pub fn lines_from(&self, line: u32) -> std::str::Lines<'_> {
        self.text[self.line_start(line)..].lines()
    }

    /// The line an offset lies on, without its end of line.
    pub fn line_at(&self, offset: u32) -> &str {
        let line = self.position(offset).line as usize;
        let start = self.line_starts()[line - 1] as usize;
        let end = self.line_starts().get(line).map_or(self.text.len(), |next| *next as usize);
        self.text[start..end].trim_end_matches(['\n', '\r']).trim_start_matches(BYTE_ORDER_MARK)
    }
}

/// All texts that findings may point into.
#[derive(Clone, Debug, Default)]
pub struct Sources {
    files: Vec<SourceFile>,
}

impl Sources {
    /// Adds a text and says under which id it is found again.
    pub fn add(&mut self, file: SourceFile) -> FileId {
        self.files.push(file);
        FileId(Span::new(self.files.len() - 1, 0).start)
    }

    /// The file of an id.
    ///
    /// # Panics
    /// Only for an id that another [`Sources`] gave out, which is a fault of the program.
    pub fn get(&self, id: FileId) -> &SourceFile {
        &self.files[id.0 as usize]
    }

    /// The source at a place.
    pub fn slice(&self, place: Place) -> &str {
        self.get(place.file).slice(place.span)
    }

    /// The same files with some texts changed.
    #[must_use]
    pub fn with(&self, texts: impl IntoIterator<Item = (FileId, String)>) -> Self {
        let mut files = self.files.clone();
        for (id, text) in texts {
            if let Some(file) = files.get_mut(id.0 as usize) {
                *file = SourceFile::new(file.path.clone(), text);
            }
        }
        Self { files }
    }

    /// Puts another text into a file.
    pub fn set(&mut self, id: FileId, text: String) {
        if let Some(file) = self.files.get_mut(id.0 as usize) {
            *file = SourceFile::new(std::mem::take(&mut file.path), text);
        }
    }

    /// All files with their ids.
    pub fn iter(&self) -> impl Iterator<Item = (FileId, &SourceFile)> {
        self.files.iter().enumerate().map(|(index, file)| (FileId(Span::new(index, 0).start), file))
    }

    /// Path and text of a file by its path.
    pub fn find(&self, path: &str) -> Option<FileId> {
        let index = self.files.iter().position(|file| file.path == path)?;
        Some(FileId(Span::new(index, 0).start))
    }
}

/// A path without the `./` that says it is taken from the root.
pub fn from_root(path: &str) -> &str {
    path.trim_start_matches("./")
}

/// Whether something stands in a text that is filled in when it runs: `${{`. Asked of every text, by many rules.
pub fn has_hole(text: &str) -> bool {
    holds(text, "${{")
}

/// Whether a text holds a part. Where the first byte of that is a rare one, this is quicker than to look for the whole.
pub fn holds(text: &str, part: &str) -> bool {
    let (bytes, part) = (text.as_bytes(), part.as_bytes());
    let Some(first) = part.first() else { return true };
    memchr::memchr_iter(*first, bytes).any(|at| bytes[at..].starts_with(part))
}

/// With a capital letter at its beginning, as a sentence.
pub fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

/// The last part of a path. Every path of a repository is asked, over and over.
pub fn file_name(path: &str) -> &str {
    memchr::memrchr(b'/', path.as_bytes()).map_or(path, |slash| &path[slash + 1..])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_count_characters_and_pass_over_the_mark() {
        let file = SourceFile::new("a.yml", "\u{feff}é: x\r\nö: yz\rend");
        let at = |needle: &str| file.position(Span::new(file.text.find(needle).unwrap_or(0), 0).start);
        assert_eq!(at("x"), Position { line: 1, column: 4 });
        assert_eq!(at("z"), Position { line: 2, column: 5 });
        assert_eq!(at("end"), Position { line: 3, column: 1 });
        assert_eq!(file.line_at(0), "é: x");
    }

    #[test]
    fn offsets_that_do_not_fit_are_moved_back() {
        let file = SourceFile::new("a.yml", "é");
        assert_eq!(file.position(1), Position { line: 1, column: 1 });
        assert_eq!(file.position(90), Position { line: 1, column: 2 });
        assert_eq!(file.slice(Span::new(1, 2)), "");
    }
}
