//! How much room words take, so that they never overlap and never leave their box.
//!
//! What reads a drawing has other fonts than what made it. All words are set in a font of one width, whose characters take at most 0.61 of
//! its size in those that systems bring.

use textwrap::core::display_width;

use crate::screen::wrap_at;

/// The part of a font's size that one column takes.
const COLUMN: f64 = 0.61;

/// A size of letters, in pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Size {
    /// Names.
    Name,
    /// Texts.
    Text,
    /// Words before texts, marks.
    Small,
}

impl Size {
    /// In pixels.
    pub fn pixels(self) -> f64 {
        match self {
            Self::Name => 14.0,
            Self::Text => 12.5,
            Self::Small => 11.0,
        }
    }

    /// From one line to the next, in pixels.
    pub fn leading(self) -> i32 {
        match self {
            Self::Name => 19,
            Self::Text => 17,
            Self::Small => 15,
        }
    }

    /// How many columns fit into a width in pixels.
    fn columns(self, room: i32) -> usize {
        ((f64::from(room) / (self.pixels() * COLUMN)) as usize).max(4)
    }

    /// The pixels that a text takes at most.
    pub fn width(self, text: &str) -> i32 {
        (display_width(text) as f64 * self.pixels() * COLUMN).ceil() as i32
    }
}

/// A text in lines that fit, and the whole of it where it was shortened.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Fitted {
    /// Its lines.
    pub lines: Vec<String>,
    /// The whole text, where not all of it is in the lines.
    pub whole: Option<String>,
}

impl Fitted {
    /// Breaks a text into at most so many lines of a width in pixels.
    pub fn new(text: &str, size: Size, room: i32, most: usize) -> Self {
        let columns = size.columns(room);
        let mut lines = wrap_at(text, columns);
        if lines.len() <= most {
            return Self { lines, whole: None };
        }
        lines.truncate(most);
        if let Some(last) = lines.last_mut() {
            while display_width(last) >= columns {
                last.pop();
            }
            last.push('…');
        }
        Self { lines, whole: Some(text.to_owned()) }
    }

    /// The height of its lines in pixels.
    pub fn height(&self, size: Size) -> i32 {
        i32::try_from(self.lines.len()).unwrap_or(i32::MAX / 100) * size.leading()
    }
}

#[cfg(test)]
mod tests {
    use super::{Fitted, Size};

    #[test]
    fn a_text_fits_its_room_and_is_kept_whole_beside() {
        let long = "harbour/".repeat(40);
        for text in [long.as_str(), "the ferry leaves at eight and comes back at noon", "渡し船の時刻表は毎朝八時に更新されます"]
        {
            for size in [Size::Name, Size::Text, Size::Small] {
                let fitted = Fitted::new(text, size, 150, 2);
                assert!(fitted.lines.len() <= 2);
                assert!(fitted.lines.iter().all(|line| size.width(line) <= 150), "{fitted:?}");
                assert_eq!(fitted.whole.is_some(), fitted.lines.last().is_some_and(|line| line.ends_with('…')));
            }
        }
        assert_eq!(Fitted::new("dist", Size::Text, 150, 2), Fitted { lines: vec!["dist".to_owned()], whole: None });
    }
}
