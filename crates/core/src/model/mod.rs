//! The neutral model of a pipeline. Every format is read into it, and nothing after that knows a format's keys.

mod circles;
mod condition;
mod grant;
mod inputs;
mod job;
mod matrix;
mod pipeline;
mod step;
mod target;
mod text;
mod trigger;
mod waits;
mod web;

pub use circles::{Machine, StepOrder, Waits, Workspace};
pub use condition::{Choice, Cond, Condition, Language, Then, When};
pub use grant::{Grant, GrantKind, Level};
pub use inputs::Inputs;
pub use job::{Call, Job, Lock};
pub use matrix::{Leg, Matrix};
pub(crate) use pipeline::JobIndex;
pub use pipeline::{Interface, NamedFile, Pipeline};
pub use step::{ByItself, Credential, Outcome, Scope, Shell, Step, Work};
pub use target::{Callee, Target, as_local_path, local_path};
pub use text::{Text, TextMap};
pub use trigger::{Event, Filter, FilterOf, FilterSide, Input, Pattern, PatternSyntax, StartsFrom, Trigger};

pub use web::{Closed, WebStore};

use thin_vec::ThinVec;

use crate::text::{FileId, Place, Span};

/// Names with values, in the order they are written.
#[derive(Clone, Debug, Default)]
pub struct Variables {
    /// The pairs.
    pub entries: ThinVec<(Text, Text)>,
    /// There may be more than stands here.
    pub open: bool,
}

impl Variables {
    /// Adds a name whose value nobody but the forge knows: it stands for itself.
    pub fn hand(&mut self, name: Text) {
        let value = Text::fixed(&format!("${}", name.value), name.at).filled_in_by(name.language);
        self.entries.push((name, value));
    }

    /// The value of a name; upper and lower case do not matter, as for a step's inputs.
    pub fn get(&self, name: &str) -> Option<&Text> {
        self.entries.iter().find(|(key, _)| key.value.eq_ignore_ascii_case(name)).map(|(_, value)| value)
    }
}

/// A place of nothing but its file, for what has no better one.
pub fn whole_file(file: FileId) -> Place {
    Place { file, span: Span::default() }
}
