//! Conditions over variables: `$NAME`, `$NAME == "text"`, `=~ /pattern/i`, `null`, `&&`, `||` and brackets.
//!
//! After the format's page "CI/CD job control with rules": `&&` binds tighter than `||`; a variable alone is true when it is set and not
//! empty; texts stand in single or double quotes.

use std::ops::{Deref, DerefMut, Range};

use super::cursor::Cursor;
use super::{Expr, ExprError, ExprKind, Operator};

const DEPTH_LIMIT: usize = 100;

/// Parses a whole condition.
///
/// # Errors
/// The first place that does not fit, with a reason in plain words.
pub fn parse_variables(text: &str) -> Result<Expr, ExprError> {
    let mut parser = Parser { cursor: Cursor { text, at: 0 }, depth: 0 };
    let expression = parser.or()?;
    parser.space();
    if parser.at < text.len() {
        let next = text[parser.at..].chars().next().map_or(0, char::len_utf8);
        return Err(error(parser.at..parser.at + next, "an operator such as && or == is missing before this"));
    }
    Ok(expression)
}

fn error(range: Range<usize>, reason: impl Into<String>) -> ExprError {
    ExprError { range, reason: reason.into(), double_quote: false }
}

struct Parser<'t> {
    cursor: Cursor<'t>,
    depth: usize,
}

impl<'t> Deref for Parser<'t> {
    type Target = Cursor<'t>;

    fn deref(&self) -> &Self::Target {
        &self.cursor
    }
}

impl DerefMut for Parser<'_> {
    fn deref_mut(&mut self) -> &mut Self::Target {
        &mut self.cursor
    }
}

impl Parser<'_> {
    fn or(&mut self) -> Result<Expr, ExprError> {
        self.depth += 1;
        if self.depth > DEPTH_LIMIT {
            return Err(error(self.at..self.at, "the condition is nested too deeply"));
        }
        let mut sides = vec![self.and()?];
        while self.take("||") {
            sides.push(self.and()?);
        }
        self.depth -= 1;
        Ok(super::joined(Operator::Or, sides))
    }

    fn and(&mut self) -> Result<Expr, ExprError> {
        let mut sides = vec![self.comparison()?];
        while self.take("&&") {
            sides.push(self.comparison()?);
        }
        Ok(super::joined(Operator::And, sides))
    }

    fn comparison(&mut self) -> Result<Expr, ExprError> {
        let left = self.value()?;
        for (word, operator) in [("==", Operator::Equal), ("!=", Operator::NotEqual)] {
            if self.take(word) {
                return Ok(super::joined_by(operator, left, self.value()?));
            }
        }
        for (word, negated) in [("=~", false), ("!~", true)] {
            if self.take(word) {
                return self.pattern(left, negated);
            }
        }
        self.space();
        if self.rest().starts_with('=') {
            return Err(error(self.at..self.at + 1, "a comparison is written `==`"));
        }
        Ok(left)
    }

    fn pattern(&mut self, left: Expr, negated: bool) -> Result<Expr, ExprError> {
        self.space();
        let start = self.at;
        if self.rest().starts_with('$') {
            // What stands in the variable is only known when it is evaluated.
            let right = self.value()?;
            let range = left.range.start..right.range.end;
            let fits = Expr { kind: ExprKind::Call("matches".into(), vec![left, right]), range: range.clone() };
            let kind = if negated { ExprKind::Not(Box::new(fits)) } else { return Ok(fits) };
            return Ok(Expr { kind, range });
        }
        if !self.take("/") {
            return Err(error(start..self.text.len(), "a pattern stands between slashes: /pattern/"));
        }
        let Some(length) = slash(self.rest()) else {
            return Err(error(start..self.text.len(), "this pattern is never closed with a slash"));
        };
        let pattern = self.rest()[..length].replace("\\/", "/");
        if let Some(reason) = broken_pattern(&pattern) {
            return Err(error(start..self.at + length + 1, reason));
        }
        self.at += length + 1;
        let flags = self.rest().bytes().take_while(u8::is_ascii_alphabetic).count();
        let any_case = self.rest()[..flags].contains('i');
        self.at += flags;
        let range = left.range.start..self.at;
        Ok(Expr { kind: ExprKind::Matches(Box::new(left), pattern, any_case, negated), range })
    }

    fn value(&mut self) -> Result<Expr, ExprError> {
        self.space();
        let start = self.at;
        if self.take("(") {
            let inner = self.or()?;
            if !self.take(")") {
                return Err(error(self.at..self.at, "a `)` is missing"));
            }
            return Ok(inner);
        }
        let first = self.rest().chars().next();
        match first {
            Some('$') => {
                self.at += 1;
                // Source: the format's page "Where variables can be used", `rules:if`.
                if self.take("{") {
                    let reason = "a variable stands here without brackets: $NAME, not ${NAME}";
                    let length = self.rest().find('}').map_or(0, |end| end + 1);
                    return Err(error(start..self.at + length, reason));
                }
                let length = self.rest().bytes().take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'_').count();
                let name = self.rest()[..length].to_owned();
                self.at += length;
                if name.is_empty() {
                    return Err(error(start..self.at, "a variable is written $NAME"));
                }
                Ok(Expr { kind: ExprKind::Name(name), range: start..self.at })
            }
            Some(quote @ ('"' | '\'')) => {
                let Some(length) = self.rest()[1..].find(quote) else {
                    return Err(error(start..self.text.len(), "this quote is never closed"));
                };
                let value = self.rest()[1..=length].to_owned();
                self.at += length + 2;
                Ok(Expr { kind: ExprKind::Text(value), range: start..self.at })
            }
            Some(_) if self.rest().starts_with("null") => {
                self.at += 4;
                Ok(Expr { kind: ExprKind::Null, range: start..self.at })
            }
            Some(c) => {
                let length = self.rest().find([' ', ')']).unwrap_or(self.rest().len()).max(c.len_utf8());
                Err(error(start..start + length, "here a variable with `$`, a text in quotes, or null is expected"))
            }
            None => Err(error(start..start, "the condition stops where a value is expected")),
        }
    }
}

/// The bytes of a pattern before the slash that closes it.
pub(super) fn slash(text: &str) -> Option<usize> {
    let mut escaped = false;
    let end = text.char_indices().find(|(_, c)| {
        let ends = *c == '/' && !escaped;
        escaped = *c == '\\' && !escaped;
        ends
    });
    end.map(|(length, _)| length)
}

/// Why a regular expression is none, where every engine says so.
pub(super) fn broken_pattern(pattern: &str) -> Option<&'static str> {
    use regex_syntax::ast::ErrorKind;
    let regex_syntax::Error::Parse(error) = regex_syntax::parse(pattern).err()? else { return None };
    match error.kind() {
        ErrorKind::GroupUnclosed => Some("this pattern has a `(` that is never closed"),
        ErrorKind::GroupUnopened => Some("this pattern has a `)` without a `(`"),
        ErrorKind::ClassUnclosed => Some("this pattern has a `[` that is never closed"),
        ErrorKind::RepetitionMissing => Some("this pattern repeats nothing: in a pattern, any text is `.*`"),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn conditions_are_read_with_their_precedence() {
        let read = |text: &str| parse_variables(text).unwrap_or_else(|error| panic!("{text}: {error:?}"));
        let ExprKind::Binary(Operator::Or, _, right) = read("$A || $B == \"x\" && $C =~ /^v\\/[0-9]/i").kind else {
            panic!("no or")
        };
        let ExprKind::Binary(Operator::And, _, pattern) = right.kind else { panic!("no and") };
        assert!(matches!(pattern.kind, ExprKind::Matches(_, ref text, true, false) if text == "^v/[0-9]"));
        assert!(matches!(read("($A != null)").kind, ExprKind::Binary(Operator::NotEqual, ..)));
        assert!(matches!(read("$A =~ $PATTERN").kind, ExprKind::Call(..)));
    }

    #[test]
    fn what_does_not_fit_is_told_at_its_place() {
        for (text, at) in [
            ("$A = \"x\"", 3),
            ("A == \"x\"", 0),
            ("$A == ", 6),
            ("$A =~ \"x\"", 6),
            ("($A", 3),
            ("$A $B", 3),
            ("\"x", 0),
            ("${A}", 0),
            ("$A =~ /(x/", 6),
            ("$A =~ /*x/", 6),
        ] {
            let error = parse_variables(text).err().unwrap_or_else(|| panic!("{text} is taken"));
            assert_eq!(error.range.start, at, "{text}: {}", error.reason);
        }
        assert!(parse_variables(&"(".repeat(10_000)).is_err());
    }
}
