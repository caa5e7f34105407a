//! Where a byte stands in a YAML text: the keys and items above it, by their indentation. Nothing is parsed, as a text that is being typed is
//! seldom whole.

use std::ops::Range;

use crate::text::SourceFile;

/// A step from the top of a text to a place in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Part {
    /// Under this key.
    Key(String),
    /// In an item of a list.
    Item,
}

/// What stands at the byte.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Position {
    /// A key is, or may be, written here; or an item that is no more than a text.
    Key,
    /// The value of the last key of the path, on its line; with the value's first byte.
    Value(usize),
    /// A line of the text that the last key holds.
    Block,
    /// A comment.
    Comment,
}

/// A place in a text.
#[derive(Clone, Debug)]
pub(super) struct Written {
    /// From the top.
    pub path: Vec<Part>,
    /// What stands there.
    pub position: Position,
    /// The line up to the byte, without its indentation.
    pub before: String,
    /// The keys that stand beside it already.
    pub siblings: Vec<String>,
    /// The key that stands here, with its bytes, where one does.
    pub key: Option<(String, Range<usize>)>,
    /// It is the first thing of a list's item, or stands alone in it.
    pub opens_item: bool,
}

/// A line of the text that is no part of a block of text.
struct Line {
    start: usize,
    /// The columns of the dashes before anything else.
    dashes: Vec<usize>,
    /// The column and bytes of the key, and its name.
    key: Option<(usize, Range<usize>, String)>,
    /// The first column that holds something.
    first: usize,
    /// The bytes of what follows the key, or the dashes.
    rest: Range<usize>,
    /// Nothing but a comment, or nothing at all.
    is_empty: bool,
}

/// Texts longer than this, in bytes, are not looked through as they are typed.
const LONGEST: usize = 1 << 20;

/// Where a byte of a text stands; nothing in a text too long, or where it stands in is written between braces.
pub(super) fn locate(source: &SourceFile, offset: usize) -> Option<Written> {
    let text = &source.text;
    if text.len() > LONGEST || !text.is_char_boundary(offset) {
        return None;
    }
    let (lines, own, in_block) = lines(source, offset);
    let own_start = source.line_start(source.position(u32::try_from(offset).ok()?).line);
    let before = text[own_start..offset].trim_start().to_owned();
    if let Some(owner) = in_block {
        let mut path = above(&lines[..owner], &lines[owner]);
        path.extend(own_parts(&lines[owner]));
        return Some(Written { path, position: Position::Block, before, siblings: Vec::new(), key: None, opens_item: false });
    }
    let line = &lines[own];
    if comment_at(text, line.start, offset) {
        let key = None;
        return Some(Written {
            path: Vec::new(),
            position: Position::Comment,
            before,
            siblings: Vec::new(),
            key,
            opens_item: false,
        });
    }
    let mut path = above(&lines[..own], line);
    path.extend(line.dashes.iter().map(|_| Part::Item));
    match &line.key {
        Some((_, bytes, name)) if offset > bytes.end => {
            path.push(Part::Key(name.clone()));
            let position = Position::Value(line.rest.start.min(offset));
            Some(Written { path, position, before, siblings: Vec::new(), key: None, opens_item: false })
        }
        key => {
            let siblings = siblings(&lines, own);
            let key = key.as_ref().map(|(_, bytes, name)| (name.clone(), bytes.clone()));
            Some(Written { path, position: Position::Key, before, siblings, key, opens_item: !line.dashes.is_empty() })
        }
    }
}

/// What a line itself adds to the path.
fn own_parts(line: &Line) -> Vec<Part> {
    let items = line.dashes.iter().map(|_| Part::Item);
    items.chain(line.key.iter().map(|(_, _, name)| Part::Key(name.clone()))).collect()
}

/// Whether a byte stands in a comment of its line.
fn comment_at(text: &str, start: usize, offset: usize) -> bool {
    let before = &text[start.min(offset)..offset];
    let mut quote = None;
    let mut last = ' ';
    for c in before.chars() {
        match (quote, c) {
            (None, '#') if last.is_whitespace() => return true,
            (None, '"' | '\'') if last.is_whitespace() || "[{,:".contains(last) => quote = Some(c),
            (Some(open), c) if c == open => quote = None,
            _ => {}
        }
        last = c;
    }
    false
}

/// The lines up to the end of the text, blocks of text left out; the number of the one that the byte is on, and of the one that the block
/// belongs to in which it stands.
fn lines(source: &SourceFile, offset: usize) -> (Vec<Line>, usize, Option<usize>) {
    let text = &source.text;
    let mut lines: Vec<Line> = Vec::new();
    let (mut own, mut in_block) = (0, None);
    // The line that holds a block of text, and the column that its text stands behind.
    let mut block: Option<(usize, usize)> = None;
    let mut number = 1;
    loop {
        let start = source.line_start(number);
        let next = source.line_start(number + 1);
        let content = text[start..next].trim_end_matches(['\n', '\r']);
        let (here, is_own) =
            (start.max(usize::from(number == 1) * source.body().1), start <= offset && offset <= start + content.len());
        let line = read(text, here, start + content.len());
        let column = if line.is_empty { offset.saturating_sub(start) } else { line.first };
        let inside = block.filter(|(_, least)| (line.is_empty && !is_own) || column > *least);
        match inside {
            Some((owner, _)) => {
                if is_own {
                    in_block = Some(owner);
                }
            }
            None => {
                block = None;
                if is_own {
                    own = lines.len();
                }
                if let Some(least) = opens_block(text, &line) {
                    block = Some((lines.len(), least));
                }
                lines.push(line);
            }
        }
        if next >= text.len() {
            // A line break at the end begins one more line.
            if next > start && text[..next].ends_with(['\n', '\r']) && offset == next {
                own = lines.len();
                lines.push(read(text, next, next));
            }
            break;
        }
        number += 1;
    }
    (lines, own, in_block)
}

/// The column behind which the text of a block stands that a line opens with `|` or `>`.
fn opens_block(text: &str, line: &Line) -> Option<usize> {
    let rest = text[line.rest.clone()].trim();
    let rest = rest.split(" #").next().unwrap_or_default().trim();
    let sign = rest.strip_prefix(['|', '>'])?;
    let is_sign = sign.chars().all(|c| c.is_ascii_digit() || "+-".contains(c));
    is_sign.then(|| line.key.as_ref().map_or_else(|| line.dashes.last().copied().unwrap_or(0), |(column, ..)| *column))
}

/// Reads a line of a text, given by its bytes.
fn read(text: &str, start: usize, end: usize) -> Line {
    let content = &text[start..end];
    let mut at = content.len() - content.trim_start_matches(' ').len();
    let first = at;
    let mut dashes = Vec::new();
    while let Some(rest) = content[at..].strip_prefix('-').filter(|rest| rest.is_empty() || rest.starts_with(' ')) {
        dashes.push(at);
        at += 1 + (rest.len() - rest.trim_start_matches(' ').len());
    }
    let rest = &content[at..];
    let is_empty = dashes.is_empty() && (rest.trim().is_empty() || rest.starts_with('#'));
    let key = if is_empty { None } else { key_of(rest) };
    let after = key.as_ref().map_or(at, |(_, behind, _)| at + behind);
    let lead = content[after..].len() - content[after..].trim_start().len();
    Line {
        start,
        dashes,
        key: key.map(|(bytes, _, name)| (at, start + at + bytes.start..start + at + bytes.end, name)),
        first,
        rest: start + after + lead..end.max(start + after + lead),
        is_empty,
    }
}

/// The key that a text begins with: its bytes, the byte behind its colon, and its name.
fn key_of(rest: &str) -> Option<(Range<usize>, usize, String)> {
    let quote = rest.chars().next().filter(|c| "\"'".contains(*c));
    let end = match quote {
        Some(quote) => 1 + rest[1..].find(quote)? + 1,
        None => rest
            .char_indices()
            .find(|(index, c)| *c == ':' && rest[index + 1..].chars().next().is_none_or(char::is_whitespace))
            .map(|(index, _)| index)?,
    };
    let colon = end + rest[end..].find(':').filter(|gap| rest[end..end + gap].trim().is_empty())?;
    let name = rest[..end].trim_matches(['"', '\'']).trim_end();
    let is_name =
        !name.is_empty() && !name.starts_with(['{', '[', '#', '&', '*', '!']) && (quote.is_some() || !name.contains(" #"));
    is_name.then(|| (0..end, colon + 1, name.to_owned()))
}

/// The keys and items above a line.
fn above(before: &[Line], line: &Line) -> Vec<Part> {
    let mut path = Vec::new();
    // The column of what is looked at, and whether that is a dash.
    let (mut column, mut is_dash) = match (line.dashes.first(), &line.key) {
        (Some(dash), _) => (*dash, true),
        (None, Some((column, ..))) => (*column, false),
        (None, None) => (line.rest.start.saturating_sub(line.start).max(line.first), false),
    };
    for line in before.iter().rev().filter(|line| !line.is_empty) {
        let key_column = line.key.as_ref().map(|(column, ..)| *column);
        if !is_dash && !line.dashes.is_empty() && key_column.unwrap_or(line.rest.start - line.start) == column {
            // A key beside it in the same item.
            path.extend(line.dashes.iter().map(|_| Part::Item));
            (column, is_dash) = (line.dashes[0], true);
            continue;
        }
        let holds = |key: usize| key < column || (is_dash && key == column);
        if line.first > column || (line.first == column && !key_column.is_some_and(holds)) {
            continue;
        }
        if let Some((key, _, name)) = line.key.as_ref().filter(|(key, ..)| holds(*key)) {
            path.push(Part::Key(name.clone()));
            path.extend(line.dashes.iter().map(|_| Part::Item));
            (column, is_dash) = line.dashes.first().map_or((*key, false), |dash| (*dash, true));
        } else if let Some(dashes) = line.dashes.iter().filter(|dash| **dash < column).count().checked_sub(1) {
            path.extend(std::iter::repeat_n(Part::Item, dashes + 1));
            (column, is_dash) = (line.dashes[0], true);
        }
        if column == 0 && !is_dash {
            break;
        }
    }
    path.reverse();
    path
}

/// The names of the keys that stand beside a line's in the same mapping.
fn siblings(lines: &[Line], own: usize) -> Vec<String> {
    let line = &lines[own];
    let column = line.key.as_ref().map_or_else(|| (line.rest.start - line.start).max(line.first), |(column, ..)| *column);
    let mut found = Vec::new();
    let own_opens = !line.dashes.is_empty();
    if !own_opens {
        for line in lines[..own].iter().rev().filter(|line| !line.is_empty) {
            let key = line.key.as_ref().filter(|(key, ..)| *key == column);
            found.extend(key.map(|(_, _, name)| name.clone()));
            if line.first < column {
                break;
            }
        }
    }
    for line in lines[own + 1..].iter().filter(|line| !line.is_empty) {
        if line.first < column {
            break;
        }
        let key = line.key.as_ref().filter(|(key, ..)| *key == column);
        found.extend(key.map(|(_, _, name)| name.clone()));
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The place of `|` in a text, as `jobs/build/steps/-/run`, with what stands there.
    fn at(text: &str) -> String {
        let offset = text.find('|').expect("a mark");
        let source = SourceFile::new("a.yml", text.replacen('|', "", 1));
        let written = locate(&source, offset).expect("a place");
        let parts: Vec<&str> = written
            .path
            .iter()
            .map(|part| match part {
                Part::Key(name) => name.as_str(),
                Part::Item => "-",
            })
            .collect();
        let what = match written.position {
            Position::Key => "key",
            Position::Value(_) => "value",
            Position::Block => "block",
            Position::Comment => "comment",
        };
        format!("{} {what}", parts.join("/"))
    }

    #[test]
    fn indentation_tells_the_place() {
        assert_eq!(at("|"), " key");
        assert_eq!(at("on: |"), "on value");
        assert_eq!(at("on:\n  |"), "on key");
        assert_eq!(at("jobs:\n  build:\n    |"), "jobs/build key");
        assert_eq!(at("jobs:\n  build:\n    needs: a\n  |"), "jobs key");
        assert_eq!(at("jobs:\n  build:\n    steps:\n      - uses: a\n        |"), "jobs/build/steps/- key");
        assert_eq!(at("jobs:\n  build:\n    steps:\n      - uses: a\n        with:\n          |"), "jobs/build/steps/-/with key");
        assert_eq!(at("jobs:\n  build:\n    steps:\n    - uses: a\n    - |"), "jobs/build/steps/- key");
        assert_eq!(at("jobs:\n  build:\n    steps:\n      - run: x\n      - run: |"), "jobs/build/steps/-/run value");
        assert_eq!(at("a:\n- b:\n  - c: |"), "a/-/b/-/c value");
        assert_eq!(at("a:\n  - - b: 1\n      |"), "a/-/- key");
        assert_eq!(at("jobs:\n  build:\n\n    # about it\n    |\n    steps:\n"), "jobs/build key");
        assert_eq!(at("on:\n  push:\n    branches:\n      - |"), "on/push/branches/- key");
    }

    #[test]
    fn blocks_of_text_hold_no_keys() {
        let text = "jobs:\n  build:\n    steps:\n      - run: |\n          echo: a\n            b: c\n          ";
        let with = |end: &str| text.replacen('|', "¦", 1).replace('¦', ">") + end;
        assert_eq!(at(&with("x|")), "jobs/build/steps/-/run block");
        assert_eq!(at(&with("x\n      - |")), "jobs/build/steps/- key");
        assert_eq!(at("a: >-\n  one\n\n  two|\nb: 1"), "a block");
        assert_eq!(at("a: 1 # no|te"), " comment");
        assert_eq!(at("a: 'x # |'"), "a value");
    }

    #[test]
    fn keys_beside_are_known() {
        let text = "jobs:\n  build:\n    needs: a\n    |\n    steps:\n      - run: x\n  other:\n    env: y\n";
        let offset = text.find('|').expect("a mark");
        let source = SourceFile::new("a.yml", text.replacen('|', "", 1));
        let written = locate(&source, offset).expect("a place");
        assert_eq!(written.siblings, ["needs", "steps"]);
    }

    #[test]
    fn every_byte_of_any_text_has_an_answer() {
        let texts = [
            "\u{feff}a:\n  - b: |\n   é\n\t- x\r\n  c: {d: [e, f]}\n",
            "- - -\n---\n: :\n\"a: b\n",
            "a: |+2 # x\n    y\n z\n\n\n",
        ];
        for text in texts {
            let source = SourceFile::new("a.yml", text);
            for offset in 0..=text.len() {
                if let Some(written) = locate(&source, offset) {
                    assert!(text.is_char_boundary(offset) && written.path.len() < 20, "{offset} of {text:?}");
                }
            }
        }
    }
}
