//! dulk.toml: what no file can show, and what the user wants of the rules.

mod declare;
mod read;
#[cfg(test)]
mod schema;
#[cfg(test)]
mod tests;

use std::collections::BTreeMap;

pub use declare::{Declared, declared_with};
pub use read::read_settings;

use crate::finding::Severity;
use crate::text::{Place, from_root};

/// Its name, at the repository's root.
pub const SETTINGS_FILE: &str = "dulk.toml";

/// A name with the place where it is declared.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Named {
    /// The name.
    pub name: String,
    /// In dulk.toml.
    pub at: Place,
}

/// The whole file; what is not there is unknown.
#[derive(Clone, Debug, Default)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(title = "dulk.toml", deny_unknown_fields, default))]
pub struct Settings {
    /// `[forge]`
    pub forge: Forge,
    /// `[site]`
    pub site: SiteSettings,
    /// `[rules]`
    #[cfg_attr(test, schemars(schema_with = "schema::rules_schema"))]
    pub rules: BTreeMap<String, RuleSetting>,
    /// `[files]`
    pub files: FileSettings,
    /// `[[starts]]`: what starts files whose format keeps that outside of them.
    pub starts: Vec<StartsSetting>,
    /// `[[accept]]`: findings that are accepted where a format has no comments, or where a comment would not do.
    pub accept: Vec<AcceptSetting>,
}

/// `[[starts]]`. A key that is not there starts nothing; several tables of one file add up.
#[derive(Clone, Debug)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(deny_unknown_fields))]
pub struct StartsSetting {
    /// The pipeline file, from the repository's root.
    pub file: Named,
    /// Patterns of branches of which a push starts it: `*` stays between slashes, `**` goes through them.
    pub push: Option<Vec<Named>>,
    /// Patterns of tags that start it.
    pub tags: Option<Vec<Named>>,
    /// Patterns of branches of which pull requests into them start it.
    pub pulls: Option<Vec<Named>>,
    /// The clock starts it.
    #[cfg_attr(test, schemars(default))]
    pub clock: bool,
}

/// `[[accept]]`. Without a line and a job, the rule is accepted in the whole file.
#[derive(Clone, Debug)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(deny_unknown_fields))]
pub struct AcceptSetting {
    /// The rule.
    #[cfg_attr(test, schemars(schema_with = "schema::rule_schema"))]
    pub rule: Named,
    /// The file that the finding stands in, from the repository's root.
    pub file: Named,
    /// Text of the line on which the finding begins, without the spaces round it.
    pub line: Option<Named>,
    /// The job that the finding stands in.
    pub job: Option<Named>,
    /// Why it is accepted.
    pub because: Named,
}

impl AcceptSetting {
    /// Whether it speaks of a file.
    pub fn is_for(&self, path: &str) -> bool {
        self.path() == path
    }

    /// Its file, without what says nothing before it.
    pub fn path(&self) -> &str {
        held(&self.file.name)
    }
}

impl StartsSetting {
    /// Its file, without what says nothing before it.
    pub fn path(&self) -> &str {
        held(&self.file.name)
    }
}

/// A path of dulk.toml as all paths are held: a slash before it says nothing either.
fn held(written: &str) -> &str {
    from_root(written).trim_start_matches('/')
}

/// `[files]`
#[derive(Clone, Debug, Default)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(deny_unknown_fields, default))]
pub struct FileSettings {
    /// Patterns of pipeline files that are not checked.
    pub skip: Vec<String>,
}

/// `[forge]`
#[derive(Clone, Debug, Default)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(rename_all = "kebab-case", deny_unknown_fields, default))]
pub struct Forge {
    /// The branch that the forge shows first.
    pub default_branch: Option<Named>,
    /// Names of secrets.
    pub secrets: Option<Vec<Named>>,
    /// Names of variables.
    pub variables: Option<Vec<Named>>,
    /// What a job's token may do where the file does not say: `read` or `write`.
    #[cfg_attr(test, schemars(schema_with = "schema::token_schema"))]
    pub token: Option<Named>,
    /// Where the forge's pages hosting takes the site from: `pipeline` or `branch:NAME`.
    #[cfg_attr(test, schemars(schema_with = "schema::pages_schema"))]
    pub pages: Option<Named>,
    /// `[forge.environments.NAME]`
    pub environments: BTreeMap<String, Environment>,
}

impl Forge {
    /// The names of all secrets and variables that are declared, those of environments left out.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.secrets.iter().chain(&self.variables).flatten().map(|named| named.name.as_str())
    }

    /// Everything that the forge keeps is declared, so that a name which is not is known to be held by nobody.
    pub fn is_whole(&self) -> bool {
        self.secrets.is_some() && self.variables.is_some()
    }

    /// Whether it holds a secret or a variable of a name, for jobs of an environment, or of none.
    pub fn holds(&self, name: &str, environment: Option<&str>) -> bool {
        let own = environment.and_then(|environment| self.environments.get(environment)).and_then(|one| one.secrets.as_ref());
        self.names().chain(own.into_iter().flatten().map(|named| named.name.as_str())).any(|held| held == name)
    }
}

/// `[forge.environments.NAME]`
#[derive(Clone, Debug, Default)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(deny_unknown_fields, default))]
pub struct Environment {
    /// Patterns of branches and tags that may deploy to it.
    pub branches: Option<Vec<Named>>,
    /// Names of its own secrets.
    pub secrets: Option<Vec<Named>>,
    /// Names of its own variables.
    pub variables: Option<Vec<Named>>,
}

/// `[site]`
#[derive(Clone, Debug, Default)]
#[cfg_attr(test, derive(schemars::JsonSchema), schemars(deny_unknown_fields, default))]
pub struct SiteSettings {
    /// The built folder.
    pub output: Option<Named>,
    /// The path under which the site is served.
    pub base: Option<Named>,
}

/// What the user wants of a rule; `None` is off.
pub type RuleSetting = Option<Severity>;

/// Why dulk.toml is refused.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SettingsError {
    /// Line, from 1.
    pub line: u32,
    /// In plain words, with the nearest right word.
    pub reason: String,
}
