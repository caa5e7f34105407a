//! What stands at a place of a file, for editors: in words, where it is said, where it is used, and what may be written there.
//!
//! Everything here speaks in bytes of the texts as they are now; lines and columns are made by whoever asks.

mod goals;
mod hover;
mod outline;
mod runs;
mod spots;
mod written;

#[cfg(test)]
mod tests;

pub use goals::{definitions, is_taken, references, renamed};
pub use hover::{Hover, hover};
pub use outline::{Hint, Outlined, OutlinedKind, TimedJob, folds, hints, outline, timed_jobs, told_events};
pub use runs::Runs;
pub use spots::{Link, links};
pub use written::{Offer, OfferKind, Offers, offers, setting_offers};

use crate::case::Case;
use crate::effects::UsedAction;
use crate::knowledge::{self, Action};
use crate::project::Project;
use crate::text::FileId;

/// The pipelines that a file holds, or is a part of.
fn cases<'p>(project: &'p Project<'_>, file: FileId) -> impl Iterator<Item = Case<'p>> {
    let speaks = move |index: &usize| {
        let pipeline = &project.prepared[*index].pipeline;
        pipeline.file == file || pipeline.jobs.iter().any(|job| job.id.at.file == file || job.body.file == file)
    };
    (0..project.prepared.len()).filter(speaks).map(|index| project.case(index))
}

/// What is known of a ready-made action by its name, and the version that is asked for.
fn known_action(written: &str) -> Option<(&'static Action, Option<&str>)> {
    let used = UsedAction::of(written)?;
    Some((knowledge::actions().get(used.name)?, used.version))
}

/// A text of a file between backticks, as it is named in a sentence.
fn code(text: &str) -> String {
    let line = text.lines().next().unwrap_or_default();
    let cut: String = line.chars().take(120).collect();
    let more = if cut.len() < text.trim_end().len() { "…" } else { "" };
    format!("`{}{more}`", crate::shown::shown(&cut).replace('`', "'"))
}

/// Names between backticks, as people list them.
fn listed_code<T: AsRef<str>>(names: &[T]) -> String {
    crate::finding::listed(&names.iter().map(|name| code(name.as_ref())).collect::<Vec<_>>())
}
