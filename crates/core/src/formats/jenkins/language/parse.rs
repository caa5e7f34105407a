//! From tokens to statements. Nothing fails: what is not understood is kept as bytes, and the rest is read.

use std::ops::Range;

use super::lex::{At, Token, tokens};
use super::{Argument, Block, Quoted, Source, Statement, Value};

/// Blocks and brackets in each other: deeper is no honest file.
const DEPTH: usize = 100;
/// No one reads more of what is wrong.
const ERRORS: usize = 20;

/// Reads a text.
pub(in super::super) fn read(text: &str) -> Source {
    let (tokens, comments) = tokens(text);
    let mut parser = Parser { text, tokens, next: 0, depth: 0, errors: Vec::new() };
    parser.open_texts();
    parser.brackets();
    let statements = parser.statements();
    let top = Block { statements, range: 0..text.len() };
    Source { top, comments, errors: parser.errors }
}

struct Parser<'t> {
    text: &'t str,
    tokens: Vec<At>,
    next: usize,
    depth: usize,
    errors: Vec<(Range<usize>, String)>,
}

impl Parser<'_> {
    fn fail(&mut self, range: Range<usize>, reason: String) {
        if self.errors.len() < ERRORS {
            self.errors.push((range, reason));
        }
    }

    /// Texts whose end is missing.
    fn open_texts(&mut self) {
        let open = |at: &At| matches!(at.token, Token::Text { open: true, .. });
        let starts: Vec<usize> = self.tokens.iter().filter(|at| open(at)).map(|at| at.range.start).collect();
        for start in starts {
            let width =
                self.text[start..].bytes().take_while(|byte| matches!(byte, b'\'' | b'"' | b'$' | b'/')).count().clamp(1, 3);
            self.fail(start..start + width, "the quotes that open here are never closed".to_owned());
        }
    }

    /// Braces and brackets that do not fit each other.
    fn brackets(&mut self) {
        let mut open: Vec<(u8, Range<usize>)> = Vec::new();
        let mut wrong: Option<(Range<usize>, String)> = None;
        for at in &self.tokens {
            let Token::Sign(sign) = at.token else { continue };
            let closes = match sign {
                b'{' | b'(' | b'[' => {
                    open.push((sign, at.range.clone()));
                    continue;
                }
                b'}' => b'{',
                b')' => b'(',
                b']' => b'[',
                _ => continue,
            };
            match open.pop() {
                Some((opened, _)) if opened == closes => {}
                Some((opened, place)) => {
                    wrong = Some((place, format!("the `{}` that opens here is never closed", opened as char)));
                    break;
                }
                None => {
                    wrong = Some((at.range.clone(), format!("this `{}` closes nothing", sign as char)));
                    break;
                }
            }
        }
        if wrong.is_none()
            && let Some((opened, place)) = open.pop()
        {
            wrong = Some((place, format!("the `{}` that opens here is never closed", opened as char)));
        }
        if let Some((place, reason)) = wrong {
            self.fail(place, reason);
        }
    }

    fn peek(&self) -> Option<&At> {
        self.tokens.get(self.next)
    }

    fn is(&self, sign: u8) -> bool {
        self.peek().is_some_and(|at| at.is(sign))
    }

    fn skip_lines(&mut self) {
        while self.peek().is_some_and(|at| at.token == Token::Line) {
            self.next += 1;
        }
    }

    /// Statements up to the brace that ends them, or the end of the text.
    fn statements(&mut self) -> Vec<Statement> {
        let mut found = Vec::new();
        loop {
            while self.peek().is_some_and(|at| at.token == Token::Line || at.is(b';')) {
                self.next += 1;
            }
            if self.peek().is_none() || self.is(b'}') && self.depth > 0 {
                return found;
            }
            let before = self.next;
            found.push(self.statement());
            if self.next == before {
                self.next += 1;
            }
        }
    }

    fn block(&mut self) -> Block {
        let start = self.peek().map_or(self.text.len(), |at| at.range.start);
        self.next += 1;
        self.depth += 1;
        if self.depth > DEPTH {
            self.skip_block();
            self.depth -= 1;
            return Block { statements: Vec::new(), range: start..self.end() };
        }
        self.parameters();
        let statements = self.statements();
        if self.is(b'}') {
            self.next += 1;
        }
        self.depth -= 1;
        Block { statements, range: start..self.end() }
    }

    /// The names before the arrow of a closure.
    fn parameters(&mut self) {
        let mut ahead = self.next;
        while let Some(at) = self.tokens.get(ahead) {
            match at.token {
                Token::Word | Token::Sign(b',') => ahead += 1,
                Token::Sign(b'-') if self.tokens.get(ahead + 1).is_some_and(|next| next.is(b'>')) => {
                    self.next = ahead + 2;
                    return;
                }
                _ => return,
            }
        }
    }

    /// Passes over the rest of a block whose brace has been read.
    fn skip_block(&mut self) {
        let mut depth = 1_usize;
        while let Some(at) = self.peek() {
            match at.token {
                Token::Sign(b'{') => depth += 1,
                Token::Sign(b'}') => depth -= 1,
                _ => {}
            }
            self.next += 1;
            if depth == 0 {
                return;
            }
        }
    }

    /// The end of the last token that was read.
    fn end(&self) -> usize {
        self.next.checked_sub(1).and_then(|last| self.tokens.get(last)).map_or(0, |at| at.range.end)
    }

    /// A name with dots.
    fn path(&mut self) -> Option<(String, Range<usize>)> {
        let first = self.peek().filter(|at| at.token == Token::Word)?.range.clone();
        self.next += 1;
        let mut end = first.end;
        while self.is(b'.') && self.tokens.get(self.next + 1).is_some_and(|at| at.token == Token::Word) {
            end = self.tokens[self.next + 1].range.end;
            self.next += 2;
        }
        let name = self.text[first.start..end].split_whitespace().collect();
        Some((name, first.start..end))
    }

    fn statement(&mut self) -> Statement {
        let start = self.peek().map_or(self.text.len(), |at| at.range.start);
        let mut statement = Statement {
            name: String::new(),
            name_at: start..start,
            arguments: Vec::new(),
            block: None,
            assigned: None,
            dark: false,
            range: start..start,
        };
        if let Some((name, range)) = self.path() {
            // `def x = …` and `String x = …` name what is set.
            let declares = matches!(name.as_str(), "def" | "final" | "String" | "boolean" | "int" | "Map" | "List");
            let named = if declares { self.path() } else { None };
            let (name, range) = named.unwrap_or((name, range));
            (statement.name, statement.name_at) = (name, range);
            if self.is(b'=') && !self.tokens.get(self.next + 1).is_some_and(|at| at.is(b'=') || at.is(b'~')) {
                self.next += 1;
                self.skip_lines();
                statement.assigned = Some(self.whole_value());
            } else {
                self.rest_of_call(&mut statement);
            }
        }
        statement.dark |= self.skip_rest();
        statement.range = start..self.end().max(start);
        statement
    }

    /// Arguments and block behind a name.
    fn rest_of_call(&mut self, statement: &mut Statement) {
        if self.is(b'(') {
            self.next += 1;
            statement.arguments = self.arguments(b')');
            if self.is(b')') {
                self.next += 1;
            }
        } else if self.peek().is_some_and(|at| {
            matches!(at.token, Token::Word | Token::Text { .. }) || at.is(b'[') && at.range.start > statement.name_at.end
        }) {
            statement.arguments = self.arguments(0);
        }
        // The block may stand in the next line.
        let before = self.next;
        if !self.is(b'{') && statement.arguments.is_empty() || self.peek().is_some_and(|at| at.token == Token::Line) {
            self.skip_lines();
        }
        if self.is(b'{') {
            statement.block = Some(self.block());
        } else {
            self.next = before;
        }
    }

    /// Arguments up to a closing sign; without one (0), up to the end of the line or a block.
    fn arguments(&mut self, closing: u8) -> Vec<Argument> {
        let mut found = Vec::new();
        loop {
            if closing != 0 {
                self.skip_lines();
            }
            match self.peek() {
                None => return found,
                Some(at) if closing != 0 && at.is(closing) => return found,
                Some(at) if closing == 0 && (at.token == Token::Line || at.is(b';') || at.is(b'}') || at.is(b'{')) => {
                    return found;
                }
                _ => {}
            }
            let before = self.next;
            let name = self.label();
            if name.is_some() {
                self.skip_lines();
            }
            let value = self.value_in(closing);
            found.push(Argument { name, value });
            if closing != 0 {
                self.skip_lines();
            }
            if self.is(b',') {
                self.next += 1;
                self.skip_lines();
            } else if self.next == before || closing == 0 {
                return found;
            }
        }
    }

    /// `name:` before a value.
    fn label(&mut self) -> Option<(String, Range<usize>)> {
        let at = self.peek()?;
        let (text, range) = match &at.token {
            Token::Word => (self.text[at.range.clone()].to_owned(), at.range.clone()),
            Token::Text { inner, .. } => (self.text[inner.clone()].to_owned(), inner.clone()),
            _ => return None,
        };
        let colon = self.tokens.get(self.next + 1)?;
        if !colon.is(b':') || self.tokens.get(self.next + 2).is_some_and(|next| next.is(b':')) {
            return None;
        }
        self.next += 2;
        Some((text, range))
    }

    /// A value that reaches to the end of the statement.
    fn whole_value(&mut self) -> Value {
        self.value_in(0)
    }

    /// A value up to a comma, a closing sign, or without brackets (0) the end of the line.
    fn value_in(&mut self, closing: u8) -> Value {
        let start = self.peek().map_or(self.text.len(), |at| at.range.start);
        let first = self.simple();
        if self.ends_value(closing) {
            return first;
        }
        if let Value::Text(quoted) = &first
            && let Some(sum) = self.sum(quoted.clone(), closing)
        {
            return sum;
        }
        self.dark(closing);
        Value::Dark(start..self.end().max(start))
    }

    fn ends_value(&self, closing: u8) -> bool {
        match self.peek() {
            None => true,
            Some(at) => match at.token {
                Token::Line => closing == 0 || self.line_ends(closing),
                Token::Sign(b',' | b';' | b'}' | b')' | b']') => true,
                Token::Sign(b'{') => closing == 0,
                _ => false,
            },
        }
    }

    /// Within brackets a value may end before a line does.
    fn line_ends(&self, closing: u8) -> bool {
        let rest = self.tokens.get(self.next..).unwrap_or_default();
        rest.iter().find(|at| at.token != Token::Line).is_none_or(|at| at.is(closing) || at.is(b','))
    }

    /// `'a' + "b" + …`
    fn sum(&mut self, first: Quoted, closing: u8) -> Option<Value> {
        let before = self.next;
        let start = first.range.start;
        let mut parts = vec![first];
        loop {
            if closing != 0 {
                self.skip_lines();
            }
            if !self.is(b'+') {
                break;
            }
            self.next += 1;
            self.skip_lines();
            match self.peek().and_then(At::quoted) {
                Some(quoted) => {
                    parts.push(quoted);
                    self.next += 1;
                }
                None => {
                    self.next = before;
                    return None;
                }
            }
        }
        if parts.len() < 2 || !self.ends_value(closing) {
            self.next = before;
            return None;
        }
        Some(Value::Sum(parts, start..self.end()))
    }

    /// Passes over what is not understood, brackets and blocks whole.
    fn dark(&mut self, closing: u8) {
        let mut depth = 0_usize;
        while let Some(at) = self.peek() {
            match at.token {
                Token::Sign(b'(' | b'[' | b'{') => depth += 1,
                Token::Sign(b')' | b']' | b'}') if depth == 0 => return,
                Token::Sign(b')' | b']' | b'}') => depth -= 1,
                Token::Sign(b',' | b';') if depth == 0 => return,
                Token::Line if depth == 0 && closing == 0 && !self.goes_on() => return,
                _ => {}
            }
            self.next += 1;
        }
    }

    /// Whether the next line goes on with what stands before its end.
    fn goes_on(&self) -> bool {
        let before = self.next.checked_sub(1).and_then(|last| self.tokens.get(last));
        let open = before
            .is_some_and(|at| matches!(at.token, Token::Sign(b'+' | b'-' | b'*' | b'&' | b'|' | b'?' | b'=' | b',' | b'.')));
        let rest = self.tokens.get(self.next..).unwrap_or_default();
        let next = rest.iter().find(|at| at.token != Token::Line);
        open || next.is_some_and(|at| at.is(b'.'))
    }

    /// The value at the start of an expression.
    fn simple(&mut self) -> Value {
        let Some(at) = self.peek().cloned() else { return Value::Dark(self.text.len()..self.text.len()) };
        if let Some(quoted) = at.quoted() {
            self.next += 1;
            return Value::Text(quoted);
        }
        match at.token {
            Token::Sign(b'[') => self.list(),
            Token::Sign(b'{') => Value::Closure(self.block()),
            Token::Word => self.word(),
            _ => Value::Dark(at.range.start..at.range.start),
        }
    }

    /// A name, or a call.
    fn word(&mut self) -> Value {
        let Some((name, range)) = self.path() else { return Value::Dark(self.end()..self.end()) };
        if !self.is(b'(') || self.depth > DEPTH {
            return Value::Word(name, range);
        }
        self.next += 1;
        self.depth += 1;
        let arguments = self.arguments(b')');
        self.depth -= 1;
        if self.is(b')') {
            self.next += 1;
        }
        let block = if self.is(b'{') { Some(self.block()) } else { None };
        let whole = range.start..self.end();
        let call = Statement { name, name_at: range, arguments, block, assigned: None, dark: false, range: whole };
        Value::Call(Box::new(call))
    }

    /// `[…]`: a list, or names with values.
    fn list(&mut self) -> Value {
        let start = self.peek().map_or(self.text.len(), |at| at.range.start);
        self.next += 1;
        self.depth += 1;
        if self.depth > DEPTH {
            self.dark(b']');
            self.depth -= 1;
            return Value::Dark(start..self.end());
        }
        if self.is(b':') && self.tokens.get(self.next + 1).is_some_and(|at| at.is(b']')) {
            self.next += 1;
        }
        let items = self.arguments(b']');
        if self.is(b']') {
            self.next += 1;
        }
        self.depth -= 1;
        let range = start..self.end();
        if items.iter().any(|item| item.name.is_some()) {
            let pairs = items.into_iter().filter_map(|item| item.name.map(|(name, at)| (name, at, item.value)));
            return Value::Map(pairs.collect(), range);
        }
        Value::List(items.into_iter().map(|item| item.value).collect(), range)
    }

    /// Passes over what is left of a statement; gives whether anything is.
    fn skip_rest(&mut self) -> bool {
        let before = self.next;
        while let Some(at) = self.peek() {
            match at.token {
                Token::Line if !self.goes_on() => break,
                Token::Sign(b';') => break,
                Token::Sign(b'}') if self.depth > 0 => break,
                Token::Sign(b'(' | b'[' | b'{') => {
                    self.next += 1;
                    self.dark_until_closed();
                    continue;
                }
                _ => {}
            }
            self.next += 1;
        }
        self.next > before
    }

    /// Passes over the rest of brackets that have been opened.
    fn dark_until_closed(&mut self) {
        let mut depth = 1_usize;
        while let Some(at) = self.peek() {
            match at.token {
                Token::Sign(b'(' | b'[' | b'{') => depth += 1,
                Token::Sign(b')' | b']' | b'}') => depth -= 1,
                _ => {}
            }
            self.next += 1;
            if depth == 0 {
                return;
            }
        }
    }
}
