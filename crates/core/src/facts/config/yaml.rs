//! YAML configuration.

use super::{Setting, Unreadable, Value};
use crate::carrier::{Core, Kind, NodeId, Style, Tree, parse, resolve_plain};

/// Deeper settings are not looked at.
const DEPTH_LIMIT: usize = 24;

pub(super) fn read(text: &str) -> Result<Setting, Unreadable> {
    let tree = parse(text);
    if let Some(error) = tree.errors.first() {
        return Err(Unreadable { span: error.span, reason: error.reason.clone() });
    }
    let empty = Setting { value: Value::Map { entries: Vec::new(), open: false }, span: crate::text::Span::default() };
    Ok(tree.documents.first().map_or(empty, |root| setting(&tree, *root, 0)))
}

fn setting(tree: &Tree, id: NodeId, depth: usize) -> Setting {
    let id = tree.resolve(id);
    let node = tree.node(id);
    let text = tree.value_of(node);
    let value = match &node.kind {
        _ if depth > DEPTH_LIMIT => Value::Unknown,
        Kind::Alias(_) => Value::Unknown,
        Kind::Absent => Value::Null,
        Kind::Scalar(_, Style::Plain) => match resolve_plain(text) {
            Core::Null => Value::Null,
            Core::Bool(truth) => Value::Bool(truth),
            Core::Integer | Core::Float => text.parse().map_or(Value::Unknown, Value::Number),
            Core::Text => Value::Text(text.to_owned()),
        },
        Kind::Scalar(..) => Value::Text(text.to_owned()),
        Kind::Sequence(..) => Value::List(tree.items(id).iter().map(|item| setting(tree, *item, depth + 1)).collect()),
        Kind::Mapping(..) => {
            let entry = |(key, value): &(NodeId, NodeId)| {
                let name = tree.scalar(*key)?.to_owned();
                Some((name, tree.node(*key).span, setting(tree, *value, depth + 1)))
            };
            let entries: Vec<_> = tree.pairs(id).iter().filter_map(entry).collect();
            let open = entries.iter().any(|(name, ..)| name == "<<");
            Value::Map { entries, open }
        }
    };
    Setting { value, span: node.span }
}
