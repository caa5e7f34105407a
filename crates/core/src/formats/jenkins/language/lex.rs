//! From bytes to words, texts and signs.

use std::ops::Range;

use super::Quoted;

/// One of the smallest parts of the language.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(in super::super) enum Token {
    /// A name or a number.
    Word,
    /// A text in quotes; the last says that its end is missing.
    Text { inner: Range<usize>, fills: bool, raw: bool, open: bool },
    /// A sign.
    Sign(u8),
    /// The end of a line.
    Line,
}

/// A token with its bytes.
#[derive(Clone, Debug)]
pub(in super::super) struct At {
    pub token: Token,
    pub range: Range<usize>,
}

impl At {
    pub fn quoted(&self) -> Option<Quoted> {
        match &self.token {
            Token::Text { inner, fills, raw, .. } => {
                Some(Quoted { range: self.range.clone(), inner: inner.clone(), fills: *fills, raw: *raw })
            }
            _ => None,
        }
    }

    pub fn is(&self, sign: u8) -> bool {
        self.token == Token::Sign(sign)
    }
}

/// All tokens of a text, and the bytes of its comments.
pub(in super::super) fn tokens(text: &str) -> (Vec<At>, Vec<Range<usize>>) {
    let bytes = text.as_bytes();
    let (mut found, mut comments) = (Vec::<At>::new(), Vec::new());
    let mut at = 0;
    if text.starts_with("#!") {
        at = text.find('\n').unwrap_or(text.len());
        comments.push(0..at);
    }
    while at < bytes.len() {
        let rest = &text[at..];
        let start = at;
        let token = match bytes[at] {
            b'\n' => {
                at += 1;
                Token::Line
            }
            // A backslash at the end of a line goes on in the next one.
            b'\\' if rest[1..].starts_with('\n') => {
                at += 2;
                continue;
            }
            byte if byte.is_ascii_whitespace() => {
                at += 1;
                continue;
            }
            b'/' if rest.starts_with("//") => {
                at += rest.find('\n').unwrap_or(rest.len());
                comments.push(start..at);
                continue;
            }
            b'/' if rest.starts_with("/*") => {
                at += rest.find("*/").map_or(rest.len(), |end| end + 2);
                comments.push(start..at);
                continue;
            }
            b'\'' | b'"' => quoted(text, &mut at),
            b'/' if begins_value(&found) => match slashy(text, &mut at) {
                Some(token) => token,
                None => {
                    at += 1;
                    Token::Sign(b'/')
                }
            },
            b'$' if rest.starts_with("$/") && begins_value(&found) => dollar_slashy(text, &mut at),
            byte if byte.is_ascii_alphanumeric() || byte == b'_' || byte == b'$' || byte >= 0x80 => {
                at +=
                    rest.bytes().take_while(|byte| byte.is_ascii_alphanumeric() || b"_$".contains(byte) || *byte >= 0x80).count();
                Token::Word
            }
            sign => {
                at += 1;
                Token::Sign(sign)
            }
        };
        found.push(At { token, range: start..at });
    }
    (found, comments)
}

/// Whether a value may begin behind what has been read: otherwise a slash divides.
fn begins_value(found: &[At]) -> bool {
    match found.last() {
        None => true,
        Some(last) => match &last.token {
            Token::Line => true,
            Token::Sign(sign) => !matches!(sign, b')' | b']' | b'}'),
            Token::Word | Token::Text { .. } => false,
        },
    }
}

/// `'…'`, `"…"`, `'''…'''` and `"""…"""`. A short one ends with its line at the latest.
fn quoted(text: &str, at: &mut usize) -> Token {
    let bytes = text.as_bytes();
    let quote = bytes[*at];
    let long = bytes.get(*at + 1) == Some(&quote) && bytes.get(*at + 2) == Some(&quote);
    let width = if long { 3 } else { 1 };
    let fills = quote == b'"';
    let start = *at + width;
    let mut here = start;
    while here < bytes.len() {
        match bytes[here] {
            b'\\' => here += 1,
            b'\n' if !long => break,
            b'$' if fills && bytes.get(here + 1) == Some(&b'{') => {
                here = hole_end(bytes, here + 2, long);
                continue;
            }
            byte if byte == quote && (!long || bytes[here..].starts_with(&[quote, quote, quote])) => {
                *at = here + width;
                return Token::Text { inner: start..here, fills, raw: false, open: false };
            }
            _ => {}
        }
        here += 1;
    }
    // Never in the middle of a letter.
    let end = text.floor_char_boundary(here.min(text.len()));
    *at = end;
    Token::Text { inner: start.min(end)..end, fills, raw: false, open: true }
}

/// The end of `${…}`, behind its brace; quotes in it may hold braces.
fn hole_end(bytes: &[u8], from: usize, long: bool) -> usize {
    let mut depth = 1_usize;
    let mut inner: Option<u8> = None;
    let mut here = from;
    while let Some(byte) = bytes.get(here) {
        match (*byte, inner) {
            (b'\n', _) if !long => return here,
            (b'\\', Some(_)) => here += 1,
            (quote @ (b'\'' | b'"'), None) => inner = Some(quote),
            (quote, Some(open)) if quote == open => inner = None,
            (b'{', None) => depth += 1,
            (b'}', None) => {
                depth -= 1;
                if depth == 0 {
                    return here + 1;
                }
            }
            _ => {}
        }
        here += 1;
    }
    bytes.len()
}

/// `/…/`, in one line here: what is longer is a division or a path.
fn slashy(text: &str, at: &mut usize) -> Option<Token> {
    let bytes = text.as_bytes();
    let start = *at + 1;
    let mut here = start;
    while here < bytes.len() && bytes[here] != b'\n' {
        match bytes[here] {
            b'\\' => here += 1,
            b'/' => {
                *at = here + 1;
                return Some(Token::Text { inner: start..here, fills: true, raw: true, open: false });
            }
            _ => {}
        }
        here += 1;
    }
    None
}

/// `$/…/$`
fn dollar_slashy(text: &str, at: &mut usize) -> Token {
    let start = *at + 2;
    let end = text[start..].find("/$").map(|end| start + end);
    *at = end.map_or(text.len(), |end| end + 2);
    Token::Text { inner: start..end.unwrap_or(text.len()), fills: true, raw: true, open: end.is_none() }
}
