//! Walks a tree along the grammar.

use std::collections::HashSet;

use super::names::Scope;
use super::{FormIssue, FormIssueKind};
use crate::carrier::{Kind, NodeId, Tree};
use crate::knowledge::{Among, Grammar, Meant, PlaceEntry, Takes, near};
use crate::text::{FileId, Place};

/// Deeper than the grammar of any format.
pub(super) const DEPTH_LIMIT: usize = 40;
/// Nobody reads more of one file.
const ISSUE_LIMIT: usize = 200;

/// The place under which the grammar lists what people write under events by mistake.
pub(super) const EVENT: &str = "event";

/// Holds a tree against the grammar from the place `start` on. With `strict` off, only what is close to a known word is an issue.
/// `root` is the document that holds the pipeline.
pub fn walk(
    tree: &Tree,
    root: Option<NodeId>,
    file: FileId,
    grammar: &'static Grammar,
    start: &'static str,
    strict: bool,
    scope: &Scope<'_>,
) -> Vec<FormIssue> {
    let taken_over = root.map(|root| taken_over(tree, root, grammar)).unwrap_or_default();
    let mut walker =
        Walker { tree, file, grammar, strict, scope, job: None, step: None, torn: false, taken_over, issues: Vec::new() };
    match root {
        Some(root) if !tree.is_null(root) => {
            let takes = Takes { place: Some(start), ..Takes::default() };
            if walker.fits_shape(root, &takes, None) {
                walker.place(root, start, None, None, 0);
            }
        }
        _ => {
            let kind = FormIssueKind::Empty { key: None, wanted: String::new(), open: false };
            walker.add(Place { file, span: crate::text::Span::default() }, kind);
        }
    }
    walker.issues
}

/// The names under the keys by which the mappings of a root take over others.
fn taken_over(tree: &Tree, root: NodeId, grammar: &Grammar) -> HashSet<String> {
    let parts =
        tree.pairs(root).iter().flat_map(|(_, part)| grammar.completed_by.iter().filter_map(|key| tree.value(*part, key)));
    let names = parts.flat_map(|value| tree.items(value).iter().copied().chain([value]));
    names.filter_map(|name| tree.scalar(name)).map(str::to_owned).collect()
}

pub(super) struct Walker<'t> {
    pub tree: &'t Tree,
    pub file: FileId,
    pub grammar: &'static Grammar,
    pub strict: bool,
    pub scope: &'t Scope<'t>,
    /// The job that is walked, by its place in the model.
    pub job: Option<usize>,
    /// What is walked is completed by something else, so that nothing is missing in it for sure.
    torn: bool,
    /// What other mappings take over, by its name.
    taken_over: HashSet<String>,
    /// The step that is walked.
    pub step: Option<usize>,
    pub issues: Vec<FormIssue>,
}

impl Walker<'_> {
    pub fn add(&mut self, at: Place, kind: FormIssueKind) {
        if !self.is_full() {
            self.issues.push(FormIssue { at, kind });
        }
    }

    /// Nothing more is told of this file.
    pub fn is_full(&self) -> bool {
        self.issues.len() >= ISSUE_LIMIT
    }

    pub fn at(&self, node: NodeId) -> Place {
        Place { file: self.file, span: self.tree.node(node).span }
    }

    /// Walks a mapping; `owner` is the key it stands under.
    pub fn place(&mut self, node: NodeId, name: &str, owner: Option<NodeId>, contexts: Option<&'static str>, depth: usize) {
        let Some(place) = self.grammar.place(name) else { return };
        if depth > DEPTH_LIMIT || !matches!(self.tree.node(self.tree.resolve(node)).kind, Kind::Mapping(..)) {
            return;
        }
        let tree = self.tree;
        let pairs = tree.pairs(node);
        self.repeated(pairs);
        let outer_job = self.job;
        let outer_torn = self.torn;
        self.torn |= self.grammar.completed_by.iter().any(|key| self.tree.get(node, key).is_some());
        for (index, (key, value)) in pairs.iter().enumerate() {
            let Some(word) = tree.scalar(*key) else {
                self.no_text(*key);
                continue;
            };
            if place.hidden && word.starts_with('.') {
                if let Some(takes) = place.free.as_ref().filter(|_| self.taken_over.contains(word)) {
                    let torn = std::mem::replace(&mut self.torn, true);
                    self.value(*value, takes, *key, (contexts, false), depth + 1);
                    self.torn = torn;
                }
                continue;
            }
            if place.named {
                self.name(*key, word, "job");
                self.job = self.scope.job_of(word).or(Some(index));
            }
            if place.events {
                self.event(*key, word, *value, depth);
            } else if self.is_full() {
                break;
            } else if let Some(takes) = place.keys.get(word).or(place.free.as_ref()) {
                self.value(*value, takes, *key, (contexts, !place.no_holes.contains(&word)), depth + 1);
            } else {
                self.unknown(node, *key, word, (name, place.label), place.keys.names());
            }
        }
        self.job = outer_job;
        self.apart(node, place);
        self.missing(node, place, owner);
        self.torn = outer_torn;
    }

    pub fn unknown<'k>(
        &mut self,
        parent: NodeId,
        key: NodeId,
        word: &str,
        (place, label): (&str, &str),
        known: impl Iterator<Item = &'k str>,
    ) {
        // A merge key is YAML's own; a hole for a key is filled in before the file is read.
        if word == "<<" || self.grammar.has_hole(word) {
            return;
        }
        let known: Vec<&str> = known.collect();
        // A word that already stands beside it is not what is meant.
        let free = |meant: &Meant| self.tree.get(parent, &meant.word).is_none();
        let documented = self.grammar.meant(place, word).map(Meant::surely);
        let meant = documented.or_else(|| near(word, known.iter().copied(), Among::Closed)).filter(free);
        if meant.is_none() && !self.strict && !(self.grammar.tells_unknown && self.is_read(parent, word)) {
            return;
        }
        let belongs = if meant.is_some() { Vec::new() } else { self.grammar.places_with(word) };
        let kind = FormIssueKind::UnknownKey {
            key: word.to_owned(),
            within: label.to_owned(),
            known: known.iter().map(|key| (*key).to_owned()).collect(),
            meant,
            of_event: place == EVENT,
            belongs: belongs.into_iter().map(str::to_owned).collect(),
        };
        self.add(self.at(key), kind);
    }

    /// Whether a key is meant to be read, rather than to hold what other places use.
    fn is_read(&self, parent: NodeId, word: &str) -> bool {
        let holder = word.starts_with(['_', '.', '-']) || word.starts_with("x-") || word.starts_with("x_");
        !holder && self.tree.value(parent, word).is_none_or(|value| !self.tree.holds_anchor(value))
    }

    /// Keys that rule each other out.
    fn apart(&mut self, node: NodeId, place: &PlaceEntry) {
        for (one, others) in &place.apart {
            let Some((first, _)) = self.tree.get(node, one) else { continue };
            for other in *others {
                let Some((key, _)) = self.tree.get(node, other) else { continue };
                let kind = FormIssueKind::ExclusiveKeys {
                    one: one.to_owned(),
                    first: self.at(first),
                    other: (*other).to_owned(),
                    within: place.label.to_owned(),
                };
                self.add(self.at(key), kind);
            }
        }
    }

    fn missing(&mut self, node: NodeId, place: &PlaceEntry, owner: Option<NodeId>) {
        if self.torn {
            return;
        }
        let has = |key: &str| self.tree.get(node, key).is_some();
        // A key that is only misspelt is said once, as that.
        let keys: HashSet<Place> = match self.issues.is_empty() {
            true => HashSet::new(),
            false => self.tree.pairs(node).iter().map(|(key, _)| self.at(*key)).collect(),
        };
        let slips: Vec<String> = self
            .issues
            .iter()
            .filter_map(|issue| match &issue.kind {
                FormIssueKind::UnknownKey { meant: Some(meant), .. } if keys.contains(&issue.at) => Some(meant.word.clone()),
                _ => None,
            })
            .collect();
        let misspelt = |key: &str| slips.iter().any(|slip| slip == key);
        let mut wanted: Vec<Vec<String>> =
            place.required.iter().filter(|key| !has(key) && !misspelt(key)).map(|key| vec![(*key).to_owned()]).collect();
        if !place.one_of.is_empty() && !place.one_of.iter().any(|key| has(key) || misspelt(key)) {
            wanted.push(place.one_of.iter().map(|word| (*word).to_owned()).collect());
        }
        for asked in place.with_word {
            let word = self.tree.value(node, asked.key).and_then(|value| self.tree.scalar(value));
            let asks = word == Some(asked.word);
            if asks && !has(asked.wants) && !misspelt(asked.wants) {
                wanted.push(vec![asked.wants.to_owned()]);
            } else if !asks && asked.only && has(asked.wants) {
                wanted.push(vec![format!("{}: {}", asked.key, asked.word)]);
            }
        }
        for (key, others) in &place.together {
            if has(key) {
                wanted
                    .extend(others.iter().filter(|other| !has(other) && !misspelt(other)).map(|other| vec![(*other).to_owned()]));
            }
        }
        if wanted.is_empty() {
            return;
        }
        let name = owner.and_then(|owner| self.tree.scalar(owner));
        let within = match name {
            Some(name) if !place.label.contains(&format!("`{name}`")) => {
                format!("{} `{name}`", place.label.replacen("a ", "the ", 1))
            }
            _ => place.label.to_owned(),
        };
        let first_key = self.tree.pairs(node).first().map(|(key, _)| *key);
        let at = self.at(owner.or(first_key).unwrap_or(node));
        for keys in wanted {
            self.add(at, FormIssueKind::MissingKey { keys, within: within.clone() });
        }
    }

    /// Walks a value along what its key takes. `contexts` are those of the place it stands in, where the key has none of its own, and
    /// whether the whole value may be a hole.
    pub fn value(
        &mut self,
        node: NodeId,
        takes: &'static Takes,
        owner: NodeId,
        (contexts, holes): (Option<&'static str>, bool),
        depth: usize,
    ) {
        if depth > DEPTH_LIMIT {
            return;
        }
        let contexts = takes.contexts.or(contexts);
        if takes.version {
            self.number_trap(owner, node);
        }
        if takes.any {
            self.anything(node, owner, contexts, depth);
            return;
        }
        let whole_hole = holes && self.tree.scalar(node).is_some_and(|text| self.grammar.is_hole(text));
        if !whole_hole && !self.fits_shape(node, takes, Some(owner)) {
            return;
        }
        let tree = self.tree;
        match &tree.node(tree.resolve(node)).kind {
            Kind::Mapping(..) => {
                if let Some(place) = &takes.place {
                    self.place(node, place, Some(owner), contexts, depth);
                } else if let Some(inner) = &takes.map {
                    let pairs = tree.pairs(node);
                    self.repeated(pairs);
                    for (key, value) in pairs {
                        self.number_trap(*key, *value);
                        self.value(*value, inner, *key, (contexts, true), depth + 1);
                    }
                }
            }
            Kind::Sequence(..) => {
                let Some(inner) = takes.list else { return };
                let items = tree.items(node);
                if inner.any {
                    items.iter().for_each(|item| self.number_trap(owner, *item));
                }
                self.items(items, inner, owner, contexts, depth);
            }
            Kind::Scalar(..) if takes.event => self.event_word(node),
            Kind::Scalar(..) => self.expressions(node, contexts),
            _ => {}
        }
    }

    fn items(&mut self, items: &[NodeId], inner: &'static Takes, owner: NodeId, contexts: Option<&'static str>, depth: usize) {
        if depth > DEPTH_LIMIT {
            return;
        }
        let step_id = inner.place.and_then(|place| self.grammar.place(place)?.step_id);
        let steps = step_id.is_some();
        for (index, item) in items.iter().enumerate() {
            if steps {
                self.step = Some(index);
            }
            match &inner.place {
                Some(_)
                    if self.grammar.flattens
                        && !self.tree.items(*item).is_empty()
                        && !self.stands_for_another(self.tree.resolve(*item)) =>
                {
                    self.items(self.tree.items(*item), inner, owner, contexts, depth + 1);
                }
                Some(place) if !inner.null && self.tree.items(*item).is_empty() => {
                    if self.fits_shape(*item, inner, Some(owner)) {
                        self.place(*item, place, None, contexts, depth);
                    }
                }
                _ => self.value(*item, inner, owner, (contexts, true), depth + 1),
            }
        }
        if let Some(key) = step_id {
            self.step = None;
            self.step_ids(items, key);
        }
    }

    /// Scalars below a value of which no more is known still hold expressions.
    fn anything(&mut self, node: NodeId, owner: NodeId, contexts: Option<&'static str>, depth: usize) {
        if depth > DEPTH_LIMIT {
            return;
        }
        let tree = self.tree;
        match &tree.node(tree.resolve(node)).kind {
            Kind::Mapping(..) => {
                for (key, value) in tree.pairs(node) {
                    self.number_trap(*key, *value);
                    self.anything(*value, *key, contexts, depth + 1);
                }
            }
            Kind::Sequence(..) => {
                for item in tree.items(node) {
                    self.number_trap(owner, *item);
                    self.anything(*item, owner, contexts, depth + 1);
                }
            }
            Kind::Scalar(..) => self.expressions(node, contexts),
            _ => {}
        }
    }
}
