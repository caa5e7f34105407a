//! What the runner does around a job's script: sources, caches, artifacts, and the forge's pages.
//!
//! After the pages "CI/CD YAML syntax reference" (`cache`, `artifacts`, `pages`) and "Configuring runners" (git strategy).

use super::merge::{Item, Map};
use super::read::Reader;
use crate::effects::{ArtifactName, Effect, EffectAt, HashOf, UploadPath};
use crate::model::{ByItself, Text};
use crate::text::Place;

/// Fetches what a job handed on, into the places that it had there.
pub(super) fn fetch(name: &Text, at: Place) -> EffectAt {
    let name = ArtifactName::of_job(name);
    EffectAt::sure(Effect::Download { name, into: Some(String::new()), elsewhere: false, merges: true }, at)
}

impl Reader<'_, '_> {
    /// What the runner does before the script.
    pub fn before(&self, map: &Map, id: &Text) -> ByItself {
        let mut own = ByItself::default();
        if !self.variable(map, "GIT_STRATEGY").is_some_and(|text| matches!(text.value.as_str(), "none" | "empty")) {
            let (submodules, depth) = (self.variable(map, "GIT_SUBMODULE_STRATEGY"), self.variable(map, "GIT_DEPTH"));
            own.texts.extend(submodules.iter().chain(&depth).cloned());
            own.effects.push(EffectAt::sure(Effect::own_sources(submodules, depth), id.at));
        }
        if let Some(caches) = self.inherited(map, "cache") {
            let list = self.documents.items(&caches);
            let list = if list.is_empty() { vec![caches] } else { list };
            list.iter().for_each(|cache| self.cache(cache, &mut own));
        }
        own
    }

    fn cache(&self, item: &Item, own: &mut ByItself) {
        let key = self.documents.get(item, "key");
        let files = key
            .as_ref()
            .and_then(|key| self.documents.get(key, "files"))
            .map(|item| self.documents.texts(&item))
            .unwrap_or_default();
        let prefix = key.as_ref().and_then(|key| self.documents.get(key, "prefix"));
        let key = key.and_then(|item| self.documents.text(&item)).or_else(|| self.documents.text(&prefix?));
        let paths = self.documents.get(item, "paths").map(|item| self.documents.texts(&item)).unwrap_or_default();
        let policy = self.documents.get(item, "policy").and_then(|item| self.documents.text(&item));
        if paths.is_empty() {
            return;
        }
        own.texts.extend(key.iter().chain(&files).chain(&paths).cloned());
        let hashes = HashOf::of_files(&files).into_iter().collect();
        let paths = paths.iter().map(UploadPath::as_written).collect();
        let saves_at = policy.as_ref().map(|policy| policy.at);
        let effect = match policy.as_ref().map(|policy| policy.value.as_str()) {
            Some("push") => Effect::SaveCache { key, paths },
            word => {
                let saves = word.map_or(Some(true), |word| ["pull", "pull-push"].contains(&word).then_some(word != "pull"));
                Effect::RestoreCache { key, hashes, paths, fallback: None, saves, saves_at }
            }
        };
        own.effects.push(EffectAt::sure(effect, self.documents.at(item)));
    }

    /// What the runner does after the script.
    pub fn after(&self, map: &Map, id: &Text) -> ByItself {
        let mut own = ByItself::default();
        self.hand_on(map, id, &mut own);
        self.publish(map, id, &mut own);
        own
    }

    fn hand_on(&self, map: &Map, id: &Text, own: &mut ByItself) {
        let Some(artifacts) = self.inherited(map, "artifacts") else { return };
        let text = |key: &str| self.documents.get(&artifacts, key).and_then(|item| self.documents.text(&item));
        let listed = self.documents.get(&artifacts, "paths").unwrap_or_else(|| artifacts.clone());
        let paths = self.documents.texts(&listed);
        let untracked = text("untracked").filter(|text| text.value == "true").map(|text| text.at);
        if paths.is_empty() && untracked.is_none() {
            return;
        }
        let upload = Effect::Upload {
            name: ArtifactName::of_job(id),
            paths: paths.iter().map(UploadPath::as_written).chain(untracked.map(UploadPath::untracked)).collect(),
            keeps_paths: true,
            exclusive: false,
            goes_online: false,
            laid: None,
            expires: text("expire_in").map(Box::new),
            leaves_hidden_out: None,
            passes_over_nothing: None,
        };
        own.effects.push(EffectAt::sure(upload, paths.first().map_or(id.at, |path| path.at)));
        own.texts.extend(paths);
    }

    fn publish(&self, map: &Map, id: &Text, own: &mut ByItself) {
        let pages = map.get("pages");
        let switched_off = pages.and_then(|item| self.documents.text(item)).is_some_and(|text| text.value == "false");
        if (id.value != "pages" && pages.is_none()) || switched_off {
            return;
        }
        let inside = pages.and_then(|item| self.documents.get(item, "publish"));
        let named = inside.or_else(|| map.get("publish").cloned()).and_then(|item| self.documents.text(&item));
        let preview = pages.and_then(|item| self.documents.get(item, "path_prefix")).is_some();
        let adds_itself = pages.is_some() && named.is_some();
        let folder = named.unwrap_or_else(|| Text::fixed("public", id.at));
        let publish = Effect::publish_pages(UploadPath::as_written(&folder), !preview, !adds_itself);
        own.effects.push(EffectAt::sure(publish, folder.at));
        own.texts.push(folder);
    }
}
