//! Texts that are open in the editor.

use std::path::PathBuf;

use dulk_core::text::SourceFile;
use lsp_types::{TextDocumentContentChangeEvent, Uri};

use crate::position::Encoding;

/// An open text.
#[derive(Debug)]
pub struct Document {
    /// Its address, as the client writes it.
    pub uri: Uri,
    /// Counted by the client.
    pub version: i32,
    /// The text.
    pub text: String,
    /// The root of the repository that it lies in, and its path there.
    pub home: Option<(PathBuf, String)>,
}

impl Document {
    /// Takes changes in, one after the other. A version that does not come after the last one is not: the text would be another one than
    /// the client's. Whether it was taken.
    pub fn change(&mut self, version: i32, changes: Vec<TextDocumentContentChangeEvent>, encoding: Encoding) -> bool {
        if version <= self.version {
            return false;
        }
        self.version = version;
        for change in changes {
            let Some(range) = change.range else {
                self.text = change.text;
                continue;
            };
            let source = SourceFile::new(String::new(), std::mem::take(&mut self.text));
            let span = encoding.span(&source, range);
            self.text = source.text;
            self.text.replace_range(span.range(), &change.text);
        }
        true
    }
}

#[cfg(test)]
mod tests {
    use std::str::FromStr;

    use lsp_types::{Position, Range};

    use super::*;

    fn at(line: u32, from: u32, to: u32, text: &str) -> TextDocumentContentChangeEvent {
        let range = Range { start: Position::new(line, from), end: Position::new(line, to) };
        TextDocumentContentChangeEvent { range: Some(range), range_length: None, text: text.to_owned() }
    }

    #[test]
    fn changes_follow_each_other_and_old_versions_are_left() {
        let uri = Uri::from_str("file:///quay.yml").expect("an address");
        let mut document = Document { uri, version: 1, text: "🚢: a\nb: c\n".to_owned(), home: None };
        assert!(document.change(2, vec![at(0, 2, 3, " ="), at(1, 0, 1, "bb"), at(1, 2, 2, "!")], Encoding::Utf16));
        assert_eq!(document.text, "🚢 = a\nbb!: c\n");
        assert!(!document.change(2, vec![at(0, 0, 9, "gone")], Encoding::Utf16));
        assert_eq!(document.text, "🚢 = a\nbb!: c\n");
        let whole = TextDocumentContentChangeEvent { range: None, range_length: None, text: "new".to_owned() };
        assert!(document.change(9, vec![whole, at(7, 7, 8, "er")], Encoding::Utf16));
        assert_eq!(document.text, "newer");
    }
}
