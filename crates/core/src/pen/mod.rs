//! How a fix is spelled: a rule says *what* is to be done, and the pen of the pipeline's format gives the words, and the edits where they
//! are sure.

mod gitlab;
mod workflow;

use crate::case::Case;
use crate::finding::{Edit, Mend};
use crate::model::{Dialect, Text};
use crate::text::{Place, Span};

/// What is to be done.
#[derive(Clone, Debug)]
pub enum Ask<'a> {
    /// Let a job wait for another one.
    WaitFor {
        /// The job that is to wait.
        job: usize,
        /// The one that comes first.
        other: usize,
    },
    /// Bring submodules with the sources of a job.
    Submodules {
        /// The job.
        job: usize,
        /// The step that brings the sources.
        step: usize,
    },
    /// Give a variable to the one place that reads it, rather than to all.
    NarrowVariable {
        /// Its name.
        name: &'a str,
        /// The job that reads it.
        job: usize,
    },
    /// Give a variable to what builds the page.
    GiveVariable {
        /// Its name.
        name: &'a str,
        /// The job that builds.
        job: usize,
    },
    /// Lay what another job handed on into a folder.
    FetchInto {
        /// The folder.
        folder: &'a str,
    },
    /// Hand a folder on.
    HandOn {
        /// The folder.
        folder: &'a str,
        /// The job that has it.
        job: usize,
    },
    /// Fetch what another job hands on.
    FetchFrom {
        /// The job that fetches.
        job: usize,
        /// The job that hands on.
        from: usize,
    },
    /// Run a job or step for pull requests from this repository only.
    OwnProposalsOnly,
    /// Save a cache that is only ever brought back.
    SaveCache,
    /// Keep runs of different branches apart.
    LockPerBranch,
    /// Make a cache's key of the lockfile.
    KeyOfLockfile,
    /// Put the system's name into a cache's key.
    KeyWithSystem,
    /// Put a key of the matrix into a cache's key.
    KeyWithAxis {
        /// Its name.
        axis: &'a str,
    },
    /// Let an older cache do where the key is another one each time.
    CacheFallback {
        /// The key.
        key: &'a Text,
    },
}

/// The mend for what is to be done, in the words of the pipeline's format.
pub fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    match case.pipeline.dialect {
        Dialect::Workflow | Dialect::Action => workflow::write(case, ask),
        Dialect::Gitlab => gitlab::write(case, ask),
    }
}

/// Adds a line after that of a value which stands with its key on a line of its own.
pub(crate) fn line_after(case: &Case<'_>, value: &Text, line: &str) -> Option<Edit> {
    let source = case.sources.get(value.at.file);
    let current = source.line_at(value.at.span.start);
    let indent = &current[..current.len() - current.trim_start().len()];
    let key_alone = current
        .trim_start()
        .split_once(':')
        .is_some_and(|(key, _)| key.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-'));
    let ends_line = current.ends_with(source.slice(value.at.span));
    let end = value.at.span.end;
    let edit = Edit::replace(Place { file: value.at.file, span: Span { start: end, end } }, format!("\n{indent}{line}"));
    (key_alone && ends_line && !indent.contains('\t')).then_some(edit)
}

/// The line break and the spaces before a key that is the first thing on its line.
pub(crate) fn indentation(source: &crate::text::SourceFile, offset: u32) -> Option<String> {
    let before = &source.text[..offset as usize];
    let line = before.rfind('\n').map_or(before, |index| &before[index + 1..]);
    let line_break = if before.ends_with(&format!("\r\n{line}")) { "\r\n" } else { "\n" };
    (!line.is_empty() && line.bytes().all(|byte| byte == b' ')).then(|| format!("{line_break}{line}"))
}
