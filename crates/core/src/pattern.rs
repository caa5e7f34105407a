//! The patterns of branch, tag and path filters, matched in time that grows with pattern times name and no faster.
//!
//! After the format's "Filter pattern cheat sheet": `*` is any text without `/`, `**` any text, `?` makes the character before it
//! optional, `+` repeats it, `[…]` is one of some letters and digits, `\` takes the meaning from what follows. A `**/` at the start of
//! a part also stands for no folder at all. `!` at the start takes back what patterns before it took in; that is a matter of the list.

use crate::facts::FileList;
use crate::model::{Pattern, PatternSyntax};

/// A pattern of a filter, ready to be held against many names.
pub enum Matcher {
    /// `*` and `**`.
    Glob(Glob),
    /// The name itself.
    Exact(String),
    /// A regular expression.
    Regex(regex::Regex),
    /// A pattern of files.
    Paths(globset::GlobMatcher),
}

impl Matcher {
    /// Reads a pattern; nothing when it is only known when it runs, or is no pattern.
    pub fn of(pattern: &Pattern) -> Option<Self> {
        let text = pattern.text.known()?;
        match pattern.syntax {
            PatternSyntax::Glob => Glob::read(text.strip_prefix('!').unwrap_or(text)).ok().map(Self::Glob),
            PatternSyntax::Exact => Some(Self::Exact(text.to_owned())),
            PatternSyntax::Regex { any_case } => {
                regex::RegexBuilder::new(text).case_insensitive(any_case).size_limit(REGEX_SIZE).build().ok().map(Self::Regex)
            }
            PatternSyntax::Paths if text.contains('$') => None,
            PatternSyntax::Paths => {
                Some(Self::Paths(globset::GlobBuilder::new(text).literal_separator(true).build().ok()?.compile_matcher()))
            }
        }
    }

    /// Whether one of the repository's files fits a pattern; nothing when it is only known when it runs, or is no pattern.
    pub fn of_some_file(pattern: &Pattern, files: &FileList) -> Option<bool> {
        let text = pattern.text.known()?;
        let matcher = Self::of(pattern)?;
        Some(files.any(&format!("{:?} {text}", pattern.syntax), |path| matcher.fits(path)))
    }

    /// Whether a name fits.
    pub fn fits(&self, name: &str) -> bool {
        match self {
            Self::Glob(glob) => glob.fits(name),
            Self::Exact(text) => text == name,
            Self::Regex(regex) => regex.is_match(name),
            Self::Paths(paths) => paths.is_match(name),
        }
    }
}

/// Bytes of a compiled regular expression; a larger one is taken as not known.
const REGEX_SIZE: usize = 1 << 18;

/// What one place of a name may be.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Set {
    /// This character.
    One(char),
    /// Any but `/`.
    NoSlash,
    /// Any.
    Any,
    /// One of these ranges.
    In(Vec<(char, char)>),
}

/// How often it may stand there.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Times {
    Once,
    Optional,
    OneOrMore,
    AnyNumber,
}

/// A pattern that has been read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Glob {
    parts: Vec<(Set, Times)>,
    /// Parts that may be left out together: from, to (exclusive). They stand for `**/`.
    skips: Vec<(usize, usize)>,
}

impl Set {
    fn fits(&self, c: char) -> bool {
        match self {
            Self::One(own) => *own == c,
            Self::NoSlash => c != '/',
            Self::Any => true,
            Self::In(ranges) => ranges.iter().any(|(from, to)| (*from..=*to).contains(&c)),
        }
    }
}

impl Glob {
    /// Reads a pattern, a `!` before it left off by whoever keeps the list.
    ///
    /// # Errors
    /// What in it is no pattern, in plain words.
    pub fn read(pattern: &str) -> Result<Self, String> {
        let mut glob = Self { parts: Vec::new(), skips: Vec::new() };
        let mut chars = pattern.chars().peekable();
        let mut begins = true;
        while let Some(c) = chars.next() {
            let part_begins = begins;
            begins = c == '/';
            match c {
                '*' if chars.peek() == Some(&'*') => {
                    while chars.peek() == Some(&'*') {
                        chars.next();
                    }
                    if part_begins && chars.peek() == Some(&'/') {
                        chars.next();
                        // The first of the three fits nothing: it is the gate where the way past them begins.
                        let from = glob.parts.len();
                        glob.skips.push((from, from + 3));
                        glob.parts.push((Set::In(Vec::new()), Times::Optional));
                        glob.parts.extend([(Set::Any, Times::AnyNumber), (Set::One('/'), Times::Once)]);
                        begins = true;
                    } else {
                        glob.parts.push((Set::Any, Times::AnyNumber));
                    }
                }
                '*' => glob.parts.push((Set::NoSlash, Times::AnyNumber)),
                '?' | '+' => {
                    let times = if c == '?' { Times::Optional } else { Times::OneOrMore };
                    match glob.parts.last_mut() {
                        Some((_, before @ Times::Once)) => *before = times,
                        _ => return Err(format!("nothing stands before the `{c}` that it could repeat")),
                    }
                }
                '[' => glob.parts.push((set(&mut chars)?, Times::Once)),
                '\\' => {
                    let Some(next) = chars.next() else { return Err("nothing follows the `\\`".into()) };
                    glob.parts.push((Set::One(next), Times::Once));
                }
                c => glob.parts.push((Set::One(c), Times::Once)),
            }
        }
        Ok(glob)
    }

    /// Whether it fits a whole name.
    pub fn fits(&self, name: &str) -> bool {
        let mut now = vec![false; self.parts.len() + 1];
        let mut next = now.clone();
        now[0] = true;
        self.pass(&mut now);
        for c in name.chars() {
            next.iter_mut().for_each(|state| *state = false);
            for (index, (set, times)) in self.parts.iter().enumerate().filter(|(index, _)| now[*index]) {
                if set.fits(c) {
                    next[index + 1] = true;
                    next[index] |= matches!(times, Times::AnyNumber | Times::OneOrMore);
                }
            }
            self.pass(&mut next);
            std::mem::swap(&mut now, &mut next);
            if !now.contains(&true) {
                return false;
            }
        }
        now[self.parts.len()]
    }

    /// Goes past what may be left out.
    fn pass(&self, states: &mut [bool]) {
        for (index, (_, times)) in self.parts.iter().enumerate() {
            if !states[index] {
                continue;
            }
            states[index + 1] |= matches!(times, Times::AnyNumber | Times::Optional);
            for (from, to) in &self.skips {
                states[*to] |= *from == index;
            }
        }
    }
}

/// What stands in brackets.
fn set(chars: &mut std::iter::Peekable<std::str::Chars<'_>>) -> Result<Set, String> {
    let mut ranges: Vec<(char, char)> = Vec::new();
    loop {
        let Some(from) = chars.next() else { return Err("a `[` is never closed".into()) };
        if from == ']' {
            break;
        }
        if chars.peek() != Some(&'-') {
            ranges.push((from, from));
            continue;
        }
        chars.next();
        match chars.next() {
            Some(']') => {
                ranges.extend([(from, from), ('-', '-')]);
                break;
            }
            Some(to) if from <= to => ranges.push((from, to)),
            Some(to) => return Err(format!("`{from}-{to}` runs backwards")),
            None => return Err("a `[` is never closed".into()),
        }
    }
    if ranges.is_empty() { Err("nothing stands between `[` and `]`".into()) } else { Ok(Set::In(ranges)) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn fits(pattern: &str, name: &str) -> bool {
        Glob::read(pattern).unwrap_or_else(|reason| panic!("{pattern}: {reason}")).fits(name)
    }

    #[test]
    fn patterns_fit_as_the_manual_says() {
        for (pattern, yes, no) in [
            ("feature/*", vec!["feature/my-branch", "feature/"], vec!["feature/beta-a/my-branch", "feature"]),
            ("feature/**", vec!["feature/beta-a/my-branch", "feature/a"], vec!["feature"]),
            ("main", vec!["main"], vec!["mainland", "Main"]),
            ("*", vec!["main"], vec!["all/the/branches"]),
            ("**", vec!["all/the/branches", ""], vec![]),
            ("*feature", vec!["mona-feature", "feature"], vec!["a/feature"]),
            ("v2*", vec!["v2", "v2.0"], vec!["v1"]),
            ("v[12].[0-9]+.[0-9]+", vec!["v1.10.1", "v2.0.0"], vec!["v3.0.0", "v1.0", "v1..1"]),
            ("*.jsx?", vec!["page.js", "page.jsx"], vec!["page.jsxx"]),
            ("**.js", vec!["index.js", "src/js/app.js"], vec!["index.jsx"]),
            ("docs/*", vec!["docs/README.md"], vec!["docs/a/b.md", "docs"]),
            ("**/docs/**", vec!["docs/hello.md", "dir/docs/my-file.txt", "space/docs/plan/space.doc"], vec!["docs"]),
            ("**/README.md", vec!["README.md", "js/README.md"], vec!["a/xREADME.md"]),
            ("**/*src/**", vec!["a/src/app.js", "my-src/code/js/app.js"], vec!["src.js"]),
            ("**/*-post.md", vec!["my-post.md", "path/their-post.md"], vec!["post.md"]),
            ("a**/b", vec!["ax/y/b", "a/b"], vec!["ab"]),
            ("\\*x", vec!["*x"], vec!["ax"]),
        ] {
            yes.iter().for_each(|name| assert!(fits(pattern, name), "{pattern} should fit {name}"));
            no.iter().for_each(|name| assert!(!fits(pattern, name), "{pattern} should not fit {name}"));
        }
        for wrong in ["+a", "a*?", "[", "[]", "[z-a]", "a\\", "**+"] {
            assert!(Glob::read(wrong).is_err(), "{wrong}");
        }
    }

    #[test]
    fn a_pattern_made_to_hurt_takes_no_time() {
        let pattern = "*a".repeat(500) + "b";
        assert!(!fits(&pattern, &"a".repeat(5_000)));
        assert!(fits(&"**/".repeat(200), "a/b/"));
    }

    /// Slow and obviously right: tries every way to read the pattern.
    fn slow(parts: &[(Set, Times)], skips: &[(usize, usize)], from: usize, name: &[char]) -> bool {
        if let Some((_, to)) = skips.iter().find(|(start, _)| *start == from)
            && slow(parts, skips, *to, name)
        {
            return true;
        }
        let Some((set, times)) = parts.get(from) else { return name.is_empty() };
        let eats = name.first().is_some_and(|c| set.fits(*c));
        let rest = || &name[1..];
        match times {
            Times::Once => eats && slow(parts, skips, from + 1, rest()),
            Times::Optional => slow(parts, skips, from + 1, name) || (eats && slow(parts, skips, from + 1, rest())),
            Times::AnyNumber => slow(parts, skips, from + 1, name) || (eats && slow(parts, skips, from, rest())),
            Times::OneOrMore => eats && (slow(parts, skips, from + 1, rest()) || slow(parts, skips, from, rest())),
        }
    }

    proptest! {
        #[test]
        fn fast_and_slow_agree(pattern in "[ab/*?+.]{0,9}", name in "[ab/.]{0,9}") {
            if let Ok(glob) = Glob::read(&pattern) {
                let chars: Vec<char> = name.chars().collect();
                prop_assert_eq!(glob.fits(&name), slow(&glob.parts, &glob.skips, 0, &chars), "{} on {}", pattern, name);
            }
        }

        #[test]
        fn any_text_is_read_without_a_panic(pattern in ".{0,40}", name in ".{0,40}") {
            let _ = Glob::read(&pattern).map(|glob| glob.fits(&name));
        }
    }
}
