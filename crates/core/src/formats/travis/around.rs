//! What is done before the phases: sources, the language's runtime, caches, and files that other jobs have laid aside.

use super::jobs::Plan;
use crate::carrier::NodeId;
use crate::effects::{ArtifactName, Effect, EffectAt, UploadPath};
use crate::formats::Texts;
use crate::formats::keys::{Keys, listed};
use crate::model::{ByItself, Text};
use crate::text::Place;

/// What stands before the first phase.
pub(super) fn before(plan: &Plan<'_>, texts: &Texts<'_>) -> ByItself {
    let mut own = ByItself::default();
    sources(plan, &mut own);
    runtime(plan, texts, &mut own);
    caches(plan, texts, &mut own);
    workspaces(plan, "use", &mut own, |name, _, at| {
        let name = ArtifactName { given: Some(name), default: None };
        EffectAt::sure(Effect::Download { name, into: Some(String::new()), elsewhere: false, merges: true }, at)
    });
    own
}

/// What is laid aside for other jobs when a job has succeeded.
pub(super) fn after(plan: &Plan<'_>) -> ByItself {
    let mut own = ByItself::default();
    workspaces(plan, "create", &mut own, |name, paths, at| {
        let name = ArtifactName { given: Some(name), default: None };
        let upload = Effect::hand_on(name, paths.iter().map(UploadPath::as_written).collect(), true);
        EffectAt::sure(upload, at)
    });
    own
}

/// Source: the page "Using Workspaces", 2026-11.
fn workspaces(plan: &Plan<'_>, key: &str, own: &mut ByItself, effect: impl Fn(Text, Vec<Text>, Place) -> EffectAt) {
    let Some(node) = plan.get("workspaces").and_then(|node| Keys::of(plan.nodes(), node).get(key)) else { return };
    let nodes = plan.nodes();
    for item in listed(&nodes, node) {
        let keys = Keys::of(nodes, item);
        let Some(name) = nodes.text(item).or_else(|| keys.text("name")) else { continue };
        let paths = keys.get("paths").map(|paths| nodes.words(paths).0).unwrap_or_default();
        let at = name.at;
        own.effects.push(effect(name, paths, at));
    }
}

/// Source: the page "Customizing the Build", git clone depth and submodules, 2026-11.
fn sources(plan: &Plan<'_>, own: &mut ByItself) {
    let git = plan.get("git").map(|node| Keys::of(plan.nodes(), node));
    let text = |name: &str| git.as_ref().and_then(|git| git.text(name));
    if text("clone").is_some_and(|clone| clone.value == "false") {
        return;
    }
    let at = plan.id.at;
    let depth = match text("depth") {
        Some(depth) if depth.value == "false" => Text::fixed("0", depth.at),
        Some(depth) => depth,
        None => Text::fixed("50", at),
    };
    let submodules = text("submodules").filter(|text| text.value == "false").unwrap_or_else(|| Text::fixed("recursive", at));
    own.effects.push(EffectAt::sure(Effect::own_sources(Some(submodules), Some(depth)), at));
}

/// The file that holds the version where the file names none.
fn version_files(language: &str) -> &'static [&'static str] {
    match language {
        "node_js" => &[".nvmrc", ".node-version"],
        "python" => &[".python-version"],
        "ruby" => &[".ruby-version"],
        _ => &[],
    }
}

/// The language's runtime, with the first of its versions.
fn runtime(plan: &Plan<'_>, texts: &Texts<'_>, own: &mut ByItself) {
    let language = plan.language();
    let (keys, tool): (&[&str], &str) = match language.as_str() {
        "node_js" => (&["node_js"], "node"),
        "python" => (&["python"], "python"),
        "ruby" => (&["rvm", "ruby"], "ruby"),
        "go" => (&["go"], "go"),
        // Every language may ask for another one's runtime.
        _ if plan.get("node_js").is_some() => (&["node_js"], "node"),
        _ => return,
    };
    let nodes = plan.nodes();
    let versions = keys.iter().find_map(|key| plan.get(key)).map(|node| nodes.words(node).0).unwrap_or_default();
    let file = version_files(&language).iter().find(|file| texts.has(file));
    let at = versions.first().map_or(plan.id.at, |version| version.at);
    // Of several, each leg of the job has one.
    let version = match versions.as_slice() {
        [] => None,
        [only] => Some(only.clone()),
        [first, ..] if plan.from_item => Some(first.clone()),
        _ => None,
    };
    let named_file = file.filter(|_| versions.is_empty()).map(|file| Box::new(Text::fixed(file, at)));
    let effect = Effect::SetUp { tool: tool.to_owned(), version, version_file: named_file, cache: None, lockfiles: None };
    own.effects.push(EffectAt::sure(effect, at));
}

/// Source: the page "Caching Dependencies and Directories", 2026-11.
fn caches(plan: &Plan<'_>, texts: &Texts<'_>, own: &mut ByItself) {
    let Some(node) = plan.get("cache") else { return };
    let nodes = plan.nodes();
    for item in listed(&nodes, node) {
        if let Some(word) = nodes.text(item) {
            own.effects.extend(shorthand(&word.value, texts, word.at).map(|effect| (effect, word.at)).map(pair));
            continue;
        }
        let keys = Keys::of(nodes, item);
        for (key, value) in keys.iter() {
            let on = nodes.tree.scalar(value) == Some("true");
            let at = nodes.at(key);
            let word = nodes.tree.scalar(key).unwrap_or_default();
            own.effects
                .extend(Some(word).filter(|_| on).and_then(|word| shorthand(word, texts, at)).map(|effect| pair((effect, at))));
        }
        let directories = keys.get("directories").map(|value| directories(plan, value)).unwrap_or_default();
        if let Some(first) = directories.first() {
            let at = first.at;
            own.texts.extend(directories.iter().cloned());
            own.effects.push(pair((cached(directories.iter().map(UploadPath::as_written).collect()), at)));
        }
    }
}

fn pair((effect, at): (Effect, Place)) -> EffectAt {
    EffectAt::sure(effect, at)
}

fn directories(plan: &Plan<'_>, node: NodeId) -> Vec<Text> {
    plan.nodes().words(node).0.into_iter().filter(|text| !text.value.trim().is_empty()).collect()
}

/// A cache is kept for each branch and kind of job, brought back before and saved after; one that was not saved yet is taken from the
/// default branch.
fn cached(paths: Vec<UploadPath>) -> Effect {
    Effect::keyless_cache(paths)
}

/// The folders of the managers' words.
fn shorthand(word: &str, texts: &Texts<'_>, at: Place) -> Option<Effect> {
    let locked = texts.has("package-lock.json") || texts.has("npm-shrinkwrap.json");
    let paths: &[&str] = match word {
        "npm" if locked => &["$HOME/.npm"],
        "npm" => &["node_modules"],
        "yarn" => &["$HOME/.cache/yarn"],
        "pip" => &["$HOME/.cache/pip"],
        "bundler" => &["vendor/bundle"],
        _ => return None,
    };
    Some(cached(paths.iter().map(|path| UploadPath::as_written(&Text::fixed(path, at))).collect()))
}
