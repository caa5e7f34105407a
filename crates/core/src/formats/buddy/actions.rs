//! Actions as steps: builds in images of their own, what is sent, what waits for a person, and the rest.
//!
//! After the pages "YAML parameters" and those of the actions: all actions of a pipeline find the files of those before them; the files
//! lie in each image at the path that `volume_mappings` name.

use super::read::{is_encrypted, variables};
use super::starts;
use crate::carrier::NodeId;
use crate::effects::{Effect, UploadPath};
use crate::formats::keys::Keys;
use crate::formats::nodes::Nodes;
use crate::formats::published;
use crate::model::{ByItself, Cond, Machine, Outcome, Shell, Step, Text, TextMap, Waits, Work};
use crate::text::Place;

/// The steps of a pipeline.
pub(super) fn steps(nodes: &Nodes<'_>, items: &[NodeId], pipeline: &Text, of_pipeline: &Keys<'_>) -> Vec<Step> {
    let mut steps = vec![Step::new(pipeline.at, Work::ByItself(sources(pipeline, of_pipeline)))];
    // Where it is said that the next action begins while this one runs.
    let mut beside = Waits::ForAll;
    for item in items {
        let keys = Keys::of(*nodes, *item);
        let before = std::mem::take(&mut beside);
        let parallel = keys.text("run_next_parallel").filter(|text| text.value == "true");
        beside = parallel.map_or(Waits::ForAll, |text| Waits::Beside(text.at));
        let first = steps.len();
        steps.extend(action(nodes, *item, &keys));
        steps[first..].iter_mut().for_each(|step| step.waits = before.clone());
    }
    steps
}

/// The repository's files are there before the first action.
fn sources(pipeline: &Text, keys: &Keys<'_>) -> ByItself {
    let depth = keys.text("clone_depth").unwrap_or_else(|| Text::fixed("0", pipeline.at));
    let own = Effect::own_sources(Some(Text::fixed("recursive", pipeline.at)), Some(depth));
    ByItself::of(own, pipeline.at)
}

fn action(nodes: &Nodes<'_>, item: NodeId, keys: &Keys<'_>) -> Vec<Step> {
    let kind = keys.text("type");
    let name = keys.text("action").or_else(|| keys.text("name"));
    let at = name.as_ref().or(kind.as_ref()).map_or(nodes.at(item), |text| text.at);
    let (own, _) = variables(keys);
    let when = Cond::all_of(starts::conditions(keys));
    let (after, after_at) = outcome(keys);
    let may_fail = keys.text("ignore_errors").filter(|text| text.value == "true");
    let off = keys.text("disabled").filter(|text| text.value == "true").map(|text| text.at);
    let work = work(keys, kind.as_ref(), at);
    let mut found = Vec::new();
    if let Some(caches) = caches(keys).filter(|_| off.is_none()) {
        found.push(Step::new(at, Work::ByItself(caches)));
    }
    found.push(Step {
        name,
        when,
        variables: own,
        may_fail: may_fail.map(Box::new),
        after,
        after_at,
        off,
        cleans: from_repository(keys),
        directory: directory(keys).map(Box::new),
        machine: image(keys)
            .map(|image| Box::new(Machine { image: Some(image), files_at: files_at(keys), ..Machine::default() })),
        ..Step::new(at, work)
    });
    found
}

/// How the actions before must have ended, and where that is said.
fn outcome(keys: &Keys<'_>) -> (Outcome, Option<Place>) {
    let Some(time) = keys.text("trigger_time") else { return (Outcome::Success, None) };
    let after = match time.value.to_ascii_uppercase().as_str() {
        "ON_FAILURE" | "ON_WARNING" | "ON_WARNING_AND_FAILURE" => Outcome::Failure,
        _ => Outcome::Success,
    };
    (after, (after != Outcome::Success).then_some(time.at))
}

fn work(keys: &Keys<'_>, kind: Option<&Text>, at: Place) -> Work {
    let Some(kind) = kind else { return Work::Unclear };
    let word = kind.value.to_ascii_uppercase();
    let list = |name: &str| super::data().list(name).contains(&word.as_str());
    if list("builds") {
        return script(keys, at);
    }
    if list("gates") {
        return Work::Gate;
    }
    if let Some(known) = super::data().publisher.iter().find(|publisher| publisher.name == word) {
        let own = published::publish(keys, known, at);
        return Work::ByItself(normal(own));
    }
    if list("harmless") {
        return Work::ByItself(ByItself::of(Effect::Nothing, at));
    }
    Work::Unclear
}

/// Where it is said that what git holds is sent, and not what the actions before have made.
fn from_repository(keys: &Keys<'_>) -> Option<Place> {
    keys.text("input_type").filter(|text| text.value.eq_ignore_ascii_case("SCM_REPOSITORY")).map(|text| text.at)
}

/// Paths begin at the root of the files, with a slash before them or without; passwords that are encrypted are nobody's to read.
fn normal(mut own: ByItself) -> ByItself {
    for effect in &mut own.effects {
        if let Effect::Publish { folder: Some(folder), .. } = &mut effect.effect {
            *folder = from_root(folder);
        }
    }
    own.texts.retain(|text| !is_encrypted(text));
    own.credentials.retain(|credential| !is_encrypted(&credential.value));
    own
}

fn from_root(folder: &UploadPath) -> UploadPath {
    let inside = folder.written.trim_start_matches('/').to_owned();
    UploadPath { written: if inside.is_empty() { ".".to_owned() } else { inside }, ..folder.clone() }
}

/// The commands of a build, those that make its image ready first.
fn script(keys: &Keys<'_>, at: Place) -> Work {
    let lines = |key: &str| keys.get(key).map(|node| keys.nodes.words(node).0).unwrap_or_default();
    let mut all = lines("setup_commands");
    all.extend(lines("execute_commands"));
    all.extend(lines("commands"));
    let shell = match keys.text("shell").map(|text| text.value.to_ascii_uppercase()).as_deref() {
        None | Some("BASH" | "SH" | "ZSH") => Shell::Posix,
        Some("POWER_SHELL" | "POWERSHELL") => Shell::PowerShell,
        Some(_) => Shell::Other,
    };
    match crate::formats::joined(all) {
        Some(script) => Work::Runs { script, shell },
        None => Work::ByItself(ByItself::of(Effect::Nothing, at)),
    }
}

/// The image with its tag, each with the way back to its own place.
fn image(keys: &Keys<'_>) -> Option<Text> {
    let name = keys.text("docker_image_name")?;
    let Some(tag) = keys.text("docker_image_tag") else { return Some(name) };
    let value = format!("{}:{}", name.value, tag.value);
    let parts = [(0, name.clone()), (name.value.len() + 1, tag)];
    Some(Text::new(value, name.at, false, TextMap::joined(parts)).filled_in_by(name.language))
}

/// Where the files stand in an image: the part of them, and the path. Source: the page "YAML parameters", `volume_mappings`, 2026-11.
fn mapping(keys: &Keys<'_>) -> Option<(String, Text)> {
    let list = keys.nodes.words(keys.get("volume_mappings")?).0;
    let [only] = list.as_slice() else { return None };
    let (from, to) = only.value.split_once(':')?;
    let start = from.len() + 1;
    let to = Text::fixed(to.trim_end_matches('/'), only.place(start..only.value.len()));
    Some((from.trim_matches('/').to_owned(), to))
}

fn files_at(keys: &Keys<'_>) -> Option<Text> {
    mapping(keys).map(|(_, to)| to)
}

/// The folder of the files that an action works in, seen from their root; as it is written where it lies beside them.
fn directory(keys: &Keys<'_>) -> Option<Text> {
    let written = keys.text("working_directory")?;
    let (from, to) = mapping(keys)?;
    let inside = written.value.trim_end_matches('/').strip_prefix(to.value.as_str());
    match inside.filter(|rest| rest.is_empty() || rest.starts_with('/')) {
        Some(rest) => {
            let path =
                [from.as_str(), rest.trim_matches('/')].iter().filter(|part| !part.is_empty()).copied().collect::<Vec<_>>();
            (!path.is_empty()).then(|| Text::fixed(&path.join("/"), written.inner()))
        }
        None => Some(written),
    }
}

fn caches(keys: &Keys<'_>) -> Option<ByItself> {
    let paths = keys.nodes.words(keys.get("cached_dirs")?).0;
    let first = paths.first()?.at;
    let cached = Effect::keyless_cache(paths.iter().map(UploadPath::as_written).collect());
    Some(ByItself { texts: paths, ..ByItself::of(cached, first) })
}
