//! The artifact of a build, and its cache.
//!
//! After the pages "Build specification reference" (artifacts, cache) and "Configuring build settings": `files` are patterns of paths seen
//! from the base directory, and keep their paths from there; `*` stands for the files of the folder itself, `**/*` for all below it too.

use crate::effects::{ArtifactName, Effect, EffectAt, HashOf, Laid, UploadPath};
use crate::formats::keys::Keys;
use crate::model::{ByItself, Text};
use crate::text::Place;

/// What a build hands on.
pub(in crate::formats) struct Handed {
    /// The paths, from the folder that the build works in.
    pub paths: Vec<UploadPath>,
    /// They keep their paths from the top.
    pub keeps_paths: bool,
    /// How they are laid out.
    pub laid: Option<Laid>,
    /// Where it is written.
    pub at: Place,
    /// The texts that variables are filled into.
    pub texts: Vec<Text>,
}

impl Handed {
    /// As an artifact of a name; without one, it is the only one of its job.
    pub fn upload(self, name: ArtifactName) -> EffectAt {
        let upload = Effect::Upload {
            name,
            paths: self.paths,
            keeps_paths: self.keeps_paths,
            exclusive: false,
            goes_online: false,
            laid: self.laid,
            expires: None,
            leaves_hidden_out: None,
            passes_over_nothing: None,
        };
        EffectAt::sure(upload, self.at)
    }
}

/// What a mapping with `files` hands on; `base` is the key of its base directory.
pub(in crate::formats) fn handed(keys: &Keys<'_>, base: &str) -> Option<Handed> {
    let files = keys.get("files").map(|node| keys.nodes.words(node).0).unwrap_or_default();
    let folder = keys.text(base).map(|text| from_root(&text));
    let at = folder.as_ref().or(files.first())?.at;
    let whole = |file: &Text| matches!(clean(&file.value), "**/*" | "**" | "**/**" | "");
    let top_only = |file: &Text| clean(&file.value) == "*";
    let flat = keys.text("discard-paths").filter(|text| matches!(text.value.as_str(), "yes" | "true" | "True" | "YES" | "Yes"));
    let mut texts: Vec<Text> = folder.iter().cloned().collect();
    texts.extend(files.iter().cloned());
    let found = |paths, keeps_paths, laid: Option<Laid>, texts| {
        let laid = flat.as_ref().map(|text| Laid::Flat(text.inner())).or(laid);
        Some(Handed { paths, keeps_paths, laid, at, texts })
    };
    let everything = files.iter().any(whole) || files.is_empty();
    if everything || files.iter().all(top_only) {
        let path = match (&folder, files.first()) {
            (Some(folder), _) => UploadPath::as_written(folder),
            (None, file) => UploadPath { written: ".".to_owned(), ..UploadPath::as_written(file?) },
        };
        let laid = files.first().filter(|_| !everything).map(|file| Laid::TopOnly(file.inner()));
        return found(vec![path], false, laid, texts);
    }
    // What is left out is not known to matter.
    let paths = files.iter().map(|file| below(folder.as_ref(), file)).collect();
    found(paths, folder.is_none(), None, texts)
}

/// A pattern below a base directory; a whole folder is the folder.
fn below(base: Option<&Text>, file: &Text) -> UploadPath {
    let inside = inside_of(clean(&file.value));
    let written = match base.map(|base| base.value.as_str()).filter(|base| !base.is_empty() && *base != ".") {
        Some(base) => format!("{base}/{inside}"),
        None => inside.to_owned(),
    };
    UploadPath { written, ..UploadPath::as_written(file) }
}

/// `dist/**/*` stands for the folder with all that is in it.
fn inside_of(pattern: &str) -> &str {
    let ends = ["/**/*", "/**", "/*"];
    ends.iter().find_map(|end| pattern.strip_suffix(end)).filter(|rest| !rest.contains(['*', '?'])).unwrap_or(pattern)
}

fn clean(path: &str) -> &str {
    path.trim().trim_start_matches("./")
}

/// A folder from the top of the files, with a slash or `./` before it or without.
fn from_root(text: &Text) -> Text {
    let start = text.value.len() - text.value.trim_start_matches(['.', '/']).len();
    // A folder whose name begins with a point keeps it.
    let start = if text.value[..start].ends_with('.') { start - 1 } else { start };
    let end = text.value.trim_end_matches('/').len().max(start);
    let inside = &text.value[start..end];
    let part = Text::fixed(if inside.is_empty() { "." } else { inside }, text.place(start..end));
    part.filled_in_by(text.language)
}

/// The folders that are kept from build to build.
pub(in crate::formats) fn cached(cache: &Keys<'_>, own: &mut ByItself) {
    let paths: Vec<Text> = cache
        .get("paths")
        .map(|node| cache.nodes.words(node).0)
        .unwrap_or_default()
        .iter()
        .filter(|text| !text.value.trim().is_empty())
        .map(folder_of)
        .collect();
    let Some(first) = paths.first() else { return };
    let (at, folders) = (first.at, paths.iter().map(UploadPath::as_written).collect());
    let effect = match cache.text("key") {
        Some(key) => Effect::RestoreCache {
            hashes: hashes(&key),
            key: Some(key),
            paths: folders,
            fallback: None,
            saves: Some(!cache.says("action", "restore")),
            saves_at: None,
        },
        None => Effect::keyless_cache(folders),
    };
    own.effects.push(EffectAt::sure(effect, at));
    own.texts.extend(paths);
}

fn folder_of(text: &Text) -> Text {
    let inside = inside_of(&text.value);
    if inside == text.value {
        return text.clone();
    }
    Text::fixed(inside, text.place(0..inside.len())).filled_in_by(text.language)
}

/// The files of `$(codebuild-hash-files package-lock.json)` in a key. Source: the page "Build specification reference", cache, 2026-11.
fn hashes(key: &Text) -> Vec<HashOf> {
    const CALL: &str = "$(codebuild-hash-files ";
    let mut found = Vec::new();
    let mut from = 0;
    while let Some(start) = key.value[from..].find(CALL).map(|index| from + index + CALL.len()) {
        let Some(length) = key.value[start..].find(')') else { break };
        let files = key.value[start..start + length].split([' ', ',']).filter(|file| !file.is_empty());
        found.push(HashOf {
            patterns: Some(files.map(str::to_owned).collect()),
            at: key.place(start..start + length),
            spelled: "FILE",
        });
        from = start + length;
    }
    found
}
