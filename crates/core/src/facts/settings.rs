//! dulk.toml: what no file can show, and what the user wants of the rules.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use toml::de::{DeTable, DeValue};

use crate::finding::Severity;
use crate::knowledge::nearest;
use crate::rules;
use crate::text::{FileId, Place, SourceFile, Span};

/// A name with the place where it is declared.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Named {
    /// The name.
    pub name: String,
    /// In dulk.toml.
    pub at: Place,
}

impl JsonSchema for Named {
    fn inline_schema() -> bool {
        true
    }

    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Named".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        String::json_schema(generator)
    }
}

fn token_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    schemars::json_schema!({ "type": "string", "enum": ["read", "write"] })
}

fn pages_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    schemars::json_schema!({ "type": "string", "pattern": "^(pipeline|branch:.+)$" })
}

/// Rules by family, each with what it may be set to.
fn rules_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    let mut families = serde_json::Map::new();
    for rule in rules::all() {
        let value = serde_json::json!({ "description": rule.title, "enum": ["off", "advice", "warning", "error"] });
        let name = rule.id.split_once('.').map_or(rule.id, |(_, name)| name);
        let family = families
            .entry(rule.family())
            .or_insert_with(|| serde_json::json!({ "type": "object", "additionalProperties": false, "properties": {} }));
        family["properties"][name] = value;
    }
    schemars::json_schema!({ "type": "object", "properties": families })
}

/// The JSON Schema of dulk.toml, for editors.
pub fn settings_schema() -> String {
    let schema = schemars::schema_for!(Settings);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}

/// The whole file; what is not there is unknown.
#[derive(Clone, Debug, Default, JsonSchema)]
#[schemars(title = "dulk.toml", deny_unknown_fields)]
pub struct Settings {
    /// `[forge]`
    pub forge: Forge,
    /// `[site]`
    pub site: SiteSettings,
    /// `[rules]`
    #[schemars(schema_with = "rules_schema")]
    pub rules: BTreeMap<String, RuleSetting>,
    /// `[files]`
    pub files: FileSettings,
}

/// `[files]`
#[derive(Clone, Debug, Default, JsonSchema)]
#[schemars(deny_unknown_fields, default)]
pub struct FileSettings {
    /// Patterns of pipeline files that are not checked.
    pub skip: Vec<String>,
}

/// `[forge]`
#[derive(Clone, Debug, Default, JsonSchema)]
#[schemars(rename_all = "kebab-case", deny_unknown_fields, default)]
pub struct Forge {
    /// The branch that the forge shows first.
    pub default_branch: Option<Named>,
    /// Names of secrets.
    pub secrets: Option<Vec<Named>>,
    /// Names of variables.
    pub variables: Option<Vec<Named>>,
    /// What a job's token may do where the file does not say: `read` or `write`.
    #[schemars(schema_with = "token_schema")]
    pub token: Option<Named>,
    /// Where the forge's pages hosting takes the site from: `pipeline` or `branch:NAME`.
    #[schemars(schema_with = "pages_schema")]
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
#[derive(Clone, Debug, Default, JsonSchema)]
#[schemars(deny_unknown_fields, default)]
pub struct Environment {
    /// Patterns of branches and tags that may deploy to it.
    pub branches: Option<Vec<Named>>,
    /// Names of its own secrets.
    pub secrets: Option<Vec<Named>>,
    /// Names of its own variables.
    pub variables: Option<Vec<Named>>,
}

/// `[site]`
#[derive(Clone, Debug, Default, JsonSchema)]
#[schemars(deny_unknown_fields, default)]
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

/// Reads dulk.toml.
///
/// # Errors
/// At the first thing that is not TOML, not a known key, or not a value that the key takes.
pub fn read_settings(file: FileId, source: &SourceFile) -> Result<Settings, SettingsError> {
    let (body, shift) = source.body();
    let reader = Reader { file, source, shift };
    let table = DeTable::parse(body).map_err(|error| {
        let range = error.span().unwrap_or(0..0);
        reader.error(&range, format!("this is no TOML: {}", error.message()))
    })?;
    reader.settings(table.get_ref())
}

type Spanned<'d, 'i> = &'d toml::Spanned<DeValue<'i>>;

struct Reader<'s> {
    file: FileId,
    source: &'s SourceFile,
    shift: usize,
}

impl Reader<'_> {
    fn error(&self, range: &std::ops::Range<usize>, reason: impl Into<String>) -> SettingsError {
        let line = self.source.position(self.place(range).span.start).line;
        SettingsError { line, reason: reason.into() }
    }

    fn place(&self, range: &std::ops::Range<usize>) -> Place {
        Place { file: self.file, span: Span::new(range.start + self.shift, range.end + self.shift) }
    }

    fn unknown<'k>(
        &self,
        key: &toml::Spanned<std::borrow::Cow<'_, str>>,
        within: &str,
        known: impl IntoIterator<Item = &'k str> + Clone,
    ) -> SettingsError {
        let word = key.get_ref();
        let hint = match nearest(word, known.clone()) {
            Some(near) => format!("did you mean {near}?"),
            None => format!("known are {}", known.into_iter().collect::<Vec<_>>().join(", ")),
        };
        self.error(&key.span(), format!("{within} has no key {word}; {hint}"))
    }

    fn table<'d, 'i>(&self, value: Spanned<'d, 'i>, name: &str) -> Result<&'d DeTable<'i>, SettingsError> {
        match value.get_ref() {
            DeValue::Table(table) => Ok(table),
            _ => Err(self.error(&value.span(), format!("{name} takes a table, [{name}]"))),
        }
    }

    fn text(&self, value: Spanned<'_, '_>, name: &str) -> Result<Named, SettingsError> {
        match value.get_ref() {
            DeValue::String(text) => Ok(Named { name: text.to_string(), at: self.place(&value.span()) }),
            _ => Err(self.error(&value.span(), format!("{name} takes a text in quotes"))),
        }
    }

    fn texts(&self, value: Spanned<'_, '_>, name: &str) -> Result<Vec<Named>, SettingsError> {
        match value.get_ref() {
            DeValue::Array(items) => items.iter().map(|item| self.text(item, name)).collect(),
            _ => Err(self.error(&value.span(), format!("{name} takes a list of texts, [\"…\"]"))),
        }
    }

    fn settings(&self, table: &DeTable<'_>) -> Result<Settings, SettingsError> {
        let mut settings = Settings::default();
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "forge" => settings.forge = self.forge(self.table(value, "forge")?)?,
                "site" => settings.site = self.site(self.table(value, "site")?)?,
                "rules" => settings.rules = self.rules(self.table(value, "rules")?)?,
                "files" => settings.files.skip = self.files(self.table(value, "files")?)?,
                _ => return Err(self.unknown(key, "dulk.toml", ["forge", "site", "rules", "files"])),
            }
        }
        Ok(settings)
    }

    fn forge(&self, table: &DeTable<'_>) -> Result<Forge, SettingsError> {
        const KEYS: [&str; 6] = ["default-branch", "secrets", "variables", "token", "pages", "environments"];
        let mut forge = Forge::default();
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "default-branch" => forge.default_branch = Some(self.text(value, "default-branch")?),
                "secrets" => forge.secrets = Some(self.texts(value, "secrets")?),
                "variables" => forge.variables = Some(self.texts(value, "variables")?),
                "token" => forge.token = Some(self.token(value)?),
                "pages" => forge.pages = Some(self.pages(value)?),
                "environments" => {
                    for (name, value) in self.table(value, "environments")? {
                        let table = self.table(value, "environments")?;
                        forge.environments.insert(name.get_ref().to_string(), self.environment(table)?);
                    }
                }
                _ => return Err(self.unknown(key, "[forge]", KEYS)),
            }
        }
        Ok(forge)
    }

    fn token(&self, value: Spanned<'_, '_>) -> Result<Named, SettingsError> {
        let token = self.text(value, "token")?;
        match token.name.as_str() {
            "read" | "write" => Ok(token),
            other => Err(self.error(&value.span(), format!("token is \"read\" or \"write\", not \"{other}\""))),
        }
    }

    fn pages(&self, value: Spanned<'_, '_>) -> Result<Named, SettingsError> {
        let pages = self.text(value, "pages")?;
        let names_branch = pages.name.strip_prefix("branch:").is_some_and(|name| !name.is_empty());
        if pages.name == "pipeline" || names_branch {
            return Ok(pages);
        }
        Err(self.error(&value.span(), format!("pages is \"pipeline\" or \"branch:NAME\", not \"{}\"", pages.name)))
    }

    fn environment(&self, table: &DeTable<'_>) -> Result<Environment, SettingsError> {
        let mut environment = Environment::default();
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "branches" => environment.branches = Some(self.texts(value, "branches")?),
                "secrets" => environment.secrets = Some(self.texts(value, "secrets")?),
                "variables" => environment.variables = Some(self.texts(value, "variables")?),
                _ => return Err(self.unknown(key, "an environment", ["branches", "secrets", "variables"])),
            }
        }
        Ok(environment)
    }

    fn site(&self, table: &DeTable<'_>) -> Result<SiteSettings, SettingsError> {
        let mut site = SiteSettings::default();
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "output" => site.output = Some(self.text(value, "output")?),
                "base" => site.base = Some(self.text(value, "base")?),
                _ => return Err(self.unknown(key, "[site]", ["output", "base"])),
            }
        }
        Ok(site)
    }

    fn files(&self, table: &DeTable<'_>) -> Result<Vec<String>, SettingsError> {
        let mut skip = Vec::new();
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "skip" => skip = self.texts(value, "skip")?.into_iter().map(|named| named.name).collect(),
                _ => return Err(self.unknown(key, "[files]", ["skip"])),
            }
        }
        Ok(skip)
    }

    /// `cache.none = "off"` is a table `cache` with a key `none`; `"cache.none" = "off"` is taken too.
    fn rules(&self, table: &DeTable<'_>) -> Result<BTreeMap<String, RuleSetting>, SettingsError> {
        let mut wanted = BTreeMap::new();
        for (key, value) in table {
            match value.get_ref() {
                DeValue::Table(family) => {
                    for (name, value) in family {
                        let id = format!("{}.{}", key.get_ref(), name.get_ref());
                        wanted.insert(self.rule(&id, &name.span())?, self.severity(value)?);
                    }
                }
                _ => {
                    wanted.insert(self.rule(key.get_ref(), &key.span())?, self.severity(value)?);
                }
            }
        }
        Ok(wanted)
    }

    fn rule(&self, id: &str, range: &std::ops::Range<usize>) -> Result<String, SettingsError> {
        if rules::find(id).is_some() {
            return Ok(id.to_owned());
        }
        let hint = nearest(id, rules::all().map(|rule| rule.id)).map_or(String::new(), |near| format!("; did you mean {near}?"));
        Err(self.error(range, format!("there is no rule {id}{hint}")))
    }

    fn severity(&self, value: Spanned<'_, '_>) -> Result<RuleSetting, SettingsError> {
        let word = self.text(value, "a rule")?;
        match word.name.as_str() {
            "off" => Ok(None),
            other => match Severity::of(other) {
                Some(severity) => Ok(Some(severity)),
                None => {
                    let hint = nearest(other, ["off", "advice", "warning", "error"])
                        .map_or(String::new(), |near| format!("; did you mean \"{near}\"?"));
                    Err(self.error(
                        &value.span(),
                        format!("a rule is set to \"off\", \"advice\", \"warning\" or \"error\", not \"{other}\"{hint}"),
                    ))
                }
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Result<Settings, SettingsError> {
        read_settings(FileId(0), &SourceFile::new("dulk.toml", text))
    }

    #[test]
    fn every_key_of_the_manual_is_read() {
        let settings = read(
            "[forge]\ndefault-branch = \"main\"\nsecrets = [\"KEY\"]\nvariables = []\ntoken = \"read\"\npages = \"branch:gh-pages\"\n\
             [forge.environments.production]\nbranches = [\"main\"]\nsecrets = [\"DEPLOY\"]\n[site]\noutput = \"dist\"\nbase = \"/x/\"\n\
             [rules]\nbranch.absent = \"off\"\n\"order.cycle\" = \"advice\"\n[files]\nskip = [\"templates/**\"]\n",
        )
        .unwrap_or_else(|error| panic!("{error:?}"));
        assert_eq!(settings.forge.secrets.map(|names| names[0].name.clone()).as_deref(), Some("KEY"));
        assert_eq!(settings.forge.environments["production"].branches.as_ref().map(Vec::len), Some(1));
        assert_eq!(settings.rules["branch.absent"], None);
        assert_eq!(settings.rules["order.cycle"], Some(Severity::Advice));
        assert_eq!(settings.files.skip, ["templates/**"]);
    }

    /// Every key of the schema is taken by the reader, and the reader's lists of known keys are the schema's.
    #[test]
    fn schema_and_reader_know_the_same_keys() {
        let schema: serde_json::Value = serde_json::from_str(&settings_schema()).unwrap_or_default();
        let keys = |pointer: &str| -> Vec<String> {
            let table = schema.pointer(pointer).and_then(|value| value["properties"].as_object());
            table.unwrap_or_else(|| panic!("{pointer} in {schema:#}")).keys().cloned().collect()
        };
        for (table, pointer) in [
            ("", ""),
            ("forge", "/$defs/Forge"),
            ("forge.environments.x", "/$defs/Environment"),
            ("site", "/$defs/SiteSettings"),
            ("files", "/$defs/FileSettings"),
        ] {
            let header = if table.is_empty() { String::new() } else { format!("[{table}]\n") };
            let refused = read(&format!("{header}zzzzzzzzzzzzzzz = 1\n")).err().map(|error| error.reason).unwrap_or_default();
            let mut known: Vec<&str> = refused.split("known are ").nth(1).unwrap_or_default().split(", ").collect();
            let mut wanted = keys(pointer);
            known.sort_unstable();
            wanted.sort_unstable();
            assert_eq!(known, wanted, "{table}: {refused}");
        }
    }

    #[test]
    fn the_schema_in_the_docs_is_up_to_date() {
        let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/dulk.schema.json");
        if std::env::var_os("DULK_WRITE_DOCS").is_some() {
            std::fs::write(&path, settings_schema()).unwrap_or_else(|error| panic!("{error}"));
        }
        let written = std::fs::read_to_string(&path).unwrap_or_default();
        assert!(written == settings_schema(), "run the tests once with DULK_WRITE_DOCS=1");
    }

    #[test]
    fn a_wrong_key_or_value_is_told_with_its_line_and_the_right_word() {
        for (text, line, part) in [
            ("[forge]\n\nsecret = []", 3, "did you mean secrets?"),
            ("\n[sites]\n", 2, "did you mean site?"),
            ("[forge]\ntoken = \"all\"", 2, "\"read\" or \"write\""),
            ("[forge]\nsecrets = \"KEY\"", 2, "list"),
            ("[forge]\npages = \"branch:\"", 2, "branch:NAME"),
            ("[rules]\nbranch.absnt = \"off\"", 2, "did you mean branch.absent?"),
            ("[rules]\nbranch.absent = \"warn\"", 2, "\"warning\""),
            ("[forge\n", 1, "no TOML"),
        ] {
            let error = read(text).err().unwrap_or_else(|| panic!("{text} is taken"));
            assert_eq!(error.line, line, "{text}: {}", error.reason);
            assert!(error.reason.contains(part), "{text}: {}", error.reason);
        }
    }
}
