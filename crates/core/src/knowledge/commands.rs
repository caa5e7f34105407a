//! Package managers and shell commands as data.

use std::sync::LazyLock;

use super::{ByLetter, List, Table, Word};
use crate::model::Target;
use crate::text::file_name;
/// `catalog/managers.toml`.
#[derive(Debug)]
pub struct Managers {
    /// The managers.
    pub manager: List<Manager>,
    /// Where managers keep what they have downloaded, by their names.
    pub stores: Table<List<Word>>,
    pub(super) setup_cache: Table<Table<SetUpCache>>,
    pub(super) common: Common,
}

#[derive(Debug)]
pub(super) struct Common {
    pub(super) script_names: List<Word>,
}

impl Managers {
    /// A manager by its id, which is also its command.
    pub fn get(&self, id: &str) -> Option<&Manager> {
        self.manager.iter().find(|manager| manager.id == id)
    }

    /// Those of which a path, with its folders or without, names a lockfile.
    pub fn of_lockfile<'m>(&'m self, path: &str) -> impl Iterator<Item = &'m Manager> {
        let name = file_name(path);
        self.manager.iter().filter(move |manager| manager.lockfiles.contains(&name))
    }

    /// The files that a set-up step's cache needs.
    pub fn set_up_cache(&self, tool: &str, cache: &str) -> Option<&SetUpCache> {
        self.setup_cache.get(tool)?.get(cache)
    }

    /// Whether no package has a program of this name.
    pub fn is_common_script(&self, name: &str) -> bool {
        name.contains(':') || self.common.script_names.contains(&name)
    }
}

/// What the cache of a set-up step needs.
#[derive(Debug)]
pub struct SetUpCache {
    /// At least one of these.
    pub files: List<Word>,
    /// In any folder, rather than at the root.
    pub anywhere: bool,
}

/// One package manager.
#[derive(Debug)]
pub struct Manager {
    /// Its name and command.
    pub id: Word,
    /// The runtime that it runs on, as steps that set one up call it.
    pub runtime: Word,
    /// Its lockfiles, the usual one first.
    pub lockfiles: List<Word>,
    /// What a draft installs with.
    pub clean_install: Word,
    /// The option that names the folder in which downloads are kept.
    pub kept_option: Option<Word>,
    /// The variable that makes it keep them there, where no option does.
    pub kept_variable: Option<Word>,
    /// What a draft calls that folder.
    pub kept_in: Word,
    /// The majors before this one are installed with otherwise.
    pub old_until: Option<u32>,
    /// What a draft installs with then.
    pub old_clean_install: Option<Word>,
    /// The option that names the folder then.
    pub old_kept_option: Option<Word>,
    /// What brings it where it is not.
    pub bring: Option<Word>,
    /// The major that is brought where the repository does not say.
    pub version: Option<Word>,
    /// Words that install; an empty one stands for no word at all.
    pub install: List<Word>,
    /// Words that install exactly what the lockfile says.
    pub frozen: List<Word>,
    /// Options that make an install do so.
    pub frozen_options: List<Word>,
    /// Such an install fails without a lockfile.
    pub frozen_needs_lockfile: bool,
    /// Words before a script's name.
    pub run: List<Word>,
    /// Words that are themselves scripts.
    pub script_words: List<Word>,
    /// Words before a program's name.
    pub exec: List<Word>,
    /// Options that name the folder to work in.
    pub directory_options: List<Word>,
    /// Options that name a package to work in, or words before its name.
    pub filter_options: List<Word>,
    /// Options that make it work in all packages.
    pub all_options: List<Word>,
    /// Options that make it work in the root's package.
    pub root_options: List<Word>,
    /// Options that leave out what is needed for development only.
    pub production_options: List<Word>,
    /// Options that bring it all the same.
    pub development_options: List<Word>,
    /// It leaves that out when `NODE_ENV` is `production`.
    pub heeds_node_env: bool,
    /// A filter that fits no package is no failure.
    pub unmatched_is_fine: bool,
    /// Options that make a missing script no failure.
    pub lenient_options: List<Word>,
    /// Options whose value is the next word.
    pub value_options: List<Word>,
    /// Its own words that leave the folders of the site as they are.
    pub other_words: List<Word>,
    /// Options behind a script's name are its own, up to `--`.
    pub options_after_name: bool,
    /// It runs `preNAME` and `postNAME` round a script.
    pub pre_and_post: bool,
    /// A word of its own may be a script.
    pub bare_words_run: bool,
    /// A script's name may also be a program of a package.
    pub bins: bool,
}

/// `catalog/commands.toml`.
#[derive(Debug)]
pub struct Commands {
    pub(super) harmless: List<Word>,
    pub(super) compilers: List<Word>,
    pub(super) script_runners: List<Word>,
    pub(super) test_scripts: List<Word>,
    pub(super) tool: List<Tool>,
    pub(super) writer: List<Writer>,
    pub(super) version_manager: List<VersionManager>,
    pub(super) wrapper: List<Wrapper>,
    pub(super) git: Git,
    pub(super) install: Install,
    pub(super) gone_command: List<GoneCommand>,
    /// Programs that run a script of the same name in many packages.
    pub task_runner: List<TaskRunner>,
    /// The forge's own command line.
    pub forge_cli: ForgeCli,
    pub(super) forge_command: List<ForgeCommand>,
    /// Programs that make images.
    pub image_tool: ImageTool,
    /// Commands that put a site online.
    pub publisher: List<PublisherCommand>,
}

/// A program that makes a runtime of another version ready.
#[derive(Debug)]
pub struct VersionManager {
    pub(super) names: List<Word>,
    pub(super) words: List<Word>,
    /// The runtime.
    pub tool: Word,
    /// The files that the version stands in where none is given.
    pub files: List<Word>,
}

/// A command that puts a site online; catalog/commands.toml says what the fields mean.
#[derive(Debug, Default)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct PublisherCommand {
    pub words: List<Word>,
    pub target: Target,
    pub folder_options: List<Word>,
    pub folder_argument: Option<usize>,
    pub branch_options: List<Word>,
    pub branch_default: Option<Word>,
    pub place_options: List<Word>,
    pub place_argument: Option<usize>,
    pub image_options: List<Word>,
    pub place: Option<Word>,
    pub live_options: List<Word>,
    pub dry_options: List<Word>,
    pub other_words: List<Word>,
    pub value_options: List<Word>,
    pub credentials: List<List<Word>>,
    pub credential_options: List<Word>,
    pub clones_afresh: bool,
    pub unless_file: List<Word>,
    pub hosted_only: bool,
    pub prebuilt: Option<Prebuilt>,
    pub servers: Option<Servers>,
}

/// Programs that make images; catalog/commands.toml says what the fields mean.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct ImageTool {
    pub names: List<Word>,
    pub builders: List<Word>,
    pub builds: List<Word>,
    pub pushes: List<Word>,
    pub tags: List<Word>,
    pub harmless: List<Word>,
    pub name_options: List<Word>,
    pub file_options: List<Word>,
    pub context_options: List<Word>,
    pub pushing_options: List<Word>,
    pub writing_options: List<Word>,
    pub value_options: List<Word>,
}

/// Where a generator that publishes by itself finds the places that it knows.
#[derive(Debug)]
pub struct Servers {
    /// How the names of its project files end.
    pub files: List<Word>,
    /// The setting whose names they are.
    pub setting: Word,
    /// The option that names one; without it, the first argument does.
    pub option: Option<Word>,
}

/// How a publisher takes what another of its commands has built.
#[derive(Debug)]
pub struct Prebuilt {
    /// The option by which it does.
    pub option: Word,
    /// The command that builds.
    pub by: Word,
}

#[derive(Debug)]
pub(super) struct Install {
    pub(super) words: List<Word>,
}

#[derive(Debug)]
pub(super) struct Git {
    pub(super) harmless: List<Word>,
    pub(super) credentials: List<Word>,
}

/// The forge's own command line; catalog/commands.toml says what the fields mean.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct ForgeCli {
    pub name: Word,
    pub tokens: List<Word>,
    pub signs_in: List<Word>,
    pub elsewhere_options: List<Word>,
    pub without_token: List<Word>,
}

/// A program that runs a script of the same name in many packages; catalog/commands.toml says what the fields mean.
#[derive(Debug, Default)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct TaskRunner {
    pub name: Word,
    pub run: List<Word>,
    pub run_many: List<Word>,
    pub bare: bool,
    pub project_behind_task: bool,
    pub other_words: List<Word>,
    pub filter_options: List<Word>,
    pub task_options: List<Word>,
    pub value_options: List<Word>,
    pub changed_options: List<Word>,
    pub tasks_file: Option<Word>,
    pub project_file: Option<Word>,
}

/// A program that makes files of others; catalog/commands.toml says what the fields mean.
#[derive(Debug, Default)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct Writer {
    pub names: List<Word>,
    pub folder_options: List<Word>,
    pub file_options: List<Word>,
    pub output: Option<Word>,
    pub pairs: bool,
    pub not_with: List<Word>,
    pub configs: List<Word>,
}

/// A subcommand that a newer version of its program has no more; catalog/commands.toml says what the fields mean.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct GoneCommand {
    pub words: Word,
    pub package: Word,
    pub gone_from: u32,
    pub instead: Word,
    pub same_options: bool,
}

/// What one of its subcommands needs; catalog/commands.toml says what the fields mean.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct ForgeCommand {
    pub(super) words: List<Word>,
    pub needs: Table<Word>,
    pub or: List<Word>,
    pub visible_anyway: bool,
    pub writes_option: List<Word>,
    pub why: Word,
}

/// Programs that look at the sources or test them.
#[derive(Debug)]
pub struct Tool {
    pub(super) names: List<Word>,
    /// `check` or `test`.
    pub kind: Word,
    /// The folders of its reports.
    pub writes: List<Word>,
    /// It may look at a site that is online already.
    pub looks_online: bool,
}

/// A command that runs the command after it.
#[derive(Debug)]
pub struct Wrapper {
    pub(super) name: Word,
    /// The word that must follow.
    pub word: Option<Word>,
    /// Options whose value is the next word.
    pub value_options: List<Word>,
    /// `NAME=value` words follow.
    pub assignments: bool,
}

impl Commands {
    /// Whether a command leaves all folders as they are.
    pub fn is_harmless(&self, name: &str) -> bool {
        self.harmless.contains(&name)
    }

    /// Whether a command is a TypeScript compiler.
    pub fn compiles(&self, name: &str) -> bool {
        self.compilers.contains(&name)
    }

    /// Whether a command runs scripts of package.json by their names.
    pub fn runs_scripts(&self, name: &str) -> bool {
        self.script_runners.contains(&name)
    }

    /// The tool that a command's first words name, and how many words that are; the longest name counts.
    pub fn tool(&self, words: &[&str]) -> Option<(&'static Tool, usize)> {
        let names = TOOL_NAMES.beginning_as(words.first()?);
        let all = names.iter().filter_map(|(name, tool)| Some((*tool, starts_with(words, name)?)));
        all.max_by_key(|(_, used)| *used)
    }

    /// The publisher that a command's words name, and how many words that are; the longest name counts. `names` tells whether a word of the
    /// command is the word of a name, by its number.
    pub fn publisher(&self, first: &str, names: impl Fn(usize, &str) -> bool) -> Option<(&'static PublisherCommand, usize)> {
        let fits = |name: &str| {
            let all = name.split(' ').enumerate().all(|(number, word)| names(number, word));
            all.then(|| name.split(' ').count())
        };
        let known = PUBLISHER_NAMES.beginning_as(first).iter();
        known.filter_map(|(name, publisher)| Some((*publisher, fits(name)?))).max_by_key(|(_, used)| *used)
    }

    /// `check`, `test` or `other`, by the name that a tool's effect bears.
    pub fn kind_of(&self, tool: &str) -> Option<&str> {
        let words: Vec<&str> = tool.split(' ').collect();
        self.tool(&words).map(|(tool, _)| tool.kind)
    }

    /// Whether a tool may look at a site that is online already, by the name that its effect bears.
    pub fn looks_online(&self, tool: &str) -> bool {
        let words: Vec<&str> = tool.split(' ').collect();
        self.tool(&words).is_none_or(|(tool, _)| tool.looks_online)
    }

    /// The program of a name that makes files of others.
    pub fn writer(&self, name: &str) -> Option<&Writer> {
        self.writer.iter().find(|writer| writer.names.contains(&name))
    }

    /// The program of a name that makes a runtime ready, when it is called to do so.
    pub fn version_manager(&self, words: &[&str]) -> Option<&VersionManager> {
        let (name, word) = (words.first()?, words.get(1)?);
        self.version_manager
            .iter()
            .find(|known| known.names.iter().any(|one| one == name) && known.words.iter().any(|one| one == word))
    }

    /// Whether a script of package.json looks at the sources or tests them, by its name: `test`, `lint:css`.
    pub fn is_test_script(&self, name: &str) -> bool {
        let first = name.split([':', '-', '.']).next().unwrap_or_default();
        [name, first].iter().any(|name| self.test_scripts.iter().any(|known| known == name))
    }

    /// The wrapper of a name.
    pub fn wrapper(&self, name: &str) -> Option<&Wrapper> {
        self.wrapper.iter().find(|wrapper| wrapper.name == name)
    }

    /// Whether a command's first words install something that is not published.
    pub fn installs(&self, words: &[&str]) -> bool {
        self.install.words.iter().any(|known| starts_with(words, known).is_some())
    }

    /// The subcommand that words begin with and that newer versions have no more; the longest counts.
    pub fn gone(&self, words: &[&str]) -> Option<&GoneCommand> {
        let fits = |gone: &&GoneCommand| starts_with(words, gone.words).is_some();
        self.gone_command.iter().filter(fits).max_by_key(|gone| gone.words.len())
    }

    /// The subcommand of the forge's command line that words begin with.
    pub fn forge_command(&self, words: &[&str]) -> Option<&ForgeCommand> {
        self.forge_command.iter().find(|command| command.words.iter().any(|known| starts_with(words, known).is_some()))
    }

    /// Whether a line of a script may give git a credential.
    pub fn gives_git_a_credential(&self, line: &str) -> bool {
        self.git.credentials.iter().any(|known| line.contains(known))
    }

    /// Whether a word of git leaves all folders as they are.
    pub fn git_is_harmless(&self, word: &str) -> bool {
        self.git.harmless.contains(&word)
    }
}

/// Every name of a tool.
static TOOL_NAMES: LazyLock<ByLetter<Tool>> = LazyLock::new(|| {
    ByLetter::of(super::commands().tool.iter().flat_map(|tool| tool.names.iter().map(move |name| (*name, tool))))
});

/// Every name of a publisher.
static PUBLISHER_NAMES: LazyLock<ByLetter<PublisherCommand>> = LazyLock::new(|| {
    let publishers = super::commands().publisher.iter();
    ByLetter::of(publishers.flat_map(|publisher| publisher.words.iter().map(move |name| (*name, publisher))))
});

/// How many words a name has, when a command's words begin with them.
#[inline]
pub fn starts_with(words: &[&str], name: &str) -> Option<usize> {
    // Nearly all names differ from the first letter on: this is asked of every name for every command.
    let begins = words.first()?.as_bytes().first() == name.as_bytes().first();
    if begins { begins_with(words, name) } else { None }
}

fn begins_with(words: &[&str], name: &str) -> Option<usize> {
    words.first().filter(|first| name.starts_with(**first))?;
    let mut wanted = name.split(' ').enumerate();
    wanted.all(|(index, word)| words.get(index) == Some(&word)).then(|| name.split(' ').count())
}
