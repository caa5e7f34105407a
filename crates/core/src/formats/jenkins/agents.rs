//! Where stages run.
//!
//! After the page "Pipeline syntax", agent, 2026-11: a container has a workspace of its own on any agent, unless `reuseNode` says that it
//! runs on the agent of the pipeline, in the same workspace.

use super::language::{Statement, Value};
use super::text::Words;
use crate::model::{Machine, Text};

/// What `agent` says.
#[derive(Clone, Debug)]
pub(super) enum Agent {
    /// `none`: whoever runs steps brings an agent.
    None,
    /// A machine of its own.
    Own(Machine),
    /// A container in the workspace of the agent around it.
    Inside(Option<Text>),
}

/// Reads `agent`.
pub(super) fn agent(words: Words<'_>, statement: &Statement) -> Agent {
    match what(words, statement) {
        Agent::Own(machine) => Agent::Own(Machine { at: Some(words.at(&statement.range)), ..machine }),
        other => other,
    }
}

fn what(words: Words<'_>, statement: &Statement) -> Agent {
    let Some(block) = &statement.block else {
        return match statement.first() {
            Some(Value::Word(word, _)) if word == "none" => Agent::None,
            _ => Agent::Own(Machine::default()),
        };
    };
    let Some(kind) = block.statements.first() else { return Agent::Own(Machine::default()) };
    let own = |name: &str| {
        let of_block = kind.block.as_ref().and_then(|block| block.get(name)).and_then(|statement| statement.first());
        let value = of_block.or_else(|| kind.argument(name));
        value.and_then(|value| words.value(value))
    };
    let reuses = own("reuseNode").is_some_and(|text| text.value == "true");
    let label = own("label").into_iter().collect();
    match kind.name.as_str() {
        "docker" => {
            let short = kind.first().filter(|_| kind.block.is_none()).and_then(|value| words.value(value));
            let image = own("image").or(short);
            if reuses { Agent::Inside(image) } else { Agent::Own(Machine { image, runners: label, ..Machine::default() }) }
        }
        "dockerfile" if reuses => Agent::Inside(None),
        "label" => {
            let runners = kind.first().and_then(|value| words.value(value)).into_iter().collect();
            Agent::Own(Machine { runners, ..Machine::default() })
        }
        "node" => Agent::Own(Machine { runners: label, ..Machine::default() }),
        _ => Agent::Own(Machine::default()),
    }
}
