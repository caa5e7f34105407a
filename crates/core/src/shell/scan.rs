//! One pass over the bytes of a script.

use super::{Command, Join, Redirect, Script, Word};
use crate::text::has_hole;

/// Scripts deeper than this are torn, never a stack's end: nesting is counted, not recursed.
const DEPTH_LIMIT: usize = 200;

/// Reads a script. Never fails; see [`Script::torn`].
pub fn parse(source: &str) -> Script {
    let mut scan = Scan {
        source,
        bytes: source.as_bytes(),
        at: 0,
        script: Script::default(),
        current: None,
        join: Join::Next,
        subshells: Vec::new(),
        subshell_count: 0,
        blocks: Vec::new(),
        heredocs: Vec::new(),
    };
    scan.run();
    scan.script
}

/// A block that is open around the commands that follow.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Block {
    If,
    Loop,
    Case { in_pattern: bool },
    Brace { function: bool },
    Subshell,
}

struct Scan<'s> {
    source: &'s str,
    bytes: &'s [u8],
    at: usize,
    script: Script,
    current: Option<Command>,
    join: Join,
    subshells: Vec<u32>,
    subshell_count: u32,
    blocks: Vec<Block>,
    heredocs: Vec<(String, bool)>,
}

impl Scan<'_> {
    fn run(&mut self) {
        while self.at < self.bytes.len() {
            if self.blocks.len() > DEPTH_LIMIT {
                self.script.torn = true;
                break;
            }
            self.step();
        }
        self.finish();
        self.script.torn |= !self.blocks.is_empty();
    }

    fn peek(&self, ahead: usize) -> Option<u8> {
        self.bytes.get(self.at + ahead).copied()
    }

    fn step(&mut self) {
        let byte = self.bytes[self.at];
        match byte {
            b' ' | b'\t' | b'\r' => self.at += 1,
            b'\\' if self.peek(1) == Some(b'\n') => self.at += 2,
            b'\\' if self.peek(1) == Some(b'\r') && self.peek(2) == Some(b'\n') => self.at += 3,
            b'\n' => {
                // A line that ends with `&&`, `||` or `|` goes on in the next: only a finished command starts anew.
                self.at += 1;
                self.finish();
                self.skip_heredocs();
            }
            b'#' => self.skip_line(),
            b';' => {
                self.finish();
                self.at += 1;
                self.join = Join::Next;
                if self.peek(0) == Some(b';') {
                    self.at += 1;
                    if let Some(Block::Case { in_pattern }) = self.blocks.last_mut() {
                        *in_pattern = true;
                    }
                }
            }
            b'&' if self.peek(1) == Some(b'&') => self.operator(2, Join::And),
            b'&' if self.peek(1) == Some(b'>') => self.redirect(),
            b'&' => self.operator(1, Join::Next),
            b'|' if self.peek(1) == Some(b'|') => self.operator(2, Join::Or),
            b'|' if self.peek(1) == Some(b'&') => self.operator(2, Join::Pipe),
            b'|' => self.operator(1, Join::Pipe),
            b'(' => self.open_parenthesis(),
            b')' => self.close_parenthesis(),
            b'<' | b'>' if self.peek(1) != Some(b'(') => self.redirect(),
            b'0'..=b'9' if self.is_numbered_redirect() => self.redirect(),
            _ => self.word_or_keyword(),
        }
    }

    fn operator(&mut self, length: usize, join: Join) {
        self.finish();
        self.at += length;
        self.join = join;
    }

    fn skip_line(&mut self) {
        while self.peek(0).is_some_and(|byte| byte != b'\n') {
            self.at += 1;
        }
    }

    fn open_parenthesis(&mut self) {
        if matches!(self.blocks.last(), Some(Block::Case { in_pattern: true })) {
            self.at += 1;
            return;
        }
        if self.peek(1) == Some(b'(') && self.current.is_none() {
            self.skip_arithmetic();
            return;
        }
        // `name ()` starts a function.
        if let Some(command) = &self.current
            && command.words.len() == 1
            && self.bytes[self.at + 1..].iter().find(|byte| !byte.is_ascii_whitespace()) == Some(&b')')
        {
            self.current = None;
            while self.peek(0) != Some(b')') {
                self.at += 1;
            }
            self.at += 1;
            while self.peek(0).is_some_and(|byte| byte.is_ascii_whitespace()) {
                self.at += 1;
            }
            if self.peek(0) == Some(b'{') {
                self.at += 1;
                self.blocks.push(Block::Brace { function: true });
            }
            return;
        }
        self.finish();
        self.at += 1;
        self.subshell_count += 1;
        self.subshells.push(self.subshell_count);
        self.blocks.push(Block::Subshell);
    }

    fn close_parenthesis(&mut self) {
        self.finish();
        self.at += 1;
        match self.blocks.last_mut() {
            Some(Block::Case { in_pattern }) if *in_pattern => *in_pattern = false,
            Some(Block::Subshell) => {
                self.blocks.pop();
                self.subshells.pop();
            }
            _ => self.script.torn = true,
        }
        self.join = Join::Next;
    }

    fn skip_arithmetic(&mut self) {
        let mut depth = 0usize;
        while let Some(byte) = self.peek(0) {
            self.at += 1;
            match byte {
                b'(' => depth += 1,
                b')' => {
                    depth -= 1;
                    if depth == 0 {
                        return;
                    }
                }
                _ => {}
            }
        }
        self.script.torn = true;
    }

    fn is_numbered_redirect(&self) -> bool {
        let digits = self.bytes[self.at..].iter().take_while(|byte| byte.is_ascii_digit()).count();
        matches!(self.peek(digits), Some(b'<' | b'>'))
    }

    fn redirect(&mut self) {
        let start = self.at;
        while self.peek(0).is_some_and(|byte| byte.is_ascii_digit() || byte == b'&') {
            self.at += 1;
        }
        let writes = self.peek(0) == Some(b'>');
        self.at += 1;
        if !writes && self.peek(0) == Some(b'<') && self.peek(1) != Some(b'<') {
            self.at += 1;
            self.heredoc_start();
            return;
        }
        let appends = writes && self.peek(0) == Some(b'>');
        while self.peek(0).is_some_and(|byte| matches!(byte, b'>' | b'<' | b'|')) {
            self.at += 1;
        }
        if self.peek(0) == Some(b'&') {
            // `2>&1` names a stream, not a file.
            self.at += 1;
            while self.peek(0).is_some_and(|byte| byte.is_ascii_digit() || byte == b'-') {
                self.at += 1;
            }
            self.command(start);
            return;
        }
        while self.peek(0).is_some_and(|byte| byte == b' ' || byte == b'\t') {
            self.at += 1;
        }
        if self.peek(0).is_none_or(|byte| matches!(byte, b'\n' | b';' | b'|' | b'&' | b')')) {
            self.script.torn = true;
            return;
        }
        let target = self.word();
        let end = self.at;
        let command = self.command(start);
        command.redirects.push(Redirect { writes, appends, target });
        command.range.end = end;
    }

    fn heredoc_start(&mut self) {
        let strip_tabs = self.peek(0) == Some(b'-');
        if strip_tabs {
            self.at += 1;
        }
        while self.peek(0).is_some_and(|byte| byte == b' ' || byte == b'\t') {
            self.at += 1;
        }
        let start = self.at;
        let word = self.word();
        self.command(start);
        self.heredocs.push((word.text, strip_tabs));
    }

    fn skip_heredocs(&mut self) {
        for (mark, strip_tabs) in std::mem::take(&mut self.heredocs) {
            let mut found = false;
            while self.at < self.bytes.len() && !found {
                let rest = &self.source[self.at..];
                let line = rest.split('\n').next().unwrap_or_default();
                let trimmed = line.trim_end_matches('\r');
                found = mark == if strip_tabs { trimmed.trim_start_matches('\t') } else { trimmed };
                self.at += (line.len() + 1).min(rest.len());
            }
            self.script.torn |= !found;
        }
    }

    fn command(&mut self, start: usize) -> &mut Command {
        let guarded = self.blocks.iter().any(|block| !matches!(block, Block::Subshell | Block::Brace { function: false }));
        self.current.get_or_insert_with(|| Command {
            assignments: Vec::new(),
            words: Vec::new(),
            redirects: Vec::new(),
            join: self.join,
            subshells: self.subshells.clone(),
            guarded,
            range: start..start,
        })
    }

    fn finish(&mut self) {
        if let Some(command) = self.current.take() {
            self.script.commands.push(command);
            self.join = Join::Next;
        }
    }

    fn word_or_keyword(&mut self) {
        if let Some(Block::Case { in_pattern: true }) = self.blocks.last() {
            let word = self.word();
            if word.text == "esac" {
                self.blocks.pop();
            } else if self.peek(0) == Some(b'|') {
                self.at += 1;
            }
            return;
        }
        let start = self.at;
        let word = self.word();
        if self.at == start {
            self.at += 1;
            self.script.torn = true;
            return;
        }
        let at_start = self.current.as_ref().is_none_or(|command| command.words.is_empty());
        let plain = at_start && !word.quoted && !word.dynamic && self.current.is_none();
        if plain && self.keyword(&word.text) {
            return;
        }
        let end = self.at;
        let assignment = at_start.then(|| assignment_name(&self.source[word.range.clone()])).flatten();
        if let Some(name) = assignment {
            if self.peek(0) == Some(b'(') && word.text.ends_with('=') {
                self.skip_arithmetic();
            }
            let value_start = word.range.start + name.len() + 1;
            let text = word.text[(name.len() + 1).min(word.text.len())..].to_owned();
            let value = Word { range: value_start..end, text, ..word };
            self.command(start).assignments.push((name, value));
        } else {
            self.command(start).words.push(word);
        }
        let end = self.at;
        self.command(start).range.end = end;
    }

    /// Handles a word with which the shell opens, divides or closes a block; gives whether it was one.
    fn keyword(&mut self, word: &str) -> bool {
        match word {
            "if" => self.blocks.push(Block::If),
            "while" | "until" => self.blocks.push(Block::Loop),
            "for" | "select" => {
                self.blocks.push(Block::Loop);
                // The list that is walked over runs nothing.
                while self.peek(0).is_some_and(|byte| byte != b'\n' && byte != b';') {
                    self.at += 1;
                }
            }
            "case" => {
                self.blocks.push(Block::Case { in_pattern: true });
                while self.at < self.bytes.len()
                    && !self.source[..self.at].ends_with(" in")
                    && !self.source[..self.at].ends_with("\nin")
                {
                    self.at += 1;
                    while !self.source.is_char_boundary(self.at) {
                        self.at += 1;
                    }
                }
            }
            "then" | "else" | "elif" | "do" | "!" | "time" => {}
            "{" => self.blocks.push(Block::Brace { function: false }),
            "function" => {
                while self.peek(0).is_some_and(|byte| byte != b'{' && byte != b'\n') {
                    self.at += 1;
                }
                if self.peek(0) == Some(b'{') {
                    self.at += 1;
                    self.blocks.push(Block::Brace { function: true });
                }
            }
            "fi" => self.close(|block| block == Block::If),
            "done" => self.close(|block| block == Block::Loop),
            "esac" => self.close(|block| matches!(block, Block::Case { .. })),
            "}" => self.close(|block| matches!(block, Block::Brace { .. })),
            _ => return false,
        }
        true
    }

    fn close(&mut self, fits: impl Fn(Block) -> bool) {
        if self.blocks.last().is_some_and(|block| fits(*block)) {
            self.blocks.pop();
        } else {
            self.script.torn = true;
        }
    }

    /// Reads one word from here. Stops at white space and operators outside quotes and holes.
    fn word(&mut self) -> Word {
        let start = self.at;
        let mut word = Word { range: start..start, text: String::new(), dynamic: false, glob: false, quoted: false };
        while let Some(byte) = self.peek(0) {
            match byte {
                b' ' | b'\t' | b'\n' | b'\r' | b';' | b'|' | b'&' | b')' => break,
                b'<' | b'>' if self.peek(1) == Some(b'(') => {
                    self.as_written(&mut word, |scan| {
                        scan.at += 1;
                        scan.balanced(b'(', b')');
                    });
                }
                b'(' if self.at > start && matches!(self.bytes[self.at - 1], b'@' | b'!' | b'+' | b'?' | b'*') => {
                    word.glob = true;
                    let start = self.at;
                    self.balanced(b'(', b')');
                    word.text.push_str(&self.source[start..self.at]);
                }
                b'<' | b'>' | b'(' => break,
                b'\\' => self.escape(&mut word),
                b'\'' => self.single_quoted(&mut word),
                b'"' => self.double_quoted(&mut word),
                b'`' => self.as_written(&mut word, Self::until_backtick),
                b'$' => self.dollar(&mut word, false),
                _ if is_plain(byte) => {
                    let rest = &self.source[self.at..];
                    let length = rest.bytes().position(|byte| !is_plain(byte)).unwrap_or(rest.len());
                    word.text.push_str(&rest[..length]);
                    self.at += length;
                }
                _ => {
                    word.glob |= matches!(byte, b'*' | b'?' | b'[');
                    self.push_char(&mut word);
                }
            }
        }
        word.range = start..self.at;
        word
    }

    /// Takes what `read` passes over into the word as it is written: its value is only known when it runs.
    fn as_written(&mut self, word: &mut Word, read: impl FnOnce(&mut Self)) {
        let start = self.at;
        read(self);
        word.dynamic = true;
        word.text.push_str(&self.source[start..self.at]);
    }

    fn push_char(&mut self, word: &mut Word) {
        if let Some(character) = self.source[self.at..].chars().next() {
            word.text.push(character);
            self.at += character.len_utf8();
        }
    }

    fn escape(&mut self, word: &mut Word) {
        self.at += 1;
        match self.peek(0) {
            Some(b'\n') => self.at += 1,
            Some(b'\r') if self.peek(1) == Some(b'\n') => self.at += 2,
            Some(_) => self.push_char(word),
            None => {}
        }
    }

    fn single_quoted(&mut self, word: &mut Word) {
        word.quoted = true;
        self.at += 1;
        let rest = &self.source[self.at..];
        let (inside, after) = match rest.find('\'') {
            Some(index) => (&rest[..index], index + 1),
            None => {
                self.script.torn = true;
                (rest, rest.len())
            }
        };
        // A hole is filled in before the shell sees its quotes.
        word.dynamic |= has_hole(inside);
        word.text.push_str(inside);
        self.at += after;
    }

    fn double_quoted(&mut self, word: &mut Word) {
        word.quoted = true;
        self.at += 1;
        while let Some(byte) = self.peek(0) {
            match byte {
                b'"' => {
                    self.at += 1;
                    return;
                }
                b'\\' if matches!(self.peek(1), Some(b'"' | b'\\' | b'$' | b'`' | b'\n')) => self.escape(word),
                b'`' => self.as_written(word, Self::until_backtick),
                b'$' => self.dollar(word, true),
                _ => self.push_char(word),
            }
        }
        self.script.torn = true;
    }

    /// A hole, a variable or a substitution; a dollar by itself is a letter.
    fn dollar(&mut self, word: &mut Word, quoted: bool) {
        match self.peek(1) {
            _ if self.source[self.at..].starts_with("${{") => self.as_written(word, Self::hole),
            Some(b'(') => self.as_written(word, |scan| {
                scan.at += 1;
                scan.balanced(b'(', b')');
            }),
            Some(b'{') => self.as_written(word, |scan| {
                scan.at += 1;
                scan.balanced(b'{', b'}');
            }),
            Some(b'\'') if !quoted => self.as_written(word, |scan| {
                scan.at += 1;
                scan.balanced_ansi();
            }),
            Some(byte)
                if byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'@' | b'*' | b'#' | b'?' | b'$' | b'!' | b'-') =>
            {
                self.as_written(word, |scan| {
                    scan.at += 2;
                    while byte.is_ascii_alphabetic() | (byte == b'_')
                        && scan.peek(0).is_some_and(|b| b.is_ascii_alphanumeric() || b == b'_')
                    {
                        scan.at += 1;
                    }
                });
            }
            _ => self.push_char(word),
        }
    }

    fn hole(&mut self) {
        match self.source[self.at..].find("}}") {
            Some(index) => self.at += index + 2,
            None => {
                self.script.torn = true;
                self.at = self.bytes.len();
            }
        }
    }

    fn balanced_ansi(&mut self) {
        self.at += 1;
        while let Some(byte) = self.peek(0) {
            self.at += if byte == b'\\' { 2 } else { 1 };
            if byte == b'\'' {
                break;
            }
        }
        self.at = self.floor(self.at);
    }

    fn floor(&self, at: usize) -> usize {
        let mut at = at.min(self.bytes.len());
        while !self.source.is_char_boundary(at) {
            at += 1;
        }
        at
    }

    fn until_backtick(&mut self) {
        self.at += 1;
        while let Some(byte) = self.peek(0) {
            self.at += if byte == b'\\' { 2 } else { 1 };
            if byte == b'`' {
                self.at = self.floor(self.at);
                return;
            }
        }
        self.at = self.floor(self.at);
        self.script.torn = true;
    }

    /// Moves past a bracketed part, quotes inside respected.
    fn balanced(&mut self, open: u8, close: u8) {
        let mut depth = 0usize;
        let mut quote: Option<u8> = None;
        while let Some(byte) = self.peek(0) {
            self.at += 1;
            match quote {
                Some(b'"') if byte == b'\\' => self.at += 1,
                Some(mark) if byte == mark => quote = None,
                Some(_) => {}
                None if byte == b'\\' => self.at += 1,
                None if byte == b'\'' || byte == b'"' => quote = Some(byte),
                None if byte == open => depth += 1,
                None if byte == close => {
                    depth -= 1;
                    if depth == 0 {
                        return;
                    }
                }
                None => {}
            }
        }
        self.at = self.floor(self.at);
        self.script.torn = true;
    }
}

/// What stands for itself in a word, whatever comes before or after it.
fn is_plain(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_' | b'.' | b'/' | b'=' | b':' | b',' | b'@' | b'%')
}

/// The name of `NAME=value`, `NAME+=value` left aside.
fn assignment_name(source: &str) -> Option<String> {
    let (name, _) = source.split_once('=')?;
    let mut chars = name.chars();
    let first = chars.next()?;
    let fits = (first.is_ascii_alphabetic() || first == '_') && chars.all(|c| c.is_ascii_alphanumeric() || c == '_');
    fits.then(|| name.to_owned())
}
