//! What an `amplify.yml` does, app by app.

use crate::effects::Effect;
use crate::model::Work;
use crate::rules::Slip;
use crate::rules::slip::Scene;

const FILES: &str = "== git\nmain default\npiers\nv1 tag\n== files\nindex.html\napps/quay/index.html\napps/pier/index.html\n";

fn scene(text: &str) -> Scene {
    Slip::read(&format!("{FILES}== amplify.yml\n{text}")).scene()
}

/// For each app: its name, the folders that its commands run in, and the folder that goes online with its place.
fn apps(text: &str) -> Vec<(String, Vec<String>, String, String)> {
    let scene = scene(text);
    let project = scene.project();
    let app = |index: usize| {
        let case = project.case(index);
        let job = &case.pipeline.jobs[0];
        let folder = |step: &crate::model::Step| step.directory.as_ref().map_or("", |text| text.value.as_str()).to_owned();
        let runs = job.steps.iter().filter(|step| matches!(step.work, Work::Runs { .. }));
        let folders: Vec<String> = runs.map(folder).collect();
        let published = case.published().next();
        let online = published.as_ref().and_then(|one| one.folder?.folder.clone()).unwrap_or_else(|| "-".to_owned());
        let place = published.and_then(|one| one.place.map(str::to_owned)).unwrap_or_default();
        (job.id.value.clone(), folders, online, place)
    };
    (0..scene.prepared.len()).map(app).collect()
}

fn told(name: &str, folders: &[&str], online: &str, place: &str) -> (String, Vec<String>, String, String) {
    (name.to_owned(), folders.iter().map(|&folder| folder.to_owned()).collect(), online.to_owned(), place.to_owned())
}

#[test]
fn one_app_runs_at_the_root() {
    let text = "version: 1\nfrontend:\n  phases:\n    build: {commands: [npx vite build]}\n    preBuild: {commands: [npm ci]}\n  \
                artifacts: {baseDirectory: /dist, files: ['**/*']}\n";
    assert_eq!(apps(text), [told("app", &["", ""], "dist", "amplify $AWS_BRANCH")]);
    let scene = scene(text);
    let names = scene.prepared[0].pipeline.jobs[0].steps.iter().filter_map(|step| Some(step.name.as_ref()?.value.clone()));
    assert_eq!(names.collect::<Vec<_>>(), ["preBuild", "build"], "in the order in which they run");
}

#[test]
fn several_apps_run_in_folders_of_their_own() {
    let app = |root: &str, more: &str| {
        format!(
            "  - appRoot: {root}\n    frontend:\n{more}      phases: {{build: {{commands: [npm test]}}}}\n      artifacts: {{baseDirectory: dist, files: ['**/*']}}\n"
        )
    };
    let text = format!("version: 1\napplications:\n{}{}", app("apps/quay", ""), app("apps/pier", "      buildPath: /\n"));
    assert_eq!(
        apps(&text),
        [
            told("apps/quay", &["apps/quay"], "apps/quay/dist", "amplify apps/quay $AWS_BRANCH"),
            told("apps/pier", &[""], "dist", "amplify apps/pier $AWS_BRANCH"),
        ]
    );
}

#[test]
fn backend_and_tests_come_before_the_publish() {
    let text = "version: 1\nbackend: {phases: {build: {commands: [cd amplify, ls]}}}\nfrontend:\n  phases: {build: {commands: [ls]}}\n  \
                artifacts: {baseDirectory: site, files: ['**/*']}\ntest: {phases: {preTest: {commands: [ls]}, test: {commands: [npm test]}}}\n";
    let scene = scene(text);
    let steps = &scene.prepared[0].pipeline.jobs[0].steps;
    let names: Vec<&str> = steps.iter().filter_map(|step| Some(step.name.as_ref()?.value.as_str())).collect();
    assert_eq!(names, ["build", "build", "preTest", "test"]);
    assert!(!steps[2].same_shell && steps[4].same_shell, "each part begins anew");
    let project = scene.project();
    assert!(project.case(0).all_effects().last().is_some_and(|(_, _, last)| matches!(last.effect, Effect::Publish { .. })));
}

#[test]
fn what_starts_an_app_may_be_declared() {
    const PUSH: &str = "[[starts]]\nfile = \"amplify.yml\"\npush = [\"main\"]\n";
    for (settings, event, expected) in [
        ("", "push:main", "unsure"),
        ("", "pull:main", "unsure"),
        (PUSH, "push:main", "yes"),
        (PUSH, "push:piers", "no"),
        (PUSH, "tag:v1", "no"),
        (PUSH, "hand:main", "yes"),
    ] {
        let slip = format!(
            "{FILES}== dulk.toml\n{settings}== amplify.yml\nversion: 1\nfrontend: {{phases: {{build: {{commands: [ls]}}}}}}\n"
        );
        let scene = Slip::read(&slip).scene();
        assert_eq!(scene.rehearsed(event).starts.answer.word(), expected, "{settings}{event}");
    }
}
