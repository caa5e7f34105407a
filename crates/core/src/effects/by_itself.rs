//! What a format does around a job's steps without a step being written: its reader puts it down as effects with the texts as they are
//! written, and what those read is filled in here.

use super::folder::before_stars;
use super::{ArtifactName, Effect, EffectAt, HashOf, Scene, StepEffects, UploadPath, join};
use crate::knowledge;
use crate::model::{ByItself, Text};
use crate::text::Place;

impl ArtifactName {
    /// The name of the job that hands something on.
    pub fn of_job(id: &Text) -> Self {
        Self { given: None, default: Some(id.value.clone()) }
    }
}

impl UploadPath {
    /// A path of which variables are not filled in yet.
    pub fn as_written(text: &Text) -> Self {
        Self { folder: None, at: text.inner(), written: text.value.trim().to_owned(), glob: false }
    }

    /// Whatever lies in the workspace and git does not track; not a path that is written anywhere.
    pub fn untracked(at: Place) -> Self {
        Self { folder: None, at, written: "whatever git does not track".to_owned(), glob: true }
    }
}

impl HashOf {
    /// Files whose contents make a key, by their names as they are written.
    pub fn of_files(files: &[Text]) -> Option<Self> {
        let patterns = files.iter().map(|file| file.value.clone()).collect();
        files.first().map(|first| Self { patterns: Some(patterns), at: first.inner(), spelled: "FILE" })
    }
}

pub(super) fn effects(scene: &Scene<'_>, written: &ByItself) -> StepEffects {
    let mut out = StepEffects { effects: written.effects.clone(), wants: written.wants.clone(), ..StepEffects::default() };
    out.effects.iter_mut().for_each(|effect| fill(scene, &mut effect.effect));
    out
}

/// Fills the pipeline's own variables into the texts of an effect.
fn fill(scene: &Scene<'_>, effect: &mut Effect) {
    match effect {
        Effect::RestoreCache { hashes, paths, .. } => {
            hashes.iter_mut().for_each(|hash| fill_hash(scene, hash));
            paths.iter_mut().for_each(|path| fill_path(scene, path));
        }
        Effect::SaveCache { paths, .. } | Effect::Upload { paths, .. } => {
            paths.iter_mut().for_each(|path| fill_path(scene, path));
        }
        Effect::Publish { folder: Some(folder), .. } => fill_path(scene, folder),
        Effect::PushImage { name } => *name = name.take().and_then(|name| scene.name_in_run(&name)),
        _ => {}
    }
}

fn fill_hash(scene: &Scene<'_>, hash: &mut HashOf) {
    let filled = |file: String| Some(scene.filled(&file)).filter(|name| !name.contains('$'));
    hash.patterns = hash.patterns.take().and_then(|files| files.into_iter().map(filled).collect());
}

/// A path of artifacts or a cache; globs leave the part before them.
fn fill_path(scene: &Scene<'_>, path: &mut UploadPath) {
    if path.glob {
        return;
    }
    path.written = scene.filled(&path.written);
    let (fixed, glob) = before_stars(&path.written);
    let around = scene.directory.map_or_else(|| Some(String::new()), |directory| join(&Some(String::new()), &directory.value));
    path.folder = join(&around, fixed);
    path.glob = glob;
}

/// The runtime that an image brings, by its name and its tag.
pub(super) fn brought_by(scene: &Scene<'_>, image: &Text) -> Option<EffectAt> {
    let filled = scene.filled(&image.value);
    if filled != image.value {
        // The version stands in a variable: it has the image's place.
        return brought_by(scene, &Text::fixed(&filled, image.at));
    }
    let (name, tag) = image.value.rsplit_once(':')?;
    let base = knowledge::official_image(name);
    let tool = knowledge::names().images.get(base)?;
    // A version that stands in a variable is one of the job's legs.
    let digits = match tag.starts_with('$') {
        true => tag.len(),
        false => tag.bytes().take_while(|byte| byte.is_ascii_digit() || *byte == b'.').count(),
    };
    let start = image.value.len() - tag.len();
    let place = image.place(start..start + digits);
    let version = (digits > 0).then(|| Text::fixed(&tag[..digits], place));
    Some(EffectAt::sure(Effect::set_up(tool, version), image.at))
}
