use crate::house::{House, workflow};

const SAIL: &str = ".github/workflows/sail.yml";
const LOOK: &str = ".github/workflows/look.yml";

fn ferry() -> House {
    let sail = "on:\n  push:\n    branches: [main]\n    paths: ['src/**']\n  schedule:\n    - cron: '0 4 * * *'\n  workflow_dispatch:\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v5\n      - run: npx vite build\n      - run: npx gh-pages -d dist -r $ADDRESS\n";
    let look = "on: pull_request\njobs:\n  look:\n    if: github.actor != 'robot'\n    runs-on: ubuntu-latest\n    strategy:\n      matrix:\n        browser: [one, two]\n    steps:\n      - run: ls\n        env: {KEY: '${{ secrets.KEY }}'}\n";
    let house = House::with_git(&[(SAIL, sail), (LOOK, look), ("src/a.css", "")]);
    house.git(&["branch", "winter-plan"]);
    house.clone_of("https://forge.example/tarnsay/timetable.git")
}

#[test]
fn the_grid_shows_events_and_jobs() {
    let ran = ferry().dulk(&["when", "--today", "2026-11-25"]);
    assert_eq!(ran.code, Some(0), "{}", ran.err);
    insta::assert_snapshot!(ran.out);
}

#[test]
fn one_event_is_told_with_the_lines_that_decide() {
    let house = ferry();
    insta::assert_snapshot!(house.dulk(&["when", "push:main", "fork:main", "--changed", "src/a.css"]).out);
    let other = house.dulk(&["when", "push:main", "--changed", "README.md"]);
    assert!(other.out.contains("does not start: none of the changed files is among its paths"), "{}", other.out);
}

#[test]
fn json_is_the_contract() {
    let ran = ferry().dulk(&["when", "push:main", "tag:v1", "--format", "json", "--changed", "src/a.css"]);
    insta::assert_snapshot!(ran.out);
}

#[test]
fn paths_count_from_where_the_user_stands() {
    let house = ferry();
    assert!(house.dulk_in("src", &["when", "push", "--changed", "a.css"]).out.contains("sail.yml starts"));
    let outside = house.dulk(&["when", "push", "--changed", "../elsewhere.css"]);
    assert_eq!((outside.code, outside.err.as_str()), (Some(2), "dulk: ../elsewhere.css is not in this repository\n"));
}

#[test]
fn strange_events_are_told_in_one_line() {
    let house = ferry();
    let wrong = house.dulk(&["when", "psh:main"]);
    assert_eq!((wrong.code, wrong.err.lines().count()), (Some(2), 1));
    assert!(wrong.err.contains("Did you mean push?"), "{}", wrong.err);
    let absent = house.dulk(&["when", "push:nowhere"]);
    assert_eq!(absent.code, Some(0));
    assert!(absent.err.contains("there is no branch nowhere here"), "{}", absent.err);
}

#[test]
fn ten_thousand_patterns_and_a_hostile_name_end_in_time() {
    let patterns: String = (0..10_000).map(|number| format!("      - '*a*a*a*a*a*b{number}'\n")).collect();
    let house = House::with_git(&[(SAIL, &workflow(&format!("on:\n  push:\n    branches:\n{patterns}"), "      - run: ls\n"))]);
    let name = format!("push:{}", "a".repeat(500));
    let ran = house.dulk(&["when", &name]);
    assert_eq!(ran.code, Some(0), "{}", ran.err);
    assert!(ran.out.contains("does not start"), "{}", ran.out);
}

#[test]
fn what_waits_for_a_person_and_what_is_refused_is_told_as_that() {
    let text = "build:\n  script: [make]\n  rules:\n    - if: $CI_COMMIT_TAG\npages:\n  stage: deploy\n  needs: [build]\n  script: [make public]\n  artifacts:\n    paths: [public]\n  rules:\n    - if: $CI_COMMIT_BRANCH == \"main\"\n    - if: $CI_COMMIT_TAG\n      when: manual\n";
    let house = House::with_git(&[(".gitlab-ci.yml", text)]);
    let refused = house.dulk(&["when", "push:main"]).out;
    assert!(refused.contains("does not start: the forge refuses it: `pages` needs `build`, which is not in it"), "{refused}");
    let waits = house.dulk(&["when", "tag:v1"]).out;
    assert!(waits.contains("pages runs by hand: someone who may run it"), "{waits}");
    assert!(waits.contains(".gitlab-ci.yml:14"), "{waits}");
    let grid = house.dulk(&["when"]).out;
    assert!(grid.contains("by hand"), "{grid}");
}

#[test]
fn a_called_pipeline_is_played_with_what_it_is_given() {
    let callee = "on:\n  workflow_call:\n    inputs:\n      live: {type: boolean, default: false}\njobs:\n  publish:\n    if: inputs.live\n    runs-on: ubuntu-latest\n    steps:\n      - run: ls\n";
    let caller = |given: &str| {
        format!("on: push\njobs:\n  go:\n    uses: ./.github/workflows/publish.yml\n    with:\n      live: {given}\n")
    };
    let house = House::with_git(&[(SAIL, &caller("true")), (".github/workflows/publish.yml", callee)]);
    assert!(house.dulk(&["when", "push:main"]).out.contains("publish runs"));
    house.write(SAIL, caller("false"));
    assert!(house.dulk(&["when", "push:main"]).out.contains("publish does not run: its condition is false"));
}
