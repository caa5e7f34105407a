//! From a definition to the model: each action is a job, which waits for those of the run order and the stages before it.

use std::collections::BTreeMap;

use super::actions::{Action, Definition};
use super::projects::{self, Project, Spec};
use super::values::{Resource, Values};
use super::{apps, form, starts};
use crate::carrier::Tree;
use crate::effects::{ArtifactName, Effect, EffectAt, Laid, UploadPath};
use crate::facts::Reach;
use crate::form::FormIssue;
use crate::formats::buildspec::Build;
use crate::formats::nodes::Nodes;
use crate::formats::phased;
use crate::formats::{Reading, Texts, Wanted};
use crate::model::{
    ByItself, Choice, Cond, Credential, Job, Language, Lock, Machine, Pipeline, Shell, StartsFrom, Step, Target, Text, Then,
    Work, Workspace,
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
    let tree = parse(text);
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
pub(super) fn parse(text: &str) -> Tree {
    if super::code::is_code(text) { super::code::tree(text) } else { crate::carrier::parse(text) }
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
        job.stage = Some(definition.stages[stage].name.clone());
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

fn job(
    values: &Values<'_>,
    definition: &Definition,
    action: &Action,
    texts: &Texts<'_>,
    pipeline: &Pipeline,
    issues: &mut Vec<FormIssue>,
) -> Job {
    let mut job = Job { workspace: Workspace::Fresh, ..Job::empty(action.name.clone(), values.nodes.at(action.node)) };
    let at = action.name.at;
    match action.category.as_str() {
        "Source" => job.steps.push(Step::new(at, Work::ByItself(source(values, definition, action)))),
        "Approval" => job.steps.push(Step::new(at, Work::Gate)),
        _ if action.builds() => build(values, definition, action, texts, pipeline, issues, &mut job),
        "Compute" if action.is_by("Commands") => commands(values, definition, action, &mut job),
        "Deploy" if action.is_by("S3") => {
            job.steps.extend(inputs(definition, action));
            job.steps.push(to_bucket(values, action));
        }
        _ => job.steps.push(Step::new(at, Work::ByItself(nothing(at)))),
    }
    job
}

/// Whatever it is, it changes nothing of what is handed on.
fn nothing(at: Place) -> ByItself {
    ByItself { effects: vec![EffectAt::sure(Effect::Nothing, at)], ..ByItself::default() }
}

/// Brings the files, and hands them on.
fn source(values: &Values<'_>, definition: &Definition, action: &Action) -> ByItself {
    let at = action.name.at;
    let mut own = ByItself { credentials: credentials(values, action), ..ByItself::default() };
    // Where filters start it, the branch counts for whoever starts it by hand.
    let filtered = values.get(definition.node, "triggers").is_some();
    let branch = starts::branch(values, action).and_then(|(_, branch)| branch).filter(|_| filtered);
    let brings = match is_own(definition, action) {
        true => Effect::own_sources_at(branch),
        false => Effect::Unknown(Reach::Anything),
    };
    own.effects.push(EffectAt::sure(brings, at));
    own.effects.extend(action.outputs.iter().map(hand_on_all));
    own
}

/// The one repository that a pipeline takes is this one; of several nobody knows which.
fn is_own(definition: &Definition, action: &Action) -> bool {
    let sources = definition.actions().filter(|(_, one)| one.category == "Source");
    starts::is_repository(action) && sources.count() == 1
}

/// Everything in the workspace, under a name.
fn hand_on_all(name: &Text) -> EffectAt {
    let path = UploadPath { written: ".".to_owned(), ..UploadPath::as_written(name) };
    let handed = phased::Handed { paths: vec![path], keeps_paths: false, laid: None, at: name.at, texts: Vec::new() };
    handed.upload(ArtifactName { given: Some(name.clone()), default: None })
}

/// What a source signs in with, where it is written down.
fn credentials(values: &Values<'_>, action: &Action) -> Vec<Credential> {
    let node = action.configuration;
    let found = node.and_then(|node| values.nodes.tree.get(node, "OAuthToken")).and_then(|(key, value)| {
        let (name, value) = (values.nodes.text(key)?, values.text(value)?);
        is_written_out(&value.value).then_some(Credential { name, value, secret: true })
    });
    found.into_iter().collect()
}

/// Neither a reference to a safe, nor what is shown in the place of a credential.
pub(super) fn is_written_out(value: &str) -> bool {
    !value.contains("{{resolve:") && !value.bytes().all(|byte| byte == b'*')
}

/// The files that an action finds: those of the repository where a source gives them, or what another action hands on.
fn inputs(definition: &Definition, action: &Action) -> Option<Step> {
    let first = action.inputs.first()?;
    let from_source = definition
        .actions()
        .any(|(_, other)| other.outputs.iter().any(|name| name.value == first.value) && is_own(definition, other));
    // What a build finds in the sources is what git tracks; whoever publishes them takes them as an artifact.
    let taken = match from_source && action.category != "Deploy" {
        true => Effect::own_sources(None, None),
        false => Effect::Download {
            name: ArtifactName { given: Some(first.clone()), default: None },
            into: Some(String::new()),
            elsewhere: false,
            merges: true,
        },
    };
    let own = ByItself { effects: vec![EffectAt::sure(taken, first.at)], ..ByItself::default() };
    Some(Step::new(first.at, Work::ByItself(own)))
}

/// The project that an action runs; one that stands somewhere else runs the usual file.
fn project_of(values: &Values<'_>, action: &Action) -> Project {
    let named = action.set(values, "ProjectName").and_then(|node| projects::named(values, node));
    named.map_or_else(Project::elsewhere, |resource| Project::of(values, resource.properties))
}

fn build(
    values: &Values<'_>,
    definition: &Definition,
    action: &Action,
    texts: &Texts<'_>,
    pipeline: &Pipeline,
    issues: &mut Vec<FormIssue>,
    job: &mut Job,
) {
    let project = project_of(values, action);
    let (build, form) = project.build(values, texts, pipeline);
    issues.extend(form);
    job.steps.extend(inputs(definition, action));
    set_up(values, action, project, job);
    match build {
        Some(build) => take_build(build, &action.outputs, job),
        None => {
            job.steps.push(Step::new(action.name.at, Work::Unclear));
            let all: Vec<EffectAt> = action.outputs.iter().map(unknown_artifact).collect();
            job.steps.push(Step::new(action.name.at, Work::ByItself(ByItself { effects: all, ..ByItself::default() })));
        }
    }
}

/// The project's image, variables and limit, with the variables of the action before them.
fn set_up(values: &Values<'_>, action: &Action, project: Project, job: &mut Job) {
    let listed = action.says(values, "EnvironmentVariables");
    let of_action = listed.map(|text| {
        let tree = super::values::tree_inside(&text, values.nodes.tree);
        let inner = Values::of(nodes_of(&tree, values.nodes.file));
        let list = tree.documents.first().map(|root| inner.items(*root)).unwrap_or_default();
        projects::variables(&inner, &list)
    });
    let (mut variables, handed) = of_action.unwrap_or_default();
    variables.entries.extend(project.variables.entries);
    variables.open |= project.variables.open;
    job.variables = variables;
    job.handed = handed.into_iter().chain(project.handed).collect();
    job.machine = Machine { image: project.image, ..Machine::default() };
    job.time_limit = project.limit;
}

/// An artifact of which nothing is known but its name.
fn unknown_artifact(name: &Text) -> EffectAt {
    let path = UploadPath { glob: true, ..UploadPath::as_written(name) };
    let handed = phased::Handed { paths: vec![path], keeps_paths: false, laid: None, at: name.at, texts: Vec::new() };
    handed.upload(ArtifactName { given: Some(name.clone()), default: None })
}

/// What a build does in a job, and what it hands on under the names that the action gives.
/// Source: the page "Use CodePipeline with CodeBuild", several outputs, 2026-11.
fn take_build(build: Build, outputs: &[Text], job: &mut Job) {
    // The files are there already.
    let offset = job.steps.len();
    job.steps.extend(
        build
            .steps
            .into_iter()
            .skip(1)
            .map(|step| Step { survives_from: if step.survives_from > 0 { step.survives_from + offset - 1 } else { 0 }, ..step }),
    );
    job.variables.entries.extend(build.variables.entries);
    job.variables.open |= build.variables.open || build.several;
    job.handed.extend(build.handed);
    let mut own = ByItself::default();
    let single = outputs.len() == 1;
    for (name, handed) in build.artifacts {
        let given = match &name {
            None => outputs.first().filter(|_| single),
            Some(name) => outputs.iter().find(|output| output.value == name.value),
        };
        let Some(given) = given else { continue };
        own.texts.extend(handed.texts.iter().cloned());
        own.effects.push(handed.upload(ArtifactName { given: Some(given.clone()), default: None }));
    }
    let given = |name: &Text| {
        own.effects
            .iter()
            .any(|one| matches!(&one.effect, Effect::Upload { name: known, .. } if known.known() == Some(&name.value)))
    };
    let missing: Vec<EffectAt> = outputs.iter().filter(|name| !given(name)).map(unknown_artifact).collect();
    own.effects.extend(missing);
    if !own.effects.is_empty() {
        job.steps.push(Step::new(build.at, Work::ByItself(own)));
    }
}

/// Commands that stand in the definition itself.
fn commands(values: &Values<'_>, definition: &Definition, action: &Action, job: &mut Job) {
    job.steps.extend(inputs(definition, action));
    let own: Vec<Text> = values.list(action.node, "commands").into_iter().filter_map(|one| values.written(one)).collect();
    let script = crate::formats::joined(own.into_iter().map(|text| text.filled_in_by(Language::Variables)).collect());
    if let Some(script) = script {
        job.steps.push(Step::new(script.at, Work::Runs { shell: Shell::Posix, script }));
    }
    let mut handed = ByItself::default();
    for (item, name) in values.list(action.node, "outputArtifacts").into_iter().zip(&action.outputs) {
        let paths: Vec<Text> = values.list(item, "files").into_iter().filter_map(|one| values.text(one)).collect();
        let paths = match paths.is_empty() {
            true => vec![UploadPath { written: ".".to_owned(), ..UploadPath::as_written(name) }],
            false => paths.iter().map(UploadPath::as_written).collect(),
        };
        let own = phased::Handed { paths, keeps_paths: true, laid: None, at: name.at, texts: Vec::new() };
        handed.effects.push(own.upload(ArtifactName { given: Some(name.clone()), default: None }));
    }
    job.steps.push(Step::new(action.name.at, Work::ByItself(handed)));
}

/// Unpacks an artifact into a bucket, or lays it there as it is. Source: the page "Amazon S3 deploy action reference", 2026-11.
fn to_bucket(values: &Values<'_>, action: &Action) -> Step {
    let bucket = action.set(values, "BucketName");
    let extract = action.says(values, "Extract");
    let packed = extract.as_ref().filter(|text| text.value.eq_ignore_ascii_case("false")).map(|text| Laid::Packed(text.inner()));
    let key = action.set(values, "ObjectKey");
    let inside = match key {
        None => Some(String::new()),
        Some(key) => values.text(key).map(|key| key.value.trim_matches('/').to_owned()).filter(|_| packed.is_none()),
    };
    let name = bucket.and_then(|node| match values.text(node) {
        Some(text) => Some(text.value),
        None => values.resource(node).map(|resource| resource.name.value.clone()).or_else(|| Some(values.written(node)?.value)),
    });
    let at = action.inputs.first().map_or(action.name.at, |name| name.at);
    let folder = action.inputs.first().map(|name| UploadPath { written: ".".to_owned(), ..UploadPath::as_written(name) });
    let publish = Effect::Publish {
        target: Target::Bucket,
        folder,
        artifact: None,
        branch: None,
        place: Some(match (&name, &inside) {
            (Some(name), Some(inside)) if !inside.is_empty() => format!("s3://{name}/{inside}"),
            (Some(name), _) => format!("s3://{name}"),
            (None, _) => "s3".to_owned(),
        }),
        creates_branch: true,
        environment: None,
        needs_hand_on: false,
        inside,
        laid: packed,
        serving: None,
    };
    Step::new(at, Work::ByItself(ByItself { effects: vec![EffectAt::sure(publish, at)], ..ByItself::default() }))
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
    let sources =
        ByItself { effects: vec![EffectAt::sure(Effect::own_sources(None, None), resource.name.at)], ..ByItself::default() };
    job.steps.push(Step::new(resource.name.at, Work::ByItself(sources)));
    job.variables = project.variables;
    job.handed = project.handed;
    job.machine = Machine { image: project.image, ..Machine::default() };
    job.time_limit = project.limit;
    let one_at_a_time = resource.properties.and_then(|node| values.text_at(node, "ConcurrentBuildLimit"));
    pipeline.lock = one_at_a_time.filter(|text| text.value == "1").map(|text| Lock { at: text.at, group: text, cancels: None });
    match build {
        Some(build) => take_build(build, &[], &mut job),
        None => job.steps.push(Step::new(resource.name.at, Work::Unclear)),
    }
    pipeline.jobs.push(job);
    if pipeline.triggers.is_empty() && pipeline.unknown_starts().is_none() {
        pipeline.starts_from = StartsFrom::Unknown("whatever runs this build stands in no file here".to_owned());
    }
    pipeline
}
