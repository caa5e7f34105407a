//! YAML, and JSON with it.

pub mod edit;
mod offsets;
mod parse;
mod scalar;

pub use offsets::OffsetMap;
pub use parse::{parse, parse_within};
pub use scalar::{Core, resolve_plain};

use super::{Kind, NodeId, Style, Tree};

impl Tree {
    /// Whether nothing is written there, or an explicit null.
    pub fn is_null(&self, id: NodeId) -> bool {
        match &self.node(self.resolve(id)).kind {
            Kind::Absent => true,
            Kind::Scalar(value, Style::Plain) => resolve_plain(self.text(value)) == Core::Null,
            _ => false,
        }
    }

    /// How offsets in a scalar's value map to the source.
    pub fn offsets(&self, id: NodeId) -> OffsetMap {
        let node = self.node(self.resolve(id));
        match &node.kind {
            // What is written is another word: no place in it may lead out of it.
            Kind::Scalar(..) if self.reworded.contains(&node.span) => OffsetMap::within(node.span),
            Kind::Scalar(value, style) => OffsetMap::of(&self.source, node.span, self.text(value), *style),
            _ => OffsetMap::identity(node.span.start),
        }
    }
}
