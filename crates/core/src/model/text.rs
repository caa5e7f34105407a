//! A value of a pipeline with the way back to its bytes.

use std::ops::Range;

use super::Language;
use crate::expression::{Hole, holes};
use crate::shell::variable_reads;
use crate::text::{FileId, Place, Span};
use crate::tree::OffsetMap;

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
    Joined(Vec<(usize, Text)>),
    /// It stands nowhere as it is: every part of it has this place.
    Fixed(Span),
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

    /// The place of a part of the value, given as bytes in it.
    pub fn place(&self, range: Range<usize>) -> Place {
        let span = match &self.map {
            TextMap::Straight(start) => Span::new(*start as usize + range.start, *start as usize + range.end),
            TextMap::Mapped(map) => map.span(range),
            TextMap::Fixed(span) => *span,
            TextMap::Joined(parts) => {
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

    /// Whether a hole makes the value known only when it runs.
    pub fn is_dynamic(&self) -> bool {
        self.value.contains("${{")
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
