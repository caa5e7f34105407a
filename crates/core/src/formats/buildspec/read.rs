//! From the tree of a `buildspec.yml` to the model: one job, whose steps are the phases.

use super::phases;
use crate::carrier::{NodeId, Tree};
use crate::effects::{ArtifactName, EffectAt};
use crate::formats::keys::Keys;
use crate::formats::nodes::Nodes;
use crate::formats::phased;
use crate::model::{Job, Language, Pipeline, StartsFrom, Step, Text, Variables, Work, Workspace};
use crate::text::{FileId, Place};

/// What a build does, whoever runs it.
pub(in crate::formats) struct Build {
    /// What it does, in order; the first step brings sources and cache.
    pub steps: Vec<Step>,
    /// Variables that all commands see.
    pub variables: Variables,
    /// Names of variables whose values come from a safe.
    pub handed: Vec<Text>,
    /// What it hands on: the primary artifact without a name, then others by their names.
    pub artifacts: Vec<(Option<Text>, phased::Handed)>,
    /// Several builds are made of it, and what each of them does is not read.
    pub several: bool,
    /// Where it begins.
    pub at: Place,
}

/// Reads the document of a build file; nothing where there is no mapping.
pub(in crate::formats) fn build(nodes: Nodes<'_>, root: NodeId) -> Option<Build> {
    let top = Keys::of(nodes, root);
    let at = top.iter().next().map(|(key, _)| nodes.at(key))?;
    let (variables, handed) = variables(&top);
    let mut steps = phased::beginning(&top, at, None);
    phases::add(&top, &mut steps);
    Some(Build { steps, variables, handed, artifacts: artifacts(&top), several: top.get("batch").is_some(), at })
}

/// Reads the file as a pipeline of its own.
pub(super) fn read(tree: &Tree, file: FileId) -> Pipeline {
    let mut pipeline = Pipeline::empty(file, super::FORMAT, &super::data().customs);
    pipeline.starts_from =
        StartsFrom::Unknown("the project that runs it says what starts it, and that stands in no file here".into());
    let nodes = Nodes { tree, file, language: Language::Variables };
    let Some(build) = tree.documents.first().and_then(|root| build(nodes, *root)) else { return pipeline };
    let id = Text::fixed("build", build.at);
    let mut job = Job { workspace: Workspace::Fresh, handed: build.handed.into(), ..Job::empty(id, nodes.at(tree.documents[0])) };
    job.steps = build.steps;
    for (name, handed) in build.artifacts {
        let texts = handed.texts.clone();
        let at = handed.at;
        let upload = handed.upload(ArtifactName { given: name, default: Some(String::new()) });
        job.steps.push(hand_on(upload, texts, at));
    }
    pipeline.partial = build.several;
    pipeline.variables = build.variables;
    pipeline.jobs.push(job);
    pipeline
}

/// The step in which an artifact is taken.
fn hand_on(upload: EffectAt, texts: Vec<Text>, at: Place) -> Step {
    let own = crate::model::ByItself { effects: vec![upload], texts, ..Default::default() };
    Step::new(at, Work::ByItself(own))
}

/// Variables with their values, and the names of those that come from a safe.
/// Source: the page "Build specification reference", env, 2026-11.
fn variables(top: &Keys<'_>) -> (Variables, Vec<Text>) {
    let nodes = top.nodes;
    let Some(env) = top.get("env").map(|node| Keys::of(nodes, node)) else { return (Variables::default(), Vec::new()) };
    let variables = env.get("variables").map(|node| nodes.variables(node)).unwrap_or_default();
    let names = |key: &str| {
        let pairs = env.get(key).map(|node| Keys::of(nodes, node).iter().collect::<Vec<_>>()).unwrap_or_default();
        pairs.into_iter().filter_map(|(name, _)| nodes.text(name)).collect::<Vec<_>>()
    };
    let handed = ["parameter-store", "secrets-manager"].into_iter().flat_map(names).collect();
    (variables, handed)
}

/// The primary artifact, and those beside it by their names.
fn artifacts(top: &Keys<'_>) -> Vec<(Option<Text>, phased::Handed)> {
    let nodes = top.nodes;
    let Some(keys) = top.get("artifacts").map(|node| Keys::of(nodes, node)) else { return Vec::new() };
    let primary = keys.get("files").and_then(|_| phased::handed(&keys, super::WORDS.base));
    let mut found: Vec<_> = primary.map(|handed| (None, handed)).into_iter().collect();
    if let Some(others) = keys.get("secondary-artifacts") {
        let of = |(name, value)| Some((Some(nodes.text(name)?), phased::handed(&Keys::of(nodes, value), super::WORDS.base)?));
        found.extend(Keys::of(nodes, others).iter().filter_map(of));
    }
    found
}
