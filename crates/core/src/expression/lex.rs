//! Expressions as tokens.

use std::ops::Range;

use super::{ExprError, Operator};

/// A token with its bytes.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Token {
    pub kind: TokenKind,
    pub range: Range<usize>,
}

#[derive(Clone, Debug, PartialEq)]
pub(super) enum TokenKind {
    Name(String),
    Number(f64),
    Text(String),
    Operator(Operator),
    Not,
    Dot,
    Comma,
    Star,
    Open,
    Close,
    OpenIndex,
    CloseIndex,
}

/// Splits `text[range]` into tokens.
pub(super) fn tokens(text: &str, range: Range<usize>) -> Result<Vec<Token>, ExprError> {
    let bytes = text.as_bytes();
    let mut at = range.start;
    let mut tokens = Vec::new();
    while at < range.end {
        let start = at;
        let byte = bytes[at];
        if byte.is_ascii_whitespace() {
            at += 1;
            continue;
        }
        let next = (at + 1 < range.end).then(|| bytes[at + 1]);
        let (kind, end) = match byte {
            b'\'' => quoted(text, at, range.end)?,
            b'(' => (TokenKind::Open, at + 1),
            b')' => (TokenKind::Close, at + 1),
            b'[' => (TokenKind::OpenIndex, at + 1),
            b']' => (TokenKind::CloseIndex, at + 1),
            b',' => (TokenKind::Comma, at + 1),
            b'*' => (TokenKind::Star, at + 1),
            b'|' if next == Some(b'|') => (TokenKind::Operator(Operator::Or), at + 2),
            b'&' if next == Some(b'&') => (TokenKind::Operator(Operator::And), at + 2),
            b'=' if next == Some(b'=') => (TokenKind::Operator(Operator::Equal), at + 2),
            b'!' if next == Some(b'=') => (TokenKind::Operator(Operator::NotEqual), at + 2),
            b'!' => (TokenKind::Not, at + 1),
            b'<' if next == Some(b'=') => (TokenKind::Operator(Operator::LessOrEqual), at + 2),
            b'<' => (TokenKind::Operator(Operator::Less), at + 1),
            b'>' if next == Some(b'=') => (TokenKind::Operator(Operator::GreaterOrEqual), at + 2),
            b'>' => (TokenKind::Operator(Operator::Greater), at + 1),
            b'.' if !next.is_some_and(|byte| byte.is_ascii_digit()) || follows_value(&tokens) => (TokenKind::Dot, at + 1),
            b'0'..=b'9' | b'-' | b'+' | b'.' => number(text, at, range.end)?,
            b'a'..=b'z' | b'A'..=b'Z' | b'_' => {
                let length =
                    bytes[at..range.end].iter().take_while(|b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'-')).count();
                (TokenKind::Name(text[at..at + length].to_owned()), at + length)
            }
            _ => return Err(stray(text, at)),
        };
        tokens.push(Token { kind, range: start..end });
        at = end;
    }
    Ok(tokens)
}

fn follows_value(tokens: &[Token]) -> bool {
    matches!(
        tokens.last().map(|token| &token.kind),
        Some(TokenKind::Name(_) | TokenKind::Close | TokenKind::CloseIndex | TokenKind::Star)
    )
}

fn quoted(text: &str, start: usize, end: usize) -> Result<(TokenKind, usize), ExprError> {
    let bytes = text.as_bytes();
    let mut at = start + 1;
    while at < end {
        if bytes[at] == b'\'' {
            if at + 1 < end && bytes[at + 1] == b'\'' {
                at += 2;
                continue;
            }
            return Ok((TokenKind::Text(text[start + 1..at].replace("''", "'")), at + 1));
        }
        at += 1;
    }
    Err(ExprError { range: start..end, reason: "this quote is never closed".into(), double_quote: false })
}

fn number(text: &str, start: usize, end: usize) -> Result<(TokenKind, usize), ExprError> {
    let length = text.as_bytes()[start..end]
        .iter()
        .enumerate()
        .take_while(|(index, b)| {
            b.is_ascii_alphanumeric()
                || **b == b'.'
                || (matches!(b, b'+' | b'-') && (*index == 0 || matches!(text.as_bytes()[start + index - 1], b'e' | b'E')))
        })
        .count();
    let written = &text[start..start + length];
    let value = match (written.strip_prefix("0x"), written.strip_prefix("0o")) {
        (Some(digits), _) => i64::from_str_radix(digits, 16).ok().map(|number| number as f64),
        (_, Some(digits)) => i64::from_str_radix(digits, 8).ok().map(|number| number as f64),
        _ => written.parse().ok(),
    };
    match value {
        Some(value) => Ok((TokenKind::Number(value), start + length)),
        None => Err(ExprError {
            range: start..start + length.max(1),
            reason: format!("`{written}` is not a number"),
            double_quote: false,
        }),
    }
}

fn stray(text: &str, at: usize) -> ExprError {
    let character = text[at..].chars().next().unwrap_or(' ');
    let reason = match character {
        '"' => "text in an expression stands in single quotes".to_owned(),
        '=' => "a comparison is written `==`".to_owned(),
        '&' => "\"and\" is written `&&`".to_owned(),
        '|' => "\"or\" is written `||`".to_owned(),
        '$' => "a `$` has no meaning inside an expression".to_owned(),
        other => format!("`{other}` has no meaning inside an expression"),
    };
    ExprError { range: at..at + character.len_utf8(), reason, double_quote: character == '"' }
}
