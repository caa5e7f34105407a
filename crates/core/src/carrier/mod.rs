//! What formats are written in: from a text to a tree, and from an edit in the tree to one in the text.
//!
//! A tree knows nothing of the notation. JSON is read by the carrier of YAML, of which it is a part; another notation is a module beside
//! `yaml`, with a `parse` and edits of its own.

mod copies;
mod tree;
pub mod yaml;

pub use copies::{Copies, weight};
pub use tree::{Comment, Inside, Kind, Node, NodeId, Scalar, Style, Tree, TreeBuilder, TreeError};
pub use yaml::{Core, OffsetMap, parse, parse_within, resolve_plain};

#[cfg(test)]
mod tests;
