//! Well-known actions as data.

use super::{List, Table, Word};
use crate::model::Target;
/// `catalog/actions/`.
#[derive(Debug)]
pub struct Actions {
    /// By their names in small letters.
    pub(super) action: Table<Action>,
}

impl Actions {
    /// The names of all of them.
    pub fn names(&self) -> impl Iterator<Item = Word> {
        self.action.values().map(|action| action.uses)
    }

    /// The action of a name without its version; upper and lower case do not matter.
    pub fn get(&self, name: &str) -> Option<&'static Action> {
        match name.bytes().any(|byte| byte.is_ascii_uppercase()) {
            true => self.action.get(&name.to_ascii_lowercase()),
            false => self.action.get(name),
        }
    }
}

/// One action.
#[derive(Debug)]
pub struct Action {
    /// Variables that it sets for the steps after it.
    pub gives: List<Word>,
    /// Inputs whose folders must end in a slash.
    pub slash_inputs: List<Word>,
    /// How it publishes to another repository.
    pub elsewhere: Option<Elsewhere>,
    /// `owner/name`, without version.
    pub uses: Word,
    /// What it does, in order.
    pub does: List<Deed>,
    /// What the job's token must be allowed for it.
    pub grants: List<ActionGrant>,
    /// The store of artifacts that it uses.
    pub generation: Option<Generation>,
    /// From this major on, hidden files are left out.
    pub hides_from: Option<u32>,
    /// Inputs that are run as a program.
    pub scripts: List<Word>,
    /// The input by which it tells the generator the path that the site is served under.
    pub base_input: Option<Word>,
    /// Its manual tells to use a branch.
    pub moving_is_meant: bool,
    /// The newest major version known here.
    pub newest: Option<u32>,
    /// Majors that no longer run.
    pub retired: List<u32>,
    /// Majors made for a runtime that has ended.
    pub ageing: List<u32>,
    /// Majors that were a part of the runner itself, and are kept up no more.
    pub bundled: List<u32>,
    /// What it takes.
    pub inputs: List<Word>,
    /// The first major that takes an input, where not all of them do.
    pub inputs_since: Table<u32>,
    /// Majors of which the lists of inputs and outputs were taken: they take and give nothing else.
    pub complete_for: List<u32>,
    /// Inputs that must be given.
    pub required: List<Word>,
    /// Old names of inputs and the new ones; "" for those that are gone.
    pub retired_inputs: Table<Word>,
    /// What it gives.
    pub outputs: List<Word>,
    /// Groups of inputs, or of variables as `env:NAME`: of each group one must be given.
    pub credentials: List<List<Word>>,
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

    /// The kind of names that the value of an input is one of: `artifacts`, `branches` or `folders`.
    pub fn kind_of_input(&self, input: &str) -> Option<&'static str> {
        let is = |field: &Field| field.input.is_some_and(|name| name.eq_ignore_ascii_case(input));
        let one_of = |fields: &[Option<&Field>]| fields.iter().flatten().any(|field| is(field));
        self.does.iter().find_map(|deed| {
            let (artifacts, branches, folders): (&[Option<&Field>], Option<&Field>, [Option<&Field>; 2]) = match deed {
                Deed::Download { name, into, .. } => (&[Some(name)], None, [Some(into), None]),
                Deed::Publish { folder, branch, artifact, .. } => {
                    (&[artifact.as_ref()], branch.as_ref(), [folder.as_ref(), None])
                }
                Deed::Checkout { into, reference, .. } => (&[], Some(reference), [Some(into), None]),
                Deed::Upload { paths, .. } => (&[], None, [paths.as_ref(), None]),
                Deed::Build { source, output, .. } => (&[], None, [Some(source), Some(output)]),
                Deed::PublishApp { app, output, .. } => (&[], None, [Some(app), Some(output)]),
                Deed::Cache { paths, .. } | Deed::SaveCache { paths, .. } => (&[], None, [Some(paths), None]),
                Deed::Command { dir, .. } => (&[], None, [Some(dir), None]),
                _ => return None,
            };
            let kinds = [(one_of(artifacts), "artifacts"), (one_of(&[branches]), "branches"), (one_of(&folders), "folders")];
            kinds.into_iter().find(|(is_it, _)| *is_it).map(|(_, kind)| kind)
        })
    }

    /// The new name of an old input.
    pub fn renamed(&self, input: &str) -> Option<&str> {
        self.retired_inputs.iter().find(|(old, _)| old.eq_ignore_ascii_case(input)).map(|(_, new)| *new)
    }
}

/// Artifacts of one generation are not seen by the other.
#[derive(Debug)]
pub struct Generation {
    /// Which artifacts: `files` or `pages`.
    pub store: Word,
    /// From this major on it is the new one.
    pub new_from: u32,
    /// It takes artifacts rather than handing them on.
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
#[derive(Debug)]
pub struct ActionGrant {
    /// The scope.
    pub scope: Word,
    /// `read` or `write`.
    pub level: Word,
    /// The input that carries the token; another credential there and the grant is not needed.
    pub token: Option<Word>,
    /// The variable that carries the token.
    pub env_token: Option<Word>,
    /// Inputs that must be given.
    pub when: List<Word>,
    /// Inputs that must not be given.
    pub unless: List<Word>,
    /// A public repository works without it.
    pub visible_anyway: bool,
    /// What it is for, as the end of a sentence.
    pub why: Word,
}

/// How an action publishes to another repository.
#[derive(Debug)]
pub struct Elsewhere {
    /// The input that names it.
    pub input: Word,
    /// The input that carries the token.
    pub token: Word,
    /// Without that input it takes the job's own token.
    pub own_by_default: bool,
    /// Inputs that carry another credential.
    pub other_credentials: List<Word>,
}

/// One thing that an action does.
#[derive(Debug)]
#[allow(missing_docs, reason = "the fields are named as the inputs they stand for; see catalog/actions")]
pub enum Deed {
    /// Brings sources.
    Checkout { into: Field, reference: Field, repository: Field, submodules: Field, keeps: Option<Field>, depth: Option<Field> },
    /// Makes a runtime or a manager ready.
    SetUp { tool: Word, version: Option<Field>, version_file: Option<Field>, cache: Option<Field>, lockfiles: Option<Field> },
    /// Brings back a cache, and saves it when its job has run.
    Cache { key: Field, paths: Field, fallback: Field, only_restores: bool },
    /// Saves a cache.
    SaveCache { key: Field, paths: Field },
    /// Builds a site.
    Build { generator: Word, source: Field, output: Field },
    /// Hands files on.
    Upload { name: Field, paths: Option<Field>, exclusive_from: Option<u32> },
    /// Brings files that a job handed on.
    Download { name: Field, into: Field, pattern: Field, merge: Field, elsewhere: List<Word> },
    /// Brings files from somewhere that is not this run.
    Fetch { into: Field },
    /// Puts a site online.
    Publish {
        target: Target,
        folder: Option<Field>,
        branch: Option<Field>,
        artifact: Option<Field>,
        place: List<Field>,
        creates_branch: bool,
        environment: Option<Word>,
        inside: Option<Field>,
    },
    /// Runs a command of its tool: `input` holds its words, and `before` stands in front of them.
    Command { input: Field, before: Word, dir: Field },
    /// Publishes an app that it builds itself unless `skips` says otherwise: `app` is its folder, `output` the built one in it, `ends` the
    /// word for taking one down.
    PublishApp { target: Target, app: Field, output: Field, skips: Field, does: Field, ends: Word, scripts: List<Word> },
    /// Installs packages.
    Install { manager: Word },
    /// Looks at the sources, or tests them.
    Test { tool: Word },
    /// Pushes commits.
    Push,
    /// Nothing to the folders.
    Nothing,
    /// May do anything to the folders.
    Anything,
}

/// A value that an input gives.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Field {
    /// The input; without one, the value is always the same.
    pub input: Option<Word>,
    /// The value when the input is not given.
    pub default: Option<Word>,
}

#[cfg(test)]
mod tests {
    use super::*;

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
        for action in crate::knowledge::actions().action.values() {
            for grant in action.grants {
                assert!(scopes.iter().any(|scope| scope.id == grant.scope), "{}: {}", action.uses, grant.scope);
                assert!(crate::model::Level::of(grant.level).is_some(), "{}: {}", action.uses, grant.level);
            }
        }
    }
}
