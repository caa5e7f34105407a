//! `buddy.yml`: healthy pipelines are silent, each fault is found by its rule, and hostile files hurt nobody.

use crate::house::{House, TODAY, broken};

const FILE: &str = "buddy.yml";
const PACKAGE: (&str, &str) = (
    "package.json",
    "{\"scripts\": {\"build\": \"vite build\", \"test\": \"node --test\"}, \"engines\": {\"node\": \">=22\"}, \
     \"devDependencies\": {\"vite\": \"7\"}}",
);
const LOCK: (&str, &str) = ("package-lock.json", "{\"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\"}}}}");
const CONFIG: (&str, &str) = ("vite.config.js", "export default { base: '/timetable/' }\n");

fn house_of(file: &str, text: &str) -> House {
    let house = House::with_git(&[(file, text), PACKAGE, LOCK, CONFIG, ("index.html", ""), ("src/main.js", "")]);
    house.git(&["branch", "piers"]);
    house.git(&["tag", "v1"]);
    house.clone_of("https://git.tarnsay.example/ferry/timetable.git")
}

fn house(text: &str) -> House {
    house_of(FILE, text)
}

const TIMETABLE: &str = "- pipeline: \"Timetable\"\n  events:\n    - type: \"PUSH\"\n      refs:\n        - \"refs/heads/main\"\n  fail_on_prepare_env_warning: true\n  actions:\n    - action: \"Test\"\n      type: \"BUILD\"\n      working_directory: \"/buddy/ferry\"\n      docker_image_name: \"library/node\"\n      docker_image_tag: \"24\"\n      execute_commands:\n        - \"npm ci\"\n        - \"npm test\"\n      cached_dirs:\n        - \"/root/.npm\"\n      volume_mappings:\n        - \"/:/buddy/ferry\"\n      shell: \"BASH\"\n    - action: \"Build\"\n      type: \"BUILD\"\n      working_directory: \"/buddy/ferry\"\n      docker_image_name: \"library/node\"\n      docker_image_tag: \"24\"\n      execute_commands:\n        - \"npm run build\"\n      volume_mappings:\n        - \"/:/buddy/ferry\"\n    - action: \"Send\"\n      type: \"SFTP\"\n      input_type: \"BUILD_ARTIFACTS\"\n      local_path: \"dist\"\n      remote_path: \"/srv/timetable\"\n      host: \"web.tarnsay.example\"\n      login: \"ferry\"\n      password: \"secure!bW9vcmluZw==\"\n";
const OLDER: &str = "- pipeline: \"Look\"\n  trigger_mode: \"ON_EVERY_PUSH\"\n  ref_name: \"piers\"\n  ref_type: \"BRANCH\"\n  actions:\n    - action: \"Test\"\n      type: \"BUILD\"\n      docker_image_name: \"library/node\"\n      docker_image_tag: \"24\"\n      execute_commands: [\"npm ci\", \"npm test\"]\n    - action: \"Tell\"\n      type: \"EMAIL\"\n      trigger_time: \"ON_FAILURE\"\n      recipients: \"quay@tarnsay.example\"\n";

#[test]
fn healthy_pipelines_are_silent() {
    for (file, text) in [(FILE, TIMETABLE), (FILE, OLDER), (".buddy/site.yml", TIMETABLE)] {
        let ran = house_of(file, text).dulk(&["check", "--fail-on", "warning"]);
        assert_eq!(ran.code, Some(0), "{text}\n{}{}", ran.out, ran.err);
    }
}

#[test]
fn a_pipeline_broken_in_many_ways() {
    broken(
        TIMETABLE,
        house,
        TODAY,
        &[
            ("refs/heads/main", "refs/heads/master", "branch.absent"),
            ("refs/heads/main", "refs/head/main", "branch.never-matches"),
            ("refs/heads/main", "refs/heads/*", "branch.all-go-live"),
            (
                "        - \"refs/heads/main\"\n",
                "        - \"refs/heads/main\"\n        - \"refs/pull/*\"\n",
                "trigger.publishes-proposals",
            ),
            ("      refs:\n        - \"refs/heads/main\"\n", "", "form.missing-key"),
            ("execute_commands", "excute_commands", "form.unknown-key"),
            ("\"SFTP\"", "\"SFPT\"", "form.wrong-shape"),
            ("npm run build", "npm run biuld", "site.absent-script"),
            ("        - \"npm ci\"\n", "", "site.no-install"),
            ("/buddy/ferry\"\n      docker", "/buddy/piers\"\n      docker", "site.outside-files"),
            ("docker_image_tag: \"24\"", "docker_image_tag: \"18\"", "site.runtime-mismatch"),
            ("      docker_image_tag: \"24\"\n", "", "upkeep.untagged-image"),
            ("/root/.npm", "/root/.cache/yarn", "cache.other-manager"),
            ("npm test\"", "npm test || true\"", "order.publishes-after-failure"),
            ("    - action: \"Test\"\n", "    - action: \"Test\"\n      ignore_errors: true\n", "order.publishes-after-failure"),
            ("    - action: \"Build\"\n", "    - action: \"Build\"\n      run_next_parallel: true\n", "order.step-too-early"),
            ("    - action: \"Build\"\n", "    - action: \"Build\"\n      disabled: true\n", "artifact.absent-folder"),
            (
                "    - action: \"Send\"\n",
                "    - action: \"Send\"\n      trigger_time: \"ON_FAILURE\"\n",
                "order.publishes-after-failure",
            ),
            ("local_path: \"dist\"", "local_path: \"build\"", "artifact.wrong-folder"),
            ("local_path: \"dist\"", "local_path: \"/\"", "artifact.whole-repository"),
            ("BUILD_ARTIFACTS", "SCM_REPOSITORY", "artifact.absent-folder"),
            ("secure!bW9vcmluZw==", "mooring-7-knots", "secret.plain"),
        ],
    );
}

#[test]
fn two_pipelines_to_one_place_are_told() {
    let twice = format!("{TIMETABLE}{}", TIMETABLE.replace("Timetable", "Winter"));
    let ran = house(&twice).dulk(&["check", "--format", "json"]);
    assert!(ran.rules().iter().any(|rule| rule == "order.same-target"), "{:?}", ran.rules());
}

#[test]
fn an_action_that_sends_what_is_built_later_is_told() {
    let send = TIMETABLE.find("    - action: \"Send\"").unwrap_or_default();
    let first = TIMETABLE.find("    - action: \"Test\"").unwrap_or_default();
    let turned = format!("{}{}{}", &TIMETABLE[..first], &TIMETABLE[send..], &TIMETABLE[first..send]);
    let ran = house(&turned).dulk(&["check", "--format", "json"]);
    assert!(ran.rules().iter().any(|rule| rule == "order.step-too-early"), "{:?}", ran.rules());
}

#[test]
fn every_command_reads_it() {
    let house = house(TIMETABLE);
    let when = house.dulk(&["when", "push:piers", "--format", "json"]);
    assert!(when.out.contains("\"starts\": \"no\""), "{}", when.out);
    let trail = house.dulk(&["trail"]);
    assert!(trail.out.contains("vite makes dist") && trail.out.contains("web.tarnsay.example"), "{}", trail.out);
    let why = house.dulk(&["why", "branch.absent"]);
    assert!(why.out.contains("# buddy.yml"), "{}", why.out);
}

#[test]
fn wrong_names_are_told() {
    for name in [".buddy.yml", "buddy.yaml", ".buddy/site.yaml"] {
        let house = House::with_git(&[(name, TIMETABLE), PACKAGE, LOCK]);
        let ran = house.dulk(&["check", "--format", "json"]);
        assert!(ran.rules().iter().any(|rule| rule == "form.misplaced"), "{name}: {:?} {}", ran.rules(), ran.err);
    }
}

#[test]
fn hostile_files_end_soon() {
    let action = "    - {action: a, type: BUILD, execute_commands: [ls], run_next_parallel: true}\n";
    let files = [
        format!("- pipeline: a\n  on: CLICK\n  actions:\n{}", action.repeat(3_000)),
        format!("- pipeline: a\n  on: CLICK\n  actions:\n{action}").repeat(1_500),
        format!("- pipeline: a\n  on: EVENT\n  refs: [{}]\n  actions: []\n", vec!["'refs/heads/*'"; 5_000].join(", ")),
        "- pipeline: [a]\n- [b]\n- c\n- {pipeline: a, actions: b, events: c, refs: {d: e}}\n".to_owned(),
        "- &a {pipeline: *a, actions: [*a, {<<: *a}], variables: [*a, {key: x, value: [y]}]}\n".to_owned(),
        "pipeline: x\nactions: {a: b}\nevents: {type: [PUSH]}\n".to_owned(),
        "- {pipeline: a, actions: [{type: BUILD, volume_mappings: ['x'], working_directory: '..'}, {type: 7}, {}]}\n".to_owned(),
    ];
    for text in files {
        for command in [vec!["check"], vec!["when"], vec!["trail"]] {
            let ran = house(&text).dulk(&command);
            assert!(matches!(ran.code, Some(0..=2)), "{:.60}: {:?} {}", text, ran.code, ran.err);
        }
    }
}
