//! A value of a pipeline with the way back to its bytes.

use std::ops::Range;

use super::Language;
use crate::carrier::OffsetMap;
use crate::expression::{Expr, Hole, holes};
use crate::shell::variable_reads;
use crate::text::{FileId, Place, Span, has_hole};

/// A text as the pipeline's runner reads it.
#[derive(Clone, Debug)]
pub struct Text {
    /// After quotes, escapes and folding.
    pub value: String,
    /// The bytes of the whole value.
    pub at: Place,
    /// What is filled into it when it runs.
    pub language: Language,
    /// Written without quotes, so that a program may read it as a number or a word.
    pub plain: bool,
    map: TextMap,
}

/// How offsets in the value map to the file.
#[derive(Clone, Debug)]
pub enum TextMap {
    /// The value stands in the file as it is, from this byte.
    Straight(u32),
    /// Quotes, indentation or folding are between.
    Mapped(Box<OffsetMap>),
    /// Several texts one after the other, each from this byte on.
    Joined(Box<Parts>),
    /// It stands nowhere as it is: every part of it has this place.
    Fixed(Span),
    /// Another text, of which some parts are filled in: their bytes here, and there.
    Filled(Box<(Text, Vec<Part>)>),
}

/// Texts that make up one, each with the byte of it that they begin at.
#[derive(Clone, Debug)]
pub struct Parts(pub Vec<(usize, Text)>);

/// A part of a text that is filled in.
#[derive(Clone, Debug)]
pub struct Part {
    /// Its bytes after that.
    now: Range<usize>,
    /// Its bytes before.
    before: Range<usize>,
}

/// Where a byte of a filled text stood before; the end of what is filled in stands at the end of what it was.
impl TextMap {
    /// Of several texts one after the other, each from this byte on.
    pub fn joined(parts: impl Into<Vec<(usize, Text)>>) -> Self {
        Self::Joined(Box::new(Parts(parts.into())))
    }
}

fn unfilled(parts: &[Part], byte: usize, is_end: bool) -> usize {
    let mut moved = (0, 0);
    for part in parts {
        if byte < part.now.start || (is_end && byte == part.now.start) {
            break;
        }
        if byte < part.now.end || (is_end && byte == part.now.end) {
            return if is_end { part.before.end } else { part.before.start };
        }
        moved = (part.now.end, part.before.end);
    }
    byte - moved.0 + moved.1
}

impl Text {
    /// A text with its map.
    pub fn new(value: String, at: Place, plain: bool, map: TextMap) -> Self {
        Self { value, at, language: Language::Contexts, plain, map }
    }

    /// A text that stands in the file as it is.
    pub fn straight(value: impl Into<String>, file: FileId, span: Span) -> Self {
        Self {
            value: value.into(),
            at: Place { file, span },
            language: Language::Contexts,
            plain: true,
            map: TextMap::Straight(span.start),
        }
    }

    /// The same, with what is filled into it when it runs.
    pub fn filled_in_by(self, language: Language) -> Self {
        Self { language, ..self }
    }

    /// A text that stands for something written otherwise at a place.
    pub fn fixed(value: &str, at: Place) -> Self {
        Self { value: value.to_owned(), at, language: Language::Contexts, plain: false, map: TextMap::Fixed(at.span) }
    }

    /// The words of a program that is called without a shell, as the line by which a shell would call it so.
    pub fn of_words(words: &[Self], at: Place) -> Self {
        let mut value = String::new();
        let mut parts = Vec::new();
        for word in words {
            if !value.is_empty() {
                value.push(' ');
            }
            let simple = |byte: u8| byte.is_ascii_alphanumeric() || b"-_./:=@%+,".contains(&byte);
            if !word.value.is_empty() && word.value.bytes().all(simple) {
                parts.push((value.len(), word.clone()));
                value.push_str(&word.value);
            } else {
                value.push('\'');
                parts.push((value.len(), word.clone()));
                value.push_str(&word.value.replace('\'', "'\\''"));
                value.push('\'');
            }
        }
        Self::new(value, at, false, TextMap::joined(parts))
    }

    /// The place of a part of the value, given as bytes in it.
    pub fn place(&self, range: Range<usize>) -> Place {
        let span = match &self.map {
            TextMap::Straight(start) => Span::new(*start as usize + range.start, *start as usize + range.end),
            TextMap::Mapped(map) => map.span(range),
            TextMap::Fixed(span) => *span,
            TextMap::Filled(filled) => {
                let (text, parts) = &**filled;
                return text.place(unfilled(parts, range.start, false)..unfilled(parts, range.end, true));
            }
            TextMap::Joined(parts) => {
                let Parts(parts) = &**parts;
                let index = parts.partition_point(|(start, _)| *start <= range.start).saturating_sub(1);
                let Some((start, part)) = parts.get(index) else { return self.at };
                let length = part.value.len();
                return part.place(range.start.saturating_sub(*start).min(length)..range.end.saturating_sub(*start).min(length));
            }
        };
        Place { file: self.at.file, span }
    }

    /// The bytes of the value without quotes round it.
    pub fn inner(&self) -> Place {
        self.place(0..self.value.len())
    }

    /// The text with what is known of its holes filled in. A text that is one hole and nothing else becomes what is filled in, where
    /// that stands.
    pub fn filled(&self, known: &dyn Fn(&Expr) -> Option<Text>) -> Self {
        let mut edits: Vec<(Range<usize>, String)> = Vec::new();
        for hole in self.holes() {
            let Some(text) = hole.inside.as_ref().ok().and_then(known) else { continue };
            if hole.range == (0..self.value.len()) {
                return text;
            }
            edits.push((hole.range, text.value));
        }
        self.replaced(&edits)
    }

    /// The text with other words in the place of some of its bytes, given in order and apart from each other.
    pub fn replaced(&self, edits: &[(Range<usize>, String)]) -> Self {
        if edits.is_empty() {
            return self.clone();
        }
        let mut value = String::new();
        let mut parts = Vec::with_capacity(edits.len());
        let mut from = 0;
        for (range, text) in edits {
            value.push_str(&self.value[from..range.start]);
            parts.push(Part { now: value.len()..value.len() + text.len(), before: range.clone() });
            value.push_str(text);
            from = range.end;
        }
        value.push_str(&self.value[from..]);
        Self { value, map: TextMap::Filled(Box::new((self.clone(), parts))), ..self.clone() }
    }

    /// Whether a hole makes the value known only when it runs.
    pub fn is_dynamic(&self) -> bool {
        has_hole(&self.value)
    }

    /// The value when it is known now: nothing is filled into it when it runs.
    pub fn known(&self) -> Option<&str> {
        let variable = self.language == Language::Variables && !variable_reads(&self.value, false).is_empty();
        (!self.is_dynamic() && !variable).then_some(self.value.as_str())
    }

    /// Whether a value that is only known when it runs begins at a byte of it.
    pub fn opens_at(&self, byte: usize) -> bool {
        self.value.get(byte..).is_some_and(|rest| rest.starts_with("${{"))
    }

    /// The holes in it.
    pub fn holes(&self) -> Vec<Hole> {
        if self.is_dynamic() { holes(&self.value) } else { Vec::new() }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_filled_in_keeps_the_way_back() {
        let text = Text::straight("cp ${{ inputs.from }}/a to", FileId(0), Span::new(10, 36));
        let filled = text.filled(&|_| Some(Text::straight("dist", FileId(1), Span::new(3, 7))));
        assert_eq!(filled.value, "cp dist/a to");
        assert_eq!(filled.place(0..2).span, Span::new(10, 12));
        assert_eq!(filled.place(3..7).span, Span::new(13, 31), "the whole hole");
        assert_eq!(filled.place(8..9).span, Span::new(32, 33));
        let whole = Text::straight("${{ inputs.from }}", FileId(0), Span::new(0, 18));
        let given = whole.filled(&|_| Some(Text::straight("dist", FileId(1), Span::new(3, 7))));
        assert_eq!((given.value.as_str(), given.at.file), ("dist", FileId(1)), "what is given, where it is given");
    }
}
