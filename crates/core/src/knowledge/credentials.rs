//! How credentials look, as data.

use super::{List, Word};

/// `catalog/credentials.toml`.
#[derive(Debug)]
pub struct Credentials {
    /// Known formats.
    pub credential: List<Credential>,
    /// Options of programs after which one stands.
    pub options: List<CredentialOption>,
    /// Names of values.
    pub names: CredentialNames,
}

/// An option after which a credential stands.
#[derive(Debug)]
pub struct CredentialOption {
    /// The program.
    pub program: Word,
    /// The option, as it is written.
    pub option: Word,
    /// The credential stands behind a name and a colon.
    pub behind_colon: bool,
}

/// One format.
#[derive(Debug)]
pub struct Credential {
    /// How it starts.
    pub prefix: Word,
    /// How many characters follow at least.
    pub rest: usize,
}

/// Names whose value is taken for a credential.
#[derive(Debug)]
pub struct CredentialNames {
    /// In lower case.
    pub parts: List<Word>,
    /// Endings of names that name a credential rather than hold one.
    pub unless: List<Word>,
    /// Parts of values that are only examples.
    pub examples: List<Word>,
}

impl Credentials {
    /// Whether a name is one that a credential is kept under.
    pub fn names_one(&self, name: &str) -> bool {
        let lower = name.to_ascii_lowercase();
        self.names.parts.iter().any(|part| lower.contains(part)) && !self.names.unless.iter().any(|part| lower.ends_with(part))
    }
}
