//! What is done with a site's files, in words.

use super::{Hand, StopKind};
use crate::case::Case;
use crate::effects::{ArtifactName, Effect, EffectAt, UploadPath};
use crate::trail::Standing;

/// A stop, as far as its effect tells.
pub(super) struct Told {
    pub kind: StopKind,
    pub text: String,
    pub certain: bool,
    pub hand: Hand,
}

/// What an effect is to the site, in words; nothing for what does not touch it.
pub(super) fn told(case: &Case<'_>, job: usize, step: usize, effect: &EffectAt) -> Option<Told> {
    let (kind, text, certain) = words(case, job, step, effect)?;
    let hand = match &effect.effect {
        Effect::Upload { name, paths, .. } => {
            Hand::Gives { name: name.known().filter(|name| !name.is_empty()).map(str::to_owned), holds: written(paths) }
        }
        other => other.takes().map_or(Hand::None, |(name, _)| taken(name)),
    };
    Some(Told { kind, text, certain, hand })
}

/// Paths as they are written.
fn written(paths: &[UploadPath]) -> String {
    paths.iter().map(|path| path.written.as_str()).collect::<Vec<_>>().join(", ")
}

fn taken(name: &ArtifactName) -> Hand {
    match (&name.given, &name.default) {
        (None, None) => Hand::TakesAll,
        _ => Hand::Takes(name.known().map(str::to_owned)),
    }
}

fn words(case: &Case<'_>, job: usize, step: usize, effect: &EffectAt) -> Option<(StopKind, String, bool)> {
    let standing = |folder: &str| {
        let handover = case
            .trail
            .handed_on_by(job)
            .iter()
            .find(|handover| handover.step == step && handover.path.folder.as_deref() == Some(folder));
        handover.is_some_and(|handover| handover.standing == Standing::There)
    };
    let named = |folder: &Option<String>| match folder.as_deref() {
        Some("") => "the workspace".to_owned(),
        Some(folder) => folder.to_owned(),
        None => "a folder that is not known".to_owned(),
    };
    Some(match &effect.effect {
        Effect::Checkout { own: true, into, .. } => {
            let into = if into.as_deref() == Some("") { String::new() } else { format!(" into {}", named(into)) };
            (StopKind::Sources, format!("the repository{into}"), true)
        }
        Effect::Checkout { into, .. } => (StopKind::Sources, format!("other sources into {}", named(into)), true),
        Effect::Install { manager, .. } => (StopKind::Install, format!("packages with {manager}"), true),
        Effect::Build { generator, output, .. } => {
            (StopKind::Build, format!("{generator} makes {}", named(output)), output.is_some())
        }
        Effect::Copy { from, to, moves, .. } => {
            let from: Vec<String> = from.iter().map(|source| named(&source.path)).collect();
            (
                StopKind::Move,
                format!("{} {} {}", from.join(", "), if *moves { "becomes" } else { "is copied to" }, named(to)),
                true,
            )
        }
        Effect::Upload { name, paths, .. } => {
            let artifact = name.known().filter(|name| !name.is_empty()).map(|name| format!(" as {name}")).unwrap_or_default();
            let certain = paths.iter().all(|path| path.folder.as_deref().is_some_and(standing));
            (StopKind::HandOn, format!("{}{artifact}", written(paths)), certain)
        }
        Effect::Download { name, into, .. } => {
            let what = name.known().map_or_else(|| "all artifacts".to_owned(), str::to_owned);
            let into = if into.as_deref() == Some("") { String::new() } else { format!(" into {}", named(into)) };
            (StopKind::Fetch, format!("{what}{into}"), true)
        }
        Effect::Publish { folder, artifact, target, .. } => {
            let what = match (folder, artifact.as_ref().and_then(|artifact| artifact.known())) {
                (Some(folder), _) if folder.written == "." => case.only_fetched(job).unwrap_or(&folder.written).to_owned(),
                (Some(folder), _) => folder.written.clone(),
                (None, Some(artifact)) => artifact.to_owned(),
                (None, None) => "the site".to_owned(),
            };
            let certain = folder.as_ref().is_none_or(|folder| folder.folder.as_deref().is_some_and(standing));
            (StopKind::Publish, format!("{what} to {target}"), certain)
        }
        _ => return None,
    })
}
