//! The workflow format as data.

use std::collections::{BTreeMap, HashMap};

use serde::Deserialize;

use super::Grammar;

/// `catalog/workflow/`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub struct Workflow {
    /// Places, keys, events, names.
    pub grammar: Grammar,
    /// The folders that files are read from.
    pub host: Vec<Host>,
    /// Where forges serve a repository's pages.
    pub pages: Vec<PagesHost>,
    /// The name of the artifact that the forge's pages are made of.
    pub pages_artifact: String,
    /// Beginnings of the labels of the forge's own machines.
    pub hosted_starts: Vec<String>,
    /// Permission scopes.
    pub scope: Vec<Scope>,
    /// What a token gets without a block, by the repository's setting.
    pub default_grant: HashMap<String, Vec<String>>,
    /// What a run knows of itself.
    #[serde(flatten)]
    pub run: Run,
    /// Commands that a script writes to its output for the runner, and what has become of them.
    pub retired_command: Vec<RetiredCommand>,
}

/// `catalog/gitlab/`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub struct Gitlab {
    /// Places, keys, names.
    pub grammar: Grammar,
    /// Top keys that are no jobs.
    pub reserved: Vec<String>,
    /// What a run knows of itself.
    #[serde(flatten)]
    pub run: Run,
}

/// What the runs of a format know of themselves.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub struct Run {
    /// Values by event and name.
    pub run: BTreeMap<String, BTreeMap<String, String>>,
    /// Which values are names of branches and tags, and who writes them.
    pub values: RunValues,
    /// The clock comes no more often than every so many minutes.
    pub least_minutes: i64,
    /// A cache is saved anew by every run; without it, once only under each key.
    #[serde(default)]
    pub renews_caches: bool,
    /// Variables that held a token of the run's identity, and are no longer set.
    #[serde(default)]
    pub gone_tokens: Vec<String>,
    /// Everything that is read is a variable with a bare name; without it, contexts say what a read is.
    #[serde(default)]
    pub reads_variables: bool,
    /// Names of the job's own token.
    pub own_tokens: Vec<String>,
    /// Beginnings of the names that the run sets itself.
    #[serde(default)]
    pub own_starts: Vec<String>,
    /// What the run knows of itself, by name: `commit`, `run`, `ref`, `os` or `job`.
    pub facts: BTreeMap<String, String>,
    /// Words in a commit's message, or options of the push, that keep the push from starting anything.
    pub skip_words: Vec<String>,
    /// The most files that a cache's key may be made of.
    #[serde(default)]
    pub most_hashed: Option<usize>,
    /// Variables of the run that are the same in every run.
    #[serde(default)]
    pub steady_names: Vec<String>,
    /// Beginnings of names that no secret may have.
    #[serde(default)]
    pub reserved_starts: Vec<String>,
    /// Secrets that the forge looks for itself, and that may be there or not.
    #[serde(default)]
    pub switches: Vec<String>,
    /// A fork's pull request runs in the fork, with the fork's own secrets.
    #[serde(default)]
    pub forks_run_at_home: bool,
    /// Variables that the run no longer sets, with those that took their place.
    #[serde(default)]
    pub gone_variables: BTreeMap<String, String>,
}

/// Which values of a run are what.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct RunValues {
    /// Full names such as `refs/heads/main`.
    pub full: Vec<String>,
    /// Short names such as `main`.
    pub short: Vec<String>,
    /// Words that a stranger can write, by the start of their path, with the events that bring them.
    pub strangers_words: BTreeMap<String, Vec<String>>,
    /// Commits and branches of a stranger.
    pub strangers_refs: Vec<String>,
    /// The commit, branch or tag that started the run.
    #[serde(default)]
    pub own_refs: Vec<String>,
    /// This repository.
    #[serde(default)]
    pub own_repository: Vec<String>,
    /// Events by name that give a stranger's words or commits to a run with the repository's rights.
    pub privileged: Vec<String>,
}

/// A command to the runner that has been switched off or is about to be.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct RetiredCommand {
    /// As it starts, such as `::set-env`.
    pub start: String,
    /// It fails now.
    #[serde(default)]
    pub fails: bool,
    /// What to write instead; `NAME` and `VALUE` stand for its parts.
    pub instead: String,
}

/// Where a forge serves the pages of its repositories.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PagesHost {
    /// The forge's own host.
    pub forge: String,
    /// The host of the pages; `{owner}` stands for the repository's owner.
    pub host: String,
}

/// A folder that workflow files are read from.
#[derive(Debug, Deserialize)]
pub struct Host {
    /// Relative to the repository's root.
    pub folder: String,
    /// It refuses keys that it does not know.
    pub strict: bool,
}

/// A permission scope.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Scope {
    /// As it is written.
    pub id: String,
    /// It knows no `read`.
    #[serde(default)]
    pub only_write: bool,
    /// It knows no `write`.
    #[serde(default)]
    pub only_read: bool,
    /// Not granted unless a block names it.
    #[serde(default)]
    pub never_by_default: bool,
}
