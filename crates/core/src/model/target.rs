//! Names that stand for something in the repository, and the kinds of places that a site goes to.

use std::borrow::Cow;
use std::fmt;

/// The kind of place that a site goes to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Target {
    /// The forge's own pages.
    ForgePages,
    /// A branch of a repository.
    Branch,
    /// A store of files that are served.
    Bucket,
    /// A machine, by way of its shell.
    Shell,
    /// A machine that takes files.
    FileServer,
    /// A host, by the name that the catalog has for it.
    Host(Cow<'static, str>),
}

impl Target {
    /// The word for it in the catalog, and where nothing better is known of the place.
    pub fn word(&self) -> &str {
        match self {
            Self::ForgePages => "pages",
            Self::Branch => "branch",
            Self::Bucket => "bucket",
            Self::Shell => "ssh",
            Self::FileServer => "ftp",
            Self::Host(id) => id,
        }
    }

    /// Nothing runs there: the files are served as they are.
    pub fn serves_files_only(&self) -> bool {
        !matches!(self, Self::Host(_))
    }

    /// It is filled file by file: two publishes at once, or one that is cut off, leave a mixture online. Others take a new site whole or
    /// not at all.
    pub fn is_filled_bit_by_bit(&self) -> bool {
        matches!(self, Self::Shell | Self::FileServer | Self::Bucket)
    }
}

impl Default for Target {
    fn default() -> Self {
        Self::Host(Cow::Borrowed(""))
    }
}

impl fmt::Display for Target {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(self.word())
    }
}

/// How a name begins that is a path from the repository's root.
const LOCAL: &str = "./";

/// How a name begins that is a path in the repository of the pipeline file, whatever was checked out. It is met in pipelines that
/// run, and its page was not at hand: it is followed where it leads to a file, and nothing is said where it does not.
const BESIDE: &str = "$/";

/// Where something is found that is called or run by its name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Callee {
    /// At this path of the workspace: it is there only when this repository's files are.
    Workspace(String),
    /// At this path of the repository of the pipeline file, whatever was checked out.
    Repository(String),
    /// Somewhere else, or it is not known where.
    Elsewhere,
}

impl Callee {
    /// What a name stands for, where a path from the repository's root begins with `./`.
    pub fn of_name(name: &str) -> Self {
        match (local_path(name), name.strip_prefix(BESIDE)) {
            (Some(path), _) => Self::Workspace(path.to_owned()),
            (None, Some(path)) => Self::Repository(path.to_owned()),
            (None, None) => Self::Elsewhere,
        }
    }

    /// The path in the repository, as it is written.
    pub fn path(&self) -> Option<&str> {
        match self {
            Self::Workspace(path) | Self::Repository(path) => Some(path),
            Self::Elsewhere => None,
        }
    }
}

/// The path from the repository's root that the name of an action or of a called pipeline stands for, when it is one of this
/// repository.
pub fn local_path(name: &str) -> Option<&str> {
    name.strip_prefix(LOCAL)
}

/// A path from the repository's root, as the name of an action or of a called pipeline.
pub fn as_local_path(path: &str) -> String {
    format!("{LOCAL}{path}")
}
