//! Package managers and shell commands as data.

use crate::model::Target;
use crate::text::file_name;
use std::collections::HashMap;

use serde::Deserialize;

/// `catalog/managers.toml`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Managers {
    /// The managers.
    pub manager: Vec<Manager>,
    /// Where managers keep what they have downloaded, by their names.
    pub stores: HashMap<String, Vec<String>>,
    setup_cache: HashMap<String, HashMap<String, SetUpCache>>,
    common: Common,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
struct Common {
    script_names: Vec<String>,
}

impl Managers {
    /// A manager by its id, which is also its command.
    pub fn get(&self, id: &str) -> Option<&Manager> {
        self.manager.iter().find(|manager| manager.id == id)
    }

    /// Those of which a path, with its folders or without, names a lockfile.
    pub fn of_lockfile<'m>(&'m self, path: &str) -> impl Iterator<Item = &'m Manager> {
        let name = file_name(path);
        self.manager.iter().filter(move |manager| manager.lockfiles.iter().any(|file| file == name))
    }

    /// The files that a set-up step's cache needs.
    pub fn set_up_cache(&self, tool: &str, cache: &str) -> Option<&SetUpCache> {
        self.setup_cache.get(tool)?.get(cache)
    }

    /// Whether no package has a program of this name.
    pub fn is_common_script(&self, name: &str) -> bool {
        name.contains(':') || self.common.script_names.iter().any(|common| common == name)
    }
}

/// What the cache of a set-up step needs.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct SetUpCache {
    /// At least one of these.
    pub files: Vec<String>,
    /// In any folder, rather than at the root.
    #[serde(default)]
    pub anywhere: bool,
}

fn node() -> String {
    "node".into()
}

/// One package manager.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Manager {
    /// Its name and command.
    pub id: String,
    /// The runtime that it runs on, as steps that set one up call it.
    #[serde(default = "node")]
    pub runtime: String,
    /// Its lockfiles, the usual one first.
    pub lockfiles: Vec<String>,
    /// Words that install; an empty one stands for no word at all.
    pub install: Vec<String>,
    /// Words that install exactly what the lockfile says.
    pub frozen: Vec<String>,
    /// Options that make an install do so.
    #[serde(default)]
    pub frozen_options: Vec<String>,
    /// Such an install fails without a lockfile.
    pub frozen_needs_lockfile: bool,
    /// Words before a script's name.
    pub run: Vec<String>,
    /// Words that are themselves scripts.
    pub script_words: Vec<String>,
    /// Words before a program's name.
    pub exec: Vec<String>,
    /// Options that name the folder to work in.
    pub directory_options: Vec<String>,
    /// Options that name a package to work in, or words before its name.
    #[serde(default)]
    pub filter_options: Vec<String>,
    /// Options that make it work in all packages.
    #[serde(default)]
    pub all_options: Vec<String>,
    /// Options that make it work in the root's package.
    #[serde(default)]
    pub root_options: Vec<String>,
    /// Options that leave out what is needed for development only.
    #[serde(default)]
    pub production_options: Vec<String>,
    /// Options that bring it all the same.
    #[serde(default)]
    pub development_options: Vec<String>,
    /// It leaves that out when `NODE_ENV` is `production`.
    #[serde(default)]
    pub heeds_node_env: bool,
    /// A filter that fits no package is no failure.
    #[serde(default)]
    pub unmatched_is_fine: bool,
    /// Options that make a missing script no failure.
    pub lenient_options: Vec<String>,
    /// Options whose value is the next word.
    pub value_options: Vec<String>,
    /// Its own words that leave the folders of the site as they are.
    #[serde(default)]
    pub other_words: Vec<String>,
    /// Options behind a script's name are its own, up to `--`.
    #[serde(default)]
    pub options_after_name: bool,
    /// It runs `preNAME` and `postNAME` round a script.
    #[serde(default)]
    pub pre_and_post: bool,
    /// A word of its own may be a script.
    #[serde(default)]
    pub bare_words_run: bool,
    /// A script's name may also be a program of a package.
    #[serde(default)]
    pub bins: bool,
}

/// `catalog/commands.toml`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Commands {
    harmless: Vec<String>,
    compilers: Vec<String>,
    script_runners: Vec<String>,
    test_scripts: Vec<String>,
    tool: Vec<Tool>,
    writer: Vec<Writer>,
    version_manager: Vec<VersionManager>,
    wrapper: Vec<Wrapper>,
    git: Git,
    install: Install,
    gone_command: Vec<GoneCommand>,
    /// Programs that run a script of the same name in many packages.
    pub task_runner: Vec<TaskRunner>,
    /// The forge's own command line.
    pub forge_cli: ForgeCli,
    forge_command: Vec<ForgeCommand>,
    /// Programs that make images.
    pub image_tool: ImageTool,
    /// Commands that put a site online.
    pub publisher: Vec<PublisherCommand>,
}

/// A program that makes a runtime of another version ready.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct VersionManager {
    names: Vec<String>,
    words: Vec<String>,
    /// The runtime.
    pub tool: String,
    /// The files that the version stands in where none is given.
    pub files: Vec<String>,
}

/// A command that puts a site online; catalog/commands.toml says what the fields mean.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields, default)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct PublisherCommand {
    pub words: Vec<String>,
    pub target: Target,
    pub folder_options: Vec<String>,
    pub folder_argument: Option<usize>,
    pub branch_options: Vec<String>,
    pub branch_default: Option<String>,
    pub place_options: Vec<String>,
    pub place_argument: Option<usize>,
    pub image_options: Vec<String>,
    pub place: Option<String>,
    pub live_options: Vec<String>,
    pub dry_options: Vec<String>,
    pub other_words: Vec<String>,
    pub value_options: Vec<String>,
    pub credentials: Vec<Vec<String>>,
    pub credential_options: Vec<String>,
    pub clones_afresh: bool,
    pub unless_file: Vec<String>,
    pub hosted_only: bool,
    pub prebuilt: Option<Prebuilt>,
    pub servers: Option<Servers>,
}

/// Programs that make images; catalog/commands.toml says what the fields mean.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct ImageTool {
    pub names: Vec<String>,
    pub builders: Vec<String>,
    pub builds: Vec<String>,
    pub pushes: Vec<String>,
    pub tags: Vec<String>,
    pub harmless: Vec<String>,
    pub name_options: Vec<String>,
    pub file_options: Vec<String>,
    pub context_options: Vec<String>,
    pub pushing_options: Vec<String>,
    pub writing_options: Vec<String>,
    pub value_options: Vec<String>,
}

/// Where a generator that publishes by itself finds the places that it knows.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Servers {
    /// How the names of its project files end.
    pub files: Vec<String>,
    /// The setting whose names they are.
    pub setting: String,
    /// The option that names one; without it, the first argument does.
    #[serde(default)]
    pub option: Option<String>,
}

/// How a publisher takes what another of its commands has built.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Prebuilt {
    /// The option by which it does.
    pub option: String,
    /// The command that builds.
    pub by: String,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Install {
    words: Vec<String>,
}

#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
struct Git {
    harmless: Vec<String>,
    credentials: Vec<String>,
}

/// The forge's own command line; catalog/commands.toml says what the fields mean.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct ForgeCli {
    pub name: String,
    pub tokens: Vec<String>,
    pub signs_in: Vec<String>,
    pub elsewhere_options: Vec<String>,
    pub without_token: Vec<String>,
}

/// A program that runs a script of the same name in many packages; catalog/commands.toml says what the fields mean.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields, default)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct TaskRunner {
    pub name: String,
    pub run: Vec<String>,
    pub run_many: Vec<String>,
    pub bare: bool,
    pub project_behind_task: bool,
    pub other_words: Vec<String>,
    pub filter_options: Vec<String>,
    pub task_options: Vec<String>,
    pub value_options: Vec<String>,
    pub changed_options: Vec<String>,
    pub tasks_file: Option<String>,
    pub project_file: Option<String>,
}

/// A program that makes files of others; catalog/commands.toml says what the fields mean.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields, default)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct Writer {
    pub names: Vec<String>,
    pub folder_options: Vec<String>,
    pub file_options: Vec<String>,
    pub output: Option<String>,
    pub pairs: bool,
    pub not_with: Vec<String>,
    pub configs: Vec<String>,
}

/// A subcommand that a newer version of its program has no more; catalog/commands.toml says what the fields mean.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct GoneCommand {
    pub words: String,
    pub package: String,
    pub gone_from: u32,
    pub instead: String,
    #[serde(default)]
    pub same_options: bool,
}

/// What one of its subcommands needs; catalog/commands.toml says what the fields mean.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
#[allow(missing_docs, reason = "the fields are described once, in catalog/commands.toml")]
pub struct ForgeCommand {
    words: Vec<String>,
    pub needs: std::collections::BTreeMap<String, String>,
    #[serde(default)]
    pub or: Vec<String>,
    #[serde(default)]
    pub visible_anyway: bool,
    #[serde(default)]
    pub writes_option: Vec<String>,
    pub why: String,
}

/// Programs that look at the sources or test them.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Tool {
    names: Vec<String>,
    /// `check` or `test`.
    pub kind: String,
    /// The folders of its reports.
    #[serde(default)]
    pub writes: Vec<String>,
    /// It may look at a site that is online already.
    #[serde(default)]
    pub looks_online: bool,
}

/// A command that runs the command after it.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Wrapper {
    name: String,
    /// The word that must follow.
    pub word: Option<String>,
    /// Options whose value is the next word.
    #[serde(default)]
    pub value_options: Vec<String>,
    /// `NAME=value` words follow.
    #[serde(default)]
    pub assignments: bool,
}

impl Commands {
    /// Whether a command leaves all folders as they are.
    pub fn is_harmless(&self, name: &str) -> bool {
        self.harmless.iter().any(|known| known == name)
    }

    /// Whether a command is a TypeScript compiler.
    pub fn compiles(&self, name: &str) -> bool {
        self.compilers.iter().any(|known| known == name)
    }

    /// Whether a command runs scripts of package.json by their names.
    pub fn runs_scripts(&self, name: &str) -> bool {
        self.script_runners.iter().any(|known| known == name)
    }

    /// The tool that a command's first words name, and how many words that are; the longest name counts.
    pub fn tool(&self, words: &[&str]) -> Option<(&Tool, usize)> {
        let fits = |name: &String| starts_with(words, name);
        let all = self.tool.iter().filter_map(|tool| Some((tool, tool.names.iter().filter_map(fits).max()?)));
        all.max_by_key(|(_, used)| *used)
    }

    /// `check`, `test` or `other`, by the name that a tool's effect bears.
    pub fn kind_of(&self, tool: &str) -> Option<&str> {
        let words: Vec<&str> = tool.split(' ').collect();
        self.tool(&words).map(|(tool, _)| tool.kind.as_str())
    }

    /// Whether a tool may look at a site that is online already, by the name that its effect bears.
    pub fn looks_online(&self, tool: &str) -> bool {
        let words: Vec<&str> = tool.split(' ').collect();
        self.tool(&words).is_none_or(|(tool, _)| tool.looks_online)
    }

    /// The program of a name that makes files of others.
    pub fn writer(&self, name: &str) -> Option<&Writer> {
        self.writer.iter().find(|writer| writer.names.iter().any(|known| known == name))
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
        let fits = |gone: &&GoneCommand| starts_with(words, &gone.words).is_some();
        self.gone_command.iter().filter(fits).max_by_key(|gone| gone.words.len())
    }

    /// The subcommand of the forge's command line that words begin with.
    pub fn forge_command(&self, words: &[&str]) -> Option<&ForgeCommand> {
        self.forge_command.iter().find(|command| command.words.iter().any(|known| starts_with(words, known).is_some()))
    }

    /// Whether a line of a script may give git a credential.
    pub fn gives_git_a_credential(&self, line: &str) -> bool {
        self.git.credentials.iter().any(|known| line.contains(known.as_str()))
    }

    /// Whether a word of git leaves all folders as they are.
    pub fn git_is_harmless(&self, word: &str) -> bool {
        self.git.harmless.iter().any(|known| known == word)
    }
}

/// How many words a name has, when a command's words begin with them.
pub fn starts_with(words: &[&str], name: &str) -> Option<usize> {
    // Nearly all names differ from the first word on.
    if !words.first().is_some_and(|first| name.starts_with(first)) {
        return None;
    }
    let mut wanted = name.split(' ').enumerate();
    wanted.all(|(index, word)| words.get(index) == Some(&word)).then(|| name.split(' ').count())
}
