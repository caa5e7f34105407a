//! What Dulk knows of the world: the catalog, read once from the data that is built in.

mod actions;
mod commands;
mod constructs;
mod credentials;
mod customs;
mod date;
mod forges;
mod format;
mod grammar;
mod image;
mod names;
mod near;
mod programs;
mod publishers;
mod sites;
mod upkeep;

use std::sync::LazyLock;

pub use actions::{Action, ActionGrant, Deed, Field, major};
pub use commands::{
    Commands, ForgeCli, ForgeCommand, GoneCommand, ImageTool, Manager, PublisherCommand, SetUpCache, TaskRunner, Tool,
    VersionManager, Wrapper, Writer, starts_with,
};
pub use constructs::{ActionConstruct, Code, Construct};
pub use customs::{Consequence, Customs, HostedMachine, RetiredCommand, Safe, Scope};
pub use date::Date;
pub(crate) use format::format_data;
pub use format::{FormatData, Host, Run, RunValues, WordsOf};
pub use grammar::{Contexts, Declared, EventEntry, FilterEntry, Grammar, Names, PlaceEntry, Takes};
pub use image::{bare_image, official_image, usual_image};
pub use near::{Among, Meant, near, nearest};
pub use programs::{Interpreter, Language};
pub use publishers::OwnPublisher;
pub use sites::{Generator, Hosting, SettingIs};

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

/// What formats call the folder of the run's files, as it is written in paths.
pub fn workspace_names() -> &'static [String] {
    static NAMES: LazyLock<Vec<String>> =
        LazyLock::new(|| read("workspace_names", include_str!(concat!(env!("OUT_DIR"), "/workspace_names.json"))));
    &NAMES
}

parts! {
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

#[cfg(test)]
mod tests;
