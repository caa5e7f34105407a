//! What Dulk knows of the world: the catalog, which the build turns into tables that stand in the program.

mod actions;
mod by_letter;
mod commands;
mod constructs;
mod credentials;
mod customs;
mod date;
mod drafts;
mod forges;
mod format;
mod grammar;
mod image;
mod names;
mod near;
mod programs;
mod publishers;
mod sites;
mod slots;
mod table;
mod upkeep;

pub use actions::{Action, ActionGrant, Deed, Field, major};
pub use by_letter::ByLetter;
pub use commands::{
    Commands, ForgeCli, ForgeCommand, GoneCommand, ImageTool, Manager, PublisherCommand, SetUpCache, TaskRunner, Tool,
    VersionManager, Wrapper, Writer, starts_with,
};
pub use constructs::{ActionConstruct, Code, Construct};
pub use credentials::Credential;
pub use customs::{Consequence, Customs, HostedMachine, RetiredCommand, Safe, Scope};
pub use date::Date;
pub use drafts::{SetUp, SignIn, SiteHost, Toolchain, WantedVariable};
pub use forges::{Forges, Interface, PagesHost};
pub use format::{FormatData, Host, Run, RunValues, WordsOf};
pub use grammar::{Contexts, Declared, EventEntry, FilterEntry, Grammar, Names, PlaceEntry, Takes};
pub use image::{bare_image, official_image, usual_image};
pub use near::{Among, Meant, near, nearest};
pub use programs::{Interpreter, Language};
pub use publishers::OwnPublisher;
pub use sites::{Generator, Hosting, SettingIs};
pub(crate) use slots::hash_of;
pub use table::{List, Table, Word};

/// What the build made of the catalog.
mod tables {
    include!(concat!(env!("OUT_DIR"), "/tables.rs"));
}

macro_rules! parts {
    ($($(#[$doc:meta])* $name:ident: $type:ty = $table:ident;)*) => {
        $($(#[$doc])*
        pub fn $name() -> &'static $type {
            &tables::$table
        })*
    };
}

/// What is known of each format.
pub(crate) mod formats {
    use super::{FormatData, tables};

    parts! {
        /// `amplify.yml`
        amplify: FormatData = FORMAT_AMPLIFY;
        /// `buddy.yml`
        buddy: FormatData = FORMAT_BUDDY;
        /// `buildspec.yml`
        buildspec: FormatData = FORMAT_BUILDSPEC;
        /// `cloudbuild.yaml`
        cloudbuild: FormatData = FORMAT_CLOUDBUILD;
        /// Definitions of pipelines.
        codepipeline: FormatData = FORMAT_CODEPIPELINE;
        /// `.gitlab-ci.yml`
        gitlab: FormatData = FORMAT_GITLAB;
        /// `Jenkinsfile`
        jenkins: FormatData = FORMAT_JENKINS;
        /// A format that only tests know.
        #[cfg(test)]
        tide: FormatData = FORMAT_TIDE;
        /// `.travis.yml`
        travis: FormatData = FORMAT_TRAVIS;
        /// Workflow files.
        workflow: FormatData = FORMAT_WORKFLOW;
    }
}

/// What formats call the folder of the run's files, as it is written in paths.
pub fn workspace_names() -> List<Word> {
    tables::WORKSPACE
}

parts! {
    /// Well-known actions.
    actions: actions::Actions = ACTIONS;
    /// Package managers.
    managers: commands::Managers = MANAGERS;
    /// Shell commands.
    commands: Commands = COMMANDS;
    /// What goes out of use.
    upkeep: upkeep::Upkeep = UPKEEP;
    /// Forges.
    forges: forges::Forges = FORGES;
    /// Names that tell what a thing is.
    names: names::KnownNames = NAMES;
    /// How credentials look.
    credentials: credentials::Credentials = CREDENTIALS;
    /// Site generators.
    generators: sites::Generators = GENERATORS;
    /// Programs of a repository.
    programs: programs::Programs = PROGRAMS;
    /// Hosts' files and runtimes' files.
    hostings: sites::Hostings = HOSTING;
    /// Hosts that a drafted pipeline can put a site on.
    hosts: drafts::Hosts = HOSTS;
    /// Toolchains that drafted pipelines are made with.
    toolchains: drafts::Toolchains = TOOLCHAINS;
}

#[cfg(test)]
#[path = "../../build/written.rs"]
mod written;

#[cfg(test)]
mod tests;
