//! What starts a pipeline of `buddy.yml`, event by event, and what its actions become.

use crate::effects::Effect;
use crate::model::Outcome;
use crate::rehearsal::parse_occasion;
use crate::rules::Slip;
use crate::rules::slip::Scene;

fn scene(head: &str, actions: &str) -> Scene {
    let slip = format!(
        "== git\nmain default\npiers\nwinter/one\nv1 tag\nbeta tag\n== buddy.yml\n- pipeline: Quay\n{head}  actions:\n{actions}"
    );
    Slip::read(&slip).scene()
}

fn starts(head: &str, event: &str) -> &'static str {
    let scene = scene(head, "    - {action: Look, type: BUILD, execute_commands: [ls]}\n");
    scene.rehearsed(event).starts.answer.word()
}

#[test]
fn events_and_refs_decide_what_starts() {
    const PUSH: &str = "  events: [{type: PUSH, refs: [refs/heads/main]}]\n";
    const OLD: &str = "  trigger_mode: ON_EVERY_PUSH\n  ref_name: main\n  ref_type: BRANCH\n";
    const TAGS: &str = "  on: EVENT\n  refs: ['refs/tags/v*']\n";
    const PULLS: &str = "  events: [{type: PULL_REQUEST, branches: [main]}]\n";
    const VAR: &str = "  on: EVENT\n  refs: ['refs/heads/*']\n  trigger_conditions: [{trigger_condition: VAR_IS, \
                       trigger_variable_key: PIER, trigger_variable_value: two}]\n";
    for (head, event, expected) in [
        (PUSH, "push:main", "yes"),
        (PUSH, "push:piers", "no"),
        (PUSH, "tag:v1", "no"),
        (PUSH, "pull:main", "no"),
        (PUSH, "fork:main", "no"),
        (PUSH, "hand:main", "yes"),
        (PUSH, "clock", "no"),
        (OLD, "push:main", "yes"),
        (OLD, "push:piers", "no"),
        (OLD, "tag:v1", "no"),
        ("  on: EVENT\n  refs: [refs/heads/main, refs/heads/piers]\n", "push:piers", "yes"),
        ("  on: EVENT\n  refs: main\n", "push:main", "yes"),
        ("  on: EVENT\n  refs: [main]\n", "push:piers", "no"),
        ("  refs: [refs/heads/main]\n", "push:main", "yes"),
        ("  on: EVENT\n  refs: ['refs/heads/*']\n", "push:winter/one", "yes"),
        ("  on: EVENT\n  refs: ['refs/heads/winter/*']\n", "push:winter/one", "yes"),
        ("  on: EVENT\n  refs: ['refs/heads/winter/*']\n", "push:main", "no"),
        ("  on: EVENT\n  refs: ['refs/heads/w*']\n", "push:winter/one", "yes"),
        ("  on: EVENT\n  refs: ['refs/*']\n", "push:piers", "yes"),
        ("  on: EVENT\n  refs: ['refs/*']\n", "tag:beta", "yes"),
        ("  on: EVENT\n  refs: ['refs/*']\n", "pull:main", "yes"),
        (TAGS, "tag:v1", "yes"),
        (TAGS, "tag:beta", "no"),
        (TAGS, "push:main", "no"),
        ("  on: EVENT\n  refs: [refs/heads/main, 'refs/tags/*']\n", "tag:beta", "yes"),
        ("  on: EVENT\n  refs: [refs/heads/main, 'refs/tags/*']\n", "push:main", "yes"),
        ("  trigger_mode: ON_EVERY_PUSH\n  ref_name: v1\n  ref_type: TAG\n", "tag:v1", "yes"),
        ("  trigger_mode: ON_EVERY_PUSH\n  ref_name: 'winter/*'\n  ref_type: WILDCARD\n", "push:winter/one", "yes"),
        ("  events: [{type: CREATE_REF, refs: ['refs/tags/*']}]\n", "tag:v1", "yes"),
        ("  events: [{type: CREATE_REF, refs: ['refs/heads/*']}]\n", "push:main", "no"),
        ("  on: EVENT\n  refs: ['refs/pull/*']\n", "pull:main", "yes"),
        ("  on: EVENT\n  refs: ['refs/pull/*']\n", "push:main", "no"),
        (PULLS, "pull:main", "yes"),
        (PULLS, "pull:piers", "no"),
        (PULLS, "push:main", "no"),
        ("  on: CLICK\n", "push:main", "no"),
        ("  on: CLICK\n  refs: [refs/heads/main]\n", "push:main", "no"),
        ("  on: CLICK\n", "hand:main", "yes"),
        ("  trigger_mode: MANUAL\n  ref_name: main\n", "push:main", "no"),
        ("  on: SCHEDULE\n  cron: 0 4 * * *\n", "clock", "yes"),
        ("  on: SCHEDULE\n  cron: 0 4 * * *\n", "push:main", "no"),
        ("  events: [{type: SCHEDULE, cron: 0 4 * * *}, {type: PUSH, refs: [refs/heads/main]}]\n", "clock", "yes"),
        ("  events: [{type: SCHEDULE, cron: 0 4 * * *}, {type: PUSH, refs: [refs/heads/main]}]\n", "push:main", "yes"),
        (VAR, "push:main", "unsure"),
        ("  on: EVENT\n  refs: [main]\n  trigger_condition: ALWAYS\n", "push:main", "yes"),
    ] {
        assert_eq!(starts(head, event), expected, "{head}{event}");
    }
}

#[test]
fn a_variable_of_the_pipeline_is_compared() {
    let of = |value: &str| {
        let condition = "  trigger_condition: VAR_IS\n  trigger_variable_key: PIER\n  trigger_variable_value: two\n";
        starts(&format!("  on: EVENT\n  refs: [main]\n{condition}  variables: [{{key: PIER, value: {value}}}]\n"), "push:main")
    };
    assert_eq!((of("two"), of("three")), ("yes", "no"));
}

#[test]
fn changed_paths_and_switches_decide() {
    let head =
        "  on: EVENT\n  refs: [main]\n  trigger_condition: ON_CHANGE_AT_PATH\n  trigger_condition_paths: [/site, notes.md]\n";
    let scene = scene(head, "    - {action: Look, type: BUILD, execute_commands: [ls]}\n");
    for (path, expected) in [("site/quay.css", "yes"), ("notes.md", "yes"), ("other/site/x", "no")] {
        let occasion = parse_occasion("push:main", &scene.facts).unwrap_or_else(|error| panic!("{error}"));
        let occasion = crate::rehearsal::Occasion { changed: Some(vec![path.to_owned()]), ..occasion };
        assert_eq!(scene.project().rehearse_one(0, &occasion).starts.answer.word(), expected, "{path}");
    }
    assert_eq!(starts("  on: EVENT\n  refs: [main]\n  disabled: true\n", "push:main"), "no");
    let contains = "  trigger_condition: VAR_CONTAINS\n  trigger_variable_key: PIER\n  trigger_variable_value: w\n";
    let head = format!("  on: EVENT\n  refs: [main]\n{contains}  variables: [{{key: PIER, value: two}}]\n");
    assert_eq!(starts(&head, "push:main"), "yes");
}

#[test]
fn actions_become_steps_of_one_job() {
    let scene = scene(
        "  on: CLICK\n",
        "    - {action: Build, type: BUILD, docker_image_name: library/node, docker_image_tag: '24', working_directory: /buddy/quay/site, \
         volume_mappings: ['/:/buddy/quay'], execute_commands: [npm ci], run_next_parallel: true, ignore_errors: true}\n    \
         - {action: Wait, type: WAIT_FOR_APPLY}\n    \
         - {action: Send, type: SFTP, local_path: /dist, remote_path: /www, host: quay.example, trigger_time: ON_FAILURE, disabled: true}\n    \
         - {action: Odd, type: QUITE_NEW}\n",
    );
    let job = &scene.prepared[0].pipeline.jobs[0];
    let step =
        |name: &str| job.steps.iter().find(|step| step.name.as_ref().is_some_and(|known| known.value == name)).expect(name);
    let build = step("Build");
    assert_eq!(build.directory.as_ref().map(|text| text.value.as_str()), Some("site"));
    assert_eq!(
        build.machine.as_ref().and_then(|machine| machine.image.as_ref()).map(|text| text.value.as_str()),
        Some("library/node:24")
    );
    assert!(build.may_fail.is_some() && build.waits.at().is_none() && step("Wait").waits.at().is_some());
    assert!(matches!(step("Wait").work, crate::model::Work::Gate) && matches!(step("Odd").work, crate::model::Work::Unclear));
    let send = step("Send");
    assert!(send.off.is_some() && send.after == Outcome::Failure && send.after_at.is_some());
    let crate::model::Work::ByItself(own) = &send.work else { panic!("{send:?}") };
    let Effect::Publish { folder: Some(folder), place, .. } = &own.effects[0].effect else { panic!("{own:?}") };
    assert_eq!((folder.written.as_str(), place.as_deref()), ("dist", Some("ftp quay.example /www")));
}

#[test]
fn folders_of_earlier_runs_may_be_there_and_others_are_not() {
    let standing = |commands: &str, folder: &str| {
        let send = format!("    - {{action: Send, type: SFTP, local_path: {folder}, remote_path: /www, host: quay.example}}\n");
        let build = format!("    - {{action: Build, type: BUILD, execute_commands: [{commands}]}}\n");
        let slip = format!(
            "== git\nmain default\n== files\nindex.html\n== buddy.yml\n- pipeline: Quay\n  on: CLICK\n  actions:\n{send}{build}"
        );
        let scene = Slip::read(&slip).scene();
        let project = scene.project();
        project.case(0).trail.handovers[0].standing
    };
    use crate::trail::Standing;
    assert_eq!(standing("mkdir dist", "dist"), Standing::Perhaps);
    assert_eq!(standing("mkdir dist", "site"), Standing::Never);
}
