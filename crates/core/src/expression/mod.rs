//! The expressions that stand in `${{ … }}` holes and in bare conditions of workflow files.
//!
//! Grammar after the format's documentation ("Evaluate expressions"): literals, operators with their precedence,
//! property and index access, object filters (`*`) and function calls; names do not mind upper and lower case.

mod cursor;
mod lex;
mod parse;
mod phrases;
mod shell_test;
mod template;
mod variables;

use std::ops::Range;

pub use parse::parse;
pub use phrases::parse_phrases;
pub use shell_test::parse_shell_test;
pub use template::{Hole, holes};
pub use variables::parse_variables;

/// A part of an expression with its bytes in the text it was read from.
#[derive(Clone, Debug, PartialEq)]
pub struct Expr {
    /// What it is.
    pub kind: ExprKind,
    /// Bytes in the text.
    pub range: Range<usize>,
}

/// The kinds of expression.
#[derive(Clone, Debug, PartialEq)]
pub enum ExprKind {
    /// `null`
    Null,
    /// `true`, `false`
    Bool(bool),
    /// Decimal, hexadecimal, octal or exponential.
    Number(f64),
    /// `'…'` with doubled quotes made one.
    Text(String),
    /// A context such as `github`.
    Name(String),
    /// `.name`, with the name's own bytes.
    Property(Box<Expr>, String, Range<usize>),
    /// `[…]`
    Index(Box<Expr>, Box<Expr>),
    /// `.*` or `[*]`
    Filter(Box<Expr>),
    /// `name(…)`
    Call(String, Vec<Expr>),
    /// `!…`
    Not(Box<Expr>),
    /// Two sides and what stands between.
    Binary(Operator, Box<Expr>, Box<Expr>),
    /// A value held against a regular expression: its text, whether case matters not, and whether it must not fit.
    Matches(Box<Expr>, String, bool, bool),
}

/// What stands between two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Operator {
    /// `||`
    Or,
    /// `&&`
    And,
    /// `==`
    Equal,
    /// `!=`
    NotEqual,
    /// `<`
    Less,
    /// `<=`
    LessOrEqual,
    /// `>`
    Greater,
    /// `>=`
    GreaterOrEqual,
}

/// Why an expression does not parse.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ExprError {
    /// Bytes in the text.
    pub range: Range<usize>,
    /// In plain words.
    pub reason: String,
    /// The cause is a double quote where the format wants single ones.
    pub double_quote: bool,
}

impl Expr {
    /// Calls `visit` for this expression and everything inside it, from the outside in.
    pub fn walk<'e>(&'e self, visit: &mut dyn FnMut(&'e Expr)) {
        visit(self);
        match &self.kind {
            ExprKind::Property(inner, ..) | ExprKind::Filter(inner) | ExprKind::Not(inner) | ExprKind::Matches(inner, ..) => {
                inner.walk(visit)
            }
            ExprKind::Index(left, right) | ExprKind::Binary(_, left, right) => {
                left.walk(visit);
                right.walk(visit);
            }
            ExprKind::Call(_, arguments) => arguments.iter().for_each(|argument| argument.walk(visit)),
            _ => {}
        }
    }

    /// The opposite of it, at the same place.
    pub fn negated(self) -> Self {
        Self { range: self.range.clone(), kind: ExprKind::Not(Box::new(self)) }
    }

    /// Something of which nothing is known before it runs.
    pub fn dark(range: Range<usize>) -> Self {
        Self { kind: ExprKind::Call("unknown".to_owned(), Vec::new()), range }
    }

    /// A dotted path such as `needs.build.outputs.page`, when each part is a name or a literal index.
    pub fn path(&self) -> Option<Vec<(&str, Range<usize>)>> {
        match &self.kind {
            ExprKind::Name(name) => Some(vec![(name, self.range.clone())]),
            ExprKind::Property(inner, name, range) => {
                let mut path = inner.path()?;
                path.push((name, range.clone()));
                Some(path)
            }
            ExprKind::Index(inner, index) => {
                let ExprKind::Text(name) = &index.kind else { return None };
                let mut path = inner.path()?;
                path.push((name, index.range.clone()));
                Some(path)
            }
            _ => None,
        }
    }

    /// The same as it is written with points: `github.ref`.
    pub fn dotted(&self) -> Option<String> {
        let words: Vec<&str> = self.path()?.into_iter().map(|(word, _)| word).collect();
        Some(words.join("."))
    }

    /// The same, with `*` for a part that stands for all, as in `needs.*.result`.
    pub fn path_with_stars(&self) -> Option<Vec<(&str, Range<usize>)>> {
        let (inner, part) = match &self.kind {
            ExprKind::Filter(inner) => (inner, ("*", self.range.clone())),
            ExprKind::Property(inner, name, range) => (inner, (name.as_str(), range.clone())),
            _ => return self.path(),
        };
        let mut path = inner.path_with_stars()?;
        path.push(part);
        Some(path)
    }
}

/// Two sides and what stands between.
fn joined_by(operator: Operator, left: Expr, right: Expr) -> Expr {
    let range = left.range.start..right.range.end;
    Expr { kind: ExprKind::Binary(operator, Box::new(left), Box::new(right)), range }
}

/// Sides with the same operator between all of them, in a tree that is no deeper than it has to be.
fn joined(operator: Operator, mut sides: Vec<Expr>) -> Expr {
    while sides.len() > 1 {
        let mut rest = sides.into_iter();
        let mut pairs = Vec::with_capacity(rest.len().div_ceil(2));
        while let Some(left) = rest.next() {
            pairs.push(match rest.next() {
                Some(right) => joined_by(operator, left, right),
                None => left,
            });
        }
        sides = pairs;
    }
    sides.pop().unwrap_or(Expr { kind: ExprKind::Null, range: 0..0 })
}

#[cfg(test)]
mod tests;
