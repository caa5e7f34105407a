//! Constructs of infrastructure that is written as code, as data.

use std::collections::BTreeMap;

use serde::Deserialize;

/// `code` of a format; catalog/formats/codepipeline/constructs.toml says what the fields mean.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Code {
    /// Words by which a program is recognised that makes such resources.
    pub imports: Vec<String>,
    /// Calls that hand on their argument.
    pub calls: Vec<String>,
    /// What makes a resource.
    pub construct: Vec<Construct>,
    /// What makes an action of a pipeline.
    pub action: Vec<ActionConstruct>,
}

/// A construct that makes a resource.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Construct {
    /// Names of its classes.
    pub names: Vec<String>,
    /// The type of the resource.
    pub kind: String,
    /// What each of its properties stands for.
    pub properties: BTreeMap<String, String>,
}

/// A construct that makes an action.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ActionConstruct {
    /// Names of its classes.
    pub names: Vec<String>,
    /// Such as `Build`.
    pub category: String,
    /// Who does it.
    pub provider: String,
    /// What each of its properties stands for in the configuration.
    #[serde(default)]
    pub configuration: BTreeMap<String, String>,
    /// What is set where nothing is written.
    #[serde(default)]
    pub usual: BTreeMap<String, String>,
}
