//! Asks a forge what no file of a repository shows: names of secrets and variables, environments and who may deploy to them, the default
//! branch, what a job's token may do, and where pages come from. Names only: no value is asked for, and one that comes along is dropped.
//!
//! This is the only part of Dulk that opens a connection, and only when it is told to.

mod client;
mod gitlab;
mod place;
pub mod standin;
mod workflow;
mod written;

use std::time::Duration;

pub use client::{Failure, Token};
pub use place::{Kind, Place};
pub use written::{Change, written};

/// What the forge tells of one thing, or why it does not.
pub type Told<T> = Result<T, Failure>;

/// What was learnt of a repository.
#[derive(Debug)]
pub struct Learnt {
    /// The branch that the forge shows first.
    pub default_branch: Told<String>,
    /// The names of all secrets that jobs may read without an environment, sorted.
    pub secrets: Told<Vec<String>>,
    /// The same of variables.
    pub variables: Told<Vec<String>>,
    /// What a job's token may do where the file does not say: `read` or `write`.
    pub token: Told<String>,
    /// Where pages come from: `pipeline` or `branch:NAME`; nothing where the repository has none.
    pub pages: Told<Option<String>>,
    /// The environments by their names, in the forge's order.
    pub environments: Told<Vec<(String, LearntEnvironment)>>,
}

/// What was learnt of an environment.
#[derive(Debug)]
pub struct LearntEnvironment {
    /// Patterns of the branches and tags that may deploy to it; nothing where all may.
    pub branches: Told<Option<Vec<String>>>,
    /// The names of its own secrets, sorted.
    pub secrets: Told<Vec<String>>,
    /// The names of its own variables, sorted.
    pub variables: Told<Vec<String>>,
}

/// Asks a forge about a repository. `patience` is how long one answer may take.
///
/// # Errors
/// When nothing can be learnt: there is no such repository, nobody answers, or the token is not taken.
pub fn ask(place: &Place, token: Option<Token>, patience: Duration) -> Result<Learnt, Failure> {
    let client = client::Client::new(place, token, patience);
    match place.kind {
        Kind::Workflow => workflow::ask(&client, place),
        Kind::Gitlab => gitlab::ask(&client, place),
    }
}
