//! Edits that leave the rest of a text as it is.

use crate::finding::Edit;
use crate::model::Text;
use crate::text::{Place, SourceFile, Sources, Span};

/// Whether a text without quotes stands between braces or brackets, as in `{key: text}`, where braces and commas end it.
pub fn in_flow(sources: &Sources, text: &Text) -> bool {
    let source = &sources.get(text.at.file).text;
    let after = source.get(text.at.span.end as usize..).unwrap_or_default();
    let next = after.lines().next().unwrap_or_default().trim_start();
    sources.slice(text.at) == text.value && next.starts_with(['}', ']', ','])
}

/// Adds a text at a byte of the file that a place lies in.
pub fn insert(at: Place, offset: u32, text: String) -> Edit {
    Edit::replace(Place { file: at.file, span: Span { start: offset, end: offset } }, text)
}

/// Adds a line after that of a value which stands with its key on a line of its own.
pub fn line_after(sources: &Sources, value: &Text, line: &str) -> Option<Edit> {
    let source = sources.get(value.at.file);
    let current = source.line_at(value.at.span.start);
    let indent = &current[..current.len() - current.trim_start().len()];
    let key_alone = current
        .trim_start()
        .split_once(':')
        .is_some_and(|(key, _)| key.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-'));
    let ends_line = current.ends_with(source.slice(value.at.span));
    let edit = insert(value.at, value.at.span.end, format!("\n{indent}{line}"));
    (key_alone && ends_line && !indent.contains('\t')).then_some(edit)
}

/// Adds a line before the first key of a block, where its keys stand one a line.
pub fn line_before(sources: &Sources, block: Place, line: &str) -> Option<Edit> {
    let indent = indentation(sources.get(block.file), block.span.start)?;
    Some(insert(block, block.span.start, format!("{line}{indent}")))
}

/// The line break and the spaces before a key that is the first thing on its line.
pub fn indentation(source: &SourceFile, offset: u32) -> Option<String> {
    let before = &source.text[..offset as usize];
    let line = before.rfind('\n').map_or(before, |index| &before[index + 1..]);
    let line_break = if before.ends_with(&format!("\r\n{line}")) { "\r\n" } else { "\n" };
    (!line.is_empty() && line.bytes().all(|byte| byte == b' ')).then(|| format!("{line_break}{line}"))
}
