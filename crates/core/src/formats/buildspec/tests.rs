//! What a `buildspec.yml` does, phase by phase, and what it hands on.

use crate::effects::{Effect, Laid};
use crate::model::{Outcome, Step, Work};
use crate::rules::Slip;
use crate::rules::slip::Scene;

fn scene(text: &str) -> Scene {
    Slip::read(&format!("== git\nmain default\npiers\nv1 tag\nbeta tag\n== files\nindex.html\n== buildspec.yml\n{text}")).scene()
}

fn starts(settings: &str, event: &str) -> &'static str {
    let build = "== buildspec.yml\nversion: 0.2\nphases: {build: {commands: [ls]}}\n";
    let slip = format!("== git\nmain default\npiers\nwinter/one\nv1 tag\nbeta tag\n== dulk.toml\n{settings}{build}");
    let scene = Slip::read(&slip).scene();
    scene.rehearsed(event).starts.answer.word()
}

#[test]
fn what_starts_it_stands_outside_and_may_be_declared() {
    const PUSH: &str = "[[starts]]\nfile = \"buildspec.yml\"\npush = [\"main\", \"winter/*\"]\n";
    const TAGS: &str = "[[starts]]\nfile = \"buildspec.yml\"\ntags = [\"v*\"]\n";
    const PULLS: &str = "[[starts]]\nfile = \"buildspec.yml\"\npulls = [\"main\"]\n";
    const CLOCK: &str = "[[starts]]\nfile = \"buildspec.yml\"\nclock = true\n";
    let two = format!("{PUSH}{TAGS}");
    for (settings, event, expected) in [
        ("", "push:main", "unsure"),
        ("", "push:piers", "unsure"),
        ("", "tag:v1", "unsure"),
        ("", "pull:main", "unsure"),
        ("", "clock", "unsure"),
        (PUSH, "push:main", "yes"),
        (PUSH, "push:winter/one", "yes"),
        (PUSH, "push:piers", "no"),
        (PUSH, "tag:v1", "no"),
        (PUSH, "pull:main", "no"),
        (PUSH, "fork:main", "no"),
        (PUSH, "clock", "no"),
        (PUSH, "hand:main", "yes"),
        (TAGS, "tag:v1", "yes"),
        (TAGS, "tag:beta", "no"),
        (TAGS, "push:main", "no"),
        (PULLS, "pull:main", "yes"),
        (PULLS, "pull:piers", "no"),
        (PULLS, "push:main", "no"),
        (CLOCK, "clock", "yes"),
        (CLOCK, "push:main", "no"),
        (CLOCK, "hand:piers", "yes"),
        (&two, "push:main", "yes"),
        (&two, "tag:v1", "yes"),
        (&two, "tag:beta", "no"),
        (&two, "push:piers", "no"),
    ] {
        assert_eq!(starts(settings, event), expected, "{settings}{event}");
    }
}

/// The steps with scripts: their names, whether failures are survived, and from which step on.
fn survivals(text: &str) -> Vec<(String, bool, usize)> {
    let scene = scene(text);
    let runs = |step: &&Step| matches!(step.work, Work::Runs { .. });
    let told = |step: &Step| {
        let name = step.name.as_ref().map(|name| name.value.clone()).unwrap_or_default();
        (name, step.after == Outcome::Any, step.survives_from)
    };
    scene.prepared[0].pipeline.jobs[0].steps.iter().filter(runs).map(told).collect()
}

#[test]
fn phases_run_in_their_own_order_and_some_after_failures() {
    let text = "version: 0.2\nphases:\n  post_build: {commands: [ls]}\n  build: {commands: [ls], finally: [date]}\n  \
                pre_build: {commands: [ls]}\n  install: {commands: [ls], runtime-versions: {nodejs: 22}}\n";
    let named = |name: &str, survives: bool, from: usize| (name.to_owned(), survives, from);
    assert_eq!(
        survivals(text),
        [
            named("install", false, 0),
            named("pre_build", false, 0),
            named("build", false, 0),
            named("build, finally", true, 4),
            named("post_build", true, 4),
        ]
    );
    let aborts = text.replace("build: {commands: [ls], finally: [date]}", "build: {commands: [ls], on-failure: ABORT}");
    assert_eq!(survivals(&aborts).last(), Some(&named("post_build", false, 0)));
}

#[test]
fn commands_share_a_shell_from_the_second_version_on() {
    let folder = |version: &str| {
        let scene = scene(&format!(
            "version: {version}\nphases:\n  install: {{commands: [mkdir quay, cd quay]}}\n  build: {{commands: [npx vite build]}}\n"
        ));
        let project = scene.project();
        let case = project.case(0);
        let built = case.all_effects().find_map(|(_, _, effect)| match &effect.effect {
            Effect::Build { dir, .. } => dir.clone(),
            _ => None,
        });
        built.unwrap_or_default()
    };
    assert_eq!((folder("0.2").as_str(), folder("0.1").as_str()), ("quay", ""));
}

/// The paths of each artifact, with how they are laid out.
fn artifacts(text: &str) -> Vec<(Option<String>, Vec<String>, bool, &'static str)> {
    let scene = scene(&format!("version: 0.2\nphases: {{build: {{commands: [npx vite build]}}}}\nartifacts:\n{text}"));
    let project = scene.project();
    let case = project.case(0);
    let uploads = case.all_effects().filter_map(|(_, _, effect)| match &effect.effect {
        Effect::Upload { name, paths, keeps_paths, laid, goes_online, .. } => {
            let folders = paths.iter().map(|path| path.folder.clone().unwrap_or_else(|| "?".to_owned())).collect();
            let laid = match laid {
                Some(Laid::TopOnly(_)) => "top",
                Some(Laid::Flat(_)) => "flat",
                Some(Laid::Packed(_)) => "packed",
                None if *keeps_paths => "kept",
                None => "whole",
            };
            Some((name.given.as_ref().map(|name| name.value.clone()), folders, *goes_online, laid))
        }
        _ => None,
    });
    uploads.collect()
}

#[test]
fn an_artifact_is_what_files_take_from_the_base_directory() {
    let one = |folder: &str, laid| vec![(None, vec![folder.to_owned()], true, laid)];
    assert_eq!(artifacts("  files: ['**/*']\n  base-directory: dist\n"), one("dist", "whole"));
    assert_eq!(artifacts("  files: '**/*'\n  base-directory: ./dist/\n"), one("dist", "whole"));
    assert_eq!(artifacts("  files: ['**/*']\n"), one("", "whole"));
    assert_eq!(artifacts("  files: ['*']\n  base-directory: dist\n"), one("dist", "top"));
    assert_eq!(artifacts("  files: ['**/*']\n  base-directory: dist\n  discard-paths: yes\n"), one("dist", "flat"));
    assert_eq!(artifacts("  files: ['dist/**/*']\n"), one("dist", "kept"));
    assert_eq!(artifacts("  files: ['**/*']\n  base-directory: $SITE\n"), one("?", "whole"));
    let several = artifacts(
        "  files: ['**/*']\n  base-directory: dist\n  secondary-artifacts:\n    notes: {files: [notes.md]}\n    maps: {files: ['**/*'], base-directory: maps}\n",
    );
    let named = |name: &str, folder: &str, laid| (Some(name.to_owned()), vec![folder.to_owned()], false, laid);
    assert_eq!(several[1..], [named("notes", "notes.md", "kept"), named("maps", "maps", "whole")]);
}

#[test]
fn a_job_that_publishes_itself_hands_on_no_site() {
    let text = "version: 0.2\nphases: {build: {on-failure: ABORT, commands: [npx vite build, aws s3 sync dist s3://quay]}}\n\
                artifacts: {files: ['**/*'], base-directory: dist}\n";
    let scene = scene(text);
    let project = scene.project();
    let case = project.case(0);
    assert!(case.all_effects().all(|(_, _, effect)| !effect.effect.goes_online()), "what is published is known");
}

#[test]
fn a_key_of_the_cache_is_made_of_files() {
    let scene = scene(
        "version: 0.2\nphases: {build: {commands: [ls]}}\ncache: {key: 'npm-$(codebuild-hash-files package-lock.json)', paths: ['.npm/**/*', '/root/.cache/*']}\n",
    );
    let project = scene.project();
    let case = project.case(0);
    let cache = case.all_effects().find_map(|(_, _, effect)| match &effect.effect {
        Effect::RestoreCache { hashes, paths, saves, .. } => {
            Some((hashes[0].patterns.clone(), paths.iter().map(|path| path.written.clone()).collect::<Vec<_>>(), *saves))
        }
        _ => None,
    });
    let paths = vec![".npm".to_owned(), "/root/.cache".to_owned()];
    assert_eq!(cache, Some((Some(vec!["package-lock.json".to_owned()]), paths, Some(true))));
}
