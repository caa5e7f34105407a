//! Constructs of infrastructure that is written as code, as data.

use super::{List, Table, Word};

/// `code` of a format; catalog/formats/codepipeline/constructs.toml says what the fields mean.
#[derive(Debug, Default)]
pub struct Code {
    /// Words by which a program is recognised that makes such resources.
    pub imports: List<Word>,
    /// Calls that hand on their argument.
    pub calls: List<Word>,
    /// What makes a resource.
    pub construct: List<Construct>,
    /// What makes an action of a pipeline.
    pub action: List<ActionConstruct>,
}

/// A construct that makes a resource.
#[derive(Debug)]
pub struct Construct {
    /// Names of its classes.
    pub names: List<Word>,
    /// The type of the resource.
    pub kind: Word,
    /// What each of its properties stands for.
    pub properties: Table<Word>,
}

/// A construct that makes an action.
#[derive(Debug)]
pub struct ActionConstruct {
    /// Names of its classes.
    pub names: List<Word>,
    /// Such as `Build`.
    pub category: Word,
    /// Who does it.
    pub provider: Word,
    /// What each of its properties stands for in the configuration.
    pub configuration: Table<Word>,
    /// What is set where nothing is written.
    pub usual: Table<Word>,
}
