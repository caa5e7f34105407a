//! The `${{ … }}` holes in a text.

use std::ops::Range;

use super::{Expr, ExprError, parse};

/// One hole.
#[derive(Clone, Debug, PartialEq)]
pub struct Hole {
    /// Bytes from `${{` to the end of `}}`.
    pub range: Range<usize>,
    /// What stands inside, or why it does not parse.
    pub inside: Result<Expr, ExprError>,
}

/// All holes of a text, in order. A hole that is never closed is the last one.
pub fn holes(text: &str) -> Vec<Hole> {
    let mut found = Vec::new();
    let mut from = 0;
    while let Some(index) = text[from..].find("${{") {
        let start = from + index;
        let inside = start + 3;
        match close(text, inside) {
            Some(end) => {
                found.push(Hole { range: start..end + 2, inside: parse(text, inside..end) });
                from = end + 2;
            }
            None => {
                let reason = "this ${{ is never closed with }}".to_owned();
                let error = ExprError { range: start..inside, reason, double_quote: false };
                found.push(Hole { range: start..text.len(), inside: Err(error) });
                break;
            }
        }
    }
    found
}

/// Where `}}` stands, text in single quotes passed over. With a quote that never closes, the next `}}` will do.
fn close(text: &str, from: usize) -> Option<usize> {
    let bytes = text.as_bytes();
    let mut quoted = false;
    for at in from..bytes.len() {
        match bytes[at] {
            b'\'' => quoted = !quoted,
            b'}' if !quoted && bytes.get(at + 1) == Some(&b'}') => return Some(at),
            _ => {}
        }
    }
    text[from..].find("}}").map(|index| from + index)
}
