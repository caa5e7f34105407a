//! What Dulk knows of the world: the catalog, read once from the data that is built in.

mod actions;
mod commands;
mod credentials;
mod customs;
mod date;
mod forges;
mod grammar;
mod names;
mod near;
mod programs;
mod sites;
mod upkeep;
mod workflow;

use std::sync::LazyLock;

pub use actions::{Action, ActionGrant, Deed, Field, major};
pub use commands::{
    Commands, ForgeCli, ForgeCommand, GoneCommand, Manager, PublisherCommand, SetUpCache, TaskRunner, Tool, Wrapper, Writer,
    starts_with,
};
pub use customs::{Consequence, Customs, Machine, RetiredCommand, Scope};
pub use date::Date;
pub use grammar::{Contexts, EventEntry, Grammar, Names, PlaceEntry, Takes};
pub use near::{Among, Meant, near, nearest};
pub use programs::{Interpreter, Language};
pub use sites::{Generator, Hosting, SettingIs};
pub use workflow::{Gitlab, Host, Run, RunValues, WordsOf, Workflow};

/// One part of the catalog. The data is checked by a test, so that a part can always be read.
fn read<T: serde::de::DeserializeOwned>(name: &str, json: &str) -> T {
    match serde_json::from_str(json) {
        Ok(part) => part,
        Err(error) => panic!("the catalog's part {name} is broken: {error}"),
    }
}

macro_rules! parts {
    ($($(#[$doc:meta])* $name:ident: $type:ty = $file:literal;)*) => {
        $($(#[$doc])*
        pub fn $name() -> &'static $type {
            static PART: LazyLock<$type> = LazyLock::new(|| read($file, include_str!(concat!(env!("OUT_DIR"), "/", $file, ".json"))));
            &PART
        })*

        #[cfg(test)]
        #[test]
        fn every_part_can_be_read() {
            $(let _ = $name();)*
        }
    };
}

parts! {
    /// The workflow format: events, grammar, hosts, permission scopes.
    workflow: Workflow = "workflow";
    /// The format of `.gitlab-ci.yml`.
    gitlab: Gitlab = "gitlab";
    /// Well-known actions.
    actions: actions::Actions = "actions";
    /// Package managers.
    managers: commands::Managers = "managers";
    /// Shell commands.
    commands: Commands = "commands";
    /// What goes out of use.
    upkeep: upkeep::Upkeep = "upkeep";
    /// Forges.
    forges: forges::Forges = "forges";
    /// Names that tell what a thing is.
    names: names::KnownNames = "names";
    /// How credentials look.
    credentials: credentials::Credentials = "credentials";
    /// Site generators.
    generators: sites::Generators = "generators";
    /// Programs of a repository.
    programs: programs::Programs = "programs";
    /// Hosts' files and runtimes' files.
    hostings: sites::Hostings = "hosting";
}

/// What a run knows of itself in a format.
pub fn run_of(dialect: crate::model::Dialect) -> &'static workflow::Run {
    use crate::model::Dialect;
    match dialect {
        Dialect::Workflow | Dialect::Action => &workflow().run,
        Dialect::Gitlab => &gitlab().run,
    }
}

/// What a format does by itself where the forge runs it that reads the file at a path.
pub fn customs_of(dialect: crate::model::Dialect, path: &str) -> &'static Customs {
    use crate::model::Dialect;
    match dialect {
        Dialect::Gitlab => &gitlab().customs,
        Dialect::Workflow | Dialect::Action => {
            let top = |path: &str| path.split('/').next().unwrap_or_default().to_owned();
            let host = workflow().host.iter().find(|host| top(&host.folder) == top(path));
            host.map_or(&workflow().customs, |host| &host.customs)
        }
    }
}

/// The kinds of an event of a format.
pub fn kinds_of(dialect: crate::model::Dialect, event: &str) -> &'static [String] {
    use crate::model::Dialect;
    match dialect {
        Dialect::Gitlab => &[],
        Dialect::Workflow | Dialect::Action => workflow().grammar.event(event).map_or(&[], |entry| &entry.types),
    }
}

/// The filters that an event of a format takes.
pub fn filters_of(dialect: crate::model::Dialect, event: &str) -> Vec<String> {
    use crate::model::Dialect;
    match dialect {
        Dialect::Gitlab => Vec::new(),
        Dialect::Workflow | Dialect::Action => {
            let entry = workflow().grammar.event(event);
            let types = entry.filter(|entry| entry.open_types || !entry.types.is_empty()).map(|_| "types".to_owned());
            entry.into_iter().flat_map(|entry| entry.filters.iter().cloned()).chain(types).collect()
        }
    }
}

#[cfg(test)]
mod tests;
