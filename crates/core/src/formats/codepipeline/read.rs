//! From a definition to the model: each action is a job, which waits for those of the run order and the stages before it.

use std::collections::BTreeMap;

use super::actions::Definition;
use super::jobs::{self, job, project_of, take_build};
use super::projects::{self, Project, Spec};
use super::values::{Resource, Values};
use super::{apps, form, starts};
use crate::carrier::{Copies, Tree};
use crate::effects::Effect;
use crate::form::FormIssue;
use crate::formats::buildspec::Build;
use crate::formats::nodes::Nodes;
use crate::formats::{Reading, Texts, Wanted};
use crate::model::{
    ByItself, Choice, Cond, Job, Language, Lock, Pipeline, StartsFrom, Step, Target, Text, Then, Work, Workspace,
};
use crate::text::{FileId, Place};

/// The type of a pipeline among the resources.
pub(super) const KIND: &str = "AWS::CodePipeline::Pipeline";

/// Actions that wait for others are wired one by one, up to this many waits.
const WIRES: usize = 1_000;

/// The pipelines of a text: resources of their type, or the definition itself.
fn definitions(values: &Values<'_>) -> Vec<Definition> {
    let tree = values.nodes.tree;
    let Some(root) = tree.documents.first().copied() else { return Vec::new() };
    let alone = tree.value(root, "pipeline").unwrap_or(root);
    if tree.get(alone, "stages").is_some() {
        return vec![Definition::of(values, alone, None)];
    }
    let of = |resource: &Resource| Some(Definition::of(values, resource.properties?, Some(resource.name.clone())));
    values.of_kind(KIND).filter_map(of).collect()
}

/// The build files of the repository that the builds of a text run.
pub(super) fn wants(text: &str) -> Vec<Wanted> {
    let tree = parse(text, &Copies::default());
    let nodes = nodes_of(&tree, FileId(0));
    let values = Values::of(nodes);
    let mut paths: Vec<String> = Vec::new();
    for definition in definitions(&values) {
        for (_, action) in definition.actions().filter(|(_, action)| action.builds()) {
            if let Spec::File(path) = project_of(&values, action).spec {
                paths.push(path);
            }
        }
    }
    for project in values.of_kind(projects::KIND) {
        if let Spec::File(path) = Project::of(&values, project.properties).spec
            && runs_alone(&values, project)
        {
            paths.push(path);
        }
    }
    paths.extend(apps::wants(&values));
    paths.sort();
    paths.dedup();
    paths.into_iter().map(Wanted::Part).collect()
}

/// The tree of a template, of a definition, or of a program that makes resources.
pub(super) fn parse(text: &str, copies: &Copies) -> Tree {
    if super::code::is_code(text) { super::code::tree(text) } else { crate::carrier::parse_within(text, copies) }
}

fn nodes_of(tree: &Tree, file: FileId) -> Nodes<'_> {
    Nodes { tree, file, language: Language::Contexts }
}

/// Reads a text with all pipelines in it.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let values = Values::of(nodes_of(&main.tree, main.file));
    let (mut pipelines, mut issues) = (Vec::new(), Vec::new());
    if !main.tree.is_whole() {
        return Reading { pipelines, form: issues };
    }
    issues.extend(form::absent_names(&values));
    for definition in definitions(&values) {
        issues.extend(form::issues(&values, &definition));
        pipelines.push(pipeline(&values, &definition, texts, &mut issues));
    }
    for project in values.of_kind(projects::KIND).filter(|project| runs_alone(&values, project)) {
        pipelines.push(alone(&values, project, texts, &mut issues));
    }
    pipelines.extend(apps::pipelines(&values, texts, &mut issues));
    let stores = super::buckets::stores(&values);
    if pipelines.is_empty() && !stores.is_empty() {
        // What serves a site, and nothing that makes it.
        pipelines.push(Pipeline { is_part: true, ..empty(&values, None) });
    }
    if let Some(first) = pipelines.first_mut() {
        first.stores = stores;
    }
    issues.dedup_by(|one, other| one == other);
    Reading { pipelines, form: issues }
}

/// Whether something beside a pipeline starts a project.
fn runs_alone(values: &Values<'_>, project: &Resource) -> bool {
    let triggers = project.properties.and_then(|node| values.get(node, "Triggers"));
    triggers.is_some_and(|node| values.says(node, "Webhook", "true"))
}

/// A pipeline of which nothing is known but its file and its name.
pub(super) fn empty(values: &Values<'_>, name: Option<Text>) -> Pipeline {
    let mut pipeline = Pipeline::empty(values.nodes.file, super::FORMAT, &super::data().customs);
    pipeline.name = name;
    pipeline
}

fn pipeline(values: &Values<'_>, definition: &Definition, texts: &Texts<'_>, issues: &mut Vec<FormIssue>) -> Pipeline {
    let mut pipeline = empty(values, definition.name.clone());
    pipeline.partial = definition.open;
    starts::read(&mut pipeline, definition, values);
    pipeline.stages = Some(definition.stages.iter().map(|stage| stage.name.clone()).collect());
    pipeline.lock = lock(values, definition);
    let closed = closed_stages(values, definition);
    for (stage, action) in definition.actions() {
        let mut job = job(values, definition, action, texts, &pipeline, issues);
        job.stage = Some(Box::new(definition.stages[stage].name.clone()));
        job.when.by_stage = true;
        if let Some(at) = closed.get(&definition.stages[stage].name.value) {
            job.when.choices.push(Choice { then_at: Some(*at), ..Choice::new(*at, Cond::always(), Then::Never) });
        }
        pipeline.jobs.push(job);
    }
    name_apart(&mut pipeline);
    wire(&mut pipeline, definition);
    pipeline
}

/// Stages into which nothing goes on by itself, each with the place where that is said.
fn closed_stages(values: &Values<'_>, definition: &Definition) -> BTreeMap<String, Place> {
    let list = values.list(definition.node, "disableInboundStageTransitions");
    list.into_iter().filter_map(|item| values.text_at(item, "stageName")).map(|name| (name.value.clone(), name.inner())).collect()
}

/// Runs wait for each other at every stage, unless they may go on side by side.
/// Source: the page "Set the pipeline execution mode", 2026-11.
fn lock(values: &Values<'_>, definition: &Definition) -> Option<Lock> {
    let mode = values.text_at(definition.node, "executionMode");
    let at = mode.as_ref().map_or_else(|| values.nodes.at(definition.node), |mode| mode.at);
    let parallel = mode.is_some_and(|mode| mode.value == "PARALLEL");
    let name = definition.name.as_ref().map_or("pipeline", |name| name.value.as_str());
    (!parallel).then(|| Lock { at, group: Text::fixed(name, at), cancels: None })
}

/// Names of actions are their own in each stage only.
fn name_apart(pipeline: &mut Pipeline) {
    let names: Vec<String> = pipeline.jobs.iter().map(|job| job.id.value.clone()).collect();
    for (index, job) in pipeline.jobs.iter_mut().enumerate() {
        if names.iter().enumerate().any(|(other, name)| other != index && *name == names[index])
            && let Some(stage) = &job.stage
        {
            job.id = Text::fixed(&format!("{}, {}", stage.value, job.id.value), job.id.at);
        }
    }
}

fn wire(pipeline: &mut Pipeline, definition: &Definition) {
    let mut ranks: BTreeMap<(usize, u32), Vec<usize>> = BTreeMap::new();
    for (index, (stage, action)) in definition.actions().enumerate() {
        ranks.entry((stage, action.order)).or_default().push(index);
    }
    let groups: Vec<Vec<usize>> = ranks.into_values().collect();
    if groups.windows(2).map(|pair| pair[0].len() * pair[1].len()).sum::<usize>() > WIRES {
        pipeline.jobs.iter_mut().for_each(|job| job.needs_unknown = true);
        return;
    }
    for pair in groups.windows(2) {
        let needs: Vec<Text> = pair[0].iter().map(|index| pipeline.jobs[*index].id.clone()).collect();
        pair[1].iter().for_each(|index| pipeline.jobs[*index].needs.clone_from(&needs));
    }
}

/// What a build lays into a bucket by itself, file by file. Packed, it is there for others to fetch.
/// Source: the page "AWS::CodeBuild::Project Artifacts", packaging and name, 2026-11.
fn to_store(values: &Values<'_>, resource: &Resource, build: &Build) -> Option<Step> {
    let artifacts = values.get(resource.properties?, "Artifacts").filter(|node| values.says(*node, "Type", "S3"))?;
    if values.says(artifacts, "Packaging", "ZIP") {
        return None;
    }
    let location = values.get(artifacts, "Location")?;
    let (_, handed) = build.artifacts.iter().find(|(name, _)| name.is_none())?;
    let [folder] = handed.paths.as_slice() else { return None };
    let at_top =
        values.text_at(artifacts, "Name").is_some_and(|name| name.value == "/") && values.get(artifacts, "Path").is_none();
    let place = jobs::bucket(values, location).map(|name| format!("s3://{name}"));
    let publish = Effect::publish_to((Target::Bucket, place), Some(folder.clone()), at_top.then(String::new), handed.laid);
    let own = ByItself { texts: handed.texts.clone(), ..ByItself::of(publish, handed.at) };
    Some(Step::new(handed.at, Work::ByItself(own)))
}

/// A build that a webhook starts, with no pipeline round it.
fn alone(values: &Values<'_>, resource: &Resource, texts: &Texts<'_>, issues: &mut Vec<FormIssue>) -> Pipeline {
    let mut pipeline = empty(values, Some(resource.name.clone()));
    let project = Project::of(values, resource.properties);
    if let Some(node) = resource.properties {
        starts::of_project(&mut pipeline, values, node, resource.name.at);
    }
    let (build, form) = project.build(values, texts, &pipeline);
    issues.extend(form);
    let mut job = Job { workspace: Workspace::Fresh, ..Job::empty(resource.name.clone(), resource.name.at) };
    let sources = ByItself::of(Effect::own_sources(None, None), resource.name.at);
    job.steps.push(Step::new(resource.name.at, Work::ByItself(sources)));
    project.set_up(&mut job);
    let one_at_a_time = resource.properties.and_then(|node| values.text_at(node, "ConcurrentBuildLimit"));
    pipeline.lock = one_at_a_time.filter(|text| text.value == "1").map(|text| Lock { at: text.at, group: text, cancels: None });
    match build {
        Some(build) => {
            let sent = to_store(values, resource, &build);
            take_build(build, &[], &mut job);
            job.steps.extend(sent);
        }
        None => job.steps.push(Step::new(resource.name.at, Work::Unclear)),
    }
    pipeline.jobs.push(job);
    if pipeline.triggers.is_empty() && pipeline.unknown_starts().is_none() {
        pipeline.starts_from = StartsFrom::Unknown("whatever runs this build stands in no file here".to_owned());
    }
    pipeline
}
