//! The events that start a file: their names, keys and kinds.

use super::walk::{EVENT, Walker};
use super::{FormIssueKind, Names};
use crate::carrier::{Kind, NodeId, Style};
use crate::knowledge::{Among, EventEntry, Meant, Takes, near};

impl Walker<'_> {
    pub(super) fn event_word(&mut self, node: NodeId) {
        let Some(word) = self.tree.scalar(node).map(str::to_owned) else { return };
        let quoted_null = matches!(self.tree.node(node).kind, Kind::Scalar(_, Style::Plain)) && word.is_empty();
        if !quoted_null && self.grammar.event(&word).is_none() {
            self.unknown_event(node, &word);
        }
    }

    fn unknown_event(&mut self, node: NodeId, word: &str) {
        let documented = self.grammar.mistaken_event.get(word).map(|word| Meant::surely(*word));
        let meant = documented.or_else(|| near(word, self.grammar.events(), Among::Closed));
        if meant.is_some() || self.strict {
            self.add(self.at(node), FormIssueKind::UnknownEvent { name: word.to_owned(), meant });
        }
    }

    pub(super) fn event(&mut self, key: NodeId, word: &str, value: NodeId, depth: usize) {
        let Some(event) = self.grammar.event(word) else {
            self.unknown_event(key, word);
            return;
        };
        if let Some(each) = &event.each {
            if self.strict && self.tree.items(value).is_empty() && !self.tree.pairs(value).is_empty() {
                let (found, wanted) = ("keys with values".to_owned(), "a list".to_owned());
                let kind = FormIssueKind::WrongShape { key: word.to_owned(), found, wanted, instead: None };
                self.add(self.at(key), kind);
                return;
            }
            for item in self.tree.items(value).to_vec() {
                self.place(item, each, Some(key), None, depth + 1);
            }
            return;
        }
        if let Some(text) = self.tree.scalar(value)
            && self.strict
            && !self.tree.is_null(value)
        {
            let found = format!("the word `{}`", text.chars().take(40).collect::<String>());
            let wanted = self.grammar.event_holds;
            self.add(
                self.at(value),
                FormIssueKind::WrongShape { key: word.to_owned(), found, wanted: wanted.to_owned(), instead: None },
            );
            return;
        }
        if matches!(self.tree.node(self.tree.resolve(value)).kind, Kind::Sequence(..)) && self.strict {
            let (found, wanted) = ("a list".to_owned(), self.grammar.event_holds);
            let kind = FormIssueKind::WrongShape { key: word.to_owned(), found, wanted: wanted.to_owned(), instead: None };
            self.add(self.at(key), kind);
            return;
        }
        let pairs = self.tree.pairs(value).to_vec();
        self.repeated(&pairs);
        for (inner, inner_value) in pairs {
            let Some(name) = self.tree.scalar(inner).map(str::to_owned) else { continue };
            self.event_key(event, word, (value, inner, &name, inner_value), depth);
        }
        let lacking: Vec<String> = event
            .required
            .iter()
            .filter(|required| self.tree.get(value, required).is_none())
            .map(|word| (*word).to_owned())
            .collect();
        for required in lacking {
            self.add(self.at(key), FormIssueKind::MissingKey { keys: vec![required], within: format!("`{word}`") });
        }
    }

    fn event_key(
        &mut self,
        event: &EventEntry,
        word: &str,
        (parent, inner, name, value): (NodeId, NodeId, &str, NodeId),
        depth: usize,
    ) {
        if let Some(takes) = self.grammar.event_key(word, name) {
            self.value(value, takes, inner, (None, true), depth + 1);
        } else if self.grammar.is_filter(name) {
            if !self.grammar.takes(event, name) {
                let of = self.grammar.filter.get(name).map(|filter| filter.of);
                let kind =
                    FormIssueKind::StrayFilter { event: word.to_owned(), plain: event.is.is_none(), key: name.to_owned(), of };
                self.add(self.at(inner), kind);
            }
            let takes = Takes { text: true, list: Some(&Takes::TEXT), ..Takes::default() };
            if self.tree.is_null(value) && self.strict {
                let kind = FormIssueKind::Empty { key: Some(name.to_owned()), wanted: takes.words_for(), open: true };
                self.add(self.at(inner), kind);
                return;
            }
            let text = Takes::TEXT;
            for item in self.tree.items(value).to_vec() {
                self.fits_shape(item, &text, Some(inner));
            }
            if self.fits_shape(value, &takes, Some(inner)) && self.grammar.lists_kinds(name) && !event.open_types {
                self.event_types(event, value);
            }
        } else if !self.grammar.takes(event, name) {
            let known = event
                .filters
                .iter()
                .chain(event.keys)
                .copied()
                .chain((!event.types.is_empty()).then_some(self.grammar.kinds_key));
            let label = format!("`{word}`");
            self.unknown(parent, inner, name, (EVENT, &label), known);
        }
    }

    fn event_types(&mut self, event: &EventEntry, value: NodeId) {
        let items = match self.tree.items(value) {
            [] => vec![value],
            items => items.to_vec(),
        };
        for item in items {
            let Some(word) = self.tree.scalar(item).map(str::to_owned) else { continue };
            if event.types.is_empty() || event.types.contains(&word.as_str()) || self.grammar.has_hole(&word) {
                continue;
            }
            let meant = near(&word, event.types.iter().copied(), Among::Closed);
            if meant.is_some() || self.strict {
                let kind = FormIssueKind::UnknownName {
                    name: word,
                    among: Names::Kinds,
                    meant,
                    known: event.types.iter().map(|word| (*word).to_owned()).collect(),
                    at: None,
                };
                self.add(self.at(item), kind);
            }
        }
    }
}
