//! Well-known actions as data.

use crate::model::Target;
use std::collections::{BTreeMap, HashMap};

use serde::Deserialize;

/// `catalog/actions/`.
#[derive(Debug, Deserialize)]
#[serde(from = "ActionList")]
pub struct Actions {
    by_name: HashMap<String, Action>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct ActionList {
    action: Vec<Action>,
}

impl From<ActionList> for Actions {
    fn from(list: ActionList) -> Self {
        Self { by_name: list.action.into_iter().map(|action| (action.uses.to_ascii_lowercase(), action)).collect() }
    }
}

impl Actions {
    /// The names of all of them.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.by_name.values().map(|action| action.uses.as_str())
    }

    /// The action of a name without its version; upper and lower case do not matter.
    pub fn get(&self, name: &str) -> Option<&Action> {
        self.by_name.get(&name.to_ascii_lowercase())
    }
}

/// One action.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Action {
    /// Variables that it sets for the steps after it.
    #[serde(default)]
    pub gives: Vec<String>,
    /// Inputs whose folders must end in a slash.
    #[serde(default)]
    pub slash_inputs: Vec<String>,
    /// How it publishes to another repository.
    pub elsewhere: Option<Elsewhere>,
    /// `owner/name`, without version.
    pub uses: String,
    /// What it does, in order.
    #[serde(default)]
    pub does: Vec<Deed>,
    /// What the job's token must be allowed for it.
    #[serde(default)]
    pub grants: Vec<ActionGrant>,
    /// The store of artifacts that it uses.
    pub generation: Option<Generation>,
    /// From this major on, hidden files are left out.
    pub hides_from: Option<u32>,
    /// Inputs that are run as a program.
    #[serde(default)]
    pub scripts: Vec<String>,
    /// The input by which it tells the generator the path that the site is served under.
    #[serde(default)]
    pub base_input: Option<String>,
    /// Its manual tells to use a branch.
    #[serde(default)]
    pub moving_is_meant: bool,
    /// The newest major version known here.
    pub newest: Option<u32>,
    /// Majors that no longer run.
    #[serde(default)]
    pub retired: Vec<u32>,
    /// Majors made for a runtime that has ended.
    #[serde(default)]
    pub ageing: Vec<u32>,
    /// Majors that were a part of the runner itself, and are kept up no more.
    #[serde(default)]
    pub bundled: Vec<u32>,
    /// What it takes.
    #[serde(default)]
    pub inputs: Vec<String>,
    /// The first major that takes an input, where not all of them do.
    #[serde(default)]
    pub inputs_since: BTreeMap<String, u32>,
    /// Majors of which the lists of inputs and outputs were taken: they take and give nothing else.
    #[serde(default)]
    pub complete_for: Vec<u32>,
    /// Inputs that must be given.
    #[serde(default)]
    pub required: Vec<String>,
    /// Old names of inputs and the new ones; "" for those that are gone.
    #[serde(default)]
    pub retired_inputs: BTreeMap<String, String>,
    /// What it gives.
    #[serde(default)]
    pub outputs: Vec<String>,
    /// Groups of inputs, or of variables as `env:NAME`: of each group one must be given.
    #[serde(default)]
    pub credentials: Vec<Vec<String>>,
}

impl Action {
    /// Whether an input is the same as another one, upper and lower case aside.
    pub fn takes(&self, input: &str) -> bool {
        self.inputs.iter().any(|known| known.eq_ignore_ascii_case(input))
    }

    /// Whether a version came out before this action took an input.
    pub fn is_too_old_for(&self, input: &str, version: Option<&str>) -> bool {
        let since = self.inputs_since.iter().find(|(name, _)| name.eq_ignore_ascii_case(input)).map(|(_, since)| *since);
        version.and_then(major).zip(since).is_some_and(|(number, since)| number < since)
    }

    /// Whether a version takes exactly the inputs that are listed; never known of one that is no number.
    pub fn is_complete_for(&self, version: Option<&str>) -> bool {
        version.and_then(major).is_some_and(|number| self.complete_for.contains(&number))
    }

    /// Whether a version came out after the catalog was looked at: of what it takes, nothing is known.
    pub fn is_newer_than_known(&self, version: Option<&str>) -> bool {
        let newest = self.newest.or(self.complete_for.iter().max().copied());
        version.and_then(major).zip(newest).is_some_and(|(number, newest)| number > newest)
    }

    /// The lowest major that is still kept up.
    pub fn lowest_kept_up(&self) -> Option<u32> {
        let gone = |major: &u32| [&self.retired, &self.ageing, &self.bundled].iter().any(|majors| majors.contains(major));
        (1..=self.newest?).find(|major| !gone(major))
    }

    /// The new name of an old input.
    pub fn renamed(&self, input: &str) -> Option<&str> {
        self.retired_inputs.iter().find(|(old, _)| old.eq_ignore_ascii_case(input)).map(|(_, new)| new.as_str())
    }
}

/// Artifacts of one generation are not seen by the other.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Generation {
    /// Which artifacts: `files` or `pages`.
    pub store: String,
    /// From this major on it is the new one.
    pub new_from: u32,
    /// It takes artifacts rather than handing them on.
    #[serde(default)]
    pub takes: bool,
}

/// The major number of a version such as `v4`, `4.2.1` or `v3-beta`.
pub fn major(version: &str) -> Option<u32> {
    let digits = version.strip_prefix('v').unwrap_or(version);
    let length = digits.bytes().take_while(u8::is_ascii_digit).count();
    let rest = &digits[length..];
    (length > 0 && length < 5 && (rest.is_empty() || rest.starts_with(['.', '-'])))
        .then(|| digits[..length].parse().ok())
        .flatten()
}

/// A permission that an action needs.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct ActionGrant {
    /// The scope.
    pub scope: String,
    /// `read` or `write`.
    pub level: String,
    /// The input that carries the token; another credential there and the grant is not needed.
    pub token: Option<String>,
    /// The variable that carries the token.
    pub env_token: Option<String>,
    /// Inputs that must be given.
    #[serde(default)]
    pub when: Vec<String>,
    /// Inputs that must not be given.
    #[serde(default)]
    pub unless: Vec<String>,
    /// A public repository works without it.
    #[serde(default)]
    pub visible_anyway: bool,
    /// What it is for, as the end of a sentence.
    pub why: String,
}

/// How an action publishes to another repository.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Elsewhere {
    /// The input that names it.
    pub input: String,
    /// The input that carries the token.
    pub token: String,
    /// Without that input it takes the job's own token.
    #[serde(default)]
    pub own_by_default: bool,
    /// Inputs that carry another credential.
    pub other_credentials: Vec<String>,
}

/// One thing that an action does.
#[derive(Debug, Deserialize)]
#[serde(tag = "what", rename_all = "kebab-case", rename_all_fields = "kebab-case", deny_unknown_fields)]
#[allow(missing_docs, reason = "the fields are named as the inputs they stand for; see catalog/actions")]
pub enum Deed {
    /// Brings sources.
    Checkout {
        into: Field,
        #[serde(rename = "ref")]
        reference: Field,
        repository: Field,
        submodules: Field,
        keeps: Option<Field>,
        depth: Option<Field>,
    },
    /// Makes a runtime or a manager ready.
    SetUp { tool: String, version: Option<Field>, version_file: Option<Field>, cache: Option<Field>, lockfiles: Option<Field> },
    /// Brings back a cache, and saves it when its job has run.
    Cache {
        key: Field,
        paths: Field,
        fallback: Field,
        #[serde(default = "yes")]
        saves: bool,
    },
    /// Saves a cache.
    SaveCache { key: Field, paths: Field },
    /// Builds a site.
    Build { generator: String, source: Field, output: Field },
    /// Hands files on.
    Upload { name: Field, paths: Option<Field>, exclusive_from: Option<u32> },
    /// Brings files that a job handed on.
    Download { name: Field, into: Field, pattern: Field, merge: Field, elsewhere: Vec<String> },
    /// Brings files from somewhere that is not this run.
    Fetch { into: Field },
    /// Puts a site online.
    Publish {
        target: Target,
        folder: Option<Field>,
        branch: Option<Field>,
        artifact: Option<Field>,
        #[serde(default)]
        place: Vec<Field>,
        #[serde(default)]
        creates_branch: bool,
        environment: Option<String>,
        inside: Option<Field>,
    },
    /// Runs a command of its tool: `input` holds its words, and `before` stands in front of them.
    Command { input: Field, before: String, dir: Field },
    /// Publishes an app that it builds itself unless `skips` says otherwise: `app` is its folder, `output` the built one in it, `ends` the
    /// word for taking one down.
    PublishApp { target: Target, app: Field, output: Field, skips: Field, does: Field, ends: String, scripts: Vec<String> },
    /// Installs packages.
    Install { manager: String },
    /// Looks at the sources, or tests them.
    Test { tool: String },
    /// Pushes commits.
    Push,
    /// Nothing to the folders.
    Nothing,
    /// May do anything to the folders.
    Anything,
}

/// A value that an input gives.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(from = "String")]
pub struct Field {
    /// The input; without one, the value is always the same.
    pub input: Option<String>,
    /// The value when the input is not given.
    pub default: Option<String>,
}

impl From<String> for Field {
    fn from(text: String) -> Self {
        let Some(rest) = text.strip_prefix('<') else { return Self { input: None, default: Some(text) } };
        let (input, default) = rest.split_once('>').unwrap_or((rest, ""));
        Self { input: Some(input.to_owned()), default: default.strip_prefix('|').map(str::to_owned) }
    }
}

fn yes() -> bool {
    true
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn fields_name_an_input_and_what_it_is_otherwise() {
        let read = |text: &str| Field::from(text.to_owned());
        assert_eq!(read("<path>|."), Field { input: Some("path".into()), default: Some(".".into()) });
        assert_eq!(read("<name>"), Field { input: Some("name".into()), default: None });
        assert_eq!(read("pages"), Field { input: None, default: Some("pages".into()) });
    }

    #[test]
    fn majors_are_read_from_versions_only() {
        for (version, expected) in [
            ("v4", Some(4)),
            ("4.2.1", Some(4)),
            ("v3-beta", Some(3)),
            ("main", None),
            ("8f4b7f84864484a7bf31", None),
            ("v", None),
        ] {
            assert_eq!(major(version), expected, "{version}");
        }
    }

    #[test]
    fn grants_name_scopes_and_levels_that_exist() {
        let scopes = &crate::formats::named("workflow").expect("the format").data().customs.scope;
        for action in crate::knowledge::actions().by_name.values() {
            for grant in &action.grants {
                assert!(scopes.iter().any(|scope| scope.id == grant.scope), "{}: {}", action.uses, grant.scope);
                assert!(crate::model::Level::of(&grant.level).is_some(), "{}: {}", action.uses, grant.level);
            }
        }
    }
}
