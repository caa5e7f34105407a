//! Tokens to expressions, by precedence climbing.

use std::ops::Range;

use super::lex::{Token, TokenKind, tokens};
use super::{Expr, ExprError, ExprKind, Operator};

/// The format itself refuses longer expressions.
const LENGTH_LIMIT: usize = 21_000;
/// How deep parts may sit inside each other, chains included.
const DEPTH_LIMIT: usize = 300;

/// Parses `text[range]` as one expression.
///
/// # Errors
/// The first place that does not fit, with a reason in plain words.
pub fn parse(text: &str, range: Range<usize>) -> Result<Expr, ExprError> {
    if range.len() > LENGTH_LIMIT {
        return Err(error(range, "an expression of more than 21,000 characters is refused"));
    }
    let tokens = tokens(text, range.clone())?;
    let mut parser = Parser { tokens: &tokens, at: 0, end: range.end, depth: 0 };
    if tokens.is_empty() {
        return Err(error(range, "nothing stands between the braces"));
    }
    let expression = parser.binary(0)?;
    match parser.peek() {
        None => Ok(expression),
        Some(token) => Err(error(token.range.clone(), "an operator such as && or == is missing before this")),
    }
}

fn error(range: Range<usize>, reason: impl Into<String>) -> ExprError {
    ExprError { range, reason: reason.into(), double_quote: false }
}

struct Parser<'t> {
    tokens: &'t [Token],
    at: usize,
    end: usize,
    depth: usize,
}

fn precedence(operator: Operator) -> u8 {
    match operator {
        Operator::Or => 1,
        Operator::And => 2,
        Operator::Equal | Operator::NotEqual => 3,
        _ => 4,
    }
}

impl<'t> Parser<'t> {
    fn peek(&self) -> Option<&'t Token> {
        self.tokens.get(self.at)
    }

    fn peek_kind(&self) -> Option<&'t TokenKind> {
        self.peek().map(|token| &token.kind)
    }

    fn deeper(&mut self) -> Result<(), ExprError> {
        self.depth += 1;
        if self.depth > DEPTH_LIMIT {
            let range = self.peek().map_or(self.end..self.end, |token| token.range.clone());
            return Err(error(range, "the expression is nested too deeply"));
        }
        Ok(())
    }

    fn binary(&mut self, weakest: u8) -> Result<Expr, ExprError> {
        let entered = self.depth;
        self.deeper()?;
        let mut left = self.unary()?;
        while let Some(TokenKind::Operator(operator)) = self.peek_kind() {
            let strength = precedence(*operator);
            if strength <= weakest {
                break;
            }
            left = match operator {
                Operator::Or | Operator::And => self.chain(*operator, left)?,
                _ => {
                    self.deeper()?;
                    self.at += 1;
                    super::joined_by(*operator, left, self.binary(strength)?)
                }
            };
        }
        self.depth = entered;
        Ok(left)
    }

    /// Sides with the same word between all of them: however many they are, what comes of them is not deep.
    fn chain(&mut self, operator: Operator, first: Expr) -> Result<Expr, ExprError> {
        let mut sides = vec![first];
        while self.peek_kind() == Some(&TokenKind::Operator(operator)) {
            self.at += 1;
            sides.push(self.binary(precedence(operator))?);
        }
        Ok(super::joined(operator, sides))
    }

    fn unary(&mut self) -> Result<Expr, ExprError> {
        let Some(token) = self.peek() else {
            return Err(error(self.end..self.end, "the expression stops where a value is expected"));
        };
        if token.kind != TokenKind::Not {
            return self.postfix();
        }
        self.at += 1;
        self.deeper()?;
        let inner = self.unary()?;
        let range = token.range.start..inner.range.end;
        Ok(Expr { kind: ExprKind::Not(Box::new(inner)), range })
    }

    fn postfix(&mut self) -> Result<Expr, ExprError> {
        let mut base = self.primary()?;
        loop {
            let start = base.range.start;
            match self.peek_kind() {
                Some(TokenKind::Dot) => {
                    self.at += 1;
                    let Some(token) = self.peek() else {
                        return Err(error(self.end..self.end, "a name is expected after the point"));
                    };
                    let kind = match &token.kind {
                        TokenKind::Name(name) => ExprKind::Property(Box::new(base), name.clone(), token.range.clone()),
                        TokenKind::Star => ExprKind::Filter(Box::new(base)),
                        _ => return Err(error(token.range.clone(), "a name is expected after the point")),
                    };
                    self.at += 1;
                    base = Expr { kind, range: start..token.range.end };
                }
                Some(TokenKind::OpenIndex) => {
                    self.at += 1;
                    let kind = if self.peek_kind() == Some(&TokenKind::Star) {
                        self.at += 1;
                        ExprKind::Filter(Box::new(base))
                    } else {
                        let index = self.binary(0)?;
                        ExprKind::Index(Box::new(base), Box::new(index))
                    };
                    let end = self.close(&TokenKind::CloseIndex, "]")?;
                    base = Expr { kind, range: start..end };
                }
                _ => return Ok(base),
            }
            self.deeper()?;
        }
    }

    fn close(&mut self, wanted: &TokenKind, written: &str) -> Result<usize, ExprError> {
        match self.peek() {
            Some(token) if token.kind == *wanted => {
                self.at += 1;
                Ok(token.range.end)
            }
            Some(token) => Err(error(token.range.clone(), format!("a `{written}` is expected here"))),
            None => Err(error(self.end..self.end, format!("a `{written}` is missing at the end"))),
        }
    }

    fn primary(&mut self) -> Result<Expr, ExprError> {
        let Some(token) = self.peek() else {
            return Err(error(self.end..self.end, "the expression stops where a value is expected"));
        };
        self.at += 1;
        let range = token.range.clone();
        let kind = match &token.kind {
            TokenKind::Number(number) => ExprKind::Number(*number),
            TokenKind::Text(text) => ExprKind::Text(text.clone()),
            TokenKind::Name(name) if self.peek_kind() == Some(&TokenKind::Open) => return self.call(name, range.start),
            TokenKind::Name(name) => match name.as_str() {
                "true" => ExprKind::Bool(true),
                "false" => ExprKind::Bool(false),
                "null" => ExprKind::Null,
                "NaN" => ExprKind::Number(f64::NAN),
                "Infinity" => ExprKind::Number(f64::INFINITY),
                _ => ExprKind::Name(name.clone()),
            },
            TokenKind::Open => {
                let inner = self.binary(0)?;
                let end = self.close(&TokenKind::Close, ")")?;
                return Ok(Expr { kind: inner.kind, range: range.start..end });
            }
            _ => return Err(error(range, "a value is expected here")),
        };
        Ok(Expr { kind, range })
    }

    fn call(&mut self, name: &str, start: usize) -> Result<Expr, ExprError> {
        self.at += 1;
        let mut arguments = Vec::new();
        if self.peek_kind() != Some(&TokenKind::Close) {
            loop {
                arguments.push(self.binary(0)?);
                if self.peek_kind() != Some(&TokenKind::Comma) {
                    break;
                }
                self.at += 1;
            }
        }
        let end = self.close(&TokenKind::Close, ")")?;
        Ok(Expr { kind: ExprKind::Call(name.to_owned(), arguments), range: start..end })
    }
}
