//! How credentials look, as data.

use serde::Deserialize;

/// `catalog/credentials.toml`.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Credentials {
    /// Known formats.
    pub credential: Vec<Credential>,
    /// Options of programs after which one stands.
    pub options: Vec<CredentialOption>,
    /// Names of values.
    pub names: Names,
}

/// An option after which a credential stands.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CredentialOption {
    /// The program.
    pub program: String,
    /// The option, as it is written.
    pub option: String,
    /// The credential stands behind a name and a colon.
    #[serde(default)]
    pub behind_colon: bool,
}

/// One format.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Credential {
    /// How it starts.
    pub prefix: String,
    /// How many characters follow at least.
    pub rest: usize,
}

/// Names whose value is taken for a credential.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Names {
    /// In lower case.
    pub parts: Vec<String>,
    /// Endings of names that name a credential rather than hold one.
    pub unless: Vec<String>,
    /// Parts of values that are only examples.
    pub examples: Vec<String>,
}

impl Credentials {
    /// Whether a name is one that a credential is kept under.
    pub fn names_one(&self, name: &str) -> bool {
        let lower = name.to_ascii_lowercase();
        self.names.parts.iter().any(|part| lower.contains(part.as_str()))
            && !self.names.unless.iter().any(|part| lower.ends_with(part.as_str()))
    }
}
