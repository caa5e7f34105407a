//! A right pipeline for a repository where there is none: [`Plan`] is what such a pipeline has to do here, told by the facts, and each format
//! writes it in its own words.

mod base;
mod choice;
mod packages;
mod paper;
mod plan;
mod publishing;
mod tools;
mod work;

use std::fmt;

pub use choice::{Chosen, choose, fits, hosts_of, usual_path};
pub use paper::{Head, Paper, in_double_quotes, in_shell, in_yaml};
pub use plan::{Command, Kept, Plan};
pub use publishing::{Publishing, Way};
pub use tools::Tooling;

use crate::facts::Facts;
use crate::formats::Format;
use crate::knowledge::SiteHost;
use crate::text::Sources;

/// A pipeline as it was drafted.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Draft {
    /// Where it belongs, from the root.
    pub path: String,
    /// The file.
    pub text: String,
}

/// What drafts a pipeline in the words of one format.
pub trait Drafter: fmt::Debug + Sync {
    /// Where its file belongs, from the root.
    fn path(&self) -> &'static str;

    /// The host that most take with it, by its id.
    fn usual_host(&self, path: &str) -> &'static str;

    /// Whether the forge that reads a file at a path has the format's own ways to hosts.
    fn has_own_ways(&self, path: &str) -> bool {
        let _ = path;
        true
    }

    /// Whether the machine that publishes has a toolchain, or gets it.
    fn has_tool(&self, path: &str, tool: &str) -> bool {
        let _ = (path, tool);
        true
    }

    /// The file.
    fn write(&self, plan: &Plan<'_>, path: &str) -> String;
}

/// Why none can be drafted, and what would help.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refused(pub String);

impl fmt::Display for Refused {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(&self.0)
    }
}

impl std::error::Error for Refused {}

impl Chosen {
    /// Drafts a pipeline in the chosen format for the chosen host.
    ///
    /// # Errors
    /// As [`draft`].
    pub fn draft(&self, facts: &Facts, sources: &Sources) -> Result<Draft, Refused> {
        draft(facts, sources, (self.format, &self.path), self.host)
    }
}

/// Drafts a pipeline that builds the repository's site and puts it on a host.
///
/// # Errors
/// When the format and the host do not fit each other, or the repository makes something that the host cannot serve.
pub fn draft(
    facts: &Facts,
    sources: &Sources,
    (format, path): (&dyn Format, &str),
    host: &'static SiteHost,
) -> Result<Draft, Refused> {
    fits(format, path, host)?;
    let plan = Plan::of(facts, sources, host)?;
    let drafter = format.drafter().ok_or_else(|| Refused(format!("dulk drafts nothing in the format {}", format.id())))?;
    Ok(Draft { path: path.to_owned(), text: drafter.write(&plan, path) })
}
