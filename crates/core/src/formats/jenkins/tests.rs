//! What a `Jenkinsfile` does, stage by stage, and where its stages find what others have left.

use crate::effects::Effect;
use crate::model::{Outcome, StepOrder, Workspace};
use crate::rules::Slip;
use crate::rules::slip::Scene;

fn scene(settings: &str, text: &str) -> Scene {
    let git = "== git\nmain default\npiers\nrelease/1\nv1 tag\n";
    Slip::read(&format!("{git}== files\nindex.html\n== dulk.toml\n{settings}== Jenkinsfile\n{text}")).scene()
}

const ALL: &str = "[[starts]]\nfile = \"Jenkinsfile\"\npush = [\"**\"]\ntags = [\"**\"]\npulls = [\"**\"]\n";

/// Whether the run starts, and whether its one stage with a condition runs.
fn answers(settings: &str, top: &str, when: &str, event: &str) -> (&'static str, &'static str) {
    let text = format!(
        "pipeline {{\n agent any\n {top}\n stages {{ stage('Send') {{ when {{ {when} }}\n steps {{ sh 'make' }} }} }}\n}}\n"
    );
    let scene = scene(settings, &text);
    let rehearsal = scene.rehearsed(event);
    (rehearsal.starts.answer.word(), rehearsal.jobs[0].answer.word())
}

#[test]
fn conditions_of_a_stage_by_event() {
    for (when, event, expected) in [
        ("branch 'main'", "push:main", "yes"),
        ("branch 'main'", "push:piers", "no"),
        ("branch 'release/*'", "push:release/1", "yes"),
        ("branch 'release-*'", "push:release/1", "no"),
        ("branch pattern: 'release/.*', comparator: 'REGEXP'", "push:release/1", "yes"),
        ("branch pattern: 'rel', comparator: 'REGEXP'", "push:release/1", "no"),
        ("branch pattern: 'main', comparator: 'EQUALS'", "push:main", "yes"),
        ("not { branch 'main' }", "push:main", "no"),
        ("not { branch 'main' }", "push:piers", "yes"),
        ("anyOf { branch 'main'; branch 'piers' }", "push:piers", "yes"),
        ("allOf { branch 'main'; branch 'piers' }", "push:piers", "no"),
        ("branch 'main'\n branch 'piers'", "push:main", "no"),
        ("buildingTag()", "push:main", "no"),
        ("buildingTag()", "tag:v1", "yes"),
        ("tag 'v*'", "tag:v1", "yes"),
        ("tag 'w*'", "tag:v1", "no"),
        ("changeRequest()", "push:main", "no"),
        ("changeRequest()", "pull:main", "yes"),
        ("changeRequest target: 'main'", "pull:main", "yes"),
        ("changeRequest target: 'piers'", "pull:main", "no"),
        ("expression { env.BRANCH_NAME == 'main' }", "push:main", "yes"),
        ("expression { return env.BRANCH_NAME != 'main' }", "push:main", "no"),
        ("expression { BRANCH_NAME ==~ /release.*/ }", "push:release/1", "yes"),
        ("expression { env.BRANCH_NAME == 'main' || env.TAG_NAME == 'v1' }", "tag:v1", "yes"),
        ("expression { env.BRANCH_NAME.startsWith('m') }", "push:main", "unsure"),
        ("environment name: 'BRANCH_NAME', value: 'piers'", "push:piers", "yes"),
        ("equals expected: 'main', actual: env.BRANCH_NAME", "push:piers", "no"),
        ("triggeredBy 'TimerTrigger'", "push:main", "unsure"),
        ("beforeAgent true\n branch 'main'", "push:main", "yes"),
    ] {
        assert_eq!(answers(ALL, "", when, event), ("yes", expected), "{when} on {event}");
    }
}

#[test]
fn the_server_starts_it_and_the_clock_may_stand_in_the_file() {
    for (settings, top, event, expected) in [
        ("", "", "push:main", "unsure"),
        ("", "", "clock", "unsure"),
        ("", "triggers { cron('H 3 * * *') }", "clock", "yes"),
        ("", "triggers { cron('''TZ=Europe/Oslo\nH 3 * * 1''') }", "clock", "yes"),
        ("", "triggers { cron '@daily' }", "clock", "yes"),
        ("", "triggers { cron('') }", "clock", "unsure"),
        ("", "triggers { pollSCM('H 3 * * *') }", "clock", "unsure"),
        ("", "// triggers { cron('@daily') }", "clock", "unsure"),
        ("", "triggers { cron('@daily') }", "push:main", "unsure"),
        (ALL, "", "push:main", "yes"),
        (ALL, "triggers { cron('@daily') }", "clock", "yes"),
        (ALL, "", "clock", "no"),
    ] {
        assert_eq!(answers(settings, top, "branch 'main'", event).0, expected, "{top} on {event}");
    }
}

/// The jobs of a file: names, what each waits for, and where its files come from.
fn jobs(text: &str) -> Vec<String> {
    let scene = scene("", text);
    let of = |job: &crate::model::Job| {
        let needs: Vec<&str> = job.needs.iter().map(|need| need.value.as_str()).collect();
        let files = match job.workspace {
            Workspace::Of(other) => format!("of {other}"),
            Workspace::Kept => "kept".to_owned(),
            Workspace::Fresh => "none".to_owned(),
            Workspace::Left => "left".to_owned(),
        };
        format!("{} after [{}], files {files}", job.id.value, needs.join(", "))
    };
    scene.prepared[0].pipeline.jobs.iter().map(of).collect()
}

#[test]
fn stages_of_one_agent_are_one_job() {
    let stage = |name: &str, agent: &str| format!("stage('{name}') {{ {agent}\n steps {{ sh 'make' }} }}\n");
    let file = |agent: &str, stages: String| format!("pipeline {{ agent {agent}\n stages {{ {stages} }} }}\n");
    let (a, b, c) = (stage("A", ""), stage("B", "agent { docker { image 'node:22' } }"), stage("C", ""));
    let inside = stage("B", "agent { docker { image 'node:22'\n reuseNode true } }");
    assert_eq!(jobs(&file("any", format!("{a}{c}"))), ["A to C after [], files kept"]);
    assert_eq!(jobs(&file("any", format!("{a}{inside}{c}"))), ["A to C after [], files kept"]);
    assert_eq!(
        jobs(&file("any", format!("{a}{b}{c}"))),
        ["A after [], files kept", "B after [A], files kept", "C after [B], files of 0"]
    );
    assert_eq!(jobs(&file("none", b.clone())), ["B after [], files kept"]);
    let asks = "stage('Q') { input { message 'go' }\n steps { echo 'a' } }\n".to_owned();
    assert_eq!(jobs(&file("none", format!("{asks}{b}"))), ["Q after [], files kept", "B after [Q], files kept"]);
    let both = format!("stage('P') {{ parallel {{ {b} {} }} }}\n{}", b.replace("'B'", "'D'"), stage("E", "agent any"));
    assert_eq!(jobs(&file("none", both)), ["B after [], files kept", "D after [], files kept", "E after [B, D], files kept"]);
}

#[test]
fn branches_of_one_workspace_run_side_by_side() {
    let text = "pipeline { agent any\n stages { stage('A') { steps { sh 'a' } }\n stage('P') { parallel { stage('B') { steps { sh 'b'\n sh 'bb' } }\n \
                stage('C') { steps { sh 'c' } } } }\n stage('D') { steps { sh 'd' } } } }\n";
    let scene = scene("", text);
    let order = StepOrder::of(&scene.prepared[0].pipeline.jobs[0].steps);
    // The files, then a, b, bb, c and d.
    assert!(order.is_before(1, 2) && order.is_before(2, 3) && order.is_before(1, 4));
    assert!(order.are_beside(2, 4) && order.are_beside(3, 4) && order.is_before(3, 5) && order.is_before(4, 5));
}

#[test]
fn what_runs_at_the_end_has_an_order_of_its_own() {
    let text = "pipeline { agent any\n stages { stage('A') { steps { sh 'a' } } }\n post { cleanup { sh 'z' }\n success { sh 'y' }\n always { sh 'x' }\n \
                failure { sh 'f' } } }\n";
    let scene = scene("", text);
    let steps = &scene.prepared[0].pipeline.jobs[0].steps;
    let word = |step: &crate::model::Step| match &step.work {
        crate::model::Work::Runs { script, .. } => (script.value.clone(), step.after),
        _ => (String::new(), step.after),
    };
    let found: Vec<(String, Outcome)> = steps.iter().skip(2).map(word).collect();
    let expected = [("x", Outcome::Any), ("f", Outcome::Failure), ("y", Outcome::Success), ("z", Outcome::Any)];
    assert_eq!(found, expected.map(|(name, after)| (name.to_owned(), after)));
}

#[test]
fn texts_are_what_a_shell_gets() {
    let text = "pipeline { agent any\n stages { stage('A') { steps {\n sh 'a \\\\\\n $B'\n sh \"c ${env.D} \\$E ${f.g()} $H\"\n sh('i' + \" ${J}\")\n } } } }\n";
    let scene = scene("", text);
    let steps = &scene.prepared[0].pipeline.jobs[0].steps;
    let scripts: Vec<&str> = steps
        .iter()
        .filter_map(|step| match &step.work {
            crate::model::Work::Runs { script, .. } => Some(script.value.as_str()),
            _ => None,
        })
        .collect();
    assert_eq!(scripts, ["a \\\n $B", "c ${D} $E ${{ dark }} ${H}", "i ${J}"]);
}

#[test]
fn folders_are_handed_on_from_where_they_are() {
    for (stash, unstash, into) in [
        ("stash name: 's', includes: 'dist/**'", "unstash 's'", Some("")),
        ("dir('dist') { stash 's' }", "dir('out') { unstash 's' }", Some("out")),
        ("dir('web') { stash name: 's', includes: 'dist/' }", "dir('web') { unstash name: 's' }", Some("")),
        ("dir('web') { stash name: 's', includes: 'dist/' }", "unstash 's'", None),
    ] {
        let text = format!("pipeline {{ agent any\n stages {{ stage('A') {{ steps {{ {stash}\n {unstash} }} }} }} }}\n");
        let scene = scene("", &text);
        let project = scene.project();
        let case = project.case(0);
        let found = case.all_effects().find_map(|(_, _, effect)| match &effect.effect {
            Effect::Download { into, .. } => Some(into.clone()),
            _ => None,
        });
        assert_eq!(found, Some(into.map(str::to_owned)), "{stash} {unstash}");
    }
}
