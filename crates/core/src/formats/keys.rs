//! Mappings with what their merge keys bring, read by name.

use crate::carrier::NodeId;
use crate::formats::nodes::Nodes;
use crate::model::Text;
use crate::text::Place;

/// Merge keys in merge keys: deeper is a circle.
const MERGE_DEPTH: usize = 20;

/// The keys of a mapping, its own before those that it takes over.
#[derive(Clone)]
pub(super) struct Keys<'t> {
    pub nodes: Nodes<'t>,
    entries: Vec<(NodeId, NodeId)>,
}

impl<'t> Keys<'t> {
    /// Of a mapping; none of anything else.
    pub fn of(nodes: Nodes<'t>, node: NodeId) -> Self {
        let mut keys = Self { nodes, entries: Vec::new() };
        keys.take(node, 0);
        keys
    }

    fn take(&mut self, node: NodeId, depth: usize) {
        let tree = self.nodes.tree;
        let is_merge = |key: NodeId| tree.scalar(key) == Some("<<");
        for (key, value) in tree.pairs(node) {
            let known = depth > 0 && tree.scalar(*key).is_some_and(|name| self.pair(name).is_some());
            if !is_merge(*key) && !known {
                self.entries.push((*key, *value));
            }
        }
        let merges = tree.pairs(node).iter().filter(|(key, _)| is_merge(*key) && depth < MERGE_DEPTH);
        for (_, value) in merges {
            let items = tree.items(*value);
            if items.is_empty() {
                self.take(*value, depth + 1);
            }
            items.iter().for_each(|item| self.take(*item, depth + 1));
        }
    }

    /// A key with its value; `-` and `_` are the same.
    pub fn pair(&self, name: &str) -> Option<(NodeId, NodeId)> {
        let same = |written: &str| written.len() == name.len() && written.bytes().zip(name.bytes()).all(alike);
        self.entries.iter().find(|(key, _)| self.nodes.tree.scalar(*key).is_some_and(same)).copied()
    }

    /// A value, when anything stands there.
    pub fn get(&self, name: &str) -> Option<NodeId> {
        self.pair(name).map(|(_, value)| value).filter(|value| !self.nodes.tree.is_null(*value))
    }

    pub fn text(&self, name: &str) -> Option<Text> {
        self.nodes.text(self.get(name)?)
    }

    /// Whether a key is there and says so.
    pub fn says(&self, name: &str, word: &str) -> bool {
        self.text(name).is_some_and(|text| text.value == word)
    }

    /// Where a key stands.
    pub fn at(&self, name: &str) -> Option<Place> {
        self.pair(name).map(|(key, _)| self.nodes.at(key))
    }

    pub fn iter(&self) -> impl Iterator<Item = (NodeId, NodeId)> + '_ {
        self.entries.iter().copied()
    }
}

fn alike((one, other): (u8, u8)) -> bool {
    one == other || one == b'-' && other == b'_'
}

/// A list, or one item alone.
pub(super) fn listed(nodes: &Nodes<'_>, node: NodeId) -> Vec<NodeId> {
    let items = nodes.tree.items(node);
    if items.is_empty() && !nodes.tree.is_null(node) { vec![node] } else { items.to_vec() }
}
