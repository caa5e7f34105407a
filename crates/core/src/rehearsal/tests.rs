mod gitlab;
mod needs;
mod starters;
mod workflow;

use super::*;
use crate::project::columns;
use crate::rules::Slip;

/// A truth table: after each `===` a slip, after `---` its rows: event, `+path` for changed files, whether the pipeline starts, and what
/// its jobs do. `.` stands for a word that is not looked at.
fn hold(table: &str) -> usize {
    let mut rows = 0;
    let mut wrong = Vec::new();
    for part in table.split("=== ").skip(1) {
        let (title, rest) = part.split_once('\n').unwrap_or((part, ""));
        let (slip, expected) = rest.split_once("---\n").unwrap_or_else(|| panic!("{title} has no rows"));
        let scene = Slip::read(slip).scene();
        let project = scene.project();
        for row in expected.lines().filter(|line| !line.trim().is_empty()) {
            rows += 1;
            let (event, answers) = row.split_once('|').unwrap_or_else(|| panic!("{title}: {row}"));
            let mut words = event.split_whitespace();
            let mut occasion =
                parse_occasion(words.next().unwrap_or_default(), &scene.facts).unwrap_or_else(|error| panic!("{title}: {error}"));
            let changed: Vec<String> = words.filter_map(|word| word.strip_prefix('+').map(str::to_owned)).collect();
            occasion.changed = (!changed.is_empty()).then_some(changed);
            let played = project.rehearse(&occasion);
            let mut found: Vec<&str> = vec![played[0].starts.answer.word()];
            found.extend(played.iter().flat_map(|rehearsal| rehearsal.jobs.iter().map(|job| job.answer.word())));
            let answers: Vec<&str> = answers.split_whitespace().collect();
            let fits = answers.len() == found.len()
                && answers.iter().zip(&found).all(|(wanted, found)| *wanted == "." || wanted == found);
            if !fits {
                wrong.push(format!("{title}: {row}\n   found {}\n   {played:#?}", found.join(" ")));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    rows
}

#[test]
fn the_truth_table_of_workflow_files_holds() {
    let rows = hold(workflow::TABLE);
    assert!(rows >= 150, "{rows} rows");
}

#[test]
fn the_truth_table_of_pipelines_that_others_start_holds() {
    let rows = hold(starters::TABLE);
    assert!(rows >= 40, "{rows} rows");
}

#[test]
fn the_truth_table_of_needs_holds() {
    let rows = hold(needs::TABLE);
    assert!(rows >= 25, "{rows} rows");
}

#[test]
fn the_truth_table_of_gitlab_files_holds() {
    let rows = hold(gitlab::TABLE);
    assert!(rows >= 80, "{rows} rows");
}

#[test]
fn events_that_are_none_are_told_what_is_possible() {
    let scene = Slip::read("== git\nmain default\n== jobs\n").scene();
    for (text, part) in
        [("pusch:main", "Did you mean push"), ("tag", "lacks the tag"), ("clock:x", "takes nothing"), ("", "is no event")]
    {
        let error = parse_occasion(text, &scene.facts).err().unwrap_or_else(|| panic!("{text} is taken"));
        assert!(error.contains(part), "{text}: {error}");
    }
    assert_eq!(parse_occasion("push", &scene.facts).map(|occasion| occasion.written()), Ok("push:main".to_owned()));
}

#[test]
fn columns_are_the_events_that_pipelines_tell_apart() {
    let scene = Slip::read(
        "== git\nmain default\nwinter-plan\nstaging\n== pipeline\non:\n  push:\n    branches: [main, staging]\n    tags: ['v*']\n  schedule: [{cron: '0 4 * * *'}]\njobs:\n  live:\n    if: github.ref_name == 'main'\n    runs-on: x\n    steps: [{run: ls}]\n  all:\n    runs-on: x\n    steps: [{run: ls}]\n",
    )
    .scene();
    let found: Vec<String> = columns(&scene.project()).iter().map(Occasion::written).collect();
    assert_eq!(found, ["push:main", "push:staging", "push:winter-plan", "tag:v1.2.3", "clock"]);
}
