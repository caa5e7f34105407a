//! Formats as data.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::{Among, Code, Customs, Grammar, Meant, OwnPublisher, near};

/// What is known of a format: `catalog/formats/<id>/`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub struct FormatData {
    /// Places, keys, events, names.
    pub grammar: Grammar,
    /// What the format does by itself.
    pub customs: Customs,
    /// The forges that read it from folders of their own, where they differ.
    #[serde(default)]
    pub host: Vec<Host>,
    /// Lists of names that its reader needs.
    #[serde(default)]
    pub lists: BTreeMap<String, Vec<String>>,
    /// The same written as code.
    #[serde(default)]
    pub code: Code,
    /// What it puts online itself.
    #[serde(default)]
    pub publisher: Vec<OwnPublisher>,
    /// What a run knows of itself.
    #[serde(flatten)]
    pub run: Run,
}

impl FormatData {
    /// Reads what `build.rs` made of the catalog's folder. A test reads every format, so that it can always be read.
    pub fn read(id: &str, json: &str) -> Self {
        super::read(id, json)
    }

    /// What it does by itself where the forge runs it that reads the file at a path.
    pub fn customs_at(&'static self, path: &str) -> &'static Customs {
        let top = |path: &str| path.split('/').next().unwrap_or_default().to_owned();
        let host = self.host.iter().find(|host| top(&host.folder) == top(path));
        host.map_or(&self.customs, |host| &host.customs)
    }

    /// A list of names; empty when the catalog has none of this name.
    pub fn list(&self, name: &str) -> &[String] {
        self.lists.get(name).map_or(&[], Vec::as_slice)
    }
}

/// The data of a format, read once.
macro_rules! format_data {
    ($id:literal) => {{
        static DATA: std::sync::LazyLock<$crate::knowledge::FormatData> = std::sync::LazyLock::new(|| {
            $crate::knowledge::FormatData::read($id, include_str!(concat!(env!("OUT_DIR"), "/formats/", $id, ".json")))
        });
        &DATA
    }};
}
pub(crate) use format_data;

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
    /// All names that the forge sets, where that is known.
    #[serde(default)]
    pub predefined: Vec<String>,
    /// Names that people write for those.
    #[serde(default)]
    pub mistaken_names: BTreeMap<String, String>,
    /// Values that come from a closed set.
    #[serde(default)]
    closed: Vec<ClosedSet>,
    /// Variables of the run that are the same in every run.
    #[serde(default)]
    pub steady_names: Vec<String>,
}

impl Run {
    /// The closed set that the values of a name come from. Upper and lower case do not matter in paths of several parts.
    pub fn closed(&'static self, path: &[&str]) -> Option<&'static ClosedSet> {
        let part = |known: &str, part: &str| known == "*" || known.eq_ignore_ascii_case(part);
        let is = |name: &String| {
            let parts: Vec<&str> = name.split('.').collect();
            parts.len() == path.len() && parts.iter().zip(path).all(|(known, one)| part(known, one))
        };
        self.closed.iter().find(|set| set.names.iter().any(is))
    }

    /// The predefined name that is meant by one that the forge does not set: a slip of it, or what people write in its place.
    pub fn meant_name(&self, name: &str) -> Option<Meant> {
        if self.predefined.is_empty() || self.predefined.iter().any(|known| known == name) {
            return None;
        }
        let mistaken = self.mistaken_names.get(name).map(Meant::perhaps);
        mistaken.or_else(|| near(name, self.predefined.iter().map(String::as_str), Among::Closed).filter(|meant| meant.sure))
    }
}

/// What a value of a closed set says.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum WordsOf {
    /// What started the run, and on what.
    Start,
    /// How something ended.
    End,
    /// What it runs on, and whatever else.
    Machine,
}

/// The words that a value may be, and no others.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct ClosedSet {
    /// Dotted paths, or names of variables; `*` for any part.
    pub names: Vec<String>,
    words: Vec<String>,
    /// What the value says.
    pub of: WordsOf,
    /// Words of the list that this value never is, each with the reason.
    #[serde(default)]
    never: BTreeMap<String, String>,
    /// Words that people write for those.
    #[serde(default)]
    mistaken: BTreeMap<String, String>,
}

impl ClosedSet {
    /// All words, those of the events filled in.
    pub fn words(&'static self, grammar: &'static Grammar) -> Vec<&'static str> {
        let never = |word: &&str| !self.never.contains_key(*word);
        if self.words == ["events"] {
            return grammar.events().filter(never).collect();
        }
        self.words.iter().map(String::as_str).collect()
    }

    /// Why a word that looks like one of them is none.
    pub fn because(&'static self, word: &str) -> Option<&'static str> {
        self.never.get(word).map(String::as_str)
    }

    /// The word that is meant by one that is none of them.
    pub fn meant(&self, word: &str, words: &[&str]) -> Option<Meant> {
        let mistaken = self.mistaken.get(&word.to_ascii_lowercase()).map(Meant::perhaps);
        mistaken.or_else(|| near(word, words.iter().copied(), Among::Closed))
    }
}

/// Which values of a run are what.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct RunValues {
    /// Full names such as `refs/heads/main`.
    pub full: Vec<String>,
    /// Short names such as `main`.
    pub short: Vec<String>,
    /// Those of them that hold a tag and nothing else.
    #[serde(default)]
    pub tags: Vec<String>,
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
    /// The commit, branch and artifacts of a run that is followed.
    #[serde(default)]
    pub of_followed: Vec<String>,
    /// This repository.
    #[serde(default)]
    pub own_repository: Vec<String>,
    /// Events by name that give a stranger's words or commits to a run with the repository's rights.
    pub privileged: Vec<String>,
}

/// A folder that a forge reads files of a format from.
#[derive(Debug, Deserialize)]
pub struct Host {
    /// Relative to the repository's root.
    pub folder: String,
    /// What it does by itself: the format's customs, with its own in their place.
    pub customs: Customs,
}
