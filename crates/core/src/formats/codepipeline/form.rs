//! What the service refuses in a definition. After the pages "Pipeline structure reference", its requirements, and those of each action.

use std::collections::HashMap;

use super::actions::{Action, Definition};
use super::values::Values;
use crate::form::{FormIssue, FormIssueKind};
use crate::model::Text;
use crate::text::Place;

/// What is forbidden in a definition; nothing where some of it is not known.
pub(super) fn issues(values: &Values<'_>, definition: &Definition) -> Vec<FormIssue> {
    if definition.open {
        return Vec::new();
    }
    let mut found = Found(Vec::new());
    stages(values, definition, &mut found);
    names(definition, &mut found);
    for (_, action) in definition.actions() {
        configuration(values, action, &mut found);
        artifacts(action, &mut found);
        let late = action.order_at.filter(|_| action.order == 0 || action.order > 999);
        if let Some(at) = late {
            found.add(
                at,
                "a run order is a whole number from 1 to 999",
                "the order says which actions of a stage wait",
                "write a number from 1 on",
            );
        }
    }
    older(values, definition, &mut found);
    triggers(values, definition, &mut found);
    found.0
}

/// References to what the template does not have.
pub(super) fn absent_names(values: &Values<'_>) -> Vec<FormIssue> {
    let mut found = Found(Vec::new());
    let known: Vec<&str> = values.resources.iter().map(|resource| resource.name.value.as_str()).collect();
    for name in values.absent_names() {
        let near = crate::knowledge::nearest(&name.value, known.iter().copied());
        found.add(
            name.inner(),
            format!("there is no resource and no parameter `{}`", name.value),
            &near.map_or_else(
                || "a reference leads to a resource or a parameter of the template".to_owned(),
                |near| format!("there is `{near}`"),
            ),
            &near.map_or_else(|| "write the name of one that there is".to_owned(), |near| format!("write {near}")),
        );
    }
    found.0.dedup_by(|one, other| one == other);
    found.0
}

struct Found(Vec<FormIssue>);

impl Found {
    fn add(&mut self, at: Place, what: impl Into<String>, because: &str, todo: &str) {
        let kind = FormIssueKind::Forbidden {
            whole: "the definition",
            what: what.into(),
            because: because.to_owned(),
            todo: todo.to_owned(),
        };
        self.0.push(FormIssue { at, kind });
    }
}

fn stages(values: &Values<'_>, definition: &Definition, found: &mut Found) {
    let at = values.key_at(definition.node, "stages").unwrap_or_else(|| values.nodes.at(definition.node));
    if definition.stages.len() < 2 {
        let count = definition.stages.len();
        found.add(
            at,
            format!("a pipeline has two stages or more, and this one has {count}"),
            "the first stage brings the sources, the others do something with them",
            "put the build and the publish into stages of their own",
        );
    }
    for (index, stage) in definition.stages.iter().enumerate() {
        let sources = stage.actions.iter().filter(|action| action.category == "Source").count();
        let others = stage.actions.iter().find(|action| action.category != "Source");
        match (index, others) {
            (0, Some(other)) if sources > 0 => found.add(
                other.name.inner(),
                format!("`{}` stands in the first stage, which holds nothing but sources", other.name.value),
                "the service takes only source actions there",
                "move it to a stage of its own",
            ),
            (0, _) if sources == 0 && !stage.actions.is_empty() => found.add(
                stage.name.inner(),
                format!("the first stage, `{}`, brings no sources", stage.name.value),
                "the service wants a source action there",
                "begin with a stage that brings the repository's files",
            ),
            (1.., _) => {
                if let Some(source) = stage.actions.iter().find(|action| action.category == "Source") {
                    found.add(
                        source.name.inner(),
                        format!("`{}` is a source, and sources stand in the first stage only", source.name.value),
                        "the service takes no source action in a later stage",
                        "move it to the first stage",
                    );
                }
            }
            _ => {}
        }
    }
}

fn names(definition: &Definition, found: &mut Found) {
    unique(definition.stages.iter().map(|stage| &stage.name), "stage", found);
    for stage in &definition.stages {
        unique(stage.actions.iter().map(|action| &action.name), "action of this stage", found);
    }
    unique(definition.actions().flat_map(|(_, action)| &action.outputs), "artifact", found);
    let of_artifacts = definition.actions().flat_map(|(_, action)| action.outputs.iter().chain(&action.inputs));
    for name in of_artifacts.filter(|name| !is_name(&name.value, b"_-")) {
        found.add(
            name.inner(),
            format!("`{}` is no name of an artifact", name.value),
            "it is made of letters, digits, - and _, up to 100 of them",
            "write it with these only, where it is made and where it is taken",
        );
    }
    let others =
        definition.stages.iter().flat_map(|stage| std::iter::once(&stage.name).chain(stage.actions.iter().map(|one| &one.name)));
    for name in others.filter(|name| !is_name(&name.value, b".@-_")) {
        found.add(
            name.inner(),
            format!("`{}` is no name of a stage or an action", name.value),
            "it is made of letters, digits, and . @ - _, up to 100 of them",
            "write it without blanks and other signs",
        );
    }
}

fn is_name(name: &str, signs: &[u8]) -> bool {
    (1..=100).contains(&name.len()) && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || signs.contains(&byte))
}

fn unique<'n>(names: impl Iterator<Item = &'n Text>, what: &str, found: &mut Found) {
    let mut known: HashMap<&str, Place> = HashMap::new();
    for name in names {
        if known.insert(&name.value, name.at).is_some() {
            found.add(
                name.inner(),
                format!("there is another {what} of the name `{}`", name.value),
                "each has a name of its own",
                "write another name here, and where it is meant",
            );
        }
    }
}

/// The keys that the configuration of an action must have.
fn configuration(values: &Values<'_>, action: &Action, found: &mut Found) {
    let Some(provider) = &action.provider else { return };
    let list = format!("wants-{}-{}", action.category.to_ascii_lowercase(), provider.value.to_ascii_lowercase());
    let open = action.configuration.is_some_and(|node| !values.is_plain(node));
    for key in super::data().list(&list).iter().filter(|_| !open) {
        if action.set(values, key).is_none() {
            lacks(action, key, found);
        }
    }
    // The archive needs a name when it stays one.
    let packed = action.category == "Deploy"
        && action.is_by("S3")
        && action.says(values, "Extract").is_some_and(|text| text.value == "false");
    if packed && action.set(values, "ObjectKey").is_none() {
        lacks(action, "ObjectKey", found);
    }
}

fn lacks(action: &Action, key: &str, found: &mut Found) {
    found.add(
        action.name.inner(),
        format!("`{}` has no `{key}` in its configuration", action.name.value),
        "the service wants it for this kind of action",
        &format!("add `{key}`"),
    );
}

/// How many artifacts an action takes and gives.
fn artifacts(action: &Action, found: &mut Found) {
    let (takes, gives) = (action.inputs.len(), action.outputs.len());
    let said = match action.category.as_str() {
        "Source" if takes > 0 => "a source takes no artifact",
        "Source" if gives == 0 => "a source hands its files on as an artifact, and this one names none",
        "Approval" if takes + gives > 0 => "an approval takes and gives no artifact",
        "Build" | "Test" if takes == 0 && action.is_by("CodeBuild") => "a build takes an artifact, and this one names none",
        "Deploy" if takes != 1 && action.is_by("S3") => "a publish into a bucket takes one artifact",
        "Deploy" if gives > 0 && action.is_by("S3") => "a publish into a bucket gives no artifact",
        _ => return,
    };
    found.add(
        action.name.inner(),
        format!("`{}`: {said}", action.name.value),
        "the service looks at how many artifacts each kind of action has",
        "name the artifacts that it takes and gives, and no others",
    );
}

/// What pipelines of the older type do not know.
fn older(values: &Values<'_>, definition: &Definition, found: &mut Found) {
    if !values.says(definition.node, "pipelineType", "V1") {
        return;
    }
    let mut said = |key: &str, what: &str| {
        if let Some(at) = values.key_at(definition.node, key) {
            found.add(
                at,
                format!("{what} want a pipeline of the type V2, and this one is V1"),
                "the older type does not know them",
                "write V2",
            );
        }
    };
    said("triggers", "filters of what starts it");
    said("variables", "variables of the pipeline");
    let mode = values.text_at(definition.node, "executionMode").filter(|mode| mode.value != "SUPERSEDED");
    if let Some(mode) = mode {
        found.add(
            mode.inner(),
            format!("the execution mode {} wants a pipeline of the type V2, and this one is V1", mode.value),
            "the older type knows SUPERSEDED only",
            "write V2",
        );
    }
}

/// Filters name the source that they stand for.
fn triggers(values: &Values<'_>, definition: &Definition, found: &mut Found) {
    for trigger in values.list(definition.node, "triggers") {
        let named = values.get(trigger, "gitConfiguration").and_then(|git| values.text_at(git, "sourceActionName"));
        let Some(name) = named else { continue };
        let sources: Vec<&str> = definition
            .actions()
            .filter(|(_, action)| action.category == "Source")
            .map(|(_, action)| action.name.value.as_str())
            .collect();
        if !sources.contains(&name.value.as_str()) {
            found.add(
                name.inner(),
                format!("there is no source action `{}`", name.value),
                &format!("the sources here are {}", sources.join(", ")),
                "write the name of the source action",
            );
        }
    }
}
