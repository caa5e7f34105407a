//! What a `cloudbuild.yaml` does, step by step, and what its steps find of each other.

use crate::effects::Effect;
use crate::model::{Shell, StepOrder, Work};
use crate::rules::Slip;
use crate::rules::slip::Scene;

fn scene(files: &str, text: &str) -> Scene {
    Slip::read(&format!("== git\nmain default\npiers\n== files\nindex.html\n{files}== cloudbuild.yaml\n{text}")).scene()
}

fn starts(settings: &str, event: &str) -> &'static str {
    let build = "== cloudbuild.yaml\nsteps: [{name: 'node:24', args: [npm, ci]}]\n";
    let slip = format!("== git\nmain default\npiers\nwinter/one\nv1 tag\nbeta tag\n== dulk.toml\n{settings}{build}");
    let scene = Slip::read(&slip).scene();
    scene.rehearsed(event).starts.answer.word()
}

#[test]
fn triggers_stand_outside_and_may_be_declared() {
    const PUSH: &str = "[[starts]]\nfile = \"cloudbuild.yaml\"\npush = [\"main\", \"winter/*\"]\n";
    const TAGS: &str = "[[starts]]\nfile = \"cloudbuild.yaml\"\ntags = [\"v*\"]\n";
    const PULLS: &str = "[[starts]]\nfile = \"cloudbuild.yaml\"\npulls = [\"main\"]\n";
    const CLOCK: &str = "[[starts]]\nfile = \"cloudbuild.yaml\"\nclock = true\n";
    let both = format!("{PUSH}{TAGS}");
    let all = format!("{PUSH}{PULLS}{CLOCK}");
    for (settings, event, expected) in [
        ("", "push:main", "unsure"),
        ("", "push:piers", "unsure"),
        ("", "tag:v1", "unsure"),
        ("", "pull:main", "unsure"),
        ("", "fork:main", "unsure"),
        ("", "hand:main", "unsure"),
        ("", "clock", "unsure"),
        (PUSH, "push:main", "yes"),
        (PUSH, "push:winter/one", "yes"),
        (PUSH, "push:piers", "no"),
        (PUSH, "tag:v1", "no"),
        (PUSH, "pull:main", "no"),
        (PUSH, "fork:main", "no"),
        (PUSH, "clock", "no"),
        (PUSH, "hand:main", "yes"),
        (PUSH, "hand:piers", "yes"),
        (TAGS, "tag:v1", "yes"),
        (TAGS, "tag:beta", "no"),
        (TAGS, "push:main", "no"),
        (TAGS, "hand:main", "yes"),
        (PULLS, "pull:main", "yes"),
        (PULLS, "pull:piers", "no"),
        (PULLS, "fork:main", "yes"),
        (PULLS, "push:main", "no"),
        (CLOCK, "clock", "yes"),
        (CLOCK, "push:main", "no"),
        (&both, "push:main", "yes"),
        (&both, "tag:v1", "yes"),
        (&both, "tag:beta", "no"),
        (&both, "push:piers", "no"),
        (&all, "pull:main", "yes"),
        (&all, "clock", "yes"),
        (&all, "push:winter/one", "yes"),
        (&all, "tag:v1", "no"),
    ] {
        assert_eq!(starts(settings, event), expected, "{settings}{event}");
    }
}

/// The scripts and words of all steps, one line each.
fn works(text: &str) -> Vec<String> {
    let scene = scene("", text);
    let steps = &scene.prepared[0].pipeline.jobs[0].steps;
    let word = |step: &crate::model::Step| match &step.work {
        Work::Runs { script, shell: Shell::Posix } => format!("$ {}", script.value),
        Work::Runs { script, .. } => format!("? {}", script.value),
        Work::RunsImage { words } => format!("@ {}", words.iter().map(|word| word.value.as_str()).collect::<Vec<_>>().join("+")),
        _ => String::new(),
    };
    steps.iter().skip(1).map(word).collect()
}

#[test]
fn a_step_runs_a_script_a_program_or_its_image() {
    let text = "steps:\n- {name: 'node:24', entrypoint: bash, args: ['-c', 'npm ci && echo $$HOME $_OUT']}\n- {name: a, entrypoint: sh, args: \
                [-eu, -o, pipefail, -c, ls]}\n- {name: a, entrypoint: npm, args: [run, 'a b']}\n- {name: a, args: one}\n- {name: a, args: \
                [/bin/bash, -ec, ls]}\n- {name: a, script: 'echo $$A $_OUT'}\n- {name: a, script: \"#!/usr/bin/env python3\\nprint(1)\"}\n- \
                {name: a, entrypoint: bash, args: [make.sh]}\nsubstitutions: {_OUT: dist}\n";
    assert_eq!(
        works(text),
        [
            "$ npm ci && echo $HOME dist",
            "$ ls",
            "$ npm run 'a b'",
            "@ one",
            "$ ls",
            "$ echo $$A $_OUT",
            "? #!/usr/bin/env python3\nprint(1)",
            "$ bash make.sh"
        ]
    );
}

#[test]
fn steps_wait_for_all_before_them_or_for_those_they_name() {
    let text = "steps:\n- {id: a, name: x}\n- {id: b, name: x, waitFor: ['-']}\n- {id: c, name: x, waitFor: [a]}\n- {id: d, name: x, waitFor: \
                []}\n- {id: e, name: x, waitFor: [c, none]}\n";
    let scene = scene("", text);
    let order = StepOrder::of(&scene.prepared[0].pipeline.jobs[0].steps);
    // The first step of the job brings the files.
    assert!((1..=5).all(|step| order.is_before(0, step)));
    assert!(order.are_beside(1, 2) && order.is_before(1, 3) && order.are_beside(2, 3));
    assert!([1, 2, 3].iter().all(|step| order.is_before(*step, 4)));
    assert!(order.is_before(3, 5) && order.is_before(1, 5) && order.are_beside(4, 5) && order.are_beside(2, 5));
}

/// What the steps do to images, one line each.
fn images(files: &str, text: &str) -> Vec<String> {
    let scene = scene(files, text);
    let project = scene.project();
    let case = project.case(0);
    let word = |effect: &Effect| match effect {
        Effect::MakeImage { names, context, file, takes } => {
            let names: Vec<&str> = names.iter().flatten().map(String::as_str).collect();
            let takes: Vec<&str> = takes.iter().map(|path| path.folder.as_deref().unwrap_or("?")).collect();
            Some(format!("make {} of {context:?} by {file:?} takes {}", names.join(" "), takes.join(" ")))
        }
        Effect::PushImage { name } => Some(format!("push {name:?}")),
        Effect::RunImage { name } => Some(format!("run {name:?}")),
        Effect::Publish { target, .. } => Some(format!("publish to {target}")),
        _ => None,
    };
    case.all_effects().filter_map(|(_, _, effect)| word(&effect.effect)).collect()
}

#[test]
fn images_are_made_pushed_and_run_under_the_same_name() {
    let text = "steps:\n- {name: gcr.io/cloud-builders/docker, args: [build, '--tag=gcr.io/$PROJECT_ID/$_NAME:$SHORT_SHA', web]}\n- {name: \
                gcr.io/cloud-builders/docker, entrypoint: bash, args: ['-c', 'docker push gcr.io/${PROJECT_ID}/pier:$SHORT_SHA']}\n- {name: \
                'google/cloud-sdk:540.0.0-slim', args: [gcloud, run, deploy, pier, '--image=gcr.io/$PROJECT_ID/pier:${SHORT_SHA}']}\nimages: \
                ['gcr.io/$PROJECT_ID/$_NAME']\nsubstitutions: {_NAME: pier}\n";
    let name = "gcr.io/${PROJECT_ID}/pier:${SHORT_SHA}";
    assert_eq!(
        images("== web/Dockerfile\nFROM nginx:1.29\nCOPY dist pages/*.html /srv/\n", text),
        [
            format!("make {name} of Some(\"web\") by Some(\"web/Dockerfile\") takes web/dist web/pages"),
            format!("push Some({name:?})"),
            format!("run Some({name:?})"),
            "publish to cloud-run".to_owned(),
            "push Some(\"gcr.io/${PROJECT_ID}/pier\")".to_owned(),
        ]
    );
}

#[test]
fn an_image_of_the_repositorys_own_runs_what_its_file_says() {
    let text = "steps:\n- {name: gcr.io/cloud-builders/docker, args: [build, -t, 'gcr.io/$PROJECT_ID/sender', tools]}\n- {name: \
                'gcr.io/$PROJECT_ID/sender:latest', args: [deploy, --only, hosting]}\n";
    for (file, expected) in [
        ("FROM node:24\nENTRYPOINT [\"firebase\"]\n", "publish to firebase"),
        ("FROM node:24\nENTRYPOINT [\"/usr/bin/firebase.bash\"]\n", "publish to firebase"),
        ("FROM node:24\nENTRYPOINT firebase\n", "publish to firebase"),
        ("FROM node:24\nENTRYPOINT [\"./other\"]\n", ""),
        ("FROM node:24\nCMD [\"firebase\"]\n", ""),
    ] {
        let found = images(&format!("== tools/Dockerfile\n{file}"), text);
        assert_eq!(found.get(1).map_or("", String::as_str), expected, "{file}");
    }
}

#[test]
fn secrets_are_there_where_they_are_asked_for() {
    let text = "steps:\n- {name: a, script: ls, secretEnv: [ONE]}\n- {name: a, script: ls, env: ['TWO=$_X', odd]}\noptions: {env: \
                [ALL=1]}\nsubstitutions: {_X: quay}\navailableSecrets:\n  secretManager: [{versionName: v, env: ONE}]\n  inline: [{kmsKeyName: k, envMap: \
                {THREE: x}}]\nsecrets: [{kmsKeyName: k, secretEnv: {FOUR: x}}]\n";
    let scene = scene("", text);
    let pipeline = &scene.prepared[0].pipeline;
    let job = &pipeline.jobs[0];
    let names: Vec<&str> = pipeline.on_request.iter().map(|name| name.value.as_str()).collect();
    assert_eq!(names, ["ONE", "THREE", "FOUR"]);
    assert!(job.variables.get("ALL").is_some() && job.steps[1].variables.get("ONE").is_some());
    let two = job.steps[2].variables.get("TWO").map(|value| value.value.as_str());
    assert_eq!((two, job.steps[2].variables.entries.len()), (Some("quay"), 1));
}
