//! Reads dulk.toml, and says of everything that does not fit what would.

use std::collections::BTreeMap;

use toml::de::{DeTable, DeValue};

use super::{AcceptSetting, Environment, Forge, Named, RuleSetting, Settings, SettingsError, SiteSettings, StartsSetting};
use crate::finding::Severity;
use crate::knowledge::nearest;
use crate::pattern::Glob;
use crate::rules;
use crate::text::{FileId, Place, SourceFile, Span};

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

    fn entries<T>(
        &self,
        value: Spanned<'_, '_>,
        name: &str,
        read: impl Fn(&Self, &DeTable<'_>, &std::ops::Range<usize>) -> Result<T, SettingsError>,
    ) -> Result<Vec<T>, SettingsError> {
        let wrong = |range: &std::ops::Range<usize>| self.error(range, format!("{name} takes a list of tables, each [[{name}]]"));
        let DeValue::Array(items) = value.get_ref() else { return Err(wrong(&value.span())) };
        let read_one = |item: Spanned<'_, '_>| match item.get_ref() {
            DeValue::Table(table) => read(self, table, &item.span()),
            _ => Err(wrong(&item.span())),
        };
        items.iter().map(read_one).collect()
    }

    /// A key without which an entry says nothing.
    fn needed<T>(&self, value: Option<T>, key: &str, within: &str, range: &std::ops::Range<usize>) -> Result<T, SettingsError> {
        value.ok_or_else(|| self.error(range, format!("{within} needs the key {key}")))
    }

    fn starts(&self, table: &DeTable<'_>, range: &std::ops::Range<usize>) -> Result<StartsSetting, SettingsError> {
        const NAME: &str = "[[starts]]";
        let (mut file, mut push, mut tags, mut pulls, mut clock) = (None, None, None, None, false);
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "file" => file = Some(self.text(value, "file")?),
                "push" => push = Some(self.patterns(value, "push")?),
                "tags" => tags = Some(self.patterns(value, "tags")?),
                "pulls" => pulls = Some(self.patterns(value, "pulls")?),
                "clock" => clock = self.flag(value, "clock")?,
                _ => return Err(self.unknown(key, NAME, ["file", "push", "tags", "pulls", "clock"])),
            }
        }
        Ok(StartsSetting { file: self.needed(file, "file", NAME, range)?, push, tags, pulls, clock })
    }

    fn accept(&self, table: &DeTable<'_>, range: &std::ops::Range<usize>) -> Result<AcceptSetting, SettingsError> {
        const NAME: &str = "[[accept]]";
        let (mut rule, mut file, mut line, mut job, mut because) = (None, None, None, None, None);
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "rule" => {
                    let named = self.text(value, "rule")?;
                    self.rule(&named.name, &value.span())?;
                    rule = Some(named);
                }
                "file" => file = Some(self.said(value, "file")?),
                "line" => line = Some(self.said(value, "line")?),
                "job" => job = Some(self.said(value, "job")?),
                "because" => because = Some(self.said(value, "because")?),
                _ => return Err(self.unknown(key, NAME, ["rule", "file", "line", "job", "because"])),
            }
        }
        let rule = self.needed(rule, "rule", NAME, range)?;
        let file = self.needed(file, "file", NAME, range)?;
        let because = self.needed(because, "because", NAME, range)?;
        Ok(AcceptSetting { rule, file, line, job, because })
    }

    /// A text that is not empty.
    fn said(&self, value: Spanned<'_, '_>, name: &str) -> Result<Named, SettingsError> {
        let text = self.text(value, name)?;
        if text.name.trim().is_empty() { Err(self.error(&value.span(), format!("{name} is empty"))) } else { Ok(text) }
    }

    fn flag(&self, value: Spanned<'_, '_>, name: &str) -> Result<bool, SettingsError> {
        match value.get_ref() {
            DeValue::Boolean(flag) => Ok(*flag),
            _ => Err(self.error(&value.span(), format!("{name} is true or false"))),
        }
    }

    /// Patterns of branches or tags; a list without any would start nothing, which leaving the key out says better.
    fn patterns(&self, value: Spanned<'_, '_>, name: &str) -> Result<Vec<Named>, SettingsError> {
        let patterns = self.texts(value, name)?;
        if patterns.is_empty() {
            return Err(self.error(&value.span(), format!("{name} names nothing; \"**\" takes in all, and without the key none")));
        }
        match patterns.iter().find(|pattern| Glob::read(&pattern.name).is_err()) {
            Some(wrong) => Err(self.error(&value.span(), format!("{} is no pattern", wrong.name))),
            None => Ok(patterns),
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
                "starts" => settings.starts = self.entries(value, "starts", Self::starts)?,
                "accept" => settings.accept = self.entries(value, "accept", Self::accept)?,
                _ => return Err(self.unknown(key, "dulk.toml", ["forge", "site", "rules", "files", "starts", "accept"])),
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
                "skip" => {
                    skip = self.texts(value, "skip")?.into_iter().map(|named| self.of_paths(named)).collect::<Result<_, _>>()?
                }
                _ => return Err(self.unknown(key, "[files]", ["skip"])),
            }
        }
        Ok(skip)
    }

    /// A pattern of paths; one that is none would skip nothing, and nobody would know.
    fn of_paths(&self, pattern: Named) -> Result<String, SettingsError> {
        match globset::Glob::new(&pattern.name) {
            Ok(_) => Ok(pattern.name),
            Err(error) => {
                let line = self.source.position(pattern.at.span.start).line;
                Err(SettingsError { line, reason: format!("skip: {} is no pattern: {}", pattern.name, error.kind()) })
            }
        }
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
