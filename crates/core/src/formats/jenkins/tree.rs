//! The declarations of a `Jenkinsfile` as a tree of keys and values, for the grammar of its sections.

use super::language::{self, Block, Statement, Value};
use crate::carrier::{Comment, NodeId, Tree, TreeBuilder, TreeError};
use crate::text::Span;

/// Sections whose statements may repeat: each of them is an item of a list.
const LISTS: [&str; 7] = ["options", "parameters", "triggers", "environment", "tools", "when", "libraries"];
/// Deeper than any section.
const DEPTH: usize = 60;

/// The tree of a text.
pub(super) fn tree(text: &str) -> Tree {
    let source = language::read(text);
    let mut maker = Maker { text, builder: TreeBuilder::default() };
    let pairs = source.top.get("pipeline").and_then(|statement| {
        let body = statement.block.as_ref()?;
        Some((maker.name(statement), maker.section(body, 0)))
    });
    let root = maker.builder.mapping(Span::new(0, text.len()), pairs.into_iter().collect());
    let mut tree = maker.builder.finish(text, root);
    let span = |range: &std::ops::Range<usize>| Span::new(range.start, range.end);
    tree.comments = source.comments.iter().map(|range| Comment { span: span(range) }).collect();
    tree.errors = source.errors.iter().map(|(range, reason)| TreeError { span: span(range), reason: reason.clone() }).collect();
    tree
}

struct Maker<'t> {
    text: &'t str,
    builder: TreeBuilder,
}

impl Maker<'_> {
    fn name(&mut self, statement: &Statement) -> NodeId {
        let range = &statement.name_at;
        self.builder.scalar(self.text, Span::new(range.start, range.end), &statement.name)
    }

    /// The directives of a pipeline or a stage.
    fn section(&mut self, block: &Block, depth: usize) -> NodeId {
        let mut pairs = Vec::new();
        for statement in block.statements.iter().filter(|statement| !statement.name.is_empty()) {
            let key = self.name(statement);
            let value = self.value(statement, depth);
            pairs.push((key, value));
        }
        self.builder.mapping(Span::new(block.range.start, block.range.end), pairs)
    }

    fn value(&mut self, statement: &Statement, depth: usize) -> NodeId {
        let at = Span::new(statement.range.start, statement.range.end);
        let Some(block) = statement.block.as_ref().filter(|_| depth < DEPTH) else {
            let first = statement.first().map(Value::range).unwrap_or_else(|| statement.range.clone());
            let written = self.text.get(first.clone()).unwrap_or_default();
            return self.builder.scalar(self.text, Span::new(first.start, first.end), written);
        };
        match statement.name.as_str() {
            "stages" | "parallel" => {
                let items = block.statements.iter().filter(|inner| !inner.name.is_empty());
                let nodes: Vec<NodeId> = items.map(|inner| self.item(inner, depth + 1)).collect();
                self.builder.list(at, nodes)
            }
            "post" | "matrix" | "stage" => self.section(block, depth + 1),
            name if LISTS.contains(&name) => {
                let nodes: Vec<NodeId> =
                    block.statements.iter().filter(|inner| !inner.name.is_empty()).map(|inner| self.single(inner)).collect();
                self.builder.list(at, nodes)
            }
            // What runs is no declaration.
            _ => {
                let names: Vec<NodeId> =
                    block.statements.iter().filter(|inner| !inner.name.is_empty()).map(|inner| self.name(inner)).collect();
                self.builder.list(at, names)
            }
        }
    }

    /// A stage among others, as a mapping of one key.
    fn item(&mut self, statement: &Statement, depth: usize) -> NodeId {
        let key = self.name(statement);
        let value = self.value(statement, depth);
        self.builder.mapping(Span::new(statement.range.start, statement.range.end), vec![(key, value)])
    }

    /// The same for something whose value does not matter.
    fn single(&mut self, statement: &Statement) -> NodeId {
        let key = self.name(statement);
        let at = Span::new(statement.range.start, statement.range.end);
        let value = self.builder.scalar(self.text, at, &statement.name);
        self.builder.mapping(at, vec![(key, value)])
    }
}
