//! The tests of a shell, as they stand between `[[` and `]]`: `$NAME = text`, `"$NAME" =~ ^v`, `-n $NAME && ! $OTHER`.
//!
//! A name that is not set is the empty text there. What is not a comparison of variables with texts is taken for not known.

use std::ops::Range;

use super::{Expr, ExprError, ExprKind, Operator};

const DEPTH_LIMIT: usize = 100;

/// Words of another language of conditions, which a shell takes for plain texts.
const PHRASES: [&str; 5] = ["branch", "tag", "type", "fork", "repo"];

/// Parses a whole test.
///
/// # Errors
/// The first place that does not fit, with a reason in plain words.
pub fn parse_shell_test(text: &str) -> Result<Expr, ExprError> {
    let mut parser = Parser { words: words(text)?, at: 0, end: text.len(), depth: 0 };
    let expression = parser.or()?;
    match parser.words.get(parser.at) {
        None => Ok(expression),
        Some(word) => {
            let reason = match word.text.to_ascii_uppercase().as_str() {
                "AND" | "OR" => "this is a test of the shell, where `&&` and `||` stand between two of them",
                _ => "an operator such as && or || is missing before this",
            };
            Err(error(word.range.clone(), reason))
        }
    }
}

fn error(range: Range<usize>, reason: impl Into<String>) -> ExprError {
    ExprError { range, reason: reason.into(), double_quote: false }
}

/// A word as a shell splits them, quotes taken away.
#[derive(Clone)]
struct Word {
    text: String,
    range: Range<usize>,
    /// The one variable that it is.
    variable: Option<String>,
    /// It holds variables or commands beside that.
    mixed: bool,
    quoted: bool,
}

fn words(text: &str) -> Result<Vec<Word>, ExprError> {
    let mut found: Vec<Word> = Vec::new();
    let mut at = 0;
    while at < text.len() {
        let rest = &text[at..];
        let Some(first) = rest.chars().next() else { break };
        if first.is_whitespace() {
            at += first.len_utf8();
            continue;
        }
        let pattern = found.last().is_some_and(|word| word.text == "=~" && !word.quoted);
        let sign = ["&&", "||", "(", ")"].into_iter().find(|sign| rest.starts_with(sign)).filter(|sign| !pattern || *sign != "(");
        let length = match sign {
            Some(sign) => sign.len(),
            None => word_length(rest, pattern).ok_or_else(|| error(at..text.len(), "this quote is never closed"))?,
        };
        found.push(word(&rest[..length], at));
        at += length;
    }
    Ok(found)
}

/// The bytes of a word, up to a space or an operator outside of quotes and brackets of its own.
fn word_length(text: &str, pattern: bool) -> Option<usize> {
    let (mut quote, mut open, mut escaped) = (None, 0_usize, false);
    for (index, c) in text.char_indices() {
        match (quote, c) {
            _ if escaped => escaped = false,
            (None | Some('"'), '\\') => escaped = true,
            (Some(inside), c) => quote = (c != inside).then_some(inside),
            (None, '"' | '\'') => quote = Some(c),
            (None, '(' | '{' | '[') => open += 1,
            (None, ')' | '}' | ']') if open > 0 => open -= 1,
            (None, c)
                if open == 0
                    && (c.is_whitespace()
                        || c == ')'
                        || !pattern && text[index..].starts_with("&&")
                        || !pattern && text[index..].starts_with("||")) =>
            {
                return Some(index);
            }
            _ => {}
        }
    }
    quote.is_none().then_some(text.len())
}

fn word(written: &str, start: usize) -> Word {
    let quote = written.chars().next().filter(|c| matches!(c, '"' | '\'') && written.len() > 1 && written.ends_with(*c));
    let inner = quote.map_or(written, |_| &written[1..written.len() - 1]);
    let named = |name: &str| !name.is_empty() && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
    let bare = inner.strip_prefix('$').map(|name| name.strip_prefix('{').and_then(|name| name.strip_suffix('}')).unwrap_or(name));
    let variable = bare.filter(|name| quote != Some('\'') && named(name)).map(str::to_owned);
    let plain = !inner.contains(['"', '\'', '\\']);
    let mixed = variable.is_none() && quote != Some('\'') && (inner.contains(['$', '`']) || !plain);
    Word { text: inner.to_owned(), range: start..start + written.len(), variable, mixed, quoted: quote.is_some() }
}

struct Parser {
    words: Vec<Word>,
    at: usize,
    end: usize,
    depth: usize,
}

impl Parser {
    fn take(&mut self, sign: &str) -> bool {
        let found = self.words.get(self.at).is_some_and(|word| !word.quoted && word.text == sign);
        self.at += usize::from(found);
        found
    }

    fn next(&mut self) -> Result<Word, ExprError> {
        let word = self.words.get(self.at).cloned();
        self.at += 1;
        word.ok_or_else(|| error(self.end..self.end, "the condition stops where a value is expected"))
    }

    fn or(&mut self) -> Result<Expr, ExprError> {
        let mut sides = vec![self.and()?];
        while self.take("||") {
            sides.push(self.and()?);
        }
        Ok(super::joined(Operator::Or, sides))
    }

    fn and(&mut self) -> Result<Expr, ExprError> {
        let mut sides = vec![self.one()?];
        while self.take("&&") {
            sides.push(self.one()?);
        }
        Ok(super::joined(Operator::And, sides))
    }

    fn one(&mut self) -> Result<Expr, ExprError> {
        self.depth += 1;
        if self.depth > DEPTH_LIMIT {
            return Err(error(0..self.end, "the condition is nested too deeply"));
        }
        let found = if self.take("!") {
            self.one()?.negated()
        } else if self.take("(") {
            let inner = self.or()?;
            if !self.take(")") {
                return Err(error(self.end..self.end, "a `)` is missing"));
            }
            inner
        } else {
            self.comparison()?
        };
        self.depth -= 1;
        Ok(found)
    }

    fn comparison(&mut self) -> Result<Expr, ExprError> {
        let left = self.next()?;
        let asks = |word: &Word| call("present", word);
        if !left.quoted && left.text.len() == 2 && left.text.starts_with('-') && self.words.get(self.at).is_some_and(is_value) {
            let value = self.next()?;
            return Ok(match left.text.as_str() {
                "-n" => asks(&value),
                "-z" => asks(&value).negated(),
                _ => Expr::dark(left.range.start..value.range.end),
            });
        }
        let operator = self.words.get(self.at).filter(|word| !word.quoted).map(|word| word.text.clone());
        match operator.as_deref() {
            Some("=" | "==" | "!=" | "=~") => self.at += 1,
            Some(sign) if sign.starts_with('-') && sign.len() == 3 || sign == "<" || sign == ">" => {
                self.at += 1;
                let right = self.next()?;
                return Ok(Expr::dark(left.range.start..right.range.end));
            }
            _ if is_phrase(&left) => return Err(no_variable(&left)),
            _ => return Ok(asks(&left)),
        }
        if is_phrase(&left) {
            return Err(no_variable(&left));
        }
        let right = self.next()?;
        Ok(compared(&left, operator.as_deref().unwrap_or_default(), &right))
    }
}

/// Whether a word is a value rather than an operator.
fn is_value(word: &Word) -> bool {
    word.quoted || !matches!(word.text.as_str(), "&&" | "||" | ")" | "(" | "=" | "==" | "!=" | "=~")
}

fn is_phrase(word: &Word) -> bool {
    !word.quoted && PHRASES.contains(&word.text.as_str())
}

fn no_variable(word: &Word) -> ExprError {
    let reason = format!(
        "this is a test of the shell, to which `{}` is nothing but a word: it reads variables, such as $TRAVIS_BRANCH",
        word.text
    );
    error(word.range.clone(), reason)
}

fn compared(left: &Word, operator: &str, right: &Word) -> Expr {
    let range = left.range.start..right.range.end;
    if right.mixed || left.mixed {
        return Expr::dark(range);
    }
    let negated = operator == "!=";
    let found = match (operator, right.variable.is_none() && !right.quoted) {
        ("=~", true) => match matches(left, &right.text, range.clone()) {
            Some(fits) => fits,
            None => Expr::dark(range),
        },
        ("=~", false) => Expr::dark(range),
        (_, true) if right.text.contains(['*', '?', '[']) => {
            match glob(&right.text).and_then(|pattern| matches(left, &pattern, range.clone())) {
                Some(fits) => fits,
                None => return Expr::dark(range),
            }
        }
        // A name that is not set is the empty text.
        _ if right.variable.is_none() && right.text.is_empty() => call("present", left).negated(),
        _ => super::joined_by(Operator::Equal, value(left), value(right)),
    };
    if negated { found.negated() } else { found }
}

/// A value held against a pattern; nothing where the empty text fits as well, which stands for a name that is not set.
fn matches(left: &Word, pattern: &str, range: Range<usize>) -> Option<Expr> {
    let regex = regex::RegexBuilder::new(pattern).size_limit(1 << 18).build().ok()?;
    let kind = ExprKind::Matches(Box::new(value(left)), pattern.to_owned(), false, false);
    (!regex.is_match("")).then_some(Expr { kind, range })
}

/// A shell pattern as a regular expression; nothing for classes.
fn glob(pattern: &str) -> Option<String> {
    if pattern.contains(['[', '\\']) {
        return None;
    }
    let mut out = String::from("^");
    for c in pattern.chars() {
        match c {
            '*' => out.push_str(".*"),
            '?' => out.push('.'),
            c => out.push_str(&regex_syntax::escape(c.encode_utf8(&mut [0; 4]))),
        }
    }
    Some(out + "$")
}

fn value(word: &Word) -> Expr {
    let kind = match &word.variable {
        Some(name) => ExprKind::Name(name.clone()),
        None => ExprKind::Text(word.text.clone()),
    };
    Expr { kind, range: word.range.clone() }
}

fn call(name: &str, word: &Word) -> Expr {
    match word.mixed {
        true => Expr::dark(word.range.clone()),
        false => Expr { kind: ExprKind::Call(name.to_owned(), vec![value(word)]), range: word.range.clone() },
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn variables_are_held_against_words_and_patterns() {
        let read = |text: &str| parse_shell_test(text).unwrap_or_else(|error| panic!("{text}: {error:?}")).kind;
        assert!(matches!(read("$TRAVIS_BRANCH = main"), ExprKind::Binary(Operator::Equal, ..)));
        assert!(matches!(read("\"$A\" != 'x y' && -z ${B}"), ExprKind::Binary(Operator::And, ..)));
        assert!(matches!(read("$A =~ ^v(1|2).*$ || ! $B"), ExprKind::Binary(Operator::Or, ..)));
        assert!(matches!(read("$A = quay-*"), ExprKind::Matches(_, ref pattern, false, false) if pattern == "^quay\\-.*$"));
        assert!(matches!(read("$A = \"\""), ExprKind::Not(_)));
        for dark in ["$A = $(date)", "-f dist/index.html", "$N -gt 3", "$A = \"v$B\"", "$A =~ .*", "$A = [ab]*"] {
            assert!(matches!(read(dark), ExprKind::Call(ref name, _) if name == "unknown"), "{dark}");
        }
        assert!(parse_shell_test(&vec!["$A = quay"; 5_000].join(" && ")).is_ok());
    }

    #[test]
    fn what_is_no_test_is_told_at_its_place() {
        for (text, at) in
            [("branch = main", 0), ("$A = ", 5), ("$A = b AND $B = c", 7), ("($A", 3), ("$A = \"x", 5), ("tag", 0), ("", 0)]
        {
            let error = parse_shell_test(text).err().unwrap_or_else(|| panic!("{text} is taken"));
            assert_eq!(error.range.start, at, "{text}: {}", error.reason);
        }
        assert!(parse_shell_test(&"( ".repeat(10_000)).is_err() && parse_shell_test(&"! ".repeat(10_000)).is_err());
    }
}
