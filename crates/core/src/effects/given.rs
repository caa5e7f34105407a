//! What the format itself does around a job's script.

use super::{ArtifactName, Effect, EffectAt, FORGE_PAGES, HashOf, Scene, StepEffects, UploadPath, join};
use crate::knowledge;
use crate::model::{Given, Text};

pub(super) fn effects(scene: &Scene<'_>, given: &[Given]) -> StepEffects {
    let mut out = StepEffects::default();
    for one in given {
        out.effects.extend(effect(scene, one));
    }
    out
}

fn effect(scene: &Scene<'_>, given: &Given) -> Option<EffectAt> {
    let path = |text: &Text| path(scene, text);
    let found = match given {
        Given::Checkout { submodules, depth, at } => {
            let submodules = submodules.clone();
            EffectAt::sure(
                Effect::Checkout {
                    into: Some(String::new()),
                    own: true,
                    reference: None,
                    repository: None,
                    submodules,
                    depth: depth.clone(),
                    forgets: None,
                },
                *at,
            )
        }
        Given::Image(image) => return runtime(scene, image),
        Given::Fetch { name, at } => EffectAt::sure(
            Effect::Download {
                name: ArtifactName { given: None, default: Some(name.value.clone()) },
                into: Some(String::new()),
                elsewhere: false,
                merges: true,
            },
            *at,
        ),
        Given::Cache { key, files, paths, policy, at } => {
            let hashes = files.first().map(|first| HashOf {
                patterns: files.iter().map(|file| Some(scene.filled(&file.value)).filter(|name| !name.contains('$'))).collect(),
                at: first.inner(),
                spelled: "FILE",
            });
            let (key, paths) = (key.clone(), paths.iter().map(&path).collect());
            let saves = match policy.as_ref().map(|policy| policy.value.as_str()) {
                Some("push") => return Some(EffectAt::sure(Effect::SaveCache { key, paths }, *at)),
                Some("pull") => Some(false),
                None | Some("pull-push") => Some(true),
                Some(_) => None,
            };
            let saves_at = policy.as_ref().map(|policy| policy.at);
            EffectAt::sure(
                Effect::RestoreCache { key, hashes: hashes.into_iter().collect(), paths, fallback: None, saves, saves_at },
                *at,
            )
        }
        Given::HandOn { name, paths, untracked, expires } => EffectAt::sure(
            Effect::Upload {
                name: ArtifactName { given: None, default: Some(name.value.clone()) },
                paths: paths.iter().map(&path).chain(untracked.map(anything)).collect(),
                keeps_paths: true,
                exclusive: false,
                for_pages: false,
                expires: expires.clone(),
                leaves_hidden_out: None,
                passes_over_nothing: None,
            },
            paths.first().map_or(name.at, |path| path.at),
        ),
        Given::Publish { folder, preview, needs_hand_on } => EffectAt::sure(
            Effect::Publish {
                target: FORGE_PAGES.into(),
                folder: Some(path(folder)),
                artifact: None,
                branch: None,
                place: (!preview).then(|| FORGE_PAGES.to_owned()),
                creates_branch: true,
                environment: None,
                needs_hand_on: *needs_hand_on,
                inside: Some(String::new()),
            },
            folder.at,
        ),
    };
    Some(found)
}

/// Whatever lies in the workspace and git does not track.
fn anything(at: crate::text::Place) -> UploadPath {
    UploadPath { folder: None, at, written: "whatever git does not track".to_owned(), glob: true }
}

fn runtime(scene: &Scene<'_>, image: &Text) -> Option<EffectAt> {
    let filled = scene.filled(&image.value);
    if filled != image.value {
        // The version stands in a variable: it has the image's place.
        return runtime(scene, &Text::fixed(&filled, image.at));
    }
    let (name, tag) = image.value.rsplit_once(':')?;
    let base = name.trim_start_matches("docker.io/").trim_start_matches("library/");
    let tool = knowledge::names().images.get(base)?;
    // A version that stands in a variable is one of the job's legs.
    let digits = match tag.starts_with('$') {
        true => tag.len(),
        false => tag.bytes().take_while(|byte| byte.is_ascii_digit() || *byte == b'.').count(),
    };
    let start = image.value.len() - tag.len();
    let place = image.place(start..start + digits);
    let version = (digits > 0).then(|| Text::fixed(&tag[..digits], place));
    let effect = Effect::SetUp { tool: tool.clone(), version, version_file: None, cache: None, lockfiles: None };
    Some(EffectAt::sure(effect, image.at))
}

/// A path of artifacts or a cache; variables and globs leave the part before them.
fn path(scene: &Scene<'_>, text: &Text) -> UploadPath {
    let filled = scene.filled(text.value.trim());
    let written = filled.as_str();
    let glob = written.find(['*', '?', '[']);
    let fixed = match glob {
        Some(index) => written[..index].rsplit_once('/').map_or("", |(dir, _)| dir),
        None => written,
    };
    let fixed = fixed
        .strip_prefix("$CI_PROJECT_DIR")
        .or_else(|| fixed.strip_prefix("${CI_PROJECT_DIR}"))
        .map_or(fixed, |rest| rest.trim_start_matches('/'));
    UploadPath { folder: join(&Some(String::new()), fixed), at: text.inner(), written: written.to_owned(), glob: glob.is_some() }
}
