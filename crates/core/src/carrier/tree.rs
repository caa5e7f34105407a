//! The tree of a text: nodes with the bytes that they stand at, whatever the text is written in.

use std::sync::Arc;

use super::weight;
use crate::text::Span;

/// Which node of a [`Tree`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct NodeId(pub(super) u32);

/// How a scalar is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Style {
    /// Without quotes.
    Plain,
    /// `'…'`
    Single,
    /// `"…"`
    Double,
    /// `|`
    Literal,
    /// `>`
    Folded,
}

/// The value of a scalar after unescaping and folding.
#[derive(Clone, Debug)]
pub enum Scalar {
    /// It stands in the source as it is, at these bytes.
    Slice(Span),
    /// It is written otherwise.
    Own(Box<str>),
}

/// Which nodes stand in a collection: read by [`Tree::items`] and [`Tree::pairs`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Inside {
    /// The first among those of all collections of its kind.
    start: u32,
    /// The one after the last.
    end: u32,
}

impl Inside {
    /// Some nodes that join those of all collections of a kind.
    pub(super) fn added<T>(list: &mut Vec<T>, some: impl IntoIterator<Item = T>) -> Self {
        let first = list.len();
        list.extend(some);
        let Span { start, end } = Span::new(first, list.len());
        Self { start, end }
    }

    fn of<T>(self, list: &[T]) -> &[T] {
        list.get(self.start as usize..self.end as usize).unwrap_or_default()
    }
}

/// What a node is.
#[derive(Clone, Debug)]
pub enum Kind {
    /// Nothing is written where a value could stand, as after `key:`.
    Absent,
    /// A scalar with its value.
    Scalar(Scalar, Style),
    /// A list; `true` when written in brackets.
    Sequence(Inside, bool),
    /// Keys and values in the order they are written, repeated keys included; `true` when written in braces.
    Mapping(Inside, bool),
    /// `*name`, with what it stands for when that is known.
    Alias(Option<NodeId>),
}

/// A node with its place and its decorations.
#[derive(Clone, Debug)]
pub struct Node {
    /// The bytes of the value; for a block scalar, those of its content.
    pub span: Span,
    /// What it is.
    pub kind: Kind,
    /// The tag as it is written, `!reference`; of those that YAML defines, the name alone.
    pub tag: Option<Box<str>>,
}

/// A comment, from `#` to the end of its line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Comment {
    /// The bytes, `#` included.
    pub span: Span,
}

/// Why a part of the text could not be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TreeError {
    /// Where.
    pub span: Span,
    /// In plain words, for someone who does not know YAML's grammar.
    pub reason: String,
}

/// A whole text as nodes.
#[derive(Clone, Debug)]
pub struct Tree {
    pub(super) nodes: Vec<Node>,
    /// What stands in all lists: each takes a part of this, so that none takes memory of its own.
    pub(super) items: Vec<NodeId>,
    /// The same of all mappings.
    pub(super) pairs: Vec<(NodeId, NodeId)>,
    pub(super) source: Arc<str>,
    /// Nodes that have an anchor.
    pub(super) anchored: Vec<NodeId>,
    /// Scalars that hold another word than the source.
    pub(super) reworded: Vec<Span>,
    /// The top node of each document.
    pub documents: Vec<NodeId>,
    /// In the order they are written.
    pub comments: Vec<Comment>,
    /// What could not be read.
    pub errors: Vec<TreeError>,
    /// The alias at which more was copied than may be: what follows it was not read.
    pub too_large: Option<Span>,
}

impl Tree {
    /// All nodes, in the order in which they were read.
    pub fn ids(&self) -> impl Iterator<Item = NodeId> + use<> {
        (0..Span::new(self.nodes.len(), 0).start).map(NodeId)
    }

    /// The node itself, an alias included.
    pub fn node(&self, id: NodeId) -> &Node {
        &self.nodes[id.0 as usize]
    }

    /// Whether a node, or one inside it, has an anchor by which other places use it.
    pub fn holds_anchor(&self, id: NodeId) -> bool {
        let whole = self.node(id).span;
        self.anchored.iter().map(|one| self.node(*one).span).any(|span| whole.start <= span.start && span.end <= whole.end)
    }

    /// The whole text.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Follows aliases. An alias of nothing, or one too many, comes back as it is.
    #[inline]
    pub fn resolve(&self, id: NodeId) -> NodeId {
        // Nearly no node is one, and every look at a node asks.
        match self.node(id).kind {
            Kind::Alias(Some(target)) => self.follow(target),
            _ => id,
        }
    }

    fn follow(&self, mut id: NodeId) -> NodeId {
        for _ in 0..15 {
            let Kind::Alias(Some(target)) = self.node(id).kind else { break };
            id = target;
        }
        id
    }

    /// The value of a scalar, aliases followed.
    pub fn scalar(&self, id: NodeId) -> Option<&str> {
        self.written(id).map(|(value, _)| value)
    }

    /// The value of a scalar and how it is written, aliases followed.
    pub fn written(&self, id: NodeId) -> Option<(&str, Style)> {
        match &self.node(self.resolve(id)).kind {
            Kind::Scalar(value, style) => Some((self.text(value), *style)),
            _ => None,
        }
    }

    /// The value of a node that is a scalar; of any other, nothing.
    pub fn value_of<'t>(&'t self, node: &'t Node) -> &'t str {
        match &node.kind {
            Kind::Scalar(value, _) => self.text(value),
            _ => "",
        }
    }

    pub(super) fn text<'t>(&'t self, value: &'t Scalar) -> &'t str {
        match value {
            Scalar::Slice(span) => self.source.get(span.range()).unwrap_or_default(),
            Scalar::Own(text) => text,
        }
    }

    /// The keys and values of a mapping; nothing for anything else.
    pub fn pairs(&self, id: NodeId) -> &[(NodeId, NodeId)] {
        match self.node(self.resolve(id)).kind {
            Kind::Mapping(inside, _) => inside.of(&self.pairs),
            _ => &[],
        }
    }

    /// The items of a list; nothing for anything else.
    pub fn items(&self, id: NodeId) -> &[NodeId] {
        match self.node(self.resolve(id)).kind {
            Kind::Sequence(inside, _) => inside.of(&self.items),
            _ => &[],
        }
    }

    /// The first value under a key, with the key's node.
    pub fn get(&self, id: NodeId, key: &str) -> Option<(NodeId, NodeId)> {
        self.pairs(id).iter().copied().find(|(name, _)| self.says(self.node(*name), key))
    }

    /// Whether a scalar says a word, aliases followed. Its length is asked first: most keys are other ones.
    #[inline]
    fn says(&self, node: &Node, word: &str) -> bool {
        match &node.kind {
            Kind::Scalar(Scalar::Slice(span), _) => {
                span.range().len() == word.len() && self.source.as_bytes().get(span.range()) == Some(word.as_bytes())
            }
            Kind::Scalar(Scalar::Own(text), _) => **text == *word,
            Kind::Alias(Some(target)) => match self.node(self.follow(*target)) {
                Node { kind: Kind::Alias(_), .. } => false,
                node => self.says(node, word),
            },
            _ => false,
        }
    }

    /// The value under a key.
    pub fn value(&self, id: NodeId, key: &str) -> Option<NodeId> {
        self.get(id, key).map(|(_, value)| value)
    }

    /// What a value weighs when it is copied, with all in it, aliases followed.
    pub fn weigh(&self, id: NodeId) -> usize {
        let mut sum = 0_usize;
        let mut open = vec![id];
        while let Some(id) = open.pop() {
            let id = self.resolve(id);
            sum = sum.saturating_add(weight(self.value_of(self.node(id))));
            open.extend(self.items(id));
            open.extend(self.pairs(id).iter().flat_map(|(key, value)| [*key, *value]));
        }
        sum
    }

    /// Whether the whole text could be read.
    pub fn is_whole(&self) -> bool {
        self.errors.is_empty() && self.too_large.is_none()
    }

    /// The tree of a text that stands inside a scalar of another one: `place` gives the bytes there for bytes of the text.
    pub fn inside(mut self, whole: &Self, place: &dyn Fn(std::ops::Range<usize>) -> Span) -> Self {
        for node in &mut self.nodes {
            if let Kind::Scalar(value, _) = &mut node.kind
                && let Scalar::Slice(span) = value
            {
                *value = Scalar::Own(self.source.get(span.range()).unwrap_or_default().into());
            }
            node.span = place(node.span.range());
        }
        self.comments.iter_mut().for_each(|comment| comment.span = place(comment.span.range()));
        self.errors.iter_mut().for_each(|error| error.span = place(error.span.range()));
        self.too_large = self.too_large.map(|span| place(span.range()));
        self.source = Arc::clone(&whole.source);
        self
    }

    /// The same tree with other words in the place of some scalars, by the bytes that those have.
    pub fn reworded(&self, words: &[(Span, &str)]) -> Self {
        let mut tree = self.clone();
        for node in &mut tree.nodes {
            let word = words.iter().find(|(span, _)| *span == node.span).map(|(_, word)| *word);
            if let (Kind::Scalar(value, _), Some(word)) = (&mut node.kind, word) {
                *value = Scalar::Own(word.into());
                tree.reworded.push(node.span);
            }
        }
        tree
    }
}

/// Makes a tree of values that are written in another notation: each node keeps the bytes at which its value stands.
#[derive(Debug, Default)]
pub struct TreeBuilder {
    nodes: Vec<Node>,
    items: Vec<NodeId>,
    pairs: Vec<(NodeId, NodeId)>,
}

impl TreeBuilder {
    /// A scalar; in quotes when the first of its bytes is one.
    pub fn scalar(&mut self, source: &str, span: Span, value: &str) -> NodeId {
        let style = match source.as_bytes().get(span.start as usize) {
            Some(b'"') => Style::Double,
            Some(b'\'' | b'`') => Style::Single,
            _ => Style::Plain,
        };
        self.add(span, Kind::Scalar(Scalar::Own(value.into()), style))
    }

    /// A list.
    pub fn list(&mut self, span: Span, items: Vec<NodeId>) -> NodeId {
        let inside = Inside::added(&mut self.items, items);
        self.add(span, Kind::Sequence(inside, true))
    }

    /// Keys and values.
    pub fn mapping(&mut self, span: Span, pairs: Vec<(NodeId, NodeId)>) -> NodeId {
        let inside = Inside::added(&mut self.pairs, pairs);
        self.add(span, Kind::Mapping(inside, true))
    }

    /// The tree under a node.
    pub fn finish(self, source: &str, root: NodeId) -> Tree {
        Tree {
            nodes: self.nodes,
            items: self.items,
            pairs: self.pairs,
            source: source.into(),
            too_large: None,
            anchored: Vec::new(),
            reworded: Vec::new(),
            documents: vec![root],
            comments: Vec::new(),
            errors: Vec::new(),
        }
    }

    fn add(&mut self, span: Span, kind: Kind) -> NodeId {
        let id = NodeId(Span::new(self.nodes.len(), 0).start);
        self.nodes.push(Node { span, kind, tag: None });
        id
    }
}
