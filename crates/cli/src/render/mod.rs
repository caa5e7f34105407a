//! What was found, for people and for programs.

pub mod detail;
pub mod grid;
pub mod json;
pub mod junit;
pub mod picture;
pub mod sarif;
pub mod text;

use dulk_core::finding::WitnessSource;

/// The word for where a witness is known from.
pub fn source_word(source: &WitnessSource) -> &'static str {
    match source {
        WitnessSource::Git => "git",
        WitnessSource::Files => "files",
        WitnessSource::At(_) => "file",
        WitnessSource::Catalog => "manual",
    }
}
