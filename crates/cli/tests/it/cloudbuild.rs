//! `cloudbuild.yaml`: healthy ones are silent, each fault is found by its rule, and hostile files hurt nobody.

use crate::house::{House, TODAY, broken};

const PACKAGE: (&str, &str) = (
    "package.json",
    "{\"scripts\": {\"build\": \"vite build\", \"test\": \"node --test\"}, \"engines\": {\"node\": \">=22\"}, \
     \"devDependencies\": {\"vite\": \"7\"}}",
);
const LOCK: (&str, &str) = ("package-lock.json", "{\"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\"}}}}");
const STARTS: (&str, &str) =
    ("dulk.toml", "[[starts]]\nfile = \"cloudbuild.yaml\"\npush = [\"main\"]\n[forge]\ndefault-branch = \"main\"\n");

fn house_of(files: &[(&str, &str)]) -> House {
    let all = files.iter().copied().chain([PACKAGE, LOCK, ("index.html", ""), ("src/main.js", "")]);
    let house = House::with_git(&all.collect::<Vec<_>>());
    house.git(&["branch", "piers"]);
    house.clone_of("https://git.tarnsay.example/ferry/timetable.git")
}

/// Checks and a build side by side, sent to a host with the host's own program out of an image that the repository makes.
const SENDS: &str = "steps:\n  - id: tools\n    name: gcr.io/cloud-builders/docker\n    args: [build, -t, gcr.io/$PROJECT_ID/firebase, tools]\n    waitFor: ['-']\n  - id: install\n    name: node:22\n    entrypoint: npm\n    args: [ci]\n    waitFor: ['-']\n  - id: test\n    name: node:22\n    entrypoint: npm\n    args: [test]\n    timeout: 120s\n    waitFor: [install]\n  - id: build\n    name: node:22\n    entrypoint: bash\n    args:\n      - -c\n      - |\n        set -e\n        npm run build -- --base \"$_BASE\"\n        echo \"$$HOME\"\n    waitFor: [install]\n  - id: publish\n    name: gcr.io/$PROJECT_ID/firebase\n    args: [deploy, --only, hosting, --project, $PROJECT_ID]\n    secretEnv: [FIREBASE_TOKEN]\n    waitFor: [tools, test, build]\n\nsubstitutions:\n  _BASE: /timetable/\n\navailableSecrets:\n  secretManager:\n    - versionName: projects/$PROJECT_ID/secrets/firebase/versions/3\n      env: FIREBASE_TOKEN\n\ntimeout: 900s\n\nserviceAccount: projects/$PROJECT_ID/serviceAccounts/118204417736550281913\n\noptions:\n  logging: CLOUD_LOGGING_ONLY\n";
const HOSTING: (&str, &str) = ("firebase.json", "{\"hosting\": {\"public\": \"dist\"}}");
const TOOLS: (&str, &str) =
    ("tools/Dockerfile", "FROM node:22\nRUN npm install -g firebase-tools@14\nENTRYPOINT [\"firebase\"]\n");

fn sends(text: &str) -> House {
    house_of(&[("cloudbuild.yaml", text), STARTS, HOSTING, TOOLS])
}

/// A site that is packed into an image and rolled out.
const PACKS: &str = "{\n  \"steps\": [\n    {\"name\": \"node:22\", \"entrypoint\": \"npm\", \"args\": [\"ci\"]},\n    {\"name\": \"node:22\", \"entrypoint\": \"npm\", \"args\": [\"test\"]},\n    {\"name\": \"node:22\", \"entrypoint\": \"npm\", \"args\": [\"run\", \"build\"]},\n    {\"name\": \"gcr.io/cloud-builders/docker\", \"args\": [\"build\", \"-t\", \"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\", \".\"]},\n    {\"name\": \"gcr.io/cloud-builders/docker\", \"args\": [\"push\", \"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\"]},\n    {\"name\": \"google/cloud-sdk:540.0.0-slim\", \"entrypoint\": \"gcloud\", \"args\": [\"run\", \"deploy\", \"pier\", \"--image\", \"gcr.io/$PROJECT_ID/pier:${SHORT_SHA}\", \"--region\", \"europe-north1\"]}\n  ],\n  \"images\": [\"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\"],\n  \"timeout\": \"600s\"\n}\n";

fn packs(text: &str) -> House {
    let starts = STARTS.1.replace(".yaml", ".json");
    let image = ("Dockerfile", "FROM nginx:1.29-alpine\nCOPY dist/ /usr/share/nginx/html/\n");
    house_of(&[("cloudbuild.json", text), ("dulk.toml", &starts), image])
}

#[test]
fn healthy_ones_are_silent() {
    for (name, house) in [("sends", sends(SENDS)), ("packs", packs(PACKS))] {
        let ran = house.dulk(&["check", "--fail-on", "advice"]);
        assert_eq!(ran.code, Some(0), "{name}\n{}{}", ran.out, ran.err);
    }
}

#[test]
fn steps_that_wait_broken_in_many_ways() {
    broken(
        SENDS,
        sends,
        TODAY,
        &[
            ("waitFor: [tools, test, build]", "waitFor: [tools, tests, build]", "form.forbidden"),
            ("waitFor: [tools, test, build]", "waitFor: [tools, build]", "order.untested"),
            ("    timeout: 120s\n    waitFor: [install]", "    timeout: 120s\n    waitFor: [publish]", "form.forbidden"),
            ("    timeout: 120s\n    waitFor: [install]", "    timeout: 120s\n    waitFor: ['-']", "order.step-too-early"),
            ("  - id: build", "  - id: test", "form.bad-name"),
            ("timeout: 120s", "timeout: 2m", "form.forbidden"),
            ("timeout: 120s", "timeout: 1200s", "form.forbidden"),
            ("  _BASE:", "  BASE:", "form.forbidden"),
            ("\"$_BASE\"", "\"$_BSAE\"", "secret.not-filled-in"),
            ("\"$$HOME\"", "\"$HOME\"", "form.forbidden"),
            ("\"$_BASE\"", "\"$$_BASE\"", "secret.not-filled-in"),
            ("    secretEnv: [FIREBASE_TOKEN]", "    secretEnv: [FIREBASE_TOKN]", "form.forbidden"),
            ("    secretEnv: [FIREBASE_TOKEN]\n", "", "form.forbidden"),
            ("\n\noptions:\n  logging: CLOUD_LOGGING_ONLY", "", "form.forbidden"),
            ("entrypoint: npm\n    args: [test]", "entrypoint: npm test", "form.words-in-one"),
            ("firebase, tools]", "firebase, tool]", "artifact.not-in-image"),
            (
                "name: node:22\n    entrypoint: npm\n    args: [ci]",
                "name: node\n    entrypoint: npm\n    args: [ci]",
                "upkeep.untagged-image",
            ),
            ("entrypoint: bash", "entryPoint: bash", "form.unknown-key"),
            ("npm run build", "npm run built", "site.absent-script"),
            ("    args: [ci]", "    args: [ci]\n    dir: apps", "site.absent-folder"),
            ("    args: [test]", "    env: {CI: 'true'}\n    args: [test]", "form.wrong-shape"),
            ("steps:", "step:", "form.unknown-key"),
        ],
    );
}

#[test]
fn an_image_that_is_rolled_out_broken_in_many_ways() {
    let push =
        "    {\"name\": \"gcr.io/cloud-builders/docker\", \"args\": [\"push\", \"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\"]},\n";
    let build = "    {\"name\": \"node:22\", \"entrypoint\": \"npm\", \"args\": [\"run\", \"build\"]},\n";
    let made = "    {\"name\": \"gcr.io/cloud-builders/docker\", \"args\": [\"build\", \"-t\", \"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\", \".\"]},\n";
    let (swapped, ordered) = (format!("{made}{build}"), format!("{build}{made}"));
    broken(
        PACKS,
        packs,
        TODAY,
        &[
            (push, "", "order.image-not-pushed"),
            (&ordered, &swapped, "artifact.not-in-image"),
            (
                "\"images\": [\"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\"]",
                "\"images\": [\"gcr.io/$PROJECT_ID/pier\"]",
                "artifact.unmade-image",
            ),
            (
                "\"-t\", \"gcr.io/$PROJECT_ID/pier:$SHORT_SHA\"",
                "\"-t\", \"gcr.io/$PROJECT_ID/pier:$TAG_NAME\"",
                "trigger.empty-value",
            ),
            (
                "\"args\": [\"run\", \"build\"]",
                "\"args\": [\"run\", \"build\", \"--\", \"--outDir\", \"web\"]",
                "artifact.not-in-image",
            ),
            ("\"600s\"", "\"600\"", "form.forbidden"),
        ],
    );
}

#[test]
fn the_way_of_the_site_ends_at_its_host() {
    let ran = sends(SENDS).dulk(&["trail"]);
    assert!(ran.out.contains("vite makes dist") && ran.out.contains("✔ firebase, ${PROJECT_ID}"), "{}", ran.out);
    let ran = packs(PACKS).dulk(&["trail"]);
    assert!(ran.out.contains("vite makes dist") && ran.out.contains("✔ cloud-run, pier"), "{}", ran.out);
}

#[test]
fn what_is_accepted_is_said_no_more() {
    let text =
        SENDS.replace("timeout: 120s", "timeout: 2m # dulk: accept form.forbidden because the pier has a clock of its own");
    let ran = sends(&text).dulk(&["check", "--fail-on", "advice"]);
    assert_eq!(ran.code, Some(0), "{}{}", ran.out, ran.err);
}

#[test]
fn hostile_ones_come_to_an_end() {
    let many = |count: usize, line: &str| format!("steps:\n{}", line.repeat(count));
    let chain: String =
        (0..900).map(|number| format!("- {{id: s{number}, name: a, waitFor: [s{}]}}\n", number.max(1) - 1)).collect();
    let values: String = (0..9).map(|number| format!("  _V{number}: {}\n", format!("$_V{}", number + 1).repeat(600))).collect();
    for text in [
        many(5_000, "- {name: 'node:24', args: [npm, ci], waitFor: ['-']}\n"),
        format!("steps:\n{chain}"),
        format!("steps:\n- {{name: a, args: ['{}']}}\nsubstitutions:\n{values}", "$_V0".repeat(20_000)),
        format!("steps: [{}]", "{".repeat(3_000)),
        "steps:\n- name: [a, b]\n  args: {a: b}\n  env: [1, [2], {c: d}, '=', '']\n  secretEnv: 7\n  waitFor: {x: y}\n  volumes: [x]\n".to_owned(),
        "steps: *none\n".to_owned(),
        "{\"steps\": [null, 7, \"x\", {\"name\": null, \"timeout\": 99999999999999999999}]}".to_owned(),
    ] {
        let ran = sends(&text).dulk(&["check"]);
        assert!(matches!(ran.code, Some(0 | 1)), "{:?} {}", ran.code, ran.err);
    }
}
