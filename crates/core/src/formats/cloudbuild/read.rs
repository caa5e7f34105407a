//! From the tree of a `cloudbuild.yaml` to the model: one job, whose steps run in images of their own.

use super::dollars::Substitutions;
use super::secrets;
use super::steps::{self, Around};
use crate::carrier::{NodeId, Tree};
use crate::effects::{ArtifactName, Effect, EffectAt, UploadPath};
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{ByItself, Job, Language, Pipeline, StartsFrom, Step, Text, Work, Workspace};
use crate::text::{FileId, Place};

/// Reads the file as a pipeline of its own.
pub(super) fn read(tree: &Tree, file: FileId) -> Pipeline {
    let mut pipeline = Pipeline::empty(file, super::FORMAT, &super::data().customs);
    pipeline.starts_from =
        StartsFrom::Unknown("the trigger that starts it is made on the service, and stands in no file here".into());
    let nodes = nodes_of(tree, file);
    let Some(root) = tree.documents.first().copied() else { return pipeline };
    let top = Keys::of(nodes, root);
    let Some(at) = top.iter().next().map(|(key, _)| nodes.at(key)) else { return pipeline };
    let own = substitutions(&top);
    let options = top.get("options").map(|node| Keys::of(nodes, node));
    let around = Around { maps: options.as_ref().is_some_and(|options| options.says("automapSubstitutions", "true")), own: &own };
    let mut job = Job { workspace: Workspace::Fresh, ..Job::empty(Text::fixed("build", at), nodes.at(root)) };
    job.time_limit = top.text("timeout").map(|text| text.at);
    pipeline.on_request = secrets::fetched(&top);
    if let Some(options) = &options {
        steps::environment(options, &own, &mut job.variables);
        secrets::hand(options, &mut job.variables);
    }
    job.steps.push(Step::new(at, Work::ByItself(sources(at))));
    let list = top.get("steps").map(|node| listed(&nodes, node)).unwrap_or_default();
    job.steps.extend(steps::steps(&nodes, &list, &around));
    job.steps.extend(pushed(&top, &own));
    job.steps.extend(stored(&top, &own));
    pipeline.variables = own.written;
    pipeline.jobs.push(job);
    pipeline
}

pub(super) fn nodes_of(tree: &Tree, file: FileId) -> Nodes<'_> {
    Nodes { tree, file, language: Language::Variables }
}

/// What the file sets under `substitutions`.
pub(super) fn substitutions(top: &Keys<'_>) -> Substitutions {
    Substitutions::of(top.get("substitutions").map(|node| top.nodes.variables(node)).unwrap_or_default())
}

/// The one commit that starts a build is there, without submodules.
/// Source: the page "Include the repository's Git history in a build", 2026-11.
fn sources(at: Place) -> ByItself {
    let own = Effect::own_sources(None, Some(Text::fixed("1", at)));
    ByItself::of(own, at)
}

/// The texts of a list, filled in.
fn filled_list(keys: &Keys<'_>, name: &str, own: &Substitutions) -> Vec<Text> {
    let node: Option<NodeId> = keys.get(name);
    let words = node.map(|node| keys.nodes.words(node).0).unwrap_or_default();
    words.iter().map(|text| own.filled(text)).collect()
}

/// The images that are pushed when all steps have ended.
/// Source: the page "Build configuration file schema", images, 2026-11.
fn pushed(top: &Keys<'_>, own: &Substitutions) -> Option<Step> {
    let images = filled_list(top, "images", own);
    let at = top.at("images")?;
    let push = |text: &Text| EffectAt::sure(Effect::PushImage { name: Some(text.value.clone()) }, text.inner());
    let effects: Vec<EffectAt> = images.iter().map(push).collect();
    (!effects.is_empty()).then(|| Step::new(at, Work::ByItself(ByItself { effects, texts: images, ..ByItself::default() })))
}

/// The files that are kept in a bucket when all steps have ended. They are not laid out for visitors: what goes online is sent by a step.
/// Source: the page "Store build artifacts in Cloud Storage", 2026-11.
fn stored(top: &Keys<'_>, own: &Substitutions) -> Option<Step> {
    let objects = Keys::of(top.nodes, Keys::of(top.nodes, top.get("artifacts")?).get("objects")?);
    let paths = filled_list(&objects, "paths", own);
    let at = objects.at("paths")?;
    let name = ArtifactName { given: objects.text("location"), default: None };
    let upload = Effect::hand_on(name, paths.iter().map(UploadPath::as_written).collect(), true);
    let own = ByItself { texts: paths, ..ByItself::of(upload, at) };
    (!own.texts.is_empty()).then(|| Step::new(at, Work::ByItself(own)))
}
