//! Text that may hold parts of files, as it leaves the program.

use std::borrow::Cow;

use crate::mask::mask;

/// Without credentials, and without what steers a terminal or a reader.
pub fn shown(text: &str) -> String {
    harmless(&mask(text)).into_owned()
}

/// Text of a file without what steers a terminal or a reader: control characters become signs, and characters that nobody sees, or that
/// turn the direction of writing, are shown by their number.
pub fn harmless(text: &str) -> Cow<'_, str> {
    // Most texts are plain, which takes no look at each of their characters.
    if text.bytes().all(|byte| matches!(byte, b' '..=b'~')) {
        return Cow::Borrowed(text);
    }
    let steers = |c: char| c.is_control() || is_unseen(c);
    if !text.contains(steers) {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\t' => out.push(' '),
            c if (c as u32) < 0x20 => out.push(char::from_u32(0x2400 + c as u32).unwrap_or('\u{fffd}')),
            c if steers(c) => out.push_str(&format!("<{:04X}>", c as u32)),
            c => out.push(c),
        }
    }
    Cow::Owned(out)
}

/// Characters of which nothing is seen, or only what they do to others. Source: the Unicode Character Database, the properties
/// Default_Ignorable_Code_Point and Bidi_Control of version 17.0, and the separators of lines and paragraphs; 2026-11.
fn is_unseen(c: char) -> bool {
    matches!(c,
        '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}'..='\u{1160}' | '\u{17b4}'..='\u{17b5}' | '\u{180b}'..='\u{180f}'
        | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{3164}' | '\u{feff}' | '\u{ffa0}'
        | '\u{fff0}'..='\u{fffb}' | '\u{1bca0}'..='\u{1bca3}' | '\u{1d173}'..='\u{1d17a}' | '\u{e0000}'..='\u{e0fff}')
}

#[cfg(test)]
mod tests {
    use super::harmless;

    #[test]
    fn control_characters_become_signs() {
        assert_eq!(harmless("a\x1b[31mb\tc"), "a\u{241b}[31mb c");
        assert_eq!(harmless("a\u{202e}b\u{9b}c"), "a<202E>b<009B>c");
        assert_eq!(harmless("ma\u{200b}in\u{2028}\u{e0041}"), "ma<200B>in<2028><E0041>");
        // A sign that says how the one before it is drawn hides nothing.
        assert_eq!(harmless("⚠\u{fe0f}"), "⚠\u{fe0f}");
        assert_eq!(harmless("plain é"), "plain é");
    }
}
