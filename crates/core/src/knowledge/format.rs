//! Formats as data.

use super::{Among, Code, Customs, Grammar, List, Meant, OwnPublisher, SetUp, SignIn, Table, Word, near};

/// What is known of a format: `catalog/formats/<id>/`.
#[derive(Debug)]
pub struct FormatData {
    /// Places, keys, events, names.
    pub grammar: Grammar,
    /// What the format does by itself.
    pub customs: Customs,
    /// The forges that read it from folders of their own, where they differ.
    pub host: List<Host>,
    /// Lists of names that its reader needs.
    pub lists: Table<List<Word>>,
    /// The same written as code.
    pub code: Code,
    /// What it puts online itself.
    pub publisher: List<OwnPublisher>,
    /// What a run knows of itself.
    pub run: Run,
    /// How drafts set toolchains up, by the names of these.
    pub set_up: Table<SetUp>,
    /// How drafts sign in at hosts without a stored key, by the ids of these.
    pub sign_in: Table<SignIn>,
    /// Toolchains that drafts can publish with.
    pub publishes_with: List<Word>,
}

impl FormatData {
    /// What it does by itself where the forge runs it that reads the file at a path.
    pub fn customs_at(&'static self, path: &str) -> &'static Customs {
        let top = |path: &str| path.split('/').next().unwrap_or_default().to_owned();
        let host = self.host.iter().find(|host| top(host.folder) == top(path));
        host.map_or(&self.customs, |host| &host.customs)
    }

    /// A list of names; empty when the catalog has none of this name.
    pub fn list(&self, name: &str) -> &[&str] {
        self.lists.get(name).map_or(&[], |list| *list)
    }
}

/// What the runs of a format know of themselves.
#[derive(Debug)]
pub struct Run {
    /// Values by event and name.
    pub run: Table<Table<Word>>,
    /// Which values are names of branches and tags, and who writes them.
    pub values: RunValues,
    /// Beginnings of the names that the run sets itself.
    pub own_starts: List<Word>,
    /// What the run knows of itself, by name: `commit`, `run`, `ref`, `os` or `job`.
    pub facts: Table<Word>,
    /// All names that the forge sets, where that is known.
    pub predefined: List<Word>,
    /// Names that people write for those.
    pub mistaken_names: Table<Word>,
    /// Values that come from a closed set.
    pub(super) closed: List<ClosedSet>,
    /// Variables of the run that are the same in every run.
    pub steady_names: List<Word>,
}

impl Run {
    /// The closed set that the values of a name come from. Upper and lower case do not matter in paths of several parts.
    pub fn closed(&'static self, path: &[&str]) -> Option<&'static ClosedSet> {
        let part = |known: &str, part: &str| known == "*" || known.eq_ignore_ascii_case(part);
        let is = |name: &&str| {
            let parts: Vec<&str> = name.split('.').collect();
            parts.len() == path.len() && parts.iter().zip(path).all(|(known, one)| part(known, one))
        };
        self.closed.iter().find(|set| set.names.iter().any(is))
    }

    /// The predefined name that is meant by one that the forge does not set: a slip of it, or what people write in its place.
    pub fn meant_name(&self, name: &str) -> Option<Meant> {
        if self.predefined.is_empty() || self.predefined.contains(&name) {
            return None;
        }
        let mistaken = self.mistaken_names.get(name).map(|word| Meant::perhaps(*word));
        mistaken.or_else(|| near(name, self.predefined.iter().copied(), Among::Closed).filter(|meant| meant.sure))
    }
}

/// What a value of a closed set says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WordsOf {
    /// What started the run, and on what.
    Start,
    /// How something ended.
    End,
    /// What it runs on, and whatever else.
    Machine,
}

/// The words that a value may be, and no others.
#[derive(Debug)]
pub struct ClosedSet {
    /// Dotted paths, or names of variables; `*` for any part.
    pub names: List<Word>,
    pub(super) words: List<Word>,
    /// What the value says.
    pub of: WordsOf,
    /// Words of the list that this value never is, each with the reason.
    pub(super) never: Table<Word>,
    /// Words that people write for those.
    pub(super) mistaken: Table<Word>,
}

impl ClosedSet {
    /// All words, those of the events filled in.
    pub fn words(&'static self, grammar: &'static Grammar) -> Vec<&'static str> {
        let never = |word: &&str| !self.never.has(word);
        if self.words == ["events"] {
            return grammar.events().filter(never).collect();
        }
        self.words.to_vec()
    }

    /// Why a word that looks like one of them is none.
    pub fn because(&'static self, word: &str) -> Option<&'static str> {
        self.never.get(word).copied()
    }

    /// The word that is meant by one that is none of them.
    pub fn meant(&self, word: &str, words: &[&str]) -> Option<Meant> {
        let mistaken = self.mistaken.get(&word.to_ascii_lowercase()).map(|word| Meant::perhaps(*word));
        mistaken.or_else(|| near(word, words.iter().copied(), Among::Closed))
    }
}

/// Which values of a run are what.
#[derive(Debug)]
pub struct RunValues {
    /// Full names such as `refs/heads/main`.
    pub full: List<Word>,
    /// Short names such as `main`.
    pub short: List<Word>,
    /// Those of them that hold a tag and nothing else.
    pub tags: List<Word>,
    /// The name that holds the full name, for one that holds a short one.
    pub full_of: Table<Word>,
    /// Words that a stranger can write, by the start of their path, with the events that bring them.
    pub strangers_words: Table<List<Word>>,
    /// Fields of theirs that the forge makes itself, such as the id of a commit.
    pub made_fields: List<Word>,
    /// What the runner's own variables hold, by the names that conditions know.
    pub variables: Table<Word>,
    /// The name of the branch that a pull request comes from.
    pub their_branches: List<Word>,
    /// Commits and branches of a stranger.
    pub strangers_refs: List<Word>,
    /// The commit, branch or tag that started the run.
    pub own_refs: List<Word>,
    /// Branches of which a pull request names one, or of which the name is no branch in every run.
    pub passing_refs: List<Word>,
    /// The commit, branch and artifacts of a run that is followed.
    pub of_followed: List<Word>,
    /// This repository.
    pub own_repository: List<Word>,
    /// Events by name that give a stranger's words or commits to a run with the repository's rights.
    pub privileged: List<Word>,
}

/// A folder that a forge reads files of a format from.
#[derive(Debug)]
pub struct Host {
    /// Relative to the repository's root.
    pub folder: Word,
    /// What it does by itself: the format's customs, with its own in their place.
    pub customs: Customs,
}
