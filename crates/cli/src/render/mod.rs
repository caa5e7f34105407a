//! What was found, for people and for programs.

pub mod detail;
pub mod grid;
pub mod json;
pub mod junit;
pub mod picture;
pub mod sarif;
pub mod text;

use dulk_core::finding::WitnessSource;
use dulk_core::rehearsal::Answer;

/// The word for whether a pipeline starts.
pub fn start_word(answer: Answer) -> &'static str {
    match answer {
        Answer::Yes => "starts",
        Answer::Unsure => "may start",
        Answer::No => "does not start",
    }
}

/// The word for where a witness is known from.
pub fn source_word(source: &WitnessSource) -> &'static str {
    match source {
        WitnessSource::Git => "git",
        WitnessSource::Files => "files",
        WitnessSource::At(_) => "file",
        WitnessSource::Catalog => "manual",
    }
}
