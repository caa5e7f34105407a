//! Conditions in words: `branch = main AND type IN (push, api)`, `tag =~ /^v/`, `env(NAME) IS present`, `NOT fork`.
//!
//! After the format's page "Conditions": names of what is known of a build stand without a sign; words need no quotes; `AND` binds tighter
//! than `OR`, and upper and lower case do not matter in either.

use std::ops::{Deref, DerefMut, Range};

use super::cursor::Cursor;
use super::{Expr, ExprError, ExprKind, Operator};

/// What is known of a build. Source: the format's page "Conditions", integration.
const NAMES: [&str; 14] = [
    "type",
    "repo",
    "head_repo",
    "branch",
    "head_branch",
    "tag",
    "sender",
    "fork",
    "commit_message",
    "os",
    "dist",
    "group",
    "language",
    "sudo",
];

/// Those of them that are one of a few words.
const OF_WORDS: [&str; 6] = ["type", "fork", "os", "dist", "language", "sudo"];

const DEPTH_LIMIT: usize = 100;

/// Parses a whole condition.
///
/// # Errors
/// The first place that does not fit, with a reason in plain words.
pub fn parse_phrases(text: &str) -> Result<Expr, ExprError> {
    let mut parser = Parser { cursor: Cursor { text, at: 0 }, depth: 0 };
    let expression = parser.or()?;
    parser.space();
    if parser.at < text.len() {
        let rest = parser.rest();
        let length = rest.find(char::is_whitespace).unwrap_or(rest.len());
        let reason = match rest.starts_with('(') {
            true => "before this bracket `IN`, or the name of a function, is missing",
            false => "an operator such as AND or OR is missing before this",
        };
        return Err(error(parser.at..parser.at + length, reason));
    }
    Ok(expression)
}

fn error(range: Range<usize>, reason: impl Into<String>) -> ExprError {
    ExprError { range, reason: reason.into(), double_quote: false }
}

/// A side of a comparison, and whether it is a word without quotes.
struct Side {
    value: Expr,
    bare: bool,
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
    /// Takes a word that ends where words end; upper and lower case do not matter.
    fn take_word(&mut self, word: &str) -> bool {
        self.space();
        let rest = self.rest();
        let found = rest.get(..word.len()).is_some_and(|start| start.eq_ignore_ascii_case(word))
            && !rest[word.len()..].starts_with(|c: char| c.is_alphanumeric() || c == '_' || c == '-');
        self.at += if found { word.len() } else { 0 };
        found
    }

    fn or(&mut self) -> Result<Expr, ExprError> {
        let mut sides = vec![self.and()?];
        while self.take("||") || self.take_word("OR") {
            sides.push(self.and()?);
        }
        Ok(super::joined(Operator::Or, sides))
    }

    fn and(&mut self) -> Result<Expr, ExprError> {
        let mut sides = vec![self.not()?];
        while self.take("&&") || self.take_word("AND") {
            sides.push(self.not()?);
        }
        Ok(super::joined(Operator::And, sides))
    }

    fn not(&mut self) -> Result<Expr, ExprError> {
        self.depth += 1;
        if self.depth > DEPTH_LIMIT {
            return Err(error(self.at..self.at, "the condition is nested too deeply"));
        }
        self.space();
        let start = self.at;
        let negated =
            self.take_word("NOT") || (!self.rest().starts_with("!~") && !self.rest().starts_with("!=") && self.take("!"));
        let inner = if negated {
            let inner = self.not()?;
            Expr { range: start..inner.range.end, kind: ExprKind::Not(Box::new(inner)) }
        } else if self.take("(") {
            let inner = self.or()?;
            if !self.take(")") {
                return Err(error(self.at..self.at, "a `)` is missing"));
            }
            inner
        } else {
            self.comparison()?
        };
        self.depth -= 1;
        Ok(inner)
    }

    fn comparison(&mut self) -> Result<Expr, ExprError> {
        let left = self.side()?;
        for (sign, operator) in [
            ("=~", None),
            ("~=", None),
            ("!=", Some(Operator::NotEqual)),
            ("==", Some(Operator::Equal)),
            ("=", Some(Operator::Equal)),
        ] {
            if !self.take(sign) {
                continue;
            }
            self.is_known(&left)?;
            return match operator {
                Some(operator) => {
                    let right = self.right(&left.value)?;
                    Ok(super::joined_by(operator, left.value, right))
                }
                None => self.pattern(left.value, false),
            };
        }
        if self.take("!~") {
            self.is_known(&left)?;
            return self.pattern(left.value, true);
        }
        let before = self.at;
        let negated = self.take_word("NOT");
        if self.take_word("IN") {
            self.is_known(&left)?;
            let list = self.list(&left.value)?;
            return Ok(if negated { list.negated() } else { list });
        }
        self.at = before;
        if self.take_word("IS") {
            self.is_known(&left)?;
            let negated = self.take_word("NOT");
            let is = self.is(left.value)?;
            return Ok(if negated { is.negated() } else { is });
        }
        self.is_known(&left)?;
        Ok(Expr { range: left.value.range.clone(), kind: ExprKind::Call("holds".to_owned(), vec![left.value]) })
    }

    /// `present`, `blank`, `true` or `false`.
    fn is(&mut self, value: Expr) -> Result<Expr, ExprError> {
        let call = |name: &str, value: Expr, end: usize| Expr {
            range: value.range.start..end,
            kind: ExprKind::Call(name.to_owned(), vec![value]),
        };
        for (word, name, wanted) in
            [("present", "present", true), ("blank", "present", false), ("true", "holds", true), ("false", "holds", false)]
        {
            if self.take_word(word) {
                let found = call(name, value, self.at);
                return Ok(if wanted { found } else { found.negated() });
            }
        }
        self.space();
        Err(error(self.at..self.text.len(), "after `IS` stands present, blank, true or false"))
    }

    /// `(a, b, c)`: whether the value is one of them.
    fn list(&mut self, left: &Expr) -> Result<Expr, ExprError> {
        if !self.take("(") {
            return Err(error(self.at..self.text.len(), "after `IN` stands a list in brackets: (one, two)"));
        }
        let mut sides = Vec::new();
        loop {
            let right = self.right(left)?;
            sides.push(super::joined_by(Operator::Equal, left.clone(), right));
            if !self.take(",") {
                break;
            }
        }
        if !self.take(")") {
            return Err(error(self.at..self.at, "a `)` is missing"));
        }
        Ok(super::joined(Operator::Or, sides))
    }

    /// A pattern between slashes, or without them up to the next space or closing bracket.
    fn pattern(&mut self, left: Expr, negated: bool) -> Result<Expr, ExprError> {
        self.space();
        let start = self.at;
        for function in ["concat(", "env("] {
            if self.rest().starts_with(function) {
                let right = self.side()?.value;
                let range = left.range.start..right.range.end;
                return Ok(Expr::dark(range));
            }
        }
        let (pattern, length) = if self.rest().starts_with('/') {
            let Some(length) = super::variables::slash(&self.rest()[1..]) else {
                return Err(error(start..self.text.len(), "this pattern is never closed with a slash"));
            };
            (self.rest()[1..=length].replace("\\/", "/"), length + 2)
        } else {
            let rest = self.rest();
            let length = bare_pattern(rest);
            (rest[..length].trim_matches(['"', '\'']).to_owned(), length)
        };
        if pattern.is_empty() {
            return Err(error(start..start, "a pattern is missing: /pattern/"));
        }
        if let Some(reason) = super::variables::broken_pattern(&pattern) {
            return Err(error(start..start + length, reason));
        }
        self.at += length;
        let flags = self.rest().bytes().take_while(u8::is_ascii_alphabetic).count();
        let any_case = self.rest()[..flags].contains('i');
        self.at += flags;
        let range = left.range.start..self.at;
        Ok(Expr { kind: ExprKind::Matches(Box::new(left), pattern, any_case, negated), range })
    }

    /// The right side: where kinds of builds or machines are asked for, a word is never a name.
    fn right(&mut self, left: &Expr) -> Result<Expr, ExprError> {
        let mut right = self.side()?.value;
        let of_words = matches!(&left.kind, ExprKind::Name(name) if OF_WORDS.contains(&name.as_str()));
        if let (true, ExprKind::Name(word)) = (of_words, &right.kind) {
            right.kind = ExprKind::Text(word.clone());
        }
        Ok(right)
    }

    fn side(&mut self) -> Result<Side, ExprError> {
        self.space();
        let start = self.at;
        let Some(first) = self.rest().chars().next() else {
            return Err(error(start..start, "the condition stops where a value is expected"));
        };
        if matches!(first, '"' | '\'') {
            let Some(length) = self.rest()[1..].find(first) else {
                return Err(error(start..self.text.len(), "this quote is never closed"));
            };
            let value = self.rest()[1..=length].to_owned();
            self.at += length + 2;
            return Ok(Side { value: Expr { kind: ExprKind::Text(value), range: start..self.at }, bare: false });
        }
        let rest = self.rest();
        let length = rest.find(|c: char| c.is_whitespace() || "()=,!~\"'&|".contains(c)).unwrap_or(rest.len());
        let word = rest[..length].to_owned();
        if word.starts_with('$') {
            let reason =
                "this condition is no shell code: it knows branch, tag, type and the like, and reads a variable as env(NAME)";
            return Err(error(start..start + length, reason));
        }
        if word.is_empty() {
            return Err(error(start..start + first.len_utf8(), "here a name such as branch, or a value, is expected"));
        }
        self.at += length;
        if self.rest().starts_with('(') {
            return self.call(start, &word);
        }
        let name = word.to_ascii_lowercase();
        let kind = if NAMES.contains(&name.as_str()) { ExprKind::Name(name) } else { ExprKind::Text(word) };
        Ok(Side { value: Expr { kind, range: start..self.at }, bare: true })
    }

    /// `env(NAME)` or `concat(…)`.
    fn call(&mut self, start: usize, name: &str) -> Result<Side, ExprError> {
        let open = self.at;
        self.at += 1;
        let bare = false;
        if name.eq_ignore_ascii_case("env") {
            self.space();
            let length = self.rest().bytes().take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'_').count();
            let variable = self.rest()[..length].to_owned();
            self.at += length;
            if variable.is_empty() || !self.take(")") {
                return Err(error(start..self.at, "a variable is read as env(NAME)"));
            }
            // What the run itself sets is not there yet when a condition is judged.
            let kind = match variable.starts_with("TRAVIS") {
                true => ExprKind::Call("unknown".to_owned(), Vec::new()),
                false => ExprKind::Name(variable),
            };
            return Ok(Side { value: Expr { kind, range: start..self.at }, bare });
        }
        if !name.eq_ignore_ascii_case("concat") {
            return Err(error(start..open, format!("there is no function `{name}`: there are env and concat")));
        }
        let mut arguments = Vec::new();
        loop {
            self.depth += 1;
            if self.depth > DEPTH_LIMIT {
                return Err(error(self.at..self.at, "the condition is nested too deeply"));
            }
            arguments.push(self.side()?.value);
            self.depth -= 1;
            if !self.take(",") {
                break;
            }
        }
        if !self.take(")") {
            return Err(error(self.at..self.at, "a `)` is missing"));
        }
        let value = Expr { kind: ExprKind::Call("concat".to_owned(), arguments), range: start..self.at };
        Ok(Side { value, bare })
    }

    /// A bare word on the left is a name of what is known.
    fn is_known(&self, side: &Side) -> Result<(), ExprError> {
        let ExprKind::Text(word) = &side.value.kind else { return Ok(()) };
        let constant = ["true", "false"].iter().any(|known| word.eq_ignore_ascii_case(known));
        if !side.bare || constant {
            return Ok(());
        }
        let near = crate::knowledge::nearest(word, NAMES);
        let instead = near.map_or_else(
            || "conditions know branch, tag, type, fork and the like".to_owned(),
            |near| format!("`{near}` is meant"),
        );
        Err(error(side.value.range.clone(), format!("nothing of a build is called `{word}`; {instead}")))
    }
}

/// How many bytes of a text are a pattern without slashes: up to a space, or to a bracket that is not its own.
fn bare_pattern(text: &str) -> usize {
    let mut open = 0_usize;
    let mut escaped = false;
    for (index, c) in text.char_indices() {
        match c {
            c if c.is_whitespace() => return index,
            _ if escaped => escaped = false,
            '\\' => escaped = true,
            '(' => open += 1,
            ')' if open == 0 => return index,
            ')' => open -= 1,
            _ => {}
        }
    }
    text.len()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_names_or_texts() {
        let read = |text: &str| parse_phrases(text).unwrap_or_else(|error| panic!("{text}: {error:?}"));
        assert!(
            matches!(read("branch = main").kind, ExprKind::Binary(Operator::Equal, ref left, _) if left.kind == ExprKind::Name("branch".into()))
        );
        assert!(matches!(read("type = push AND fork OR tag IS present").kind, ExprKind::Binary(Operator::Or, ..)));
        assert!(matches!(read("branch IN (quay, \"pier two\")").kind, ExprKind::Binary(Operator::Or, ..)));
        assert!(matches!(read("tag =~ ^v(1|2) && NOT fork").kind, ExprKind::Binary(Operator::And, ..)));
        assert!(matches!(read("not (tag is blank)").kind, ExprKind::Not(_)));
        assert!(matches!(read("env(QUAY) = yes").kind, ExprKind::Binary(..)));
        assert!(matches!(read("branch =~ /^a\\/b c/ OR type NOT IN (cron)").kind, ExprKind::Binary(Operator::Or, ..)));
        assert!(matches!(read("concat(\"v\", env(N)) = tag").kind, ExprKind::Binary(..)));
        assert!(matches!(read("true").kind, ExprKind::Call(..)));
    }

    #[test]
    fn what_does_not_fit_is_told_at_its_place() {
        for (text, at) in [
            ("$TRAVIS_BRANCH = main", 0),
            ("brunch = main", 0),
            ("branch = ", 9),
            ("branch = main type = push", 14),
            ("branch IN main", 10),
            ("(branch = main", 14),
            ("tag IS there", 7),
            ("tag =~ /(x/", 7),
            ("tag =~ /x", 7),
            ("sum(a) = b", 0),
            ("branch = \"x", 9),
        ] {
            let error = parse_phrases(text).err().unwrap_or_else(|| panic!("{text} is taken"));
            assert_eq!(error.range.start, at, "{text}: {}", error.reason);
        }
        assert!(parse_phrases(&"(".repeat(10_000)).is_err() && parse_phrases(&"NOT ".repeat(10_000)).is_err());
        assert!(parse_phrases(&vec!["branch = quay"; 5_000].join(" OR ")).is_ok());
    }
}
