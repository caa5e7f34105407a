//! The shapes of values: what a key takes, keys that stand twice, names, versions that are numbers.

use std::collections::HashMap;

use super::FormIssueKind;
use super::walk::Walker;
use crate::carrier::{Core, Kind, NodeId, Style, resolve_plain};
use crate::knowledge::{Among, Meant, Takes, near};
use crate::text::Place;

impl Walker<'_> {
    /// Whether a value has a shape that its key takes; says so when it has not.
    pub(super) fn fits_shape(&mut self, node: NodeId, takes: &Takes, owner: Option<NodeId>) -> bool {
        let tree = self.tree;
        let resolved = tree.resolve(node);
        if let Some((tag, at)) = self.lone_tag(node) {
            let key = owner.and_then(|owner| self.tree.scalar(owner)).unwrap_or("a value").to_owned();
            let (found, wanted) = (
                format!("`{tag}` without quotes, which YAML takes for a tag and reads as nothing"),
                format!("it in quotes: '{tag}'"),
            );
            self.add(at, FormIssueKind::WrongShape { key, found, wanted, instead: None });
            return false;
        }
        if self.stands_for_another(resolved) {
            return false;
        }
        let (fits, found) = match &tree.node(resolved).kind {
            Kind::Absent => (takes.null, "nothing"),
            Kind::Alias(_) => return false,
            Kind::Scalar(_, style) => {
                return self.fits_scalar(node, (tree.scalar(resolved).unwrap_or_default(), *style), takes, owner);
            }
            Kind::Sequence(..) => {
                (takes.list.is_some() || takes.nested || (tree.items(resolved).is_empty() && takes.null), "a list")
            }
            Kind::Mapping(..) => (
                takes.map.is_some() || takes.place.is_some() || (tree.pairs(resolved).is_empty() && takes.null),
                "keys with values",
            ),
        };
        if fits {
            return self.is_not_empty(node, takes, owner);
        }
        if found == "nothing" {
            self.empty(node, takes, owner);
        } else if let Some(text) = self.torn_text(resolved).filter(|_| takes.text && self.minds_shapes()) {
            let kind = FormIssueKind::WrongShape {
                key: self.key_of(owner),
                found: "a key with a value: the `: ` in this line makes it one".to_owned(),
                wanted: "a text, in quotes where `: ` stands in it".to_owned(),
                instead: Some(Meant::surely(format!("'{}'", text.replace('\'', "''")))),
            };
            self.add(self.at(node), kind);
        } else if self.minds_shapes() {
            self.wrong_shape(node, self.key_of(owner), found, takes, None);
        }
        false
    }

    fn fits_scalar(&mut self, node: NodeId, (value, style): (&str, Style), takes: &Takes, owner: Option<NodeId>) -> bool {
        let plain = if style == Style::Plain { resolve_plain(value) } else { Core::Text };
        if plain == Core::Null {
            if !takes.null {
                self.empty(node, takes, owner);
            }
            return false;
        }
        let hole = || self.grammar.has_hole(value) || self.grammar.filled_in.iter().any(|mark| value.contains(mark));
        let numeric = matches!(plain, Core::Integer | Core::Float);
        let fits = takes.text
            || takes.event
            || takes.nested
            || hole()
            || (takes.number && (numeric || value.trim().parse::<f64>().is_ok()))
            || (takes.boolean && (matches!(plain, Core::Bool(_)) || is_word(value, &["true", "false"])))
            || (takes.boolean && self.grammar.old_yes && style == Style::Plain && yes_or_no(value).is_some())
            || takes.count.is_some_and(|(least, most)| value.trim().parse().is_ok_and(|count| (least..=most).contains(&count)))
            || (takes.duration && self.grammar.durations.takes(value))
            || (takes.pattern && value.len() > 1 && value.starts_with('/') && value.trim_end_matches('i').ends_with('/'))
            || takes.words.contains(&value);
        if fits || !self.minds_shapes() {
            return fits;
        }
        let meant = yes_or_no(value).filter(|_| takes.boolean && !self.grammar.old_yes);
        if let Some(meant) = meant {
            let kind = FormIssueKind::YesNoTrap { written: value.to_owned(), meant, key: self.key_of(owner) };
            self.add(self.at(node), kind);
        } else {
            let instead = near(value, takes.words.iter().copied(), Among::Closed);
            let found = format!("the word `{}`", value.chars().take(40).collect::<String>());
            self.wrong_shape(node, self.key_of(owner), &found, takes, instead);
        }
        false
    }

    /// Values of a wrong shape are told.
    fn minds_shapes(&self) -> bool {
        self.strict || self.grammar.refuses_shapes
    }

    fn is_not_empty(&mut self, node: NodeId, takes: &Takes, owner: Option<NodeId>) -> bool {
        let empty = match &self.tree.node(self.tree.resolve(node)).kind {
            Kind::Sequence(..) => self.tree.items(node).is_empty(),
            Kind::Mapping(..) => {
                self.tree.pairs(node).is_empty()
                    && takes.place.and_then(|place| self.grammar.place(place)).is_some_and(|place| place.named)
            }
            _ => false,
        };
        if empty && !takes.null && self.minds_shapes() {
            self.empty(node, takes, owner);
            return false;
        }
        true
    }

    /// What a message calls the key that a value stands under.
    fn key_of(&self, owner: Option<NodeId>) -> String {
        owner.and_then(|owner| self.tree.scalar(owner)).unwrap_or("the file").to_owned()
    }

    fn empty(&mut self, node: NodeId, takes: &Takes, owner: Option<NodeId>) {
        if self.minds_shapes() {
            let at = self.at(owner.unwrap_or(node));
            self.add(at, FormIssueKind::Empty { key: Some(self.key_of(owner)), wanted: takes.words_for(), open: false });
        }
    }

    /// The keys that a value is to have, where there are but a few.
    fn keys_of(&self, takes: &Takes) -> String {
        let place = takes.place.and_then(|place| self.grammar.place(place));
        let keys: Vec<&str> = place.map(|place| place.keys.names().collect()).unwrap_or_default();
        match keys.as_slice() {
            [] | [_, _, _, _, _, ..] => String::new(),
            few => format!(", such as {}", few.iter().map(|key| format!("`{key}`")).collect::<Vec<_>>().join(", ")),
        }
    }

    fn wrong_shape(&mut self, node: NodeId, key: String, found: &str, takes: &Takes, instead: Option<Meant>) {
        let wanted = takes.words_for() + &self.keys_of(takes);
        let kind = FormIssueKind::WrongShape { key, found: found.to_owned(), wanted, instead };
        self.add(self.first_line(node), kind);
    }

    /// One line that was meant as a text and is a key with a value, as in `echo "built: $DATE"` without quotes round it all.
    fn torn_text(&self, node: NodeId) -> Option<&str> {
        let [(key, _)] = self.tree.pairs(node) else { return None };
        let written = self.tree.source()[self.at(node).span.range()].trim_end();
        let command = self.tree.scalar(*key).is_some_and(|key| key.contains(' '));
        (command && !written.contains('\n') && !written.starts_with('{')).then_some(written)
    }

    /// Of a value of many lines only the first, which is enough to find it.
    fn first_line(&self, node: NodeId) -> Place {
        let mut at = self.at(node);
        let source = self.tree.source();
        let text = source.get(at.span.range()).unwrap_or_default();
        if let Some(length) = text.find('\n') {
            at.span.end = at.span.start + u32::try_from(text[..length].trim_end().len()).unwrap_or(0);
        }
        at
    }

    /// Keys that stand twice: a forge refuses them.
    pub(super) fn repeated(&mut self, pairs: &[(NodeId, NodeId)]) {
        /// In a shorter mapping, looking at all keys before one is quicker than a table of them.
        const SHORT: usize = 16;
        let tree = self.tree;
        let mut seen: HashMap<&str, NodeId> = HashMap::new();
        let mut found = Vec::new();
        for (index, (key, _)) in pairs.iter().enumerate() {
            let Some(word) = tree.scalar(*key) else { continue };
            let first = match pairs.len() <= SHORT {
                true => pairs[..index].iter().map(|(before, _)| *before).find(|before| tree.scalar(*before) == Some(word)),
                false => Some(*seen.entry(word).or_insert(*key)).filter(|first| first != key),
            };
            if let Some(first) = first.filter(|_| word != "<<") {
                let kind = FormIssueKind::RepeatedKey { key: word.to_owned(), first: self.at(first) };
                found.push((self.at(*key), kind));
            }
        }
        found.into_iter().for_each(|(at, kind)| self.add(at, kind));
    }

    /// Whether a value carries a tag of the format's own, such as `!reference [job, key]`: what it is then, the form does not show.
    /// Source: the format's page "YAML optimization", `!reference` tags.
    pub(super) fn stands_for_another(&self, node: NodeId) -> bool {
        let node = self.tree.node(node);
        matches!(node.kind, Kind::Sequence(..)) && node.tag.as_deref().is_some_and(|tag| tag.starts_with('!') && tag.len() > 1)
    }

    /// The tag of a value that is nothing but a tag, such as `!wip/**` without quotes, and where it stands.
    fn lone_tag(&self, node: NodeId) -> Option<(String, Place)> {
        let mut at = self.at(node);
        let node = self.tree.node(node);
        let tag = node.tag.as_deref().filter(|tag| tag.starts_with('!') && tag.len() > 1)?;
        let empty = matches!(&node.kind, Kind::Absent)
            || matches!(&node.kind, Kind::Scalar(_, Style::Plain) if self.tree.value_of(node).is_empty());
        // The parser puts an empty value after its tag.
        let before = self.tree.source().get(..at.span.start as usize)?;
        let start = before.trim_end().strip_suffix(tag)?.len();
        at.span = crate::text::Span::new(start, start + tag.len());
        empty.then(|| (tag.to_owned(), at))
    }

    /// A key that is a list or a mapping.
    pub(super) fn no_text(&mut self, key: NodeId) {
        let start = self.tree.node(key).span.start as usize;
        let source = self.tree.source();
        // `{{ name }}` without its `$` reads as a mapping in a mapping.
        if source[..start].ends_with('{') && source[start..].starts_with('{') {
            let reason = "a value that starts with `{{` needs quotes round it, or a `$` before it".to_owned();
            self.add(self.at(key), FormIssueKind::Expression { reason, quotes: false, instead: None });
            return;
        }
        if self.strict && !matches!(self.tree.node(key).kind, Kind::Alias(_)) {
            let takes = Takes { text: true, ..Takes::default() };
            self.wrong_shape(key, "a key".into(), "a list or keys with values", &takes, None);
        }
    }

    /// Letters, digits, `-` and `_`, a letter or `_` first.
    pub(super) fn name(&mut self, node: NodeId, name: &str, what: &'static str) {
        let first = name.chars().next().is_some_and(|c| c.is_ascii_alphabetic() || c == '_');
        let rest = name.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '-' | '_'));
        if (first && rest) || !self.strict || self.grammar.has_hole(name) || name == "<<" {
            return;
        }
        let mut instead: String =
            name.chars().map(|c| if c.is_ascii_alphanumeric() || matches!(c, '-' | '_') { c } else { '-' }).collect();
        if !first {
            instead.insert(0, '_');
        }
        self.add(self.at(node), FormIssueKind::BadName { name: name.to_owned(), what, instead });
    }

    /// The ids of a job's steps.
    pub(super) fn step_ids(&mut self, steps: &[NodeId], key: &str) {
        let mut seen: std::collections::HashMap<String, Place> = std::collections::HashMap::new();
        for step in steps {
            let Some(node) = self.tree.value(*step, key) else { continue };
            let Some(id) = self.tree.scalar(node).map(str::to_owned) else { continue };
            self.name(node, &id, "step");
            let at = self.at(node);
            match seen.get(&id.to_ascii_lowercase()) {
                Some(first) => self.add(at, FormIssueKind::RepeatedId { id, first: *first }),
                None => {
                    seen.insert(id.to_ascii_lowercase(), at);
                }
            }
        }
    }

    /// `3.10` without quotes is the number 3.1. A version is meant where the key says so.
    pub(super) fn number_trap(&mut self, key: NodeId, value: NodeId) {
        let Some((written, Style::Plain)) = self.tree.written(value) else { return };
        let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
        let Some((whole, fraction)) = written.split_once('.') else { return };
        if !digits(whole) || !digits(fraction) || !fraction.ends_with('0') || fraction.bytes().all(|byte| byte == b'0') {
            return;
        }
        let Some(word) = self.tree.scalar(key).map(str::to_ascii_lowercase) else { return };
        let is = |part: &str| word.split(['-', '_']).any(|one| one == part || one.trim_end_matches('s') == part);
        if !crate::knowledge::names().lists.version_words.iter().any(|part| is(part)) {
            return;
        }
        let read = format!("{whole}.{}", fraction.trim_end_matches('0'));
        let kind = FormIssueKind::NumberTrap { written: written.to_string(), read };
        self.add(self.at(value), kind);
    }
}

fn is_word(value: &str, words: &[&str]) -> bool {
    words.iter().any(|word| value.eq_ignore_ascii_case(word))
}

fn yes_or_no(value: &str) -> Option<&'static str> {
    match value.to_ascii_lowercase().as_str() {
        "yes" | "y" | "on" => Some("true"),
        "no" | "n" | "off" => Some("false"),
        _ => None,
    }
}
