//! Site generators as data.

use std::sync::LazyLock;

use super::{ByLetter, List, Table, Word};

/// `catalog/generators.toml`.
#[derive(Debug)]
pub struct Generators {
    /// The generators.
    pub generator: List<Generator>,
}

impl Generators {
    /// The commands that begin with the letter that a word begins with, each with what it runs.
    pub fn commands_beginning_as(&self, word: &str) -> &'static [(Word, &'static Generator)] {
        static COMMANDS: LazyLock<ByLetter<Generator>> = LazyLock::new(|| {
            let generators = super::generators().generator.iter();
            ByLetter::of(generators.flat_map(|generator| generator.commands.iter().map(move |command| (*command, generator))))
        });
        COMMANDS.beginning_as(word)
    }

    /// How the names of generators' project files end, which name the places that they publish to.
    pub fn project_file_endings(&self) -> Vec<&str> {
        self.generator.iter().flat_map(|generator| generator.telling_suffixes).copied().collect()
    }

    /// A generator by its id.
    pub fn get(&self, id: &str) -> Option<&Generator> {
        self.generator.iter().find(|generator| generator.id == id)
    }
}

/// One generator; catalog/generators.toml says what the fields mean.
#[derive(Debug, Default)]
#[allow(missing_docs, reason = "the fields are described once, at the top of catalog/generators.toml")]
pub struct Generator {
    pub id: Word,
    pub packages: List<Word>,
    pub gems: List<Word>,
    pub python: List<Word>,
    pub csproj_sdk: Option<Word>,
    pub only_with: List<Word>,
    pub not_with_packages: List<Word>,
    pub configs: List<Word>,
    pub telling: bool,
    pub telling_configs: List<Word>,
    pub telling_suffixes: List<Word>,
    pub commands: List<Word>,
    pub arguments: Option<Word>,
    pub other_words: List<Word>,
    pub not_with: List<Word>,
    pub value_options: List<Word>,
    pub output: Option<Word>,
    pub output_also: List<Word>,
    pub output_when: List<OutputWhen>,
    pub output_with_package: Table<Word>,
    pub output_options: List<Word>,
    pub output_settings: List<Word>,
    pub output_suffix: Option<OutputSuffix>,
    pub output_variable: Option<Word>,
    pub base_options: List<Word>,
    pub base_settings: List<Word>,
    pub base_without_slash: bool,
    pub inner_folders: List<Word>,
    pub own_folders: List<Word>,
    pub one_folder: bool,
    pub format_options: List<Word>,
    pub folder_of_format: List<Word>,
    pub root_options: List<Word>,
    pub root_settings: List<Word>,
    pub root_option_unknown: List<Word>,
    pub config_options: List<Word>,
    pub server_when: Option<SettingIs>,
    pub without_front_page: bool,
    pub front_page_words: List<Word>,
    pub server_unless: Option<SettingIs>,
    pub single_page: bool,
    pub sources: List<Word>,
    /// Endings of files of which it makes pages, without the point.
    pub page_files: List<Word>,
    pub single_page_with_router: bool,
    pub base_default: Option<Word>,
    pub base_variable: Option<Word>,
    pub base_only_with: List<Word>,
    pub address_settings: List<Word>,
    pub address_variables: List<Word>,
    pub history_settings: List<Word>,
    pub history_plugins: List<Word>,
    pub relative_links: bool,
    pub relative_settings: List<Word>,
    pub caches: List<Word>,
    pub base_from_homepage: bool,
    pub public_prefixes: List<Word>,
    pub toolchain: Option<Word>,
    pub draft_command: Option<Word>,
    pub draft_output: Option<Word>,
}

/// A setting with a value.
#[derive(Debug)]
pub struct SettingIs {
    /// The setting.
    pub setting: Word,
    /// Its value.
    pub value: Word,
}

/// Another default where a setting has a value.
#[derive(Debug)]
pub struct OutputWhen {
    /// The setting.
    pub setting: Word,
    /// Its value.
    pub value: Word,
    /// The folder.
    pub output: Word,
}

/// A folder inside the built folder that the site is in.
#[derive(Debug)]
pub struct OutputSuffix {
    /// The setting that decides.
    pub setting: Word,
    /// The folder by the setting's value.
    pub values: Table<Word>,
}

/// `catalog/hosting.toml`.
#[derive(Debug)]
pub struct Hostings {
    /// Files in which a host is told about the site.
    pub hosting: List<Hosting>,
    /// Files in which the versions of runtimes stand.
    pub runtime_file: List<RuntimeFile>,
}

/// One such file; catalog/hosting.toml says what the fields mean.
#[derive(Debug, Default)]
#[allow(missing_docs, reason = "the fields are described once, at the top of catalog/hosting.toml")]
pub struct Hosting {
    pub id: Word,
    pub file: Word,
    pub folder_settings: List<Word>,
    pub base_settings: List<Word>,
    pub fallback_settings: List<Word>,
    pub functions_settings: List<Word>,
    pub targets: List<Word>,
    pub builds_itself: bool,
    pub build_settings: List<Word>,
    pub preset_settings: List<Word>,
    pub presets: Table<Word>,
    pub one_line: bool,
    pub empty: bool,
    pub fallback_line: Option<Word>,
    pub elsewhere: List<Word>,
}

/// A file with versions.
#[derive(Debug)]
pub struct RuntimeFile {
    /// Its name.
    pub file: Word,
    /// The runtime; without one, each line names its own.
    pub tool: Option<Word>,
    /// Each line names a runtime and its version.
    pub many: bool,
}
