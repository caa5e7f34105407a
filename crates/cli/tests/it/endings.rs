//! How it ends, whatever becomes of its output, and how what it says fits a screen.

use std::process::{Command, Stdio};

use assert_cmd::cargo::cargo_bin;

use crate::house::{House, TODAY, workflow};

const SAIL: &str = ".github/workflows/sail.yml";

fn faulty() -> House {
    House::with_git(&[(SAIL, &workflow("on:\n  push:\n    branches: [master]", "      - run: npx vite build\n"))])
}

/// Runs it with its output into something, and gives the status and standard error.
fn into(house: &House, out: impl Into<Stdio>, args: &[&str]) -> (Option<i32>, String) {
    let mut command = Command::new(cargo_bin!("dulk"));
    let output = command.args(args).current_dir(house.path()).stdout(out).stderr(Stdio::piped()).output().expect("dulk runs");
    (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
}

#[cfg(unix)]
#[test]
fn a_closed_pipe_takes_nothing_from_what_was_found() {
    let house = faulty();
    for (args, code) in [(["check"].as_slice(), 1), (&["check", "--format", "json"], 1), (&["facts"], 0), (&["--help"], 0)] {
        let (reading, writing) = std::io::pipe().expect("a pipe");
        drop(reading);
        assert_eq!(into(&house, writing, args), (Some(code), String::new()), "{args:?}");
    }
}

#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_is_told_whatever_should_be_written() {
    let house = faulty();
    for args in [["check"].as_slice(), &["--help"], &["check", "--help"], &["--version"], &["why"], &["completions", "bash"]] {
        let full = std::fs::OpenOptions::new().write(true).open("/dev/full").expect("a full disk");
        let (code, said) = into(&house, full, args);
        assert!(code == Some(2) && said.contains("cannot be written") && said.lines().count() == 1, "{args:?}: {code:?} {said}");
    }
}

#[test]
fn a_name_with_a_slip_is_never_a_clean_check() {
    let house = House::with_git(&[(SAIL, &workflow("on: push", "      - run: ls\n"))]);
    assert_eq!(house.dulk(&["check"]).code, Some(0));
    let ran = house.dulk(&["check", "--since", "mian"]);
    assert!(ran.code == Some(2) && ran.err.contains("mian is not in this repository"), "{}", ran.err);
}

#[test]
fn what_is_called_global_stands_before_a_command_too() {
    let house = faulty();
    assert_eq!(house.dulk(&["--color", "never", "check"]).code, Some(1));
    assert_eq!(house.dulk(&["--color", "never", "check"]).out, house.dulk(&["check", "--color", "never"]).out);
    assert_eq!(house.dulk(&["--today", TODAY, "when"]).code, Some(0));
    let ran = house.dulk(&["--format", "json", "when"]);
    assert!(ran.code == Some(2) && ran.err.contains("write dulk when --format"), "{}", ran.err);
    assert_eq!(house.dulk(&["--format", "json"]).json()["schema"], 1);
}

#[test]
fn a_rule_is_explained_whatever_stands_in_dulk_toml() {
    let house = faulty();
    house.write("dulk.toml", "[rules\n");
    let ran = house.dulk(&["why", "branch.absent"]);
    assert!(ran.code == Some(0) && ran.out.contains("wrong") && ran.err.contains("dulk.toml:1"), "{}{}", ran.out, ran.err);
    assert_eq!(house.dulk(&["check"]).code, Some(2));
    house.write("dulk.toml", "[files]\nskip = [\n  \"old/**\",\n  \"[a\",\n]\n");
    let ran = house.dulk(&["check"]);
    assert!(ran.code == Some(2) && ran.err.contains("dulk.toml:4") && ran.err.contains("[a is no pattern"), "{}", ran.err);
}

#[test]
fn what_was_looked_for_names_every_format() {
    let ran = House::new(&[]).dulk(&[]);
    let words = [".github/workflows", ".gitlab-ci.yml", ".travis.yml", "buildspec.yml", "amplify.yml", "cloudbuild.yaml"];
    for word in words.iter().chain(&["Jenkinsfile", "buddy.yml", "pipeline definition"]) {
        assert!(ran.out.contains(word), "{word}: {}", ran.out);
    }
}

#[test]
fn no_line_is_wider_than_the_screen() {
    let long = "a-name-that-somebody-made-far-too-long-for-any-screen-on-any-of-the-ferries-and-piers-of-the-island";
    let text = format!(
        "on:\n  push:\n    branches: [{long}, 船の時刻表と桟橋の船の時刻表と桟橋の船の時刻表と桟橋の船の時刻表]\njobs:\n  {long}:\n    runs_on: \
         ubuntu-latest\n    steps:\n      - uses: actions/checkout@v2\n      - run: npx vite build --base=/{long}/ && npm run {long}\n"
    );
    let house = House::with_git(&[(&format!(".github/workflows/{long}.yml"), &text), ("package.json", "{}")]);
    house.dulk(&["demo", "--keep", "demo"]);
    for dir in ["", "demo/faulty", "demo/faulty_gitlab", "demo/other_formats"] {
        for args in [["check"].as_slice(), &["when"], &["when", "push:main"], &["trail"], &["facts"], &["why"], &["demo"]] {
            for columns in [60_usize, 80, 120] {
                let mut command = Command::new(cargo_bin!("dulk"));
                let command = command.args(args).args(["--today", TODAY]).env("COLUMNS", columns.to_string());
                let output = command.current_dir(house.path().join(dir)).output().expect("dulk runs");
                let out = String::from_utf8(output.stdout).expect("UTF-8");
                let wide = out.lines().find(|line| unicode_width::UnicodeWidthStr::width(*line) > columns);
                assert_eq!(wide, None, "{dir} {args:?} {columns}");
            }
        }
    }
}

#[test]
fn addresses_are_escaped_and_what_nobody_sees_is_shown() {
    let name = ".github/workflows/été : 50%[a]?#.yml";
    let house = House::with_git(&[(name, "on: push\njobs:\n  plan:\n    runs-on: x\n    steps: [{ru\u{200b}n: ls}]\n")]);
    let ran = house.dulk(&["check", "--format", "sarif"]).json();
    let uri = ran["runs"][0]["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"].clone();
    assert_eq!(uri, ".github/workflows/%C3%A9t%C3%A9%20%3A%2050%25%5Ba%5D%3F%23.yml");
    let shown = house.dulk(&["check"]).out;
    assert!(shown.contains("ru<200B>n") && !shown.contains('\u{200b}'), "{shown}");
}
