//! Site generators as data.

use std::collections::BTreeMap;

use serde::Deserialize;

/// `catalog/generators.toml`.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Generators {
    /// The generators.
    pub generator: Vec<Generator>,
}

impl Generators {
    /// How the names of generators' project files end, which name the places that they publish to.
    pub fn project_file_endings(&self) -> Vec<&str> {
        self.generator.iter().flat_map(|generator| &generator.telling_suffixes).map(String::as_str).collect()
    }

    /// A generator by its id.
    pub fn get(&self, id: &str) -> Option<&Generator> {
        self.generator.iter().find(|generator| generator.id == id)
    }
}

/// One generator; catalog/generators.toml says what the fields mean.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields, default)]
#[allow(missing_docs, reason = "the fields are described once, at the top of catalog/generators.toml")]
pub struct Generator {
    pub id: String,
    pub packages: Vec<String>,
    pub gems: Vec<String>,
    pub python: Vec<String>,
    pub csproj_sdk: Option<String>,
    pub only_with: Vec<String>,
    pub not_with_packages: Vec<String>,
    pub configs: Vec<String>,
    pub telling: bool,
    pub telling_configs: Vec<String>,
    pub telling_suffixes: Vec<String>,
    pub commands: Vec<String>,
    pub arguments: Option<String>,
    pub other_words: Vec<String>,
    pub not_with: Vec<String>,
    pub value_options: Vec<String>,
    pub output: Option<String>,
    pub output_also: Vec<String>,
    pub output_when: Vec<OutputWhen>,
    pub output_with_package: BTreeMap<String, String>,
    pub output_options: Vec<String>,
    pub output_settings: Vec<String>,
    pub output_suffix: Option<OutputSuffix>,
    pub output_variable: Option<String>,
    pub base_options: Vec<String>,
    pub base_settings: Vec<String>,
    pub inner_folders: Vec<String>,
    pub own_folders: Vec<String>,
    pub one_folder: bool,
    pub format_options: Vec<String>,
    pub folder_of_format: Vec<String>,
    pub root_options: Vec<String>,
    pub root_settings: Vec<String>,
    pub root_option_unknown: Vec<String>,
    pub config_options: Vec<String>,
    pub server_when: Option<SettingIs>,
    pub without_front_page: bool,
    pub front_page_words: Vec<String>,
    pub server_unless: Option<SettingIs>,
    pub single_page: bool,
    pub sources: Vec<String>,
    /// Endings of files of which it makes pages, without the point.
    pub page_files: Vec<String>,
    pub single_page_with_router: bool,
    pub base_default: Option<String>,
    pub base_variable: Option<String>,
    pub base_only_with: Vec<String>,
    pub address_settings: Vec<String>,
    pub address_variables: Vec<String>,
    pub history_settings: Vec<String>,
    pub history_plugins: Vec<String>,
    pub relative_links: bool,
    pub relative_settings: Vec<String>,
    pub caches: Vec<String>,
    pub base_from_homepage: bool,
    pub public_prefixes: Vec<String>,
}

/// A setting with a value.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SettingIs {
    /// The setting.
    pub setting: String,
    /// Its value.
    pub value: String,
}

/// Another default where a setting has a value.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OutputWhen {
    /// The setting.
    pub setting: String,
    /// Its value.
    pub value: String,
    /// The folder.
    pub output: String,
}

/// A folder inside the built folder that the site is in.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OutputSuffix {
    /// The setting that decides.
    pub setting: String,
    /// The folder by the setting's value.
    pub values: BTreeMap<String, String>,
}

/// `catalog/hosting.toml`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Hostings {
    /// Files in which a host is told about the site.
    pub hosting: Vec<Hosting>,
    /// Files in which the versions of runtimes stand.
    pub runtime_file: Vec<RuntimeFile>,
}

/// One such file; catalog/hosting.toml says what the fields mean.
#[derive(Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields, default)]
#[allow(missing_docs, reason = "the fields are described once, at the top of catalog/hosting.toml")]
pub struct Hosting {
    pub id: String,
    pub file: String,
    pub folder_settings: Vec<String>,
    pub base_settings: Vec<String>,
    pub fallback_settings: Vec<String>,
    pub functions_settings: Vec<String>,
    pub targets: Vec<String>,
    pub builds_itself: bool,
    pub build_settings: Vec<String>,
    pub preset_settings: Vec<String>,
    pub presets: BTreeMap<String, String>,
    pub one_line: bool,
    pub empty: bool,
    pub fallback_line: Option<String>,
    pub elsewhere: Vec<String>,
}

/// A file with versions.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RuntimeFile {
    /// Its name.
    pub file: String,
    /// The runtime; without one, each line names its own.
    pub tool: Option<String>,
    /// Each line names a runtime and its version.
    #[serde(default)]
    pub many: bool,
}
