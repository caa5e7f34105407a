//! Variables and credentials that steps see.
//!
//! After the page "Pipeline syntax", environment, and "Credentials Binding": `X = credentials('id')` also sets `X_USR` and `X_PSW`.

use super::language::{Block, Statement, Value};
use super::text::Words;
use crate::model::{Text, Variables};

/// What is given to the steps of a block.
#[derive(Clone, Debug, Default)]
pub(super) struct Given {
    pub variables: Variables,
    /// The names of credentials that the server holds.
    pub keys: Vec<Text>,
    /// Variables that hold such credentials.
    pub bound: Vec<Text>,
}

impl Given {
    /// The same with what is given around it; what is nearer holds.
    pub fn within(mut self, around: &Self) -> Self {
        let mine = &self.variables;
        let others: Vec<(Text, Text)> = around
            .variables
            .entries
            .iter()
            .filter(|(name, _)| mine.entries.iter().all(|(own, _)| own.value != name.value))
            .cloned()
            .collect();
        self.variables.entries.extend(others);
        self.variables.open |= around.variables.open;
        self.keys.extend(around.keys.iter().cloned());
        self
    }

    /// Binds a credential to a variable whose value nobody but the server knows.
    fn bind(&mut self, name: Text) {
        self.variables.hand(name.clone());
        self.bound.push(name);
    }
}

/// The block `environment`.
pub(super) fn environment(words: Words<'_>, block: &Block) -> Given {
    let mut given = Given::default();
    for statement in &block.statements {
        let Some(value) = &statement.assigned else { continue };
        let name = words.name(&statement.name_at);
        match value {
            Value::Call(call) if call.name == "credentials" => {
                given.keys.extend(call.first().and_then(|id| words.value(id)));
                for end in ["", "_USR", "_PSW"] {
                    given.bind(Text::fixed(&format!("{}{end}", name.value), name.at));
                }
            }
            other => {
                let value = words.value(other).unwrap_or_else(|| words.dark(&other.range()));
                given.variables.entries.push((name, value));
            }
        }
    }
    given
}

/// The list that `withEnv` is given: texts of `NAME=value`.
pub(super) fn with_env(words: Words<'_>, statement: &Statement) -> Given {
    let mut given = Given::default();
    let Some(list) = statement.first() else { return given };
    given.variables.open = !matches!(list, Value::List(..));
    for text in words.texts(list) {
        let Some((name, value)) = text.value.split_once('=') else { continue };
        let start = name.len() + 1;
        let value = Text::fixed(value, text.place(start..text.value.len())).filled_in_by(text.language);
        // `PATH+EXTRA` goes before what is there.
        let plain = name.split('+').next().unwrap_or(name);
        given.variables.entries.push((Text::fixed(plain, text.place(0..name.len())), value));
    }
    given
}

/// The bindings that `withCredentials` and `sshagent` are given.
pub(super) fn with_credentials(words: Words<'_>, statement: &Statement) -> Given {
    let mut given = Given::default();
    let list = statement.argument("credentials").or_else(|| statement.argument("bindings")).or_else(|| statement.first());
    let items: &[Value] = match list {
        Some(Value::List(items, _)) => items,
        Some(one) => std::slice::from_ref(one),
        None => &[],
    };
    for item in items {
        match item {
            Value::Call(call) => of_binding(words, call, &mut given),
            Value::Map(pairs, _) => {
                for (name, _, value) in pairs {
                    of_pair(words, name, value, &mut given);
                }
            }
            Value::Text(_) => given.keys.extend(words.value(item)),
            _ => given.variables.open = true,
        }
    }
    given
}

fn of_binding(words: Words<'_>, call: &Statement, given: &mut Given) {
    let before = given.bound.len();
    for argument in &call.arguments {
        if let Some((name, _)) = &argument.name {
            of_pair(words, name, &argument.value, given);
        }
    }
    if call.name == "aws" && given.bound.len() == before {
        let at = words.at(&call.name_at);
        for name in ["AWS_ACCESS_KEY_ID", "AWS_SECRET_ACCESS_KEY"] {
            given.bind(Text::fixed(name, at));
        }
    }
}

fn of_pair(words: Words<'_>, name: &str, value: &Value, given: &mut Given) {
    let Some(text) = words.value(value).filter(|_| matches!(value, Value::Text(_))) else { return };
    if name == "credentialsId" {
        given.keys.push(text);
    } else if name == "variable" || name.ends_with("Variable") {
        given.bind(text);
    }
}

/// All variables of a block, however deep, that hold credentials.
pub(super) fn bound(words: Words<'_>, block: &Block) -> Vec<Text> {
    let of = |statement: &Statement| {
        let own = match (statement.name.as_str(), &statement.block) {
            ("environment", Some(inner)) => environment(words, inner).bound,
            ("withCredentials", _) => with_credentials(words, statement).bound,
            _ => Vec::new(),
        };
        let inner = statement.block.as_ref().map(|inner| bound(words, inner)).unwrap_or_default();
        own.into_iter().chain(inner)
    };
    block.statements.iter().flat_map(of).collect()
}
