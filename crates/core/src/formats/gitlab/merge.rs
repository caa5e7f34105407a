//! Keys that are merged: several files, `extends`, merge keys and `!reference`.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};
use std::rc::Rc;

use indexmap::IndexMap;

use crate::carrier::{Copies, Kind, NodeId, Tree, weight};
use crate::formats::nodes::Nodes;
use crate::model::{Language, Text, Variables};
use crate::text::{FileId, Place};

/// Deeper than the format allows (eleven).
const EXTENDS_DEPTH: usize = 11;
/// Lists in lists, and references to references.
const SCRIPT_DEPTH: usize = 12;
/// More names than this are not told where one is not there.
const NAMES_TOLD: usize = 200;

/// A node of one of the files.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct At {
    part: usize,
    node: NodeId,
}

/// A value: as it is written, or merged from several places.
#[derive(Clone, Debug)]
pub enum Item {
    /// As it is written.
    Written(At),
    /// Merged.
    Merged(Rc<Map>),
}

/// Keys with values, in the order they were first seen.
#[derive(Clone, Debug, Default)]
pub struct Map {
    entries: IndexMap<String, (At, Item)>,
}

impl Map {
    /// The value of a key.
    pub fn get(&self, key: &str) -> Option<&Item> {
        self.entries.get(key).map(|(_, item)| item)
    }

    /// No key is there.
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }

    /// Whether a key is there.
    pub fn contains(&self, key: &str) -> bool {
        self.get(key).is_some()
    }

    /// All keys.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.entries.keys().map(String::as_str)
    }

    fn set(&mut self, name: &str, key: At, item: Item) {
        self.entries.insert(name.to_owned(), (key, item));
    }
}

/// The document that holds the pipeline: with a header, the second one.
pub fn pipeline_root(tree: &Tree) -> Option<NodeId> {
    tree.documents.iter().copied().find(|root| tree.get(*root, "spec").is_none()).or(tree.documents.first().copied())
}

/// The files that make one pipeline together, the main one first.
pub struct Documents<'t> {
    parts: Vec<Part<'t>>,
    copies: &'t Copies,
    /// What has been read once: whoever reads it again copies it.
    read: RefCell<HashSet<At>>,
    /// Jobs with what they extend, by their names and by how far below another job they were asked for.
    jobs: RefCell<HashMap<Asked, Option<Rc<Extended>>>>,
}

/// A job's name, and how far below another job it was asked for.
type Asked = (String, usize);

/// One of the files.
struct Part<'t> {
    nodes: Nodes<'t>,
    root: NodeId,
    /// The key and the value of every top key.
    top: HashMap<&'t str, (NodeId, NodeId)>,
}

/// A job with all that it extends.
#[derive(Debug)]
pub struct Extended {
    /// Its keys.
    pub map: Rc<Map>,
    /// Part of what it extends is not known.
    pub torn: bool,
}

impl<'t> Documents<'t> {
    /// Takes the document of each file that holds the pipeline; a header before it is left aside.
    pub fn new(parts: &[(FileId, &'t Tree)], copies: &'t Copies) -> Self {
        let part = |(file, tree): &(FileId, &'t Tree)| {
            let (tree, root) = (*tree, pipeline_root(tree)?);
            let mut top = HashMap::new();
            for (key, value) in tree.pairs(root) {
                if let Some(name) = tree.scalar(*key) {
                    top.entry(name).or_insert((*key, *value));
                }
            }
            Some(Part { nodes: Nodes { tree, file: *file, language: Language::Variables }, root, top })
        };
        let parts = parts.iter().filter_map(part).collect();
        Self { parts, copies, read: RefCell::default(), jobs: RefCell::default() }
    }

    fn nodes(&self, at: At) -> Nodes<'t> {
        self.parts[at.part].nodes
    }

    /// Where a value stands.
    pub fn at(&self, item: &Item) -> Place {
        match item {
            Item::Written(at) => self.nodes(*at).at(at.node),
            Item::Merged(map) => map
                .entries
                .first()
                .map_or(crate::model::whole_file(self.parts[0].nodes.file), |(_, (key, _))| self.nodes(*key).at(key.node)),
        }
    }

    /// The text of a scalar.
    pub fn text(&self, item: &Item) -> Option<Text> {
        match item {
            Item::Written(at) => self.nodes(*at).text(at.node),
            Item::Merged(_) => None,
        }
    }

    /// One text, or those of a list.
    pub fn texts(&self, item: &Item) -> Vec<Text> {
        match self.text(item) {
            Some(text) => vec![text],
            None => self.items(item).iter().filter_map(|item| self.text(item)).collect(),
        }
    }

    /// The items of a list; a reference is followed, and lists in it are laid flat.
    pub fn items(&self, item: &Item) -> Vec<Item> {
        let mut found = Vec::new();
        let copied = match item {
            Item::Written(at) => !self.read.borrow_mut().insert(*at),
            Item::Merged(_) => false,
        };
        self.flatten(item, (0, copied), &mut found);
        found
    }

    /// The same; what is no list stands for a list of itself.
    pub fn items_or_one(&self, item: &Item) -> Vec<Item> {
        let found = self.items(item);
        let alone = found.is_empty() && !self.load(item).is_empty();
        if alone { vec![item.clone()] } else { found }
    }

    /// Whether another item may be laid into a list; one that is copied weighs as much as its text.
    fn may_add(&self, item: &Item, copied: bool) -> bool {
        !copied || self.copies.take(self.text(item).map_or(1, |text| weight(&text.value)))
    }

    fn flatten(&self, item: &Item, (depth, copied): (usize, bool), found: &mut Vec<Item>) {
        let Item::Written(at) = item else { return };
        if depth > SCRIPT_DEPTH {
            return;
        }
        if let Some(target) = self.reference(*at) {
            if !self.may_add(&target, true) {
                return;
            }
            match self.text(&target) {
                Some(_) => found.push(target),
                None => self.flatten(&target, (depth + 1, true), found),
            }
            return;
        }
        for node in self.nodes(*at).tree.items(at.node) {
            let inner = At { part: at.part, node: *node };
            let item = Item::Written(inner);
            if !self.may_add(&item, copied) {
                return;
            }
            let is_list = !self.nodes(inner).tree.items(*node).is_empty();
            if is_list { self.flatten(&item, (depth + 1, copied), found) } else { found.push(item) }
        }
    }

    /// What `!reference [job, key]` stands for.
    fn reference(&self, at: At) -> Option<Item> {
        let tree = self.nodes(at).tree;
        let tagged = tree.node(at.node).tag.as_deref() == Some("!reference");
        let path: Vec<&str> = tree.items(at.node).iter().filter_map(|item| tree.scalar(*item)).collect();
        let (first, rest) = path.split_first().filter(|_| tagged)?;
        let mut item = Item::Merged(Rc::clone(&self.job(first)?.map));
        for key in rest {
            item = self.get(&item, key)?;
        }
        Some(item)
    }

    /// References that lead nowhere: where they stand, what is not there, the job that it is looked for in, and what is there.
    pub fn absent_references(&self) -> Vec<(Place, String, Option<String>, Vec<String>)> {
        let mut found = Vec::new();
        let names = |map: &Map| map.names().take(NAMES_TOLD).map(str::to_owned).collect::<Vec<String>>();
        let top = std::cell::OnceCell::new();
        for nodes in self.parts.iter().map(|part| part.nodes) {
            for id in nodes.tree.ids().filter(|id| nodes.tree.node(*id).tag.as_deref() == Some("!reference")) {
                let path: Vec<&str> = nodes.tree.items(id).iter().filter_map(|item| nodes.tree.scalar(*item)).collect();
                let Some((first, rest)) = path.split_first() else { continue };
                let Some(job) = self.job(first) else {
                    let known = top.get_or_init(|| names(&self.top().unwrap_or_default())).clone();
                    found.push((nodes.at(id), (*first).to_owned(), None, known));
                    continue;
                };
                let mut item = Item::Merged(Rc::clone(&job.map));
                for key in rest.iter().filter(|_| !job.torn) {
                    let Some(inner) = self.get(&item, key) else {
                        let known = names(&self.load(&item));
                        found.push((nodes.at(id), (*key).to_owned(), Some((*first).to_owned()), known));
                        break;
                    };
                    item = inner;
                }
            }
        }
        found
    }

    /// A key's value.
    pub fn get(&self, item: &Item, key: &str) -> Option<Item> {
        match item {
            Item::Merged(map) => map.get(key).cloned(),
            Item::Written(_) => self.load(item).get(key).cloned(),
        }
    }

    /// Keys as texts, with their values.
    pub fn pairs(&self, item: &Item) -> Vec<(Text, Item)> {
        let map = self.load(item);
        let copied = matches!(item, Item::Written(at) if !self.read.borrow_mut().insert(*at));
        if copied && !self.copies.take(map.entries.len()) {
            return Vec::new();
        }
        map.entries.values().filter_map(|(key, value)| Some((self.nodes(*key).text(key.node)?, value.clone()))).collect()
    }

    /// Names with values; a value may stand under a key of its own.
    pub fn variables(&self, item: &Item) -> Variables {
        let mut variables = Variables::default();
        for (name, value) in self.pairs(item) {
            let text = self.text(&value).or_else(|| self.get(&value, "value").and_then(|value| self.text(&value)));
            match text {
                Some(text) => variables.entries.push((name, text)),
                None => variables.open = true,
            }
        }
        variables
    }

    /// A mapping with its merge keys worked in.
    fn load(&self, item: &Item) -> Rc<Map> {
        match item {
            Item::Merged(map) => Rc::clone(map),
            Item::Written(at) => Rc::new(self.load_node(*at, 0)),
        }
    }

    fn load_node(&self, at: At, depth: usize) -> Map {
        let tree = self.nodes(at).tree;
        let mut own = Map::default();
        let mut below = Map::default();
        for (key, value) in tree.pairs(at.node) {
            let Some(name) = tree.scalar(*key) else { continue };
            let value = At { part: at.part, node: *value };
            if name != "<<" {
                own.set(name, At { part: at.part, node: *key }, Item::Written(value));
                continue;
            }
            let sources: Vec<NodeId> = match tree.items(value.node) {
                [] => vec![value.node],
                items => items.to_vec(),
            };
            for source in sources.into_iter().filter(|_| depth < EXTENDS_DEPTH) {
                let taken = self.load_node(At { part: at.part, node: source }, depth + 1);
                if !self.copies.take(taken.entries.len()) {
                    break;
                }
                for (name, (key, item)) in taken.entries {
                    if !below.contains(&name) {
                        below.set(&name, key, item);
                    }
                }
            }
        }
        for (name, (key, item)) in below.entries {
            if !own.contains(&name) {
                own.set(&name, key, item);
            }
        }
        own
    }

    /// All top keys of all files; the main file's win.
    pub fn top(&self) -> Option<Map> {
        let mut top = Map::default();
        for (number, part) in self.parts.iter().enumerate().rev() {
            let map = self.load_node(At { part: number, node: part.root }, 0);
            top = self.merged(top, &map);
        }
        (!self.parts.is_empty()).then_some(top)
    }

    /// The key and the place of a job, where it is written last.
    pub fn entry(&self, name: &str) -> Option<(Text, Place)> {
        self.parts.iter().find_map(|part| {
            let (key, value) = *part.top.get(name)?;
            Some((part.nodes.text(key)?, part.nodes.at(part.nodes.tree.resolve(value))))
        })
    }

    /// A job with all that it extends.
    pub fn job(&self, name: &str) -> Option<Rc<Extended>> {
        self.extended(name, 0)
    }

    fn extended(&self, name: &str, depth: usize) -> Option<Rc<Extended>> {
        let asked = (name.to_owned(), depth);
        if let Some(known) = self.jobs.borrow().get(&asked) {
            return known.clone();
        }
        let found = self.own(name).map(|own| Rc::new(self.extend(own, depth)));
        self.jobs.borrow_mut().insert(asked, found.clone());
        found
    }

    /// Works what a job extends in below its own keys. What extends itself comes to the depth that is not allowed.
    fn extend(&self, own: Map, depth: usize) -> Extended {
        if depth > EXTENDS_DEPTH {
            return Extended { map: Rc::new(own), torn: true };
        }
        let mut torn = false;
        let mut whole = Map::default();
        for parent in own.get("extends").map(|item| self.texts(item)).unwrap_or_default() {
            match self.extended(&parent.value, depth + 1) {
                Some(job) if self.copies.take(job.map.entries.len()) => {
                    torn |= job.torn;
                    whole = self.merged(whole, &job.map);
                }
                _ => torn = true,
            }
        }
        Extended { map: Rc::new(self.merged(whole, &own)), torn }
    }

    /// The names that a job extends and that no file has.
    pub fn absent_parents(&self, name: &str) -> Vec<Text> {
        let parents = self.own(name).and_then(|map| map.get("extends").map(|item| self.texts(item))).unwrap_or_default();
        parents.into_iter().filter(|parent| !parent.value.contains('$') && self.own(&parent.value).is_none()).collect()
    }

    /// A job as the files write it, those that are included first.
    fn own(&self, name: &str) -> Option<Map> {
        let mut found: Option<Map> = None;
        for (number, part) in self.parts.iter().enumerate().rev() {
            let Some((_, value)) = part.top.get(name) else { continue };
            let map = self.load_node(At { part: number, node: *value }, 0);
            found = Some(match found {
                Some(below) => self.merged(below, &map),
                None => map,
            });
        }
        found
    }

    /// Keys of the second win; mappings in both are merged, lists are replaced.
    fn merged(&self, below: Map, above: &Map) -> Map {
        let mut whole = below;
        for (name, (key, item)) in &above.entries {
            let both = whole.get(name).filter(|old| self.is_mapping(old) && self.is_mapping(item)).cloned();
            let item = match both {
                Some(old) => {
                    let (old, new) = (self.load(&old), self.load(item));
                    if !self.copies.take(old.entries.len()) {
                        return whole;
                    }
                    Item::Merged(Rc::new(self.merged(Rc::unwrap_or_clone(old), &new)))
                }
                None => item.clone(),
            };
            whole.set(name, *key, item);
        }
        whole
    }

    fn is_mapping(&self, item: &Item) -> bool {
        match item {
            Item::Merged(_) => true,
            Item::Written(at) => {
                let tree = self.nodes(*at).tree;
                matches!(tree.node(tree.resolve(at.node)).kind, Kind::Mapping(..))
            }
        }
    }

    /// A key of a mapping as it is written.
    pub fn key_of(&self, map: &Map, name: &str) -> Option<Text> {
        let (key, _) = map.entries.get(name)?;
        self.nodes(*key).text(key.node)
    }

    /// What stands under `include`, each by itself.
    pub fn include_items(&self) -> Vec<Item> {
        let mut found = Vec::new();
        for (number, part) in self.parts.iter().enumerate() {
            let Some((_, value)) = part.top.get("include") else { continue };
            let item = Item::Written(At { part: number, node: *value });
            let list = self.items(&item);
            if list.is_empty() { found.push(item) } else { found.extend(list) }
        }
        found
    }

    /// The file of this repository that an item of `include` surely takes.
    pub fn local_file(&self, item: &Item) -> Option<Text> {
        let path = self.text(item).or_else(|| self.get(item, "local").and_then(|value| self.text(&value)))?;
        let chosen = self.get(item, "rules").is_some() || path.value.contains(['*', '?', '[']);
        (super::read::is_local(&path.value) && !chosen).then_some(path)
    }

    /// Something is included that does not lie in this repository, or only under a condition.
    pub fn includes_unknown(&self) -> bool {
        self.include_items().iter().any(|item| {
            let conditional = self.get(item, "rules").is_some();
            let local = self.text(item).or_else(|| self.get(item, "local").and_then(|value| self.text(&value)));
            conditional || !local.is_some_and(|path| super::read::is_local(&path.value))
        })
    }
}
