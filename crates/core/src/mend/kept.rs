//! What edits must leave as it is: all of a file's tree that they do not write.

use super::FileMend;
use crate::carrier::{Kind, NodeId, Tree, parse};
use crate::text::Span;

/// Deeper than any honest file; what lies below is not compared.
const DEPTH_LIMIT: usize = 60;

/// Whether a file of this path is a YAML text.
pub(super) fn is_yaml(path: &str) -> bool {
    path.ends_with(".yml") || path.ends_with(".yaml")
}

/// Whether a place meets one of these, its ends included. They stand in the order of the text and do not overlap.
pub(super) fn touches(spans: &[Span], place: Span) -> bool {
    let after = spans.partition_point(|span| span.end < place.start);
    spans.get(after).is_some_and(|span| span.start <= place.end)
}

/// Whether every value that is not written anew stands under the same keys as before, and a text that could be read whole still can.
pub(super) fn keeps_the_rest(before: &str, mend: &FileMend) -> bool {
    let (old, new) = (parse(before), parse(&mend.text));
    if !old.is_whole() {
        return true;
    }
    new.is_whole() && values(&old, &mend.replaced) == values(&new, &mend.written)
}

/// The values of a text with the keys above them, in its order; what is touched is left out.
fn values(tree: &Tree, touched: &[Span]) -> Vec<(String, String)> {
    let mut found = Vec::new();
    for document in &tree.documents {
        walk(tree, *document, touched, "", 0, &mut found);
    }
    found
}

fn walk(tree: &Tree, node: NodeId, touched: &[Span], above: &str, depth: usize, found: &mut Vec<(String, String)>) {
    let span = tree.node(node).span;
    if depth > DEPTH_LIMIT {
        return;
    }
    match &tree.node(node).kind {
        Kind::Absent => {}
        Kind::Scalar(..) if !touches(touched, span) => {
            found.push((above.to_owned(), tree.scalar(node).unwrap_or_default().to_owned()));
        }
        Kind::Alias(_) if !touches(touched, span) => {
            let written = tree.source().get(span.range()).unwrap_or_default();
            found.push((above.to_owned(), written.to_owned()));
        }
        Kind::Scalar(..) | Kind::Alias(_) => {}
        Kind::Sequence(..) => {
            let inside = format!("{above}\n-");
            tree.items(node).iter().for_each(|item| walk(tree, *item, touched, &inside, depth + 1, found));
        }
        Kind::Mapping(..) => {
            for (key, value) in tree.pairs(node) {
                let is_touched = touches(touched, tree.node(*key).span);
                let name = tree.scalar(*key).filter(|_| !is_touched).unwrap_or("?");
                walk(tree, *value, touched, &format!("{above}\n{name}"), depth + 1, found);
            }
        }
    }
}
