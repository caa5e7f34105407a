//! What the names in a condition hold in a run of an event.

use super::job::{Known, Scene};
use super::{Answer, Value, run_values};
use crate::expression::Expr;
use crate::model::{Job, Text, Variables};

impl<'s> Scene<'s> {
    pub(super) fn look(&self, path: &[&str], job: Option<&Job>, known: &[Option<Known>]) -> Value {
        let first = path.first().map_or("", |word| *word);
        match (first.to_ascii_lowercase().as_str(), path) {
            ("needs", [_, "*", "result"]) => match job.filter(|job| !job.needs_unknown) {
                Some(job) => Value::List(job.needs.iter().map(|need| self.result(&need.value, known)).collect()),
                None => Value::Unknown,
            },
            ("needs", [_, name, "result"]) => self.result(name, known),
            ("inputs", [_, name]) | ("github", [_, "event", "inputs", name]) => self.input(name),
            ("env", [_, name]) => self.variable(name, job),
            _ => self.run_value(path, job),
        }
    }

    /// How a job ends, where everything that runs succeeds.
    fn result(&self, id: &str, known: &[Option<Known>]) -> Value {
        let other = self.pipeline.job(id).and_then(|other| known.get(other)?.as_ref());
        match other.map(|known| known.verdict.answer) {
            Some(Answer::Yes) => Value::Text("success".into()),
            Some(Answer::No) => Value::Text("skipped".into()),
            Some(Answer::Unsure) => Value::OneOf(vec!["success".into(), "skipped".into()]),
            None => Value::Unknown,
        }
    }

    fn input(&self, name: &str) -> Value {
        let Some(trigger) = self.started_by() else { return Value::Unknown };
        if trigger.inputs.is_empty() {
            return Value::Null;
        }
        let Some(input) = trigger.inputs.iter().find(|input| input.name.value.eq_ignore_ascii_case(name)) else {
            return Value::Null;
        };
        let options: Option<Vec<String>> = input
            .options
            .as_ref()
            .filter(|options| !options.is_empty())
            .and_then(|options| options.iter().map(|option| option.known().map(str::to_owned)).collect());
        if self.occasion.filled_in {
            return options.map_or(Value::Unknown, Value::OneOf);
        }
        let boolean = input.is_boolean();
        match &input.default {
            Some(default) if boolean => Value::Bool(default.value == "true"),
            Some(default) => default.known().map_or(Value::Unknown, |text| Value::Text(text.to_owned())),
            None if input.required => Value::Unknown,
            // The first one is chosen where nobody chooses.
            None if options.is_some() => {
                options.and_then(|options| options.into_iter().next()).map_or(Value::Unknown, Value::Text)
            }
            None if boolean => Value::Bool(false),
            None => Value::Text(String::new()),
        }
    }

    fn variable(&self, name: &str, job: Option<&Job>) -> Value {
        let in_map = |variables: &'s Variables| variables.entries.iter().find(|(key, _)| key.value == name).map(|(_, text)| text);
        let by_rule = self.let_in_with.iter().rfind(|(key, _)| *key == name);
        let own = job.and_then(|job| job.variables.entries.iter().find(|(key, _)| key.value == name)).map(|(_, text)| text);
        let found = match (own, by_rule) {
            (Some(own), _) => Some(own),
            (None, Some((_, value))) => *value,
            (None, None) => in_map(&self.pipeline.variables),
        };
        found.and_then(Text::known).map_or(Value::Unknown, |text| Value::Text(text.to_owned()))
    }

    /// What the run knows of itself. A path below one that is null is null too.
    fn run_value(&self, path: &[&str], job: Option<&Job>) -> Value {
        let values = run_values(self.pipeline, self.occasion.kind, self.started_by());
        let mut key = String::new();
        for (index, part) in path.iter().enumerate() {
            if index > 0 {
                key.push('.');
            }
            key.push_str(part);
            let exact = values.iter().find_map(|values| values.get(&key));
            let found = exact.or_else(|| {
                let mut all = values.iter().flat_map(|values| values.iter());
                all.find(|(known, _)| known.eq_ignore_ascii_case(&key)).map(|(_, value)| value)
            });
            match found.copied() {
                Some("null") => return Value::Null,
                Some(written) if index + 1 == path.len() => return super::fill::fill(self, written, job),
                _ => {}
            }
        }
        match (path, self.pipeline.customs.reads_variables) {
            ([name], true) => match self.own_variable(name, job) {
                // What the forge no longer sets is not there, unless the file sets it.
                Value::Unknown if self.is_gone(name) => Value::Null,
                value => value,
            },
            _ => Value::Unknown,
        }
    }

    /// A variable of the file, where conditions read variables by their bare names. One that nobody sets may be set on the forge.
    fn own_variable(&self, name: &str, job: Option<&Job>) -> Value {
        match self.variable(name, job) {
            // A start by hand may set any of them.
            _ if self.occasion.filled_in => Value::Unknown,
            Value::Text(text) if text.contains('$') => Value::Unknown,
            value => value,
        }
    }

    fn is_gone(&self, name: &str) -> bool {
        let forge = &self.facts.settings.forge;
        let set = self.pipeline.variables.entries.iter().any(|(key, _)| key.value == name)
            || self.pipeline.jobs.iter().any(|job| job.variables.entries.iter().any(|(key, _)| key.value == name));
        let held = forge.names().any(|known| known == name);
        !set && !held && !self.pipeline.partial && self.pipeline.customs.gone_variables.has(name)
    }

    pub(super) fn first_unknown(&self, expression: &Expr, job: &Job, known: &[Option<Known>]) -> Option<String> {
        let mut reads: Vec<(String, Value)> = Vec::new();
        expression.walk(&mut |part| {
            if let Some(path) = part.path_with_stars() {
                let words: Vec<&str> = path.iter().map(|(word, _)| *word).collect();
                let value = self.look(&words, Some(job), known);
                reads.push((words.join("."), value));
            }
        });
        let sure = |value: &Value| matches!(value, Value::Null | Value::Bool(_) | Value::Number(_) | Value::Text(_));
        let wholly = reads.iter().position(|(_, value)| *value == Value::Unknown);
        let found = wholly.or_else(|| reads.iter().position(|(_, value)| !sure(value)))?;
        Some(reads.swap_remove(found).0)
    }
}
