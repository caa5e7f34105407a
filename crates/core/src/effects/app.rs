//! Hosts' own steps that build an app before they publish it.

use super::action::Given;
use super::{Effect, EffectAt, Folder, Scene, UploadPath, built_by_scripts, join, normal};
use crate::facts::{Origin, Reach};
use crate::knowledge::Deed;
use crate::text::file_name;

/// What such a step does: its own build, when there is something to build, and the publish of the folder that comes of it.
pub(super) fn effects(given: &Given<'_>, scene: &Scene<'_>, deed: &Deed) -> Vec<EffectAt> {
    let Deed::PublishApp { target, app, output, skips, does, ends, scripts } = deed else { return Vec::new() };
    let sure = |effect: Effect| EffectAt::sure(effect, given.at);
    if given.value(does).as_deref() == Some(ends) {
        return vec![sure(Effect::Nothing)];
    }
    let place = |field| given.text(field).map_or(given.at, |text| text.inner());
    let app_folder = given.value(app).and_then(|path| folder(&path));
    let output_written = given.value(output);
    let mut found = Vec::new();
    let builds = match given.value(skips).as_deref() {
        Some("true") => false,
        Some("false") => true,
        _ => {
            found.push(sure(Effect::Unknown(Reach::Anything)));
            false
        }
    };
    if builds {
        found.extend(build(scene, &app_folder, scripts).into_iter().map(sure));
    }
    let (path, at) = match output_written.as_deref() {
        Some("") => (app_folder, place(app)),
        Some(written) => (join(&app_folder, written.trim_start_matches('/')), place(output)),
        None => (None, place(output)),
    };
    let written = output_written.filter(|written| !written.is_empty()).or_else(|| given.value(app)).unwrap_or_default();
    let published = path.map(|path| UploadPath { folder: Some(path), at, written, glob: false });
    found.push(sure(Effect::Publish {
        target: target.clone(),
        folder: published,
        artifact: None,
        branch: None,
        place: None,
        creates_branch: false,
        environment: None,
        needs_hand_on: false,
        inside: Some(String::new()),
        laid: None,
        serving: None,
    }));
    found
}

/// A folder of the repository; the slash before it stands for the repository's root.
fn folder(path: &str) -> Folder {
    if path.contains('$') { None } else { normal(path) }
}

/// The build that the host makes of a folder: the first of the scripts that its package has; of an app in another language anything.
fn build(scene: &Scene<'_>, app: &Folder, scripts: &[&str]) -> Vec<Effect> {
    let anything = || vec![Effect::Unknown(Reach::Anything)];
    let (Some(dir), true, Some(files)) = (app.as_deref(), scene.own_root, scene.facts.files.known()) else { return anything() };
    let within = |path: &&str| super::is_inside(path, dir);
    if let Some(package) = scene.facts.packages.get(dir) {
        let Some(name) = scripts.iter().find(|name| package.script(name).is_some()) else { return Vec::new() };
        let built: Vec<Effect> = built_by_scripts(scene.facts, dir, (scene.run, scene.customs))
            .into_iter()
            .filter(|(script, ..)| script == name)
            .map(|(_, generator, output)| Effect::Build {
                generator,
                dir: Some(dir.to_owned()),
                output: Some(output),
                origin: Origin::Catalog,
                base: None,
                server: None,
                readdressed: false,
            })
            .collect();
        return if built.is_empty() { anything() } else { built };
    }
    let plain = |path: &str| PLAIN.iter().any(|ending| path.ends_with(ending)) || !file_name(path).contains('.');
    if files.iter().filter(within).all(plain) { Vec::new() } else { anything() }
}

/// Endings of files that nothing is built from. Source: the page "Build configuration for Azure Static Web Apps", 2026-11.
const PLAIN: [&str; 22] = [
    ".html",
    ".htm",
    ".css",
    ".js",
    ".mjs",
    ".svg",
    ".png",
    ".jpg",
    ".jpeg",
    ".gif",
    ".webp",
    ".avif",
    ".ico",
    ".txt",
    ".md",
    ".xml",
    ".pdf",
    ".woff",
    ".woff2",
    ".webmanifest",
    ".config.json",
    ".yml",
];
