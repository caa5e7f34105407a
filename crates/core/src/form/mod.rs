//! The form of a file: its tree held against the grammar of its format, which is data.

mod events;
mod expressions;
mod names;
mod shape;
mod walk;

pub use names::Scope;
pub(crate) use names::{keys_of_no_axis, strange_defaults};
pub use walk::walk;

use std::collections::HashSet;

use crate::knowledge::Meant;
use crate::model::{Condition, FilterOf};
use crate::text::{FileId, Place, Span};

/// Something that does not fit the grammar.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FormIssue {
    /// Where.
    pub at: Place,
    /// What.
    pub kind: FormIssueKind,
}

/// Names of one kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Names {
    /// The contexts of an expression.
    Contexts,
    /// The functions of an expression.
    Functions,
    /// The kinds of an event.
    Kinds,
    /// The jobs of the file.
    Jobs,
    /// The steps of a job.
    Steps,
    /// The keys of a job's matrix.
    Matrix,
    /// The same, where the job has none.
    NoMatrix,
    /// The keys that a combination is taken away by.
    Axes,
    /// What the file is given.
    Inputs,
    /// The same, where it takes none.
    NoInputs,
    /// Variables of the file, its job and its steps.
    Variables,
    /// Variables that the runner sets for scripts only.
    RunnersOwn,
    /// Variables of the very map that reads them.
    SameMap,
    /// Variables of another step.
    OtherStep,
    /// What a context of this name holds.
    In(&'static str),
}

impl Names {
    /// A name that is not there is read as empty, rather than refused.
    pub fn read_as_empty(self) -> bool {
        !matches!(self, Self::Contexts | Self::Functions | Self::Kinds)
    }
}

/// More of something in a file than is looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Beyond {
    /// What, in the plural.
    pub what: &'static str,
    /// So many are looked at.
    pub limit: usize,
    /// So many there are.
    pub held: usize,
}

/// What does not fit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FormIssueKind {
    /// The text is no YAML.
    Unreadable {
        /// In plain words.
        reason: String,
    },
    /// The file could not even be opened as a text.
    Refused {
        /// In plain words.
        reason: String,
    },
    /// What the file copies by naming it is more than can be looked at.
    TooLarge,
    /// It holds more of something than is looked at; the place is that of the first too many.
    Beyond(Beyond),
    /// Something that the service does not take, whatever its form.
    Forbidden {
        /// What is refused with it, such as "the build".
        whole: &'static str,
        /// In a sentence.
        what: String,
        /// Why, as far as that is documented.
        because: String,
        /// What to do.
        todo: String,
    },
    /// Nothing is in the file, or under a key that needs something.
    Empty {
        /// The key; nothing for the whole file.
        key: Option<String>,
        /// What it takes.
        wanted: String,
        /// The format's documentation does not say what nothing means here.
        open: bool,
    },
    /// A reference to a key that is not there.
    AbsentReference {
        /// The job, or the key in it, that is not there.
        absent: String,
        /// The job that it is looked for in; nothing when it is the job that is not there.
        within: Option<String>,
        /// What is there.
        known: Vec<String>,
    },
    /// No forge reads a file of this name.
    Misplaced {
        /// Where it would be read.
        wanted: String,
        /// In plain words.
        reason: String,
        /// It lies below a folder that it moved along with: so says only who knows that nothing is read at the root.
        moved: bool,
    },
    /// A key that the place does not take.
    UnknownKey {
        /// As written.
        key: String,
        /// How people call the place.
        within: String,
        /// The keys that it takes.
        known: Vec<String>,
        /// The one that is meant.
        meant: Option<Meant>,
        /// It stands under an event.
        of_event: bool,
        /// Places that do take it.
        belongs: Vec<String>,
    },
    /// None of these keys is there.
    MissingKey {
        /// One of them is needed.
        keys: Vec<String>,
        /// How people call the place, with its name.
        within: String,
    },
    /// A filter under an event that does not take it. It filters nothing.
    StrayFilter {
        /// The event.
        event: String,
        /// Of the event, only the name is known.
        plain: bool,
        /// The filter.
        key: String,
        /// What it would look at; nothing for kinds of the event.
        of: Option<FilterOf>,
    },
    /// A job builds on one that is not there.
    AbsentParent {
        /// As written.
        name: String,
        /// The jobs that there are.
        known: Vec<String>,
    },
    /// A key that the format keeps for old files only.
    AgeingKey {
        /// The key.
        key: String,
        /// The one that new files use.
        instead: String,
    },
    /// No event of this name exists.
    UnknownEvent {
        /// As written.
        name: String,
        /// The one that is meant.
        meant: Option<Meant>,
    },
    /// A value of another shape than its key takes.
    WrongShape {
        /// The key.
        key: String,
        /// What stands there, in words.
        found: String,
        /// What the key takes, in words.
        wanted: String,
        /// What to write instead, where that is known.
        instead: Option<Meant>,
    },
    /// A name that nothing fills in where it stands: what is read is empty, or the name itself.
    NotFilledIn {
        /// The name.
        name: String,
        /// What comes of it, as the end of a sentence.
        what: String,
        /// Why, as far as that is documented.
        because: String,
        /// What to do.
        todo: String,
    },
    /// A stage has no machine, and needs one.
    NoMachine {
        /// The stage.
        stage: String,
        /// The step that needs it.
        step: String,
    },
    /// A variable that holds a credential is put into the text of a command.
    FilledEarly {
        /// Its name.
        name: String,
    },
    /// Something that is no declaration, and is not looked at.
    NotRead {
        /// What it is.
        what: String,
    },
    /// The name of a program with its words in it, where the words have a key of their own.
    WordsInOne {
        /// The key of the name.
        key: &'static str,
        /// The first word.
        program: String,
        /// The key of the words.
        words_key: &'static str,
        /// The words.
        words: Vec<String>,
    },
    /// A key that stands twice.
    RepeatedKey {
        /// The key.
        key: String,
        /// Where it stands first.
        first: Place,
    },
    /// Two keys that cannot stand together.
    ExclusiveKeys {
        /// The one that rules the other out.
        one: String,
        /// Where it stands.
        first: Place,
        /// The other.
        other: String,
        /// How people call the place.
        within: String,
    },
    /// A name that is no name.
    BadName {
        /// As written.
        name: String,
        /// What it names.
        what: &'static str,
        /// A name that would do.
        instead: String,
    },
    /// Two steps of one job with the same id.
    RepeatedId {
        /// The id.
        id: String,
        /// Where it stands first.
        first: Place,
    },
    /// A version that is read as a shorter number.
    NumberTrap {
        /// As written.
        written: String,
        /// As it is read.
        read: String,
    },
    /// A word for yes or no that is only a word.
    YesNoTrap {
        /// As written.
        written: String,
        /// What is meant.
        meant: &'static str,
        /// The key.
        key: String,
    },
    /// An expression that does not parse.
    Expression {
        /// In plain words.
        reason: String,
        /// It is the double quotes.
        quotes: bool,
        /// The text with single quotes, where that mends it.
        instead: Option<String>,
    },
    /// A context, property or function that does not exist.
    UnknownName {
        /// As written.
        name: String,
        /// What it is looked for among.
        among: Names,
        /// The one that is meant.
        meant: Option<Meant>,
        /// What is there.
        known: Vec<String>,
        /// Where those stand, when they stand in this file.
        at: Option<Place>,
    },
    /// A context or function that exists, and not here.
    OutOfPlace {
        /// As written.
        name: String,
        /// It is a function.
        function: bool,
        /// What is available here.
        available: Vec<String>,
    },
    /// A function with too few or too many arguments, or a value that cannot be compared.
    WrongType {
        /// In plain words.
        reason: String,
    },
    /// A condition that is always true by mistake.
    FixedCondition {
        /// The condition as it is meant, where that is certain.
        instead: Option<String>,
        /// In plain words.
        reason: String,
    },
}

/// Conditions that cannot be read, each place told once.
pub fn unread_conditions<'c>(conditions: impl Iterator<Item = &'c Condition>) -> Vec<FormIssue> {
    let mut told = HashSet::new();
    let mut found = Vec::new();
    for condition in conditions {
        let Some(error) = condition.error() else { continue };
        let at = condition.text.place(error.range.clone());
        if told.insert(at) {
            let kind = FormIssueKind::Expression { reason: error.reason.clone(), quotes: false, instead: None };
            found.push(FormIssue { at, kind });
        }
    }
    found
}

/// The words that are surely meant by misspelt keys of a file, by the bytes that those have. What other rules see is read with them:
/// one slip is one fault. A misspelt event starts nothing, and stays what it is.
pub fn meant_words(issues: &[FormIssue], file: FileId) -> Vec<(Span, &str)> {
    let mut words = Vec::new();
    for issue in issues.iter().filter(|issue| issue.at.file == file) {
        if let FormIssueKind::UnknownKey { meant: Some(meant), .. } = &issue.kind
            && meant.sure
        {
            words.push((issue.at.span, meant.word.as_str()));
        }
    }
    words
}
