//! What a job's token may do.

use super::Text;
use crate::text::Place;

/// What a token may do.
#[derive(Clone, Debug)]
pub struct Grant {
    /// The value, or the block.
    pub at: Place,
    /// The key before it.
    pub key: Place,
    /// What it says.
    pub kind: GrantKind,
}

/// The ways to grant.
#[derive(Clone, Debug)]
pub enum GrantKind {
    /// One level for all scopes.
    All(Level),
    /// A level for each scope that is named, none for all others.
    Scopes(Vec<(Text, Text)>),
    /// Written in a way that is not understood.
    Unknown,
}

/// How much may be done.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// Nothing.
    None,
    /// Look.
    Read,
    /// Look and change.
    Write,
}

impl Level {
    /// The level of a word.
    pub fn of(word: &str) -> Option<Self> {
        match word {
            "none" => Some(Self::None),
            "read" => Some(Self::Read),
            "write" => Some(Self::Write),
            _ => None,
        }
    }

    /// What somebody with it may do.
    pub fn meaning(self) -> &'static str {
        match self {
            Self::None => "may do nothing",
            Self::Read => "may look, and change nothing",
            Self::Write => "may look and change",
        }
    }

    /// The word of a level.
    pub fn word(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Read => "read",
            Self::Write => "write",
        }
    }
}
