//! The expressions of a file: whether they parse, and whether what they name exists and is available where they stand.

use super::names::{WrongName, is_text};
use super::walk::Walker;
use super::{FormIssueKind, Names};
use crate::carrier::{NodeId, Style};
use crate::expression::{Expr, ExprError, ExprKind, Hole, Operator, holes, parse};
use crate::knowledge::{Among, Contexts, near};
use crate::model::{Text, TextMap};
use crate::text::Place;

impl Walker<'_> {
    /// Looks at the holes of a scalar, or at the whole of it where it is a condition.
    pub(super) fn expressions(&mut self, node: NodeId, contexts: Option<&'static str>) {
        let Some(contexts) = contexts.and_then(|name| self.grammar.contexts(name)).filter(|_| !self.is_full()) else { return };
        let Some(value) = self.tree.scalar(node) else { return };
        if !self.grammar.has_hole(value) && !contexts.condition {
            return;
        }
        let Some(text) = self.text(node) else { return };
        if contexts.condition && !self.grammar.has_hole(&text.value) {
            self.bare_condition(&text, contexts);
            return;
        }
        let found = holes(&text.value);
        if contexts.condition && !self.is_whole_condition(&text.value, &found) {
            self.fixed_condition(&text, &found);
        }
        for hole in &found {
            self.hole(&text, hole, contexts);
        }
    }

    /// One hole and nothing beside it but space.
    fn is_whole_condition(&self, value: &str, found: &[Hole]) -> bool {
        self.grammar.is_hole(value) && found.len() == 1 && value.trim().len() == found[0].range.len()
    }

    fn text(&self, node: NodeId) -> Option<Text> {
        let node = self.tree.resolve(node);
        let (value, style) = self.tree.written(node)?;
        let span = self.tree.node(node).span;
        let straight = style == Style::Plain && span.range().len() == value.len();
        let map = if straight { TextMap::Straight(span.start) } else { TextMap::Mapped(Box::new(self.tree.offsets(node))) };
        Some(Text::new(value.to_string(), Place { file: self.file, span }, style == Style::Plain, map))
    }

    fn bare_condition(&mut self, text: &Text, contexts: &'static Contexts) {
        if text.value.trim().is_empty() || matches!(text.value.as_str(), "true" | "false") {
            return;
        }
        match parse(&text.value, 0..text.value.len()) {
            Ok(expression) => self.names(text, &expression, contexts),
            // A text in braces of another kind is no expression of this format.
            Err(error) => self.broken(text, &error, 0..text.value.len()),
        }
    }

    fn hole(&mut self, text: &Text, hole: &Hole, contexts: &'static Contexts) {
        match &hole.inside {
            Ok(expression) => {
                self.names(text, expression, contexts);
                self.whole_object(text, hole, expression, contexts);
            }
            Err(error) => self.broken(text, error, hole.range.clone()),
        }
    }

    fn broken(&mut self, text: &Text, error: &ExprError, whole: std::ops::Range<usize>) {
        if !self.strict {
            return;
        }
        let written = &text.value[whole.clone()];
        let instead = (error.double_quote && !written.contains('\'') && written.matches('"').count().is_multiple_of(2))
            .then(|| written.replace('"', "'"));
        let quotes = error.double_quote;
        let at = if quotes { text.place(whole) } else { text.place(error.range.clone()) };
        let instead = instead
            .filter(|_| text.plain || !self.tree.source().get(text.at.span.range()).is_some_and(|raw| raw.starts_with('\'')));
        self.add(at, FormIssueKind::Expression { reason: error.reason.clone(), quotes, instead });
    }

    /// `${{ x }} == 'y'` is a text with something filled in, and a text is always true.
    fn fixed_condition(&mut self, text: &Text, found: &[Hole]) {
        if !self.strict || found.iter().any(|hole| hole.inside.is_err()) {
            return;
        }
        let mut plain = String::new();
        let mut from = 0;
        for hole in found {
            plain.push_str(&text.value[from..hole.range.start]);
            let inside = text.value[hole.range.start + 3..hole.range.end - 2].trim();
            let loose = inside.contains("||") && found.len() > 1;
            plain.push_str(&if loose { format!("({inside})") } else { inside.to_owned() });
            from = hole.range.end;
        }
        plain.push_str(&text.value[from..]);
        let plain = plain.trim().to_owned();
        let fits = parse(&plain, 0..plain.len()).is_ok() && !plain.contains(['\n', '#']) && !plain.contains(": ");
        let raw = self.tree.source().get(text.at.span.range()).unwrap_or_default();
        let writable =
            !raw.starts_with(['"', '\'']) && !raw.contains('\n') && !plain.starts_with(['!', '\'', '*', '&', '[', '{']);
        let reason =
            "text stands round the braces, so the whole is a text, and a text that is not empty counts as true".to_owned();
        self.add(text.at, FormIssueKind::FixedCondition { instead: (fits && writable).then_some(plain), reason });
    }

    /// A whole context where a text is wanted prints the word `Object`.
    fn whole_object(&mut self, text: &Text, hole: &Hole, expression: &Expr, contexts: &'static Contexts) {
        let ExprKind::Name(name) = &expression.kind else { return };
        let known = self.grammar.names.contexts.iter().any(|known| known.eq_ignore_ascii_case(name));
        let within_text = text.value.trim().len() > hole.range.len();
        if known && within_text && !contexts.condition && self.strict {
            let reason = format!("`{name}` holds many values, and here it becomes the word \"Object\"");
            self.add(text.place(expression.range.clone()), FormIssueKind::WrongType { reason });
        }
    }

    /// Everything that an expression names.
    fn names(&mut self, text: &Text, expression: &Expr, contexts: &'static Contexts) {
        let mut looked: Vec<std::ops::Range<usize>> = Vec::new();
        let mut parts: Vec<&Expr> = Vec::new();
        expression.walk(&mut |part| parts.push(part));
        for part in parts {
            match &part.kind {
                ExprKind::Name(name) => self.context(text, name, part, contexts),
                ExprKind::Call(name, arguments) => self.call(text, part, name, arguments, contexts),
                ExprKind::Binary(Operator::Equal | Operator::NotEqual, left, right) => self.comparison(text, part, left, right),
                _ => {}
            }
            let inside = |range: &std::ops::Range<usize>| range.start <= part.range.start && part.range.end <= range.end;
            if let Some(path) = part.path().filter(|path| path.len() > 1 && !looked.iter().any(inside)) {
                looked.push(part.range.clone());
                let alone = || part.range == expression.range && !contexts.condition && !tests_for_emptiness(text, &part.range);
                if let Some(wrong) = self
                    .scope
                    .look(self.grammar, (self.job, self.step, text), &path)
                    .filter(|wrong| !wrong.may_be_empty() || alone())
                {
                    let range = if wrong.whole { part.range.clone() } else { path[1].1.clone() };
                    self.wrong_name(text, path[1].0, range, wrong);
                }
            }
        }
    }

    fn wrong_name(&mut self, text: &Text, name: &str, range: std::ops::Range<usize>, wrong: WrongName) {
        let WrongName { names: among, meant, known, at, .. } = wrong;
        if meant.is_none() && !self.strict {
            return;
        }
        let kind = FormIssueKind::UnknownName { name: name.to_owned(), among, meant, known, at };
        self.add(text.place(range), kind);
    }

    fn context(&mut self, text: &Text, name: &str, part: &Expr, contexts: &'static Contexts) {
        let all = &self.grammar.names.contexts;
        let is = |list: &[&str]| list.iter().any(|known| known.eq_ignore_ascii_case(name));
        let at = text.place(part.range.clone());
        if !is(all) {
            let meant = near(name, contexts.names.iter().copied(), Among::Closed);
            if meant.is_some() || self.strict {
                let known = contexts.names;
                self.add(
                    at,
                    FormIssueKind::UnknownName {
                        name: name.to_owned(),
                        among: Names::Contexts,
                        meant,
                        known: known.iter().map(|word| (*word).to_owned()).collect(),
                        at: None,
                    },
                );
            }
        } else if !is(contexts.names) && self.strict {
            self.add(
                at,
                FormIssueKind::OutOfPlace {
                    name: name.to_owned(),
                    function: false,
                    available: contexts.names.iter().map(|word| (*word).to_owned()).collect(),
                },
            );
        }
    }

    fn call(&mut self, text: &Text, part: &Expr, name: &str, arguments: &[Expr], contexts: &'static Contexts) {
        let names = &self.grammar.names;
        let at = text.place(part.range.start..part.range.start + name.len());
        let Some((known, (least, most))) = names.functions.iter().find(|(known, _)| known.eq_ignore_ascii_case(name)) else {
            let available = || names.everywhere.iter().chain(contexts.functions);
            let meant = near(name, available().copied(), Among::Closed);
            if meant.is_some() || self.strict {
                let known = available().map(|word| (*word).to_owned()).collect();
                let kind = FormIssueKind::UnknownName { name: name.to_owned(), among: Names::Functions, meant, known, at: None };
                self.add(at, kind);
            }
            return;
        };
        if !names.everywhere.contains(&known) && !contexts.functions.contains(&known) && self.strict {
            let available = names.everywhere.iter().chain(contexts.functions).map(|word| (*word).to_owned()).collect();
            self.add(at, FormIssueKind::OutOfPlace { name: known.to_owned(), function: true, available });
        }
        let given = arguments.len();
        if (given < usize::from(*least) || (*most < 255 && given > usize::from(*most))) && self.strict {
            let wanted = match (least, most) {
                (least, most) if least == most => least.to_string(),
                (least, 255) => format!("{least} or more"),
                (least, most) => format!("{least} to {most}"),
            };
            let reason = format!("`{known}` takes {wanted} values in its brackets, and here it gets {given}");
            self.add(at, FormIssueKind::WrongType { reason });
        }
    }

    /// A text and a yes-or-no value are never equal, whatever they hold.
    fn comparison(&mut self, text: &Text, part: &Expr, left: &Expr, right: &Expr) {
        for (one, other) in [(left, right), (right, left)] {
            let words = match &other.kind {
                ExprKind::Text(word) if matches!(word.as_str(), "true" | "false") && self.scope.is_boolean(self.grammar, one) => {
                    format!("this input is a yes-or-no value, and never equal to the text '{word}'")
                }
                // An empty text equals false, so only true is sure.
                ExprKind::Bool(true) if is_text(self.grammar, one) => {
                    "this is always a text, and the text 'true' is not equal to true without quotes".to_owned()
                }
                _ => continue,
            };
            self.add(text.place(part.range.clone()), FormIssueKind::WrongType { reason: words });
        }
    }
}

/// Whether a script asks, of what an expression in it gives, if there is anything, as in `[ -n "${{ matrix.flags }}" ]`.
fn tests_for_emptiness(text: &Text, expression: &std::ops::Range<usize>) -> bool {
    let written = text.value.get(expression.clone()).unwrap_or_default();
    text.holes().iter().any(|hole| {
        let inside = text.value.get(hole.range.start + 3..hole.range.end - 2).unwrap_or_default();
        let (before, after) = (&text.value[..hole.range.start], &text.value[hole.range.end..]);
        let before = before.trim_end_matches(['"', '\'']).trim_end();
        let after = after.trim_start_matches(['"', '\'']).trim_start();
        let compared = after.strip_prefix("!=").or_else(|| after.strip_prefix("==")).or_else(|| after.strip_prefix('='));
        let with_nothing =
            compared.is_some_and(|rest| rest.trim_start().starts_with("\"\"") || rest.trim_start().starts_with("''"));
        inside.trim() == written && (before.ends_with("-n") || before.ends_with("-z") || with_nothing)
    })
}
