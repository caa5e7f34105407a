//! Input that was made to cost time and memory, or to show what lies outside the repository.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;

use crate::house::{House, workflow};

const PIPELINE: &str = ".github/workflows/site.yml";
const GITLAB: &str = ".gitlab-ci.yml";

fn repeated(count: usize, one: impl Fn(usize) -> String) -> String {
    (0..count).map(one).collect()
}

fn pipe(path: &Path) {
    let _ = fs::remove_file(path);
    assert!(Command::new("mkfifo").arg(path).status().expect("mkfifo runs").success());
}

#[test]
fn a_few_lines_that_stand_for_many_cost_no_more_than_they_are() {
    let extends = |times: usize| {
        let step = |level: usize| {
            let parents = vec![format!(".a{level}"); times].join(", ");
            format!(".a{}:\n  extends: [{parents}]\n", level + 1)
        };
        format!(".a0:\n  script: [echo ready]\n{}build:\n  extends: .a10\n", repeated(10, step))
    };
    let empty = |level: usize| format!(".a{}:\n  x:\n{}", level + 1, format!("    - !reference [.a{level}, x]\n").repeat(9));
    let references = format!(".a0:\n  x: []\n{}build:\n  script:\n    - !reference [.a10, x]\n    - echo\n", repeated(10, empty));
    for text in [extends(5), extends(9), references] {
        let ran = House::new(&[(GITLAB, &text)]).dulk_capped(&["check"]);
        assert!(matches!(ran.code, Some(0 | 1)), "{:?} {}", ran.code, ran.err);
    }
}

#[test]
fn what_copies_too_much_is_told_in_a_line() {
    let lines = repeated(1_000, |line| format!("  - echo {line}\n"));
    let jobs = |body: &str| repeated(1_000, |job| format!("j{job}:\n  {body}\n"));
    let steps = repeated(1_000, |line| format!("      - run: echo {line}\n"));
    let more = repeated(1_000, |job| format!("  j{job}:\n    runs-on: ubuntu-latest\n    steps: *s\n"));
    let included = repeated(1_000, |job| format!("    - name: j{job}\n"));
    for (path, text) in [
        (PIPELINE, format!("on: push\njobs:\n  first:\n    runs-on: ubuntu-latest\n    steps: &s\n{steps}{more}")),
        (GITLAB, format!(".s: &s\n{lines}{}", jobs("script: *s"))),
        (GITLAB, format!(".s:\n  script:\n  {}\n{}", lines.replace("\n  ", "\n    "), jobs("extends: .s"))),
        (GITLAB, format!("default:\n  before_script:\n  {}\n{}", lines.replace("\n  ", "\n    "), jobs("script: [echo]"))),
        (".travis.yml", format!("language: node_js\nscript:\n{lines}jobs:\n  include:\n{included}")),
    ] {
        let house = House::new(&[
            (path, &text),
            (".github/workflows/good.yml", &workflow("on: push", "      - uses: ferry/plan@main\n")),
        ]);
        let ran = house.dulk_capped(&["check"]);
        assert_eq!(ran.out.matches("form.too-large").count(), 1, "{path} {:?}: {}{}", ran.code, ran.out, ran.err);
        assert!(ran.out.contains("upkeep.moving"), "{path}: the other file is checked all the same");
    }
}

#[test]
fn who_holds_more_than_is_looked_at_is_told_in_a_line() {
    let job = |job: usize| format!("  j{job}:\n    runs-on: ubuntu-latest\n    steps: [{{run: ls}}]\n");
    let rule = |number: usize| format!("    - if: $CI_COMMIT_BRANCH == \"pier{number}\"\n");
    let stage = |stage: usize| format!("    stage('s{stage}') {{ steps {{ sh 'ls'; sh 'ls'; sh 'ls' }} }}\n");
    let variable = |number: usize| format!("  TIDE_{number}: ebb\n");
    for (path, text, line, what) in [
        (PIPELINE, format!("on: push\njobs:\n{}", repeated(10_002, job)), 30_003, "10002 jobs"),
        (GITLAB, format!("a:\n  script: [ls]\n  rules:\n{}", repeated(1_001, rule)), 1_004, "1001 rules for one decision"),
        (GITLAB, format!("variables:\n{}a:\n  script: [ls]\n", repeated(5_001, variable)), 5_002, "5001 variables in one place"),
        (
            "Jenkinsfile",
            format!("pipeline {{\n  agent any\n  stages {{\n{}  }}\n}}\n", repeated(9_000, stage)),
            8_337,
            "27000 steps",
        ),
    ] {
        let house = House::new(&[
            (path, &text),
            (".github/workflows/good.yml", &workflow("on: push", "      - uses: ferry/plan@main\n")),
        ]);
        let ran = house.dulk_capped(&["check", "--format", "json"]);
        let findings = ran.json()["findings"].as_array().cloned().unwrap_or_default();
        let [large]: [_; 1] =
            findings.iter().filter(|one| one["file"] == path).cloned().collect::<Vec<_>>().try_into().expect(what);
        assert_eq!((&large["rule"], &large["range"]["start"]["line"]), (&"form.too-large".into(), &1.into()), "{what}");
        let witness = &large["witnesses"][0];
        let told = witness.to_string();
        assert!(told.contains(&format!("it has {what}, and ")), "{told}");
        assert_eq!(witness["range"]["start"]["line"], line, "{told}");
        assert!(findings.iter().any(|one| one["rule"] == "upkeep.moving"), "the other file is checked all the same");
    }
}

#[test]
fn all_files_together_copy_no_more_than_fits() {
    let steps = repeated(20, |line| format!("      - run: echo {line}\n"));
    let jobs = repeated(300, |job| format!("  j{job}:\n    runs-on: ubuntu-latest\n    steps: *s\n"));
    let text = format!("on: push\njobs:\n  first:\n    runs-on: ubuntu-latest\n    steps: &s\n{steps}{jobs}");
    let house = House::new(&[]);
    for number in 10..40 {
        house.write(&format!(".github/workflows/w{number}.yml"), &text);
    }
    let ran = house.dulk_capped(&["check", "--format", "json"]);
    let large: Vec<String> = ran.json()["findings"]
        .as_array()
        .into_iter()
        .flatten()
        .filter(|finding| finding["rule"] == "form.too-large")
        .map(|finding| finding["file"].as_str().unwrap_or_default().to_owned())
        .collect();
    assert!(large.len() > 10 && large.len() < 29, "{large:?}");
    assert!(large.iter().all(|path| path.as_str() > ".github/workflows/w11.yml"), "the last are left out: {large:?}");
}

#[test]
fn scripts_are_not_parsed_deeper_than_people_write() {
    let pipeline = workflow("on: push", "      - uses: actions/checkout@v4\n      - run: npx vite build\n");
    for (name, text) in [
        ("vite.config.js", format!("export default {}1", "(a=".repeat(8_000))),
        ("vite.config.ts", format!("export default {}", "f<".repeat(8_000))),
        ("vite.config.ts", format!("export default {}a", "a?(b):c=>".repeat(8_000))),
        ("angular.json", format!("// {{}}\n{}", "[".repeat(60_000))),
    ] {
        let package = r#"{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7.1.0"}}"#;
        let ran = House::new(&[(PIPELINE, &pipeline), ("package.json", package), (name, &text)]).dulk_capped(&["check"]);
        assert!(matches!(ran.code, Some(0 | 1)), "{name} {:?} {}", ran.code, ran.err);
    }
}

#[test]
fn a_script_that_many_jobs_run_is_followed_on_a_budget() {
    let jobs = repeated(150, |job| {
        format!("  j{job}:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v4\n      - run: make all\n")
    });
    let house = House::new(&[
        (PIPELINE, &format!("on: push\njobs:\n{jobs}")),
        ("Makefile", &format!("all:\n{}", "\tcp pier sail\n".repeat(3_000))),
    ]);
    let ran = house.dulk_capped(&["check"]);
    assert!(matches!(ran.code, Some(0 | 1)), "{:?} {}", ran.code, ran.err);
}

#[test]
fn a_long_condition_is_read_on_any_thread() {
    let terms = vec!["$TIDE"; 30_000].join(" || ");
    let house = House::new(&[(GITLAB, &format!("build:\n  script: [echo]\n  rules:\n    - if: {terms}\n"))]);
    for number in 0..20 {
        house.write(&format!(".github/workflows/w{number}.yml"), workflow("on: push", "      - run: echo\n"));
    }
    let ran = house.dulk_capped(&["check"]);
    assert_eq!(ran.code, Some(0), "{}{}", ran.out, ran.err);
}

#[test]
fn nothing_outside_the_repository_is_read() {
    let outside = tempfile::tempdir().expect("a folder");
    let job = "far_job:\n  script: [echo]\n  skript: [echo]\n";
    fs::write(outside.path().join("far.yml"), job).expect("a file");
    fs::create_dir_all(outside.path().join("workflows")).expect("a folder");
    fs::write(outside.path().join("workflows/far.yml"), "on: push\nfar_job: {}\n").expect("a file");
    let away = outside.path().to_string_lossy().into_owned();
    for text in
        ["include: ../far.yml\n", "include: {local: ../../far.yml}\n", "include: '../**/*.yml'\n", "include: '../../**/*.yml'\n"]
    {
        let house = House::new(&[
            ("in/.gitlab-ci.yml", &format!("{text}build:\n  script: [echo]\n")),
            ("far.yml", job),
            ("in/dulk.toml", ""),
        ]);
        let ran = house.dulk_in("in", &["check"]);
        assert!(!ran.out.contains("far_job") && !ran.out.contains("skript"), "{text}: {}", ran.out);
    }
    for (link, to) in [(".github", away.clone()), (".github/workflows", format!("{away}/workflows"))] {
        let house = House::new(&[("dulk.toml", "")]);
        let link = house.path().join(link);
        fs::create_dir_all(link.parent().expect("a folder")).expect("a folder");
        symlink(&to, &link).expect("a link");
        let ran = house.dulk(&["check"]);
        assert_eq!(ran.code, Some(1), "{}", ran.out);
        assert!(ran.out.contains("leads out of the") && !ran.out.contains("far"), "{}", ran.out);
    }
    // A folder on the way to a companion.
    fs::write(outside.path().join("package.json"), r#"{"scripts": {"bild": "far"}}"#).expect("a file");
    let steps = "      - uses: actions/checkout@v4\n      - run: npm run build\n        working-directory: web\n";
    let house = House::with_git(&[(PIPELINE, &workflow("on: push", steps))]);
    symlink(&away, house.path().join("web")).expect("a link");
    let ran = house.dulk(&["check"]);
    assert!(!ran.out.contains("bild"), "{}", ran.out);
    // git's own settings may hold a credential.
    let house = House::with_git(&[("dulk.toml", "")]);
    fs::create_dir_all(house.path().join(".github/workflows")).expect("a folder");
    symlink("../../.git/config", house.path().join(PIPELINE)).expect("a link");
    let ran = house.dulk(&["check"]);
    assert!(ran.out.contains("git's own files") && !ran.out.contains("repositoryformatversion"), "{}", ran.out);
}

#[test]
fn pipes_and_devices_are_never_waited_for() {
    let steps = workflow("on: push", "      - uses: ferry/plan@main\n");
    for name in [
        ".gitignore",
        ".ignore",
        ".git/HEAD",
        ".git/config",
        ".git/packed-refs",
        ".git/index",
        ".git/info/exclude",
        ".git/shallow",
        ".git/objects/info/alternates",
        ".git/refs/heads/tide",
        "package.json",
        "web/.gitignore",
    ] {
        for device in [false, true] {
            let house = House::with_git(&[(PIPELINE, &steps), ("web/index.html", "")]);
            let path = house.path().join(name);
            if device {
                let _ = fs::remove_file(&path);
                symlink("/dev/zero", &path).expect("a link");
            } else {
                pipe(&path);
            }
            let ran = house.dulk_capped(&["check"]);
            assert!(ran.out.contains("upkeep.moving"), "{name}: {:?} {}{}", ran.code, ran.out, ran.err);
            let ran = house.dulk_capped(&["facts"]);
            assert!(ran.code.is_some_and(|code| code < 3), "{name}: {:?}", ran.code);
        }
    }
}

#[test]
fn very_many_stages_that_share_a_workspace_fit_into_memory() {
    let stage = |number: usize| {
        let steps = format!("sh 'npx vite build'\nstash name: 'd{number}', includes: 'dist/**'\nunstash 'd{number}'");
        format!("    stage('s{number}') {{ steps {{ {steps} }} }}\n")
    };
    let stages: String = (0..4_000).map(stage).collect();
    let house = House::with_git(&[("Jenkinsfile", &format!("pipeline {{\n  agent any\n  stages {{\n{stages}  }}\n}}\n"))]);
    let ran = house.dulk_capped(&["check"]);
    assert!(ran.code.is_some_and(|code| code < 2) && ran.out.contains("Jenkinsfile"), "{:?} {}", ran.code, ran.err);
}
