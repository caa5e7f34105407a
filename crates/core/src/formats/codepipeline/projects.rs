//! Builds that a definition runs: projects of the same template, and the build files that they name.

use super::values::{Values, tree_inside};
use crate::carrier::{NodeId, Tree};
use crate::form::{FormIssue, meant_words};
use crate::formats::Texts;
use crate::formats::buildspec::{self, Build};
use crate::formats::nodes::Nodes;
use crate::model::{Job, Language, Machine, Pipeline, Text, Variables};
use crate::text::FileId;

/// The type of a project.
pub(super) const KIND: &str = "AWS::CodeBuild::Project";
/// The file that is read where none is named.
pub(super) const USUAL: &str = "buildspec.yml";

/// What a build does, as it is written.
pub(super) enum Spec {
    /// In a file of the repository, by its path.
    File(String),
    /// In the template itself.
    Inline(Text),
    /// The same as keys and values.
    Node(NodeId),
    /// It stands somewhere else.
    Unknown,
}

/// A project of a template.
pub(super) struct Project {
    pub spec: Spec,
    pub image: Option<Text>,
    pub variables: Variables,
    pub handed: Vec<Text>,
    pub limit: Option<Text>,
}

impl Project {
    /// Gives a job what the project says; what the job has been given before goes before the project's.
    pub fn set_up(self, job: &mut Job) {
        job.variables.entries.extend(self.variables.entries);
        job.variables.open |= self.variables.open;
        job.handed.extend(self.handed);
        job.machine = Machine { image: self.image, ..Machine::default() };
        job.time_limit = self.limit.map(|text| text.at);
    }

    /// What a project's properties say; `named` stands in for the file where an action names another.
    pub fn of(values: &Values<'_>, properties: Option<NodeId>) -> Self {
        let Some(node) = properties else { return Self::elsewhere() };
        let inside = |key: &str| values.get(node, key);
        let environment = inside("Environment");
        let (variables, handed) =
            environment.map(|node| variables(values, &values.list(node, "EnvironmentVariables"))).unwrap_or_default();
        Self {
            spec: inside("Source").map_or(Spec::Unknown, |source| spec(values, source)),
            image: environment.and_then(|node| values.text_at(node, "Image")),
            variables,
            handed,
            limit: values.text_at(node, "TimeoutInMinutes"),
        }
    }

    /// A project that stands somewhere else runs the usual file.
    pub fn elsewhere() -> Self {
        Self {
            spec: Spec::File(USUAL.to_owned()),
            image: None,
            variables: Variables { open: true, ..Variables::default() },
            handed: Vec::new(),
            limit: None,
        }
    }

    /// What the build does, with what does not fit in it.
    pub fn build(&self, values: &Values<'_>, texts: &Texts<'_>, pipeline: &Pipeline) -> (Option<Build>, Vec<FormIssue>) {
        match &self.spec {
            Spec::File(path) => match texts.parts.iter().find(|part| part.source.path == *path) {
                Some(part) if part.tree.is_whole() => built(&part.tree, part.file, pipeline),
                _ => (None, Vec::new()),
            },
            Spec::Inline(text) => {
                let tree = tree_inside(text, values.nodes.tree);
                match tree.is_whole() {
                    true => built(&tree, values.nodes.file, pipeline),
                    false => (None, Vec::new()),
                }
            }
            Spec::Node(node) => built_at(values.nodes.tree, *node, values.nodes.file, pipeline),
            Spec::Unknown => (None, Vec::new()),
        }
    }
}

/// Reads a build, with words that are surely slips as what is meant.
fn built(tree: &Tree, file: FileId, pipeline: &Pipeline) -> (Option<Build>, Vec<FormIssue>) {
    let Some(root) = tree.documents.first().copied() else { return (None, Vec::new()) };
    built_at(tree, root, file, pipeline)
}

fn built_at(tree: &Tree, root: NodeId, file: FileId, pipeline: &Pipeline) -> (Option<Build>, Vec<FormIssue>) {
    let issues = buildspec::issues(tree, Some(root), file, pipeline);
    let meant = tree.reworded(&meant_words(&issues, file));
    (buildspec::build(Nodes { tree: &meant, file, language: Language::Variables }, root), issues)
}

/// What a project's source says of the build.
fn spec(values: &Values<'_>, source: NodeId) -> Spec {
    let Some(node) = values.get(source, "BuildSpec") else { return Spec::File(USUAL.to_owned()) };
    if values.is_plain(node) && values.get(node, "phases").is_some() {
        return Spec::Node(node);
    }
    match values.written(node) {
        Some(text) if text.value.contains('\n') || text.value.trim_start().starts_with('{') => {
            Spec::Inline(text.filled_in_by(Language::Variables))
        }
        Some(_) => match values.text(node) {
            // A file in a bucket is named by its address.
            Some(path) if path.value.starts_with("arn:") => Spec::Unknown,
            Some(path) => Spec::File(path.value.trim_start_matches("./").to_owned()),
            None => Spec::Unknown,
        },
        None => Spec::Unknown,
    }
}

/// Variables of a project or an action: those with a plain value, and the names of those that come from a safe.
pub(super) fn variables(values: &Values<'_>, list: &[NodeId]) -> (Variables, Vec<Text>) {
    let (mut found, mut handed) = (Variables::default(), Vec::new());
    for item in list {
        let Some(name) = values.text_at(*item, "name") else {
            found.open = true;
            continue;
        };
        let plain = values.text_at(*item, "type").is_none_or(|kind| kind.value == "PLAINTEXT");
        match values.text_at(*item, "value").filter(|_| plain) {
            Some(value) => found.entries.push((name, value.filled_in_by(Language::Variables))),
            None => handed.push(name),
        }
    }
    (found, handed)
}

/// The project that a value names: a reference, or the name of one in the same template. Nothing when it stands somewhere else.
pub(super) fn named<'v>(values: &'v Values<'_>, node: NodeId) -> Option<&'v super::values::Resource> {
    if let Some(resource) = values.resource(node) {
        return Some(resource).filter(|resource| resource.kind == KIND);
    }
    let name = values.text(node)?.value;
    values
        .of_kind(KIND)
        .find(|resource| resource.properties.and_then(|node| values.text_at(node, "Name")).is_some_and(|own| own.value == name))
}
