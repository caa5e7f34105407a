//! The workflow format as data.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::{Customs, Grammar};

/// `catalog/workflow/`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub struct Workflow {
    /// Places, keys, events, names.
    pub grammar: Grammar,
    /// The folders that files are read from.
    pub host: Vec<Host>,
    /// The name of the artifact that the forge's pages are made of.
    pub pages_artifact: String,
    /// What the format does by itself.
    pub customs: Customs,
    /// What a run knows of itself.
    #[serde(flatten)]
    pub run: Run,
}

/// `catalog/gitlab/`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub struct Gitlab {
    /// Places, keys, names.
    pub grammar: Grammar,
    /// What the format does by itself.
    pub customs: Customs,
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
    /// Beginnings of the names that the run sets itself.
    #[serde(default)]
    pub own_starts: Vec<String>,
    /// What the run knows of itself, by name: `commit`, `run`, `ref`, `os` or `job`.
    pub facts: BTreeMap<String, String>,
    /// Variables of the run that are the same in every run.
    #[serde(default)]
    pub steady_names: Vec<String>,
}

/// Which values of a run are what.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct RunValues {
    /// Full names such as `refs/heads/main`.
    pub full: Vec<String>,
    /// Short names such as `main`.
    pub short: Vec<String>,
    /// The name that holds the full name, for one that holds a short one.
    #[serde(default)]
    pub full_of: BTreeMap<String, String>,
    /// Words that a stranger can write, by the start of their path, with the events that bring them.
    pub strangers_words: BTreeMap<String, Vec<String>>,
    /// Fields of theirs that the forge makes itself, such as the id of a commit.
    #[serde(default)]
    pub made_fields: Vec<String>,
    /// What the runner's own variables hold, by the names that conditions know.
    #[serde(default)]
    pub variables: BTreeMap<String, String>,
    /// The name of the branch that a pull request comes from.
    #[serde(default)]
    pub their_branches: Vec<String>,
    /// Commits and branches of a stranger.
    pub strangers_refs: Vec<String>,
    /// The commit, branch or tag that started the run.
    #[serde(default)]
    pub own_refs: Vec<String>,
    /// Branches of which a pull request names one, or of which the name is no branch in every run.
    #[serde(default)]
    pub passing_refs: Vec<String>,
    /// This repository.
    #[serde(default)]
    pub own_repository: Vec<String>,
    /// Events by name that give a stranger's words or commits to a run with the repository's rights.
    pub privileged: Vec<String>,
}

/// A folder that workflow files are read from.
#[derive(Debug, Deserialize)]
pub struct Host {
    /// Relative to the repository's root.
    pub folder: String,
    /// What it does by itself: the format's customs, with its own in their place.
    pub customs: Customs,
}
