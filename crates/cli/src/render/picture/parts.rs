//! What boxes hold: words and marks, measured first and drawn under each other.

use dulk_core::views::{Break, Need, NeedKind};
use maud::{Markup, html};

use super::measure::{Fitted, Size};
use super::pen::{mark_of, told, words};
use crate::render::text::shown;

/// A mark's sign with the space behind it, in pixels.
const MARK: i32 = 16;

/// Words with their size and their style.
pub struct Lines {
    size: Size,
    style: &'static str,
    fitted: Fitted,
}

impl Lines {
    /// Breaks a text, that may be of the repository, into at most so many lines of a width in pixels.
    pub fn new(text: &str, (size, style): (Size, &'static str), room: i32, most: usize) -> Self {
        Self { size, style, fitted: Fitted::new(&shown(text), size, room, most) }
    }

    /// In pixels.
    pub fn height(&self) -> i32 {
        self.fitted.height(self.size)
    }

    /// Draws them with their top left corner there.
    pub fn draw(&self, x: i32, y: i32) -> Markup {
        words(&self.fitted, self.size, self.style, x, y)
    }
}

/// What stands under each other in a box.
pub enum Part {
    /// Words.
    Lines(Lines),
    /// A mark and its name.
    Mark(NeedKind, Lines),
}

impl Part {
    /// Words; see [`Lines::new`].
    pub fn lines(text: &str, look: (Size, &'static str), room: i32, most: usize) -> Self {
        Self::Lines(Lines::new(text, look, room, most))
    }

    /// What is needed, with its mark.
    pub fn of_need(need: &Need, room: i32) -> Self {
        Self::Mark(need.kind, Lines::new(&need.name, (Size::Small, "w-mark-name"), room - MARK, 1))
    }

    /// The rule and the words of what breaks here.
    pub fn of_break(broken: &Break, room: i32) -> [Self; 2] {
        [
            Self::lines(broken.rule, (Size::Small, "w-rule"), room, 1),
            Self::lines(&broken.message, (Size::Small, "w-broken"), room, 4),
        ]
    }

    fn height(&self) -> i32 {
        match self {
            Self::Lines(lines) | Self::Mark(_, lines) => lines.height(),
        }
    }

    fn draw(&self, x: i32, y: i32) -> Markup {
        match self {
            Self::Lines(lines) => lines.draw(x, y),
            Self::Mark(kind, name) => html! {
                g.w-mark transform={ "translate(" (x + 5) " " (y + 7) ")" } { (told(kind.word())) (mark_of(*kind)) }
                (name.draw(x + MARK, y))
            },
        }
    }
}

/// Draws parts under each other.
pub fn stack(parts: &[Part], x: i32, mut y: i32) -> Markup {
    let placed: Vec<(&Part, i32)> = parts
        .iter()
        .map(|part| {
            let top = y;
            y += part.height();
            (part, top)
        })
        .collect();
    html! { @for (part, top) in placed { (part.draw(x, top)) } }
}

/// The height of parts under each other in pixels.
pub fn height_of(parts: &[Part]) -> i32 {
    parts.iter().map(Part::height).sum()
}
