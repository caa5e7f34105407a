//! The strip of a file: its families in the order of work, so that the eye finds the weak spot before reading.

use crate::finding::{Finding, Severity};
use crate::rules::FAMILIES;

/// What a family has to say of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mark {
    /// Nothing.
    Fine,
    /// At worst this.
    Found(Severity),
    /// The file could not be read to its end, so that nobody knows.
    Unknown,
}

/// The families with their marks; `whole` says that the file could be read to its end.
pub fn strip(findings: &[Finding], whole: bool) -> Vec<(&'static str, Mark)> {
    let mark = |family: &'static str| {
        let worst = findings.iter().filter(|finding| finding.family() == family).map(|finding| finding.severity).max();
        match worst {
            Some(severity) => (family, Mark::Found(severity)),
            None if whole => (family, Mark::Fine),
            None => (family, Mark::Unknown),
        }
    };
    FAMILIES.into_iter().map(mark).collect()
}
