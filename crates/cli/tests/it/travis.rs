//! `.travis.yml`: healthy pipelines are silent, each fault is found by its rule, and hostile files hurt nobody.

use crate::house::{House, broken};

const FILE: &str = ".travis.yml";
const PACKAGE: (&str, &str) = (
    "package.json",
    "{\"scripts\": {\"build\": \"vite build\", \"lint\": \"eslint .\", \"test\": \"node --test\"}, \"engines\": {\"node\": \">=22\"}, \
     \"devDependencies\": {\"vite\": \"7\", \"eslint\": \"9\"}}",
);
const LOCK: (&str, &str) =
    ("package-lock.json", "{\"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\", \"eslint\": \"9\"}}}}");
const CONFIG: (&str, &str) = ("vite.config.js", "export default { base: '/timetable/' }\n");
const SETTINGS: (&str, &str) = ("dulk.toml", "[forge]\nsecrets = [\"FERRY_KEY\", \"FERRY_KEY_ID\", \"FERRY_TOKEN\"]\n");

fn house(text: &str) -> House {
    let house = House::with_git(&[(FILE, text), PACKAGE, LOCK, CONFIG, SETTINGS, ("index.html", ""), ("src/main.js", "")]);
    house.git(&["branch", "piers"]);
    house.git(&["tag", "v1"]);
    house.clone_of("https://git.tarnsay.example/ferry/timetable.git")
}

/// Checks in one stage and the publish in the next, and all in one job.
const STAGES: &str = "language: node_js\nos: linux\ndist: jammy\nnode_js: '24'\ncache: npm\n\nbranches:\n  only:\n    - main\n    - /^v\\d+$/\n\nstages:\n  - look\n  - name: send\n    if: type = push\n\njobs:\n  include:\n    - stage: look\n      name: lint\n      script: npm run lint\n    - name: tests\n      script: npm test\n    - stage: send\n      name: live\n      script: npm run build\n      deploy:\n        provider: s3\n        edge: true\n        access_key_id: $FERRY_KEY_ID\n        secret_access_key: $FERRY_KEY\n        bucket: tarnsay-timetable\n        local_dir: dist\n        on:\n          branch: main\n";
const ALONE: &str = "language: node_js\ndist: noble\nnode_js: '24'\nscript:\n  - npm test\n  - npm run build\ndeploy:\n  provider: pages\n  skip_cleanup: true\n  github_token: $FERRY_TOKEN\n  local_dir: dist\n  on:\n    branch: main\n";

#[test]
fn healthy_pipelines_are_silent() {
    for text in [STAGES, ALONE] {
        let ran = house(text).dulk(&["check", "--fail-on", "warning"]);
        assert_eq!(ran.code, Some(0), "{text}\n{}{}", ran.out, ran.err);
    }
}

#[test]
fn stages_broken_in_twelve_ways() {
    broken(
        STAGES,
        house,
        "2026-11-20",
        &[
            ("    - main\n    - /^v\\d+$/", "    - master", "branch.absent"),
            ("/^v\\d+$/", "^v\\d+$", "branch.never-matches"),
            ("stages:\n  - look\n  - name: send\n    if: type = push\n", "stages: [send, look]\n", "order.untested"),
            ("if: type = push", "if: type = tag", "trigger.unknown-word"),
            ("if: type = push", "if: $TRAVIS_BRANCH = main", "form.expression"),
            ("if: type = push", "if: branch = main AND tag IS present", "trigger.never-reached"),
            ("    - stage: send\n      name: live", "    - name: live", "order.untested"),
            ("cache: npm", "cache: yarn", "cache.other-manager"),
            ("      script: npm run build", "      script: skip", "artifact.absent-folder"),
            ("          branch: main", "          branch: master", "branch.absent"),
            ("$FERRY_KEY\n", "$FERRY_KEE\n", "secret.undeclared"),
            ("        secret_access_key: $FERRY_KEY\n", "", "secret.missing"),
            ("dist: jammy", "dist: xenial", "upkeep.old-system"),
            ("stage: send\n", "stage: sned\n", "order.absent-stage"),
        ],
    );
}

#[test]
fn a_single_job_broken_in_twelve_ways() {
    broken(
        ALONE,
        house,
        "2026-11-20",
        &[
            ("script:", "scirpt:", "form.unknown-key"),
            ("node_js: '24'", "node_js: 24.10", "form.number-trap"),
            ("node_js: '24'", "node_js: '18'", "site.runtime-mismatch"),
            ("node_js: '24'", "node_js: ['22', '24']", "order.repeated-publish"),
            ("script:\n", "env: [SITE=quay, SITE=pier]\nscript:\n", "order.repeated-publish"),
            ("npm run build", "npm run biuld", "site.absent-script"),
            ("npm test\n", "npm test || true\n", "order.publishes-after-failure"),
            ("provider: pages", "provider: pagse", "form.wrong-shape"),
            ("  provider: pages\n", "", "form.missing-key"),
            ("  skip_cleanup: true\n", "", "artifact.absent-folder"),
            ("local_dir: dist", "local_dir: build", "artifact.wrong-folder"),
            ("  local_dir: dist\n", "", "artifact.whole-repository"),
            ("  local_dir: dist\n", "  local_dir: dist\n  target_branch: main\n", "branch.own-sources"),
            ("  on:\n    branch: main\n", "", "branch.absent"),
            ("    branch: main\n", "    all_branches: true\n    condition: branch = main\n", "form.expression"),
            ("$FERRY_TOKEN", "mooring7knots8tidal", "secret.plain"),
            ("  - npm run build\n", "  - npm run build\n  - echo $FERRY_TOKEN\n", "secret.printed"),
            // With tags wanted and kept out, nothing is ever published.
            ("    branch: main\n", "    tags: true\nbranches: {only: [main]}\n", "trigger.never-reached"),
        ],
    );
}

#[test]
fn every_command_reads_it() {
    let house = house(STAGES);
    let when = house.dulk(&["when", "push:piers", "--format", "json"]);
    assert!(when.out.contains("\"starts\": \"no\""), "{}", when.out);
    let trail = house.dulk(&["trail"]);
    assert!(trail.out.contains("vite makes dist") && trail.out.contains("bucket tarnsay-timetable"), "{}", trail.out);
    let sarif = house.dulk(&["check", "--format", "sarif"]);
    assert!(sarif.out.contains("2.1.0"), "{}", sarif.out);
    let why = house.dulk(&["why", "branch.absent"]);
    assert!(why.out.contains("# .travis.yml"), "{}", why.out);
}

#[test]
fn a_slip_is_mended_and_a_finding_accepted() {
    let slipped = house(&ALONE.replace("script:", "scirpt:"));
    assert_eq!(slipped.dulk(&["mend", "--write"]).code, Some(0));
    assert_eq!(std::fs::read_to_string(slipped.path().join(FILE)).unwrap_or_default(), ALONE);
    let old = ALONE
        .replace("    branch: main", "    # dulk: accept branch.absent because the branch is made tomorrow\n    branch: autumn");
    let ran = house(&old).dulk(&["check", "--format", "json"]);
    assert!(!ran.rules().iter().any(|rule| rule == "branch.absent"), "{:?}", ran.rules());
}

#[test]
fn wrong_names_are_told() {
    for name in ["travis.yml", ".travis.yaml"] {
        let house = House::with_git(&[(name, ALONE), PACKAGE, LOCK]);
        let ran = house.dulk(&["check", "--format", "json"]);
        assert!(ran.rules().iter().any(|rule| rule == "form.misplaced"), "{name}: {:?} {}", ran.rules(), ran.err);
    }
}

#[test]
fn hostile_files_end_soon() {
    let row = |name: &str| format!("{name}: [{}]\n", (0..40).map(|n| n.to_string()).collect::<Vec<_>>().join(", "));
    let lists: String = ["node_js", "python", "go", "rvm", "env"].map(row).concat();
    let many: String = (0..3_000).map(|n| format!("    - {{stage: s{}, name: same, script: ls}}\n", n % 7)).collect();
    let files = [
        format!("language: node_js\n{lists}script: make\n{}", &ALONE[ALONE.find("deploy").unwrap_or(0)..]),
        format!("jobs:\n  include:\n{many}"),
        format!("if: {}\nscript: make\n", vec!["branch = main"; 700].join(" OR ")),
        format!("if: {}\nscript: make\n", "NOT ".repeat(2_500)),
        format!("script: make\ndeploy:\n  provider: s3\n  on: {{condition: '{}'}}\n", "! ".repeat(5_000)),
        format!("env:\n  global:\n    - secure: {}\nscript: make\n", "A".repeat(600_000)),
        "deploy: s3\nscript: {a: b}\njobs: [x]\nstages: {a: b}\nenv: {jobs: {x: [y]}}\nbranches: 7\n".to_owned(),
        "&a x: *a\n<<: *a\njobs: &j {include: [*j, {<<: *j}]}\n".to_owned(),
        "deploy:\n  - provider:\n  - on:\n  -\n  - [a]\nscript:\n  - [[[[[[[[[[a]]]]]]]]]]\n".to_owned(),
        "language: [node_js, python]\nnode_js: {a: b}\nscript: !!binary x\ncache: [[npm]]\n".to_owned(),
    ];
    for text in files {
        for command in [vec!["check"], vec!["when"], vec!["trail"]] {
            let ran = house(&text).dulk(&command);
            assert!(matches!(ran.code, Some(0..=2)), "{:.60}: {:?} {}", text, ran.code, ran.err);
        }
    }
}
