//! From the tree of a `buddy.yml` to the model: each pipeline is a job of which the actions are the steps.

use super::{actions, starts};
use crate::carrier::{NodeId, Tree};
use crate::formats::Texts;
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{Choice, Cond, Credential, Job, Language, Pipeline, Step, Text, Then, Variables, Work, Workspace};

/// More pipelines, or actions in one, are no honest file.
const LIMIT: usize = 1_000;

/// Reads all pipelines of a file.
pub(super) fn read(tree: &Tree, texts: &Texts<'_>) -> Vec<Pipeline> {
    let nodes = Nodes { tree, file: texts.main.file, language: Language::Variables };
    super::pipelines(tree).into_iter().take(LIMIT).filter_map(|node| pipeline(nodes, node)).collect()
}

fn pipeline(nodes: Nodes<'_>, node: NodeId) -> Option<Pipeline> {
    let keys = Keys::of(nodes, node);
    let name = keys.text("pipeline").or_else(|| keys.text("name"))?;
    let mut pipeline = Pipeline::empty(nodes.file, super::FORMAT, &super::data().customs);
    let (variables, handed) = variables(&keys);
    pipeline.variables = variables;
    starts::read(&mut pipeline, &keys, name.at);
    // What is switched off is started by nothing.
    let off = keys.text("disabled").filter(|text| text.value == "true").map(|text| text.at);
    pipeline.choices.extend(off.map(|at| Choice { then_at: Some(at), ..Choice::new(at, Cond::always(), Then::Never) }));
    let conditions = Cond::all_of(starts::conditions(&keys));
    pipeline.choices.extend(conditions.and_then(|cond| Some(Choice::new(cond.at()?, cond, Then::Run))));
    let list = |key: &str| keys.get(key).map(|node| listed(&nodes, node)).unwrap_or_default();
    let items: Vec<NodeId> = list("actions").into_iter().take(LIMIT).collect();
    let body = nodes.at(node);
    pipeline.jobs.push(Job {
        steps: actions::steps(&nodes, &items, &name, &keys),
        workspace: if keys.says("always_from_scratch", "true") { Workspace::Fresh } else { Workspace::Left },
        handed: handed.into(),
        ..Job::empty(name.clone(), body)
    });
    if let Some(Step { work: Work::ByItself(own), .. }) = pipeline.jobs[0].steps.first_mut() {
        own.credentials.extend(unencrypted(&keys));
    }
    pipeline.name = Some(name);
    Some(pipeline)
}

/// Variables of a pipeline or an action, and the names of those whose values are encrypted.
/// Source: the page "YAML parameters", variables, 2026-11.
pub(super) fn variables(keys: &Keys<'_>) -> (Variables, Vec<Text>) {
    let nodes = keys.nodes;
    let (mut variables, mut handed) = (Variables::default(), Vec::new());
    for item in keys.get("variables").map(|node| listed(&nodes, node)).unwrap_or_default() {
        let one = Keys::of(nodes, item);
        let Some(name) = one.text("key") else { continue };
        match one.text("value") {
            Some(value) if is_encrypted(&value) => handed.push(name),
            Some(value) => variables.entries.push((name, value)),
            None => handed.push(name),
        }
    }
    (variables, handed)
}

/// Variables that are said to be encrypted, and are not.
fn unencrypted(keys: &Keys<'_>) -> Vec<Credential> {
    let nodes = keys.nodes;
    let items = keys.get("variables").map(|node| listed(&nodes, node)).unwrap_or_default();
    let one = |item| {
        let one = Keys::of(nodes, item);
        let said = one.says("encrypted", "true");
        let (name, value) = (one.text("key")?, one.text("value")?);
        (said && !is_encrypted(&value)).then_some(Credential { name, value, secret: true })
    };
    items.into_iter().filter_map(one).collect()
}

/// Whether the service has encrypted a value. Source: the page "YAML parameters", encrypted values, 2026-11.
pub(super) fn is_encrypted(value: &Text) -> bool {
    ["secure!", "!encrypted", "enc!"].iter().any(|start| value.value.starts_with(start))
}
