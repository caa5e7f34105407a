use super::*;
use crate::rules::Slip;

/// A repository of many pipelines that all wait for main, and one that waits for staging.
fn many(pipelines: usize) -> String {
    let mut slip = String::from("== git\nmain default\nstaging\nwinter-plan\n");
    for number in 0..pipelines {
        slip.push_str(&format!(
            "== .github/workflows/{number:03}.yml\non:\n  push:\n    branches: [main]\njobs:\n  a:\n    runs-on: x\n    steps: [{{run: ls}}]\n"
        ));
    }
    slip.push_str("== pipeline\non:\n  push:\n    branches: [staging]\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n");
    slip
}

#[test]
fn no_branch_vanishes_among_many_pipelines() {
    let scene = Slip::read(&many(70)).scene();
    let project = scene.project();
    let last = project.prepared.len() - 1;
    let staging = Occasion::new(OccasionKind::Push, Some("staging"));
    assert_eq!(project.outcome(last, &staging).map(|outcome| outcome.starts.answer), Some(Answer::Yes));
    assert_eq!(project.outcome(0, &staging).map(|outcome| outcome.starts.answer), Some(Answer::No));
    let shown: Vec<String> = columns(&project).iter().map(Occasion::written).collect();
    assert_eq!(shown, ["push:main", "push:staging", "push:winter-plan"]);
}

#[test]
fn rules_see_every_kind_of_event_once() {
    let scene = Slip::read(
        "== git\nmain default\nlive\nwinter-plan\nv2.0.0 tag\n== pipeline\non:\n  push:\n    branches: [main, 'release/**']\n    tags: ['v*']\n  \
         pull_request: {branches: [main, live]}\n  workflow_dispatch:\n  schedule: [{cron: '0 4 * * *'}]\njobs:\n  a:\n    if: github.ref \
         != 'refs/heads/old-site'\n    runs-on: x\n    steps: [{run: ls}]\n",
    )
    .scene();
    let project = scene.project();
    let found: Vec<String> = project.played(0).map(|(occasion, _)| occasion.written()).collect();
    assert_eq!(
        found,
        [
            "push:main",
            "push:live",
            "push:old-site",
            "push:winter-plan",
            "push:any-other-branch",
            "tag:v2.0.0",
            "tag:any-other-tag",
            "pull:main",
            "fork:main",
            "pull:live",
            "fork:live",
            "hand:main",
            "clock"
        ]
    );
}

#[test]
fn pipelines_that_start_each_other_are_played_together() {
    let scene = Slip::read(
        "== git\nmain default\n== .github/workflows/a.yml\nname: Sail\non:\n  push:\n    branches: [live]\njobs:\n  call:\n    uses: \
         ./.github/workflows/b.yml\n== .github/workflows/b.yml\non: workflow_call\njobs:\n  a:\n    runs-on: x\n    steps: [{run: \
         ls}]\n== .github/workflows/c.yml\non:\n  workflow_run: {workflows: [Sail], types: [completed]}\njobs:\n  a:\n    runs-on: \
         x\n    steps: [{run: ls}]\n== .github/workflows/d.yml\non: pull_request\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n",
    )
    .scene();
    let project = scene.project();
    let live = Occasion::new(OccasionKind::Push, Some("live"));
    let answers: Vec<Option<Answer>> =
        (0..4).map(|index| project.outcome(index, &live).map(|outcome| outcome.starts.answer)).collect();
    assert_eq!(answers, [Some(Answer::Yes), Some(Answer::Yes), Some(Answer::Yes), None]);
    assert_eq!(project.known.index.callers(1), [(0, 0)]);
}

/// Files by name, each with what starts it and the file that its one job calls.
fn calling(files: &[(&str, &str, Option<&str>)]) -> String {
    let job = |called: &Option<&str>| match called {
        Some(called) => format!("uses: ./.github/workflows/{called}.yml"),
        None => "{runs-on: x, steps: [{run: ls}]}".to_owned(),
    };
    let file = |(name, on, called): &(&str, &str, Option<&str>)| {
        let job = job(called);
        let job = if job.starts_with('{') { format!(" {job}") } else { format!("\n    {job}") };
        format!("== .github/workflows/{name}.yml\nname: {name}\non: {on}\njobs:\n  a:{job}\n")
    };
    format!("== git\nmain default\n{}", files.iter().map(file).collect::<String>())
}

#[test]
fn what_starts_a_pipeline_is_played_before_it_with_the_same_end_as_together() {
    let call = "workflow_call";
    let after = "{workflow_run: {workflows: [b], types: [completed]}}";
    let both = "{workflow_call: , push: {branches: [live]}}";
    let projects = [
        calling(&[("a", "push", Some("b")), ("b", call, Some("c")), ("c", call, None)]),
        // The last one is read first.
        calling(&[("a", call, None), ("b", call, Some("a")), ("c", "pull_request", Some("b")), ("d", "push", Some("b"))]),
        calling(&[
            ("a", "push", Some("c")),
            ("b", "{push: {branches: [main]}}", Some("c")),
            ("c", call, None),
            ("d", after, None),
        ]),
        // A circle, which no forge runs, and one that hangs on it.
        calling(&[("a", both, Some("b")), ("b", call, Some("a")), ("c", after, None)]),
    ];
    for written in projects {
        let scene = Slip::read(&written).scene();
        let project = scene.project();
        for index in 0..project.prepared.len() {
            for (occasion, played) in project.possible_outcomes(index).unwrap_or_default() {
                let together = &project.rehearse(occasion)[index];
                let told =
                    |one: &Rehearsal| (one.starts.answer, one.trigger, one.jobs.iter().map(|job| job.answer).collect::<Vec<_>>());
                assert_eq!(told(played), told(together), "{} on {}\n{written}", project.path(index), occasion.written());
            }
        }
        assert!((0..project.prepared.len()).all(|index| project.possible_outcomes(index).is_some()), "{written}");
    }
}
