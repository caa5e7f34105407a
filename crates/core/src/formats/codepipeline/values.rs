//! Values of a template: parameters with their defaults, references between resources, texts that are put together.
//!
//! After the pages "Intrinsic function reference" and "Parameters": each function has a long form, a mapping of one key, and a short one, a
//! tag. What is only known when the template is laid out is not known here.

use std::collections::HashMap;

use crate::carrier::{NodeId, Tree};
use crate::formats::nodes::Nodes;
use crate::model::Text;
use crate::text::Place;

/// References in references: deeper is a circle.
const DEPTH: usize = 8;

/// A template, or a definition that stands alone.
pub(super) struct Values<'t> {
    pub nodes: Nodes<'t>,
    /// The defaults of parameters, by name.
    parameters: HashMap<String, Option<NodeId>>,
    /// Resources by their logical names, in the order they stand.
    pub resources: Vec<Resource>,
    by_name: HashMap<String, usize>,
}

/// A resource of a template.
#[derive(Clone)]
pub(super) struct Resource {
    /// Its logical name.
    pub name: Text,
    /// Its type, such as `AWS::S3::Bucket`.
    pub kind: String,
    /// What is set of it.
    pub properties: Option<NodeId>,
}

/// A function of a template and what it is given.
struct Call<'t> {
    name: &'t str,
    given: NodeId,
}

impl<'t> Values<'t> {
    pub fn of(nodes: Nodes<'t>) -> Self {
        let mut values = Self { nodes, parameters: HashMap::new(), resources: Vec::new(), by_name: HashMap::new() };
        let tree = nodes.tree;
        let Some(root) = tree.documents.first().copied() else { return values };
        for (name, parameter) in tree.value(root, "Parameters").map(|node| tree.pairs(node)).unwrap_or_default() {
            if let Some(name) = tree.scalar(*name) {
                values.parameters.insert(name.to_owned(), tree.value(*parameter, "Default"));
            }
        }
        for (name, resource) in tree.value(root, "Resources").map(|node| tree.pairs(node)).unwrap_or_default() {
            let (Some(name), Some(kind)) = (nodes.text(*name), tree.value(*resource, "Type").and_then(|kind| tree.scalar(kind)))
            else {
                continue;
            };
            values.by_name.insert(name.value.clone(), values.resources.len());
            let properties = tree.value(*resource, "Properties");
            values.resources.push(Resource { name, kind: kind.to_owned(), properties });
        }
        values
    }

    /// The resources of a type.
    pub fn of_kind<'v>(&'v self, kind: &'v str) -> impl Iterator<Item = &'v Resource> + 'v {
        self.resources.iter().filter(move |resource| resource.kind == kind)
    }

    /// A value under a key; templates begin keys with a capital, definitions do not.
    pub fn get(&self, node: NodeId, key: &str) -> Option<NodeId> {
        self.pair(node, key).map(|(_, value)| value)
    }

    /// The same with the key.
    pub fn pair(&self, node: NodeId, key: &str) -> Option<(NodeId, NodeId)> {
        let tree = self.nodes.tree;
        let same = |written: &str| {
            written.len() == key.len()
                && written[..1.min(written.len())].eq_ignore_ascii_case(&key[..1])
                && written.get(1..) == key.get(1..)
        };
        let found = tree.pairs(node).iter().copied().find(|(name, _)| tree.scalar(*name).is_some_and(same));
        found.filter(|(_, value)| !tree.is_null(*value))
    }

    /// Where a key of a mapping stands.
    pub fn key_at(&self, node: NodeId, key: &str) -> Option<Place> {
        self.pair(node, key).map(|(key, _)| self.nodes.at(key))
    }

    pub fn items(&self, node: NodeId) -> Vec<NodeId> {
        self.nodes.tree.items(node).to_vec()
    }

    /// The items of a list under a key.
    pub fn list(&self, node: NodeId, key: &str) -> Vec<NodeId> {
        self.get(node, key).map(|list| self.items(list)).unwrap_or_default()
    }

    /// A text that is known now.
    pub fn text(&self, node: NodeId) -> Option<Text> {
        self.text_within(node, 0)
    }

    /// The text under a key.
    pub fn text_at(&self, node: NodeId, key: &str) -> Option<Text> {
        self.text(self.get(node, key)?)
    }

    /// Whether a key says so.
    pub fn says(&self, node: NodeId, key: &str, word: &str) -> bool {
        self.text_at(node, key).is_some_and(|text| text.value.eq_ignore_ascii_case(word))
    }

    /// Whether nothing of a value is left open, so that what does not stand in it is not there.
    pub fn is_plain(&self, node: NodeId) -> bool {
        self.call(node).is_none()
    }

    fn text_within(&self, node: NodeId, depth: usize) -> Option<Text> {
        if depth > DEPTH {
            return None;
        }
        // What a run or a safe fills in is not known now.
        let is_filled_in = |text: &Text| ["#{", "{{resolve:"].iter().any(|start| text.value.contains(start));
        let Some(call) = self.call(node) else { return self.nodes.text(node).filter(|text| !is_filled_in(text)) };
        match call.name {
            "Ref" => {
                let name = self.nodes.tree.scalar(call.given)?;
                let default = (*self.parameters.get(name)?)?;
                self.text_within(default, depth + 1)
            }
            "Sub" => self.substituted(call.given, depth),
            "Join" => {
                let [between, parts] = self.nodes.tree.items(call.given) else { return None };
                let between = self.nodes.tree.scalar(*between)?;
                let parts: Option<Vec<Text>> =
                    self.nodes.tree.items(*parts).iter().map(|part| self.text_within(*part, depth + 1)).collect();
                let joined: Vec<String> = parts?.into_iter().map(|part| part.value).collect();
                Some(Text::fixed(&joined.join(between), self.nodes.at(call.given)))
            }
            _ => None,
        }
    }

    /// A text with `${Name}` in it, where each is the default of a parameter; `${!Name}` stands for `${Name}`.
    fn substituted(&self, given: NodeId, depth: usize) -> Option<Text> {
        let text = self.nodes.text(given)?;
        let mut value = String::new();
        let mut rest = text.value.as_str();
        while let Some(start) = rest.find("${") {
            let (before, after) = rest.split_at(start);
            let (name, behind) = after[2..].split_once('}')?;
            value.push_str(before);
            match name.strip_prefix('!') {
                Some(literal) => value.push_str(&format!("${{{literal}}}")),
                None => {
                    let default = (*self.parameters.get(name)?)?;
                    value.push_str(&self.text_within(default, depth + 1)?.value);
                }
            }
            rest = behind;
        }
        if value.is_empty() {
            return Some(text);
        }
        value.push_str(rest);
        Some(Text::fixed(&value, text.at))
    }

    /// The text that is written, whatever is put into it later.
    pub fn written(&self, node: NodeId) -> Option<Text> {
        match self.call(node) {
            None => self.nodes.text(node),
            Some(call) if call.name == "Sub" => {
                let first = self.nodes.tree.items(call.given).first().copied();
                self.nodes.text(first.unwrap_or(call.given))
            }
            Some(_) => None,
        }
    }

    /// The resource that a value refers to.
    pub fn resource(&self, node: NodeId) -> Option<&Resource> {
        let call = self.call(node)?;
        let name = match (call.name, self.nodes.tree.scalar(call.given)) {
            ("Ref", Some(name)) => name.to_owned(),
            ("GetAtt", Some(path)) => path.split('.').next()?.to_owned(),
            ("GetAtt", None) => self.nodes.tree.scalar(*self.nodes.tree.items(call.given).first()?)?.to_owned(),
            ("Sub", Some(text)) => text.strip_prefix("${")?.split(['}', '.']).next()?.to_owned(),
            _ => return None,
        };
        self.by_name.get(&name).map(|index| &self.resources[*index])
    }

    /// The names of the resources that a text put together refers to, with what stands behind the last of them: `${Site.Arn}/*` gives
    /// `Site` and `/*`. Nothing for a text in which nothing is put.
    pub fn referred(&self, node: NodeId) -> Option<(&Resource, String)> {
        if let Some(resource) = self.resource(node).filter(|_| self.call(node).is_some_and(|call| call.name != "Sub")) {
            return Some((resource, String::new()));
        }
        let call = self.call(node)?;
        match call.name {
            "Sub" => {
                let text = self.written(node)?.value;
                let start = text.rfind("${")?;
                let (name, rest) = text[start + 2..].split_once('}')?;
                let name = name.split('.').next()?;
                self.by_name.get(name).map(|index| (&self.resources[*index], rest.to_owned()))
            }
            "Join" => {
                let [between, parts] = self.nodes.tree.items(call.given) else { return None };
                let between = self.nodes.tree.scalar(*between)?;
                let parts = self.nodes.tree.items(*parts);
                let last = parts.iter().rposition(|part| self.resource(*part).is_some())?;
                let behind: Option<Vec<String>> =
                    parts[last + 1..].iter().map(|part| self.text(*part).map(|text| text.value)).collect();
                let rest = behind?.iter().map(|part| format!("{between}{part}")).collect();
                Some((self.resource(parts[last])?, rest))
            }
            _ => None,
        }
    }

    /// Names that something in the resources refers to and that the template does not have, each with its place. A transformation may make
    /// resources of its own.
    /// Source: the page "Template reference", `Ref` and `Fn::GetAtt`, 2026-11.
    pub fn absent_names(&self) -> Vec<Text> {
        let tree = self.nodes.tree;
        let Some(root) = tree.documents.first().copied() else { return Vec::new() };
        if tree.get(root, "Transform").is_some() || tree.get(root, "Rules").is_some() || self.resources.is_empty() {
            return Vec::new();
        }
        let mut found = Vec::new();
        for node in tree.ids() {
            let Some(call) = self.call(node).filter(|call| matches!(call.name, "Ref" | "GetAtt")) else { continue };
            let given =
                if call.name == "GetAtt" { tree.items(call.given).first().copied().unwrap_or(call.given) } else { call.given };
            let Some(text) = self.nodes.text(given) else { continue };
            let name = text.value.split('.').next().unwrap_or_default();
            let known = self.by_name.contains_key(name) || self.parameters.contains_key(name);
            if !known && !name.starts_with("AWS::") && !name.is_empty() {
                found.push(Text::fixed(name, text.place(0..name.len())));
            }
        }
        found
    }

    /// The function that a value is, by its short name.
    fn call(&self, node: NodeId) -> Option<Call<'t>> {
        let tree: &'t Tree = self.nodes.tree;
        let node = tree.resolve(node);
        let found = tree.node(node);
        if let Some(name) = found.tag.as_deref().and_then(|tag| tag.strip_prefix('!')) {
            return Some(Call { name, given: node });
        }
        let [(key, given)] = tree.pairs(node) else { return None };
        let name = tree.scalar(*key)?;
        let short = name.strip_prefix("Fn::").or_else(|| (name == "Ref").then_some(name))?;
        Some(Call { name: short, given: *given })
    }
}

/// A text of several lines that stands inside another one, as a tree of its own whose places are those of the whole.
pub(super) fn tree_inside(text: &Text, whole: &Tree) -> Tree {
    crate::carrier::parse(&text.value).inside(whole, &|range| text.place(range).span)
}
