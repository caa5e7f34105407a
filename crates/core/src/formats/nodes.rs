//! From nodes of a tree to texts of the model.

use thin_vec::ThinVec;

use crate::carrier::{NodeId, Style, Tree};
use crate::model::{Language, Text, TextMap, Variables};
use crate::text::{FileId, Place, Span};

/// A tree and the file it came from.
#[derive(Clone, Copy)]
pub(super) struct Nodes<'t> {
    pub tree: &'t Tree,
    pub file: FileId,
    /// What is filled into its texts.
    pub language: Language,
}

impl Nodes<'_> {
    pub fn at(&self, node: NodeId) -> Place {
        Place { file: self.file, span: self.tree.node(node).span }
    }

    /// From the start of one node to the end of another.
    pub fn between(&self, first: NodeId, last: NodeId) -> Place {
        let (first, last) = (self.tree.node(first).span, self.tree.node(last).span);
        Place { file: self.file, span: Span { start: first.start, end: last.end.max(first.end) } }
    }

    /// The text of a scalar; nothing for lists, mappings and absent values. An alias keeps the place of what it stands for.
    pub fn text(&self, node: NodeId) -> Option<Text> {
        let node = self.tree.resolve(node);
        let (value, style) = self.tree.written(node)?;
        let span = self.tree.node(node).span;
        let straight = style == Style::Plain && span.range().len() == value.len();
        let map = if straight { TextMap::Straight(span.start) } else { TextMap::Mapped(Box::new(self.tree.offsets(node))) };
        let text = Text::new(value.to_owned(), Place { file: self.file, span }, style == Style::Plain, map);
        Some(text.filled_in_by(self.language))
    }

    pub fn text_at(&self, node: NodeId, key: &str) -> Option<Text> {
        self.text(self.tree.value(node, key)?)
    }

    /// One word or a list of words; whether something else stood among them.
    pub fn words(&self, node: NodeId) -> (Vec<Text>, bool) {
        if let Some(text) = self.text(node) {
            return (vec![text], false);
        }
        let items = self.tree.items(node);
        let texts: Vec<Text> = items.iter().filter_map(|item| self.text(*item)).collect();
        let odd = texts.len() != items.len() || (items.is_empty() && !self.tree.pairs(node).is_empty());
        (texts, odd)
    }

    /// A mapping of names to scalars; anything else in it makes it open.
    pub fn variables(&self, node: NodeId) -> Variables {
        let pairs = self.tree.pairs(node);
        let mut variables = Variables { entries: ThinVec::with_capacity(pairs.len()), open: self.tree.scalar(node).is_some() };
        for (key, value) in pairs {
            let (Some(name), value) = (self.text(*key), *value) else {
                variables.open = true;
                continue;
            };
            match self.text(value) {
                Some(text) => variables.entries.push((name, text)),
                None if self.tree.is_null(value) => {
                    let empty = Text::straight("", self.file, self.tree.node(value).span);
                    variables.entries.push((name, empty));
                }
                None => variables.open = true,
            }
        }
        variables
    }
}

/// The keys of one mapping as they are written, each looked at once however many are asked for. A format with merge keys reads by `Keys`.
pub(super) struct WrittenKeys<'t> {
    nodes: Nodes<'t>,
    values: Vec<(&'t str, NodeId)>,
}

impl<'t> WrittenKeys<'t> {
    /// Of a mapping; of anything else, none.
    pub fn of(nodes: Nodes<'t>, node: NodeId) -> Self {
        let word = |(key, value): &(NodeId, NodeId)| Some((nodes.tree.scalar(*key)?, *value));
        Self { nodes, values: nodes.tree.pairs(node).iter().filter_map(word).collect() }
    }

    /// The first value under a key.
    pub fn value(&self, key: &str) -> Option<NodeId> {
        self.values.iter().find(|(known, _)| *known == key).map(|(_, value)| *value)
    }

    /// The text under a key.
    pub fn text(&self, key: &str) -> Option<Text> {
        self.nodes.text(self.value(key)?)
    }

    /// The names and values under a key.
    pub fn variables(&self, key: &str) -> Variables {
        self.value(key).map(|value| self.nodes.variables(value)).unwrap_or_default()
    }
}

/// Several lines as one script, each with the way back to its own place.
pub(super) fn joined(lines: Vec<Text>) -> Option<Text> {
    let first = lines.first()?;
    let (at, file) = (first.at, first.at.file);
    let mut value = String::new();
    let mut parts = Vec::new();
    for line in lines {
        // Each line is a command of its own, whatever its last one ends with.
        parts.push((value.len(), line.clone()));
        value.push_str(line.value.trim_end_matches('\n'));
        value.push('\n');
    }
    let end = parts.last().map_or(at, |(_, line)| line.at);
    let mut whole = at;
    if end.file == file {
        whole.span.end = whole.span.end.max(end.span.end);
    }
    Some(Text::new(value, whole, false, TextMap::joined(parts)))
}
