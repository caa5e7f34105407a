//! How deep a script is nested, told before the parser is called: it reads by recursion, and reads again what may be one thing or another,
//! so that a few thousand brackets cost more memory than there is.

/// Nested deeper than this, nothing is a configuration that a person wrote.
const LIMIT: usize = 64;

/// Words after which a slash starts a pattern rather than dividing.
const BEFORE_PATTERN: [&str; 15] = [
    "return",
    "typeof",
    "case",
    "do",
    "else",
    "in",
    "of",
    "void",
    "delete",
    "instanceof",
    "new",
    "throw",
    "yield",
    "await",
    "default",
];

/// Whether a script, or JSON with comments, is nested deeper than anyone writes. Never less is counted than the parser sees: where a bracket
/// may be part of a text, it counts if it opens and does not if it closes.
pub(super) fn is_too_deep(text: &str) -> bool {
    let mut depth =
        Depth { bytes: text.as_bytes(), at: 0, open: Vec::new(), angles: 0, questions: 0, around: 0, left_over: 0, deepest: 0 };
    depth.code();
    depth.deepest > LIMIT
}

/// A bracket that is not closed.
struct Open {
    /// It is the hole of a template, at whose end text goes on.
    hole: bool,
    /// What was counted in the bracket that it stands in.
    angles: usize,
    questions: usize,
}

struct Depth<'t> {
    bytes: &'t [u8],
    at: usize,
    open: Vec<Open>,
    /// `<` signs in the innermost bracket that may open arguments of a type.
    angles: usize,
    /// Questions in the innermost bracket since its last comma: each may have a function behind it, which may be read twice.
    questions: usize,
    /// `<` signs and questions in all brackets around the innermost one.
    around: usize,
    /// What texts open and do not close.
    left_over: usize,
    deepest: usize,
}

impl Depth<'_> {
    fn here(&self) -> Option<u8> {
        self.bytes.get(self.at).copied()
    }

    fn next(&self) -> Option<u8> {
        self.bytes.get(self.at + 1).copied()
    }

    fn look(&mut self, inside: usize) {
        let counted = self.open.len() + self.around + self.angles + self.questions + self.left_over + inside;
        self.deepest = self.deepest.max(counted);
    }

    fn code(&mut self) {
        while let Some(byte) = self.here() {
            if self.deepest > LIMIT {
                return;
            }
            match byte {
                b'"' | b'\'' => self.text(|depth| depth.here() == Some(byte), true),
                b'`' => self.template(),
                b'/' if self.next() == Some(b'/') => self.text(|_| false, true),
                b'/' if self.next() == Some(b'*') => {
                    self.at += 1;
                    self.text(|depth| depth.here() == Some(b'*') && depth.next() == Some(b'/'), false);
                    self.at += 1;
                }
                b'/' if self.may_start_pattern() => self.text(|depth| depth.here() == Some(b'/'), true),
                b'(' | b'[' | b'{' => self.push(false),
                b')' | b']' | b'}' => self.pop(),
                b'<' => {
                    self.angles += 1;
                    self.look(0);
                    self.at += 1;
                }
                b'>' if self.at == 0 || self.bytes[self.at - 1] != b'=' => {
                    self.angles = self.angles.saturating_sub(1);
                    self.at += 1;
                }
                b'?' => {
                    self.questions += 1;
                    self.look(0);
                    self.at += 1;
                }
                b',' | b';' => {
                    self.questions = 0;
                    if byte == b';' {
                        self.angles = 0;
                    }
                    self.at += 1;
                }
                _ => self.at += 1,
            }
        }
    }

    fn push(&mut self, hole: bool) {
        self.around += self.angles + self.questions;
        self.open.push(Open { hole, angles: self.angles, questions: self.questions });
        (self.angles, self.questions) = (0, 0);
        self.at += 1;
        self.look(0);
    }

    fn pop(&mut self) {
        self.at += 1;
        let Some(closed) = self.open.pop() else { return };
        (self.angles, self.questions) = (closed.angles, closed.questions);
        self.around -= self.angles + self.questions;
        if closed.hole {
            self.template_text();
        }
    }

    fn template(&mut self) {
        self.at += 1;
        self.template_text();
    }

    /// The text of a template, up to its end or to a hole.
    fn template_text(&mut self) {
        let mut inside = 0;
        while let Some(byte) = self.here() {
            match byte {
                b'`' => break,
                b'$' if self.next() == Some(b'{') => {
                    self.left_over += inside;
                    self.at += 1;
                    self.push(true);
                    return;
                }
                b'\\' => self.at += 1,
                _ => inside = self.inside(byte, inside),
            }
            self.at += 1;
        }
        self.left_over += inside;
        self.at += 1;
    }

    /// From the first sign of a text or comment to behind its last.
    fn text(&mut self, ends: impl Fn(&Self) -> bool, in_line: bool) {
        let mut inside = 0;
        self.at += 1;
        while let Some(byte) = self.here() {
            if ends(self) || in_line && byte == b'\n' {
                break;
            }
            if byte == b'\\' {
                self.at += 1;
            } else {
                inside = self.inside(byte, inside);
            }
            self.at += 1;
        }
        self.left_over += inside;
        self.at += 1;
    }

    /// What is open in a text behind one of its bytes.
    fn inside(&mut self, byte: u8, open: usize) -> usize {
        match byte {
            b'(' | b'[' | b'{' => {
                self.look(open + 1);
                open + 1
            }
            b')' | b']' | b'}' => open.saturating_sub(1),
            _ => open,
        }
    }

    /// Whether the slash here may start a pattern; behind a bracket nobody can tell.
    fn may_start_pattern(&self) -> bool {
        let before = self.bytes[..self.at].trim_ascii_end();
        let is_word = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'$') || *byte >= 0x80;
        let length = before.iter().rev().take_while(|byte| is_word(byte)).count();
        let word = &before[before.len() - length..];
        match before.last() {
            Some(b']' | b'"' | b'\'' | b'`') => false,
            _ if length > 0 => BEFORE_PATTERN.iter().any(|known| known.as_bytes() == word),
            _ => true,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_people_write_is_not_too_deep() {
        for text in [
            "export default defineConfig({ build: { outDir: 'dist' }, plugins: [a(), b({ c: [1] })] })",
            "// (see the page on (base) paths :( )\nexport default { base: `/${process.env.SHIP ?? `sail/${day}`}/` }",
            "const a = b / c; const d = /[(]/.test('('); if (a) /x/.test(b); export default { f: (x: Map<string, Array<number>>) => x < 3 }",
        ] {
            assert!(!is_too_deep(text), "{text}");
        }
        let long = "rules.push({ test: /\\.(png|jpe?g)$/, use: [load('a(b)')], most: a < b ? 1 : 2 });\n".repeat(500);
        assert!(!is_too_deep(&long));
    }

    #[test]
    fn nothing_hides_what_is_nested() {
        for part in [
            "(a=",
            "[",
            "{a:",
            "f<",
            "f< ",
            "`${",
            "(a=/*)*/",
            "(a=')'+",
            "(a=/)/.x,",
            "(a=`)`+",
            "if(a)/)/.x,(",
            "(a=b?/[)]/:",
            "/\"/,(a=",
            "[//]\n",
            "a<(b>=",
            "a?(b):c=>",
        ] {
            assert!(is_too_deep(&format!("export default {}", part.repeat(100))), "{part}");
            let quoted = format!("export default {}\"", part.repeat(100));
            assert!(is_too_deep(&quoted), "{part}");
        }
    }
}
