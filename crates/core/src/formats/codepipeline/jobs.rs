//! What actions do: sources are brought, builds are run by the files that they name, artifacts are handed on, buckets are filled.

use super::actions::{Action, Definition};
use super::projects::{self, Project};
use super::starts;
use super::values::{Values, tree_inside};
use crate::carrier::NodeId;
use crate::effects::{ArtifactName, Effect, EffectAt, Laid, UploadPath};
use crate::facts::Reach;
use crate::form::FormIssue;
use crate::formats::Texts;
use crate::formats::buildspec::Build;
use crate::formats::nodes::Nodes;
use crate::formats::phased;
use crate::model::{ByItself, Credential, Job, Language, Pipeline, Shell, Step, Target, Text, Work, Workspace};
use crate::text::Place;

/// What an action does.
pub(super) fn job(
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
    ByItself::of(Effect::Nothing, at)
}

/// Brings the files, and hands them on.
fn source(values: &Values<'_>, definition: &Definition, action: &Action) -> ByItself {
    let at = action.name.at;
    let mut own = ByItself { credentials: credentials(values, action), ..ByItself::default() };
    // Where filters start it, or something that is not known, the branch counts all the same.
    let filtered = values.get(definition.node, "triggers").is_some() || starts::undetected(values, action).is_some();
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
    let pair = action.configuration.and_then(|node| values.nodes.tree.get(node, "OAuthToken"));
    pair.and_then(|pair| written_out(values, pair)).into_iter().collect()
}

/// A token that stands under a key itself: no stars, which are shown in the place of a credential.
pub(super) fn written_out(values: &Values<'_>, (key, value): (NodeId, NodeId)) -> Option<Credential> {
    let (name, value) = (values.nodes.text(key)?, values.text(value)?);
    let is_hidden = value.value.bytes().all(|byte| byte == b'*');
    (!is_hidden).then_some(Credential { name, value, secret: true })
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
    let own = ByItself::of(taken, first.at);
    Some(Step::new(first.at, Work::ByItself(own)))
}

/// The project that an action runs; one that stands somewhere else runs the usual file.
pub(super) fn project_of(values: &Values<'_>, action: &Action) -> Project {
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
        let tree = tree_inside(&text, values.nodes.tree);
        let inner = Values::of(Nodes { tree: &tree, file: values.nodes.file, language: Language::Contexts });
        let list = tree.documents.first().map(|root| inner.items(*root)).unwrap_or_default();
        projects::variables(&inner, &list)
    });
    let (variables, handed) = of_action.unwrap_or_default();
    (job.variables, job.handed) = (variables, handed.into());
    project.set_up(job);
}

/// An artifact of which nothing is known but its name.
fn unknown_artifact(name: &Text) -> EffectAt {
    let path = UploadPath { glob: true, ..UploadPath::as_written(name) };
    let handed = phased::Handed { paths: vec![path], keeps_paths: false, laid: None, at: name.at, texts: Vec::new() };
    handed.upload(ArtifactName { given: Some(name.clone()), default: None })
}

/// What a build does in a job, and what it hands on under the names that the action gives.
/// Source: the page "Use CodePipeline with CodeBuild", several outputs, 2026-11.
pub(super) fn take_build(build: Build, outputs: &[Text], job: &mut Job) {
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

/// The name of a bucket: as it is written, or that of the resource.
pub(super) fn bucket(values: &Values<'_>, node: NodeId) -> Option<String> {
    let known = values.text(node).map(|text| text.value);
    let resource = || values.resource(node).map(|resource| resource.name.value.clone());
    known.or_else(resource).or_else(|| Some(values.written(node)?.value))
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
    let name = bucket.and_then(|node| self::bucket(values, node));
    let at = action.inputs.first().map_or(action.name.at, |name| name.at);
    let folder = action.inputs.first().map(|name| UploadPath { written: ".".to_owned(), ..UploadPath::as_written(name) });
    let place = match (&name, &inside) {
        (Some(name), Some(inside)) if !inside.is_empty() => format!("s3://{name}/{inside}"),
        (Some(name), _) => format!("s3://{name}"),
        (None, _) => "s3".to_owned(),
    };
    let publish = Effect::publish_to((Target::Bucket, Some(place)), folder, inside, packed);
    Step::new(at, Work::ByItself(ByItself::of(publish, at)))
}
