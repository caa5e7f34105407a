//! From text to tree. The YAML parser is a library and stays behind this file.

use std::borrow::Cow;
use std::collections::HashMap;

use granit_parser::{ErrorKind, Event, Parser, ScalarStyle, StructureStyle};

use crate::carrier::tree::{Comment, Inside, Kind, Node, NodeId, Scalar, Style, Tree, TreeError};
use crate::carrier::{Copies, weight};
use crate::text::Span;

/// Deeper than any file a person wrote.
const NESTING_LIMIT: usize = 128;
/// A collection that is not closed yet.
struct Open {
    id: NodeId,
    /// Where its items begin among those of all that are open.
    first: usize,
    mapping: bool,
    flow: bool,
}

struct Builder<'c> {
    tree: Tree,
    open: Vec<Open>,
    /// The items of all collections that are open, outer ones first.
    items: Vec<NodeId>,
    anchors: HashMap<usize, NodeId>,
    /// By node: what it weighs, with all in it, when it is copied.
    weights: Vec<usize>,
    copies: &'c Copies,
}

/// Reads a text. Never fails: the first thing that cannot be read is in [`Tree::errors`], and what stands before it in the tree.
pub fn parse(source: &str) -> Tree {
    parse_within(source, &Copies::default())
}

/// The same of a text that may copy no more than so much; what follows is left out.
pub fn parse_within(source: &str, copies: &Copies) -> Tree {
    let options = granit_parser::options! {
        emit_anchor_events: true,
        emit_unresolved_aliases: true,
        flow_nesting_limit: NESTING_LIMIT,
        block_nesting_limit: NESTING_LIMIT,
        max_buffered_comment_events: usize::MAX,
    };
    let tree = Tree {
        // Most files have more bytes for each node.
        nodes: Vec::with_capacity(source.len() / 16),
        items: Vec::new(),
        pairs: Vec::with_capacity(source.len() / 48),
        source: source.into(),
        reworded: Vec::new(),
        too_large: None,
        anchored: Vec::new(),
        documents: Vec::new(),
        comments: Vec::new(),
        errors: Vec::new(),
    };
    let mut builder = Builder {
        tree,
        open: Vec::with_capacity(16),
        items: Vec::with_capacity(64),
        anchors: HashMap::new(),
        weights: Vec::with_capacity(source.len() / 16),
        copies,
    };
    for step in Parser::new_from_str_with_options(source, options) {
        match step {
            Ok((event, span)) => builder.take(event, source, span),
            Err(error) => {
                builder.fail(&error);
                break;
            }
        }
        if builder.tree.too_large.is_some() {
            break;
        }
    }
    builder.tree.comments.sort_by_key(|comment| comment.span.start);
    builder.tree
}

impl Builder<'_> {
    fn take(&mut self, event: Event<'_>, source: &str, at: granit_parser::Span) {
        let range = at.byte_range().unwrap_or(0..0);
        let span = Span::new(range.start, range.end);
        match event {
            Event::Scalar(value, style, anchor, tag) => {
                let style = style_of(style);
                let absent = style == Style::Plain && span.is_empty();
                let span = if matches!(style, Style::Literal | Style::Folded) { self.trim_block(span) } else { span };
                let kind = if absent { Kind::Absent } else { Kind::Scalar(scalar(value, span, source), style) };
                let id = self.add(span, kind, tag.as_deref());
                self.anchor(anchor, id);
                self.place(id);
            }
            Event::SequenceStart(style, anchor, tag) => {
                let flow = style == StructureStyle::Flow;
                self.start(span, Kind::Sequence(Inside::default(), flow), flow, anchor, tag.as_deref());
            }
            Event::MappingStart(style, anchor, tag) => {
                let flow = style == StructureStyle::Flow;
                self.start(span, Kind::Mapping(Inside::default(), flow), flow, anchor, tag.as_deref());
            }
            Event::SequenceEnd | Event::MappingEnd => self.close(span.end),
            Event::Alias(anchor) => {
                let target = self.anchors.get(&anchor).copied();
                // An alias inside its own anchor would never end.
                let target = target.filter(|id| !self.open.iter().any(|open| open.id == *id));
                let weight = target.map_or(1, |id| self.weights[id.0 as usize]);
                if !self.copies.take(weight) {
                    self.tree.too_large = Some(span);
                }
                let id = self.add(span, Kind::Alias(target), None);
                self.weights[id.0 as usize] = weight;
                self.place(id);
            }
            Event::UnresolvedAlias(name) => {
                let plain = name.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_'));
                let reason = if plain && !self.anchors.is_empty() {
                    format!("*{name} stands for an anchor that is not set above it")
                } else {
                    format!("a value that starts with * needs quotes round it: '*{name}'")
                };
                self.tree.errors.push(TreeError { span, reason });
                let id = self.add(span, Kind::Alias(None), None);
                self.place(id);
            }
            Event::Comment(..) => self.tree.comments.push(Comment { span }),
            Event::DocumentEnd => self.anchors.clear(),
            _ => {}
        }
    }

    fn add(&mut self, span: Span, kind: Kind, tag: Option<&granit_parser::Tag>) -> NodeId {
        let id = NodeId(Span::new(self.tree.nodes.len(), 0).start);
        let tag = tag.map(written_tag);
        self.weights.push(weight(self.tree.source.get(span.range()).unwrap_or_default()));
        self.tree.nodes.push(Node { span, kind, tag });
        id
    }

    fn anchor(&mut self, anchor: usize, id: NodeId) {
        if anchor != 0 {
            self.anchors.insert(anchor, id);
            self.tree.anchored.push(id);
        }
    }

    fn place(&mut self, id: NodeId) {
        match self.open.is_empty() {
            true => self.tree.documents.push(id),
            false => self.items.push(id),
        }
    }

    fn start(&mut self, span: Span, kind: Kind, flow: bool, anchor: usize, tag: Option<&granit_parser::Tag>) {
        let mapping = matches!(kind, Kind::Mapping(..));
        let id = self.add(span, kind, tag);
        self.anchor(anchor, id);
        self.place(id);
        self.open.push(Open { id, first: self.items.len(), mapping, flow });
    }

    /// Closes the innermost collection. A block collection ends with its last child: its end event points past it.
    fn close(&mut self, end: u32) {
        let Some(open) = self.open.pop() else { return };
        let items = &self.items[open.first..];
        let end = match items.last() {
            Some(last) if !open.flow => self.tree.node(*last).span.end,
            _ => end,
        };
        let weight = items.iter().fold(1_usize, |sum, item| sum.saturating_add(self.weights[item.0 as usize]));
        let kind = if open.mapping {
            // A key whose value was cut off by an error has no value.
            let pairs = items.chunks(2).map(|pair| (pair[0], *pair.get(1).unwrap_or(&pair[0])));
            Kind::Mapping(Inside::added(&mut self.tree.pairs, pairs), open.flow)
        } else {
            Kind::Sequence(Inside::added(&mut self.tree.items, items.iter().copied()), open.flow)
        };
        self.items.truncate(open.first);
        self.weights[open.id.0 as usize] = weight;
        let node = &mut self.tree.nodes[open.id.0 as usize];
        node.span.end = end.max(node.span.start);
        node.kind = kind;
    }

    /// A block scalar's span runs over the indentation of the next line.
    fn trim_block(&self, span: Span) -> Span {
        let text = self.tree.source.get(span.range()).unwrap_or_default();
        let kept = match text.rfind('\n') {
            Some(index) if text[index + 1..].bytes().all(|byte| byte == b' ') => index + 1,
            _ => text.len(),
        };
        Span::new(span.start as usize, span.start as usize + kept)
    }

    fn fail(&mut self, error: &granit_parser::ScanError) {
        let offset = error.marker().byte_offset().unwrap_or(0).min(self.tree.source.len());
        let offset = indenting_tab(&self.tree.source, offset).unwrap_or(offset);
        if let Some((start, bracket)) = self.open_bracket(offset) {
            let reason = format!("this `{bracket}` is never closed");
            self.tree.errors.push(TreeError { span: point(&self.tree.source, start), reason });
        }
        while let Some(open) = self.open.last() {
            if open.mapping && (self.items.len() - open.first) % 2 == 1 {
                let absent = self.add(Span::new(offset, offset), Kind::Absent, None);
                self.place(absent);
            }
            self.close(Span::new(offset, 0).start);
        }
        if self.tree.errors.is_empty() {
            let reason = reason(error.kind(), &self.tree.source, offset);
            self.tree.errors.push(TreeError { span: point(&self.tree.source, offset), reason });
        }
    }

    /// The bracket of a line above that is still open: the parser complains only at the next key.
    fn open_bracket(&self, offset: usize) -> Option<(usize, char)> {
        let open = self.open.iter().rev().find(|open| open.flow)?;
        let start = self.tree.node(open.id).span.start as usize;
        let above = self.tree.source.get(start..offset)?;
        let bracket = above.chars().next().filter(|c| matches!(c, '[' | '{'))?;
        // A hole without its `$` looks like two braces, and has a reason of its own.
        let hole = bracket == '{' && (above.starts_with("{{") || self.tree.source[..start].ends_with('{'));
        (above.contains('\n') && !hole).then_some((start, bracket))
    }
}

/// A value of the parser's: a part of the source wherever it stands there as it is, quotes round it left out.
fn scalar(value: Cow<'_, str>, span: Span, source: &str) -> Scalar {
    let (start, end) = (span.start as usize, span.end as usize);
    let inside = (start + 1, end.saturating_sub(1));
    let fits = |(start, end): &(usize, usize)| source.get(*start..*end) == Some(&*value);
    match [(start, end), inside].into_iter().find(fits) {
        Some((start, end)) => Scalar::Slice(Span::new(start, end)),
        None => Scalar::Own(value.into_owned().into_boxed_str()),
    }
}

/// The character at an offset, or nothing at the end of the text.
fn point(source: &str, offset: usize) -> Span {
    let length =
        source.get(offset..).and_then(|rest| rest.chars().next()).filter(|c| !matches!(c, '\n' | '\r')).map_or(0, char::len_utf8);
    Span::new(offset, offset + length)
}

fn style_of(style: ScalarStyle) -> Style {
    match style {
        ScalarStyle::Plain => Style::Plain,
        ScalarStyle::SingleQuoted => Style::Single,
        ScalarStyle::DoubleQuoted => Style::Double,
        ScalarStyle::Literal => Style::Literal,
        ScalarStyle::Folded => Style::Folded,
    }
}

/// The tab that indents the line of an offset, or the line after it: the parser stumbles a little before or behind it.
fn indenting_tab(source: &str, offset: usize) -> Option<usize> {
    let start = source[..offset].rfind('\n').map_or(0, |index| index + 1);
    let mut at = start;
    for line in source[start..].split_inclusive('\n').take(2) {
        let indentation = line.len() - line.trim_start_matches([' ', '\t']).len();
        if let Some(tab) = line[..indentation].find('\t') {
            return Some(at + tab);
        }
        at += line.len();
    }
    None
}

/// What the line above says of this one: a colon without its space, or a value that cannot have keys below it.
fn slipped(source: &str, start: usize, line: &str) -> Option<String> {
    let depth = |line: &str| line.len() - line.trim_start().len();
    let (above, number) = source[..start]
        .lines()
        .enumerate()
        .filter(|(_, line)| !line.trim().is_empty())
        .last()
        .map(|(index, line)| (line, index + 1))?;
    for (text, place) in [(line, "on this line".to_owned()), (above, format!("on line {number}"))] {
        let entry = text.trim_start().trim_start_matches("- ");
        let key = entry.bytes().take_while(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_')).count();
        let joined = entry.as_bytes().get(key) == Some(&b':')
            && entry.as_bytes().get(key + 1).is_some_and(|byte| !byte.is_ascii_whitespace() && *byte != b'/' && *byte != b':');
        if key > 0 && joined && !entry.contains(": ") {
            return Some(format!("a space is missing after the colon of `{}:` {place}", &entry[..key]));
        }
    }
    let value = above.trim_start().split_once(": ").map_or("", |(_, value)| value.trim());
    let plain = !value.is_empty() && !value.starts_with(['|', '>', '&', '#', '[', '{']);
    let is_entry = line.trim_start().contains(": ") || line.trim_end().ends_with(':');
    (plain && is_entry && depth(line) > depth(above))
        .then(|| format!("this line is indented further than line {number}, which holds a value already"))
}

/// The likely cause in plain words. What stands on the line says more than the grammar's name for the error.
fn reason(kind: &ErrorKind, source: &str, offset: usize) -> String {
    let start = source[..offset].rfind('\n').map_or(0, |index| index + 1);
    let line = source[start..].lines().next().unwrap_or_default();
    let indentation = &line[..line.len() - line.trim_start().len()];
    if indentation.contains('\t') {
        return "a tab is used for indentation; YAML takes only spaces there".into();
    }
    if let Some(hidden) = line.trim_end_matches('\r').chars().find(|c| c.is_control() && *c != '\t') {
        return format!("a character that cannot be seen (U+{:04X}) stands on this line; remove it", hidden as u32);
    }
    if [": {{", "- {{", "[{{"].iter().any(|start| line.contains(start)) {
        return "a value that starts with `{{` needs quotes round it, or a `$` before it".into();
    }
    if let Some(cause) = slipped(source, start, line) {
        return cause;
    }
    use ErrorKind as E;
    match kind {
        E::TabNotAllowed | E::TabInBlockIndentation | E::TabInIndentation | E::TabAtBlockScalarStart | E::TabInPlainScalar => {
            "a tab stands where only spaces are allowed".into()
        }
        E::UnclosedQuotedScalar | E::DocumentIndicatorInQuotedScalar => "this quote is never closed".into(),
        E::UnclosedFlowCollection { open } => format!("this `{open}` is never closed"),
        E::UnexpectedEofFlowSequence | E::UnexpectedEofFlowMapping | E::UnexpectedEofImplicitFlowMapping => {
            "a bracket is opened and never closed".into()
        }
        E::MismatchedFlowCollectionEnd { open, close } => format!("`{open}` is closed by `{close}`"),
        E::MisplacedFlowCollectionEnd => "a bracket is closed that was never opened".into(),
        E::RecursionLimitExceeded => "the values are nested too deeply".into(),
        E::InvalidColonPlacement | E::MappingValueNotAllowed | E::InvalidMappingValueWhitespace => {
            "a `: ` stands inside a value; put the value in quotes, or mend the indentation".into()
        }
        E::ExpectedFlowMappingSeparator | E::ExpectedFlowSequenceSeparator => {
            "a comma or a closing bracket is missing before this".into()
        }
        E::MissingAnchorOrAliasName => "a value that starts with `*` or `&` needs quotes round it".into(),
        E::UnknownQuotedScalarEscape | E::InvalidQuotedScalarHexEscape | E::InvalidUnicodeEscape => {
            "this backslash means nothing in double quotes; use single quotes, or write it twice".into()
        }
        E::InvalidTrailingSingleQuotedScalar | E::InvalidTrailingDoubleQuotedScalar => {
            "something follows the closing quote; quote the whole value".into()
        }
        E::SimpleKeyExpected | E::ExpectedBlockMappingKey | E::InvalidSimpleKey if !line.contains(':') => {
            "a key without its `:` stands here".into()
        }
        E::CommentNotSeparated => "a `#` needs a space before it to start a comment".into(),
        E::UndeclaredTagHandle | E::ExpectedTagBang | E::InvalidTagTerminator | E::MissingTagUri => {
            "a value that starts with `!` needs quotes round it".into()
        }
        E::UnexpectedCharacter { character } if matches!(character, '@' | '`' | '%') => {
            format!("a value cannot start with `{character}`; put it in quotes")
        }
        _ => "the indentation or the punctuation here does not fit the lines above".into(),
    }
}

/// A tag of the text's own as it is written, `!reference`; of those that YAML defines, the name: `str`.
fn written_tag(tag: &granit_parser::Tag) -> Box<str> {
    let name = tag.suffix().trim_start_matches('!');
    if tag.is_yaml_core_schema() { name.into() } else { format!("!{name}").into() }
}
