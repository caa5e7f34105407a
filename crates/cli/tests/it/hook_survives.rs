//! The hook where the program is not where it was: one line, and the push goes on, unless strictness was asked for.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::path::Path;

use assert_cmd::cargo::cargo_bin;

use crate::house::{House, git};

const PIPELINE: &str =
    "on: push\npermissions: {contents: read}\njobs:\n  plan:\n    runs-on: ubuntu-latest\n    steps: [{run: ls}]\n";

fn house() -> House {
    House::with_git(&[(".github/workflows/sail.yml", PIPELINE), (".gitignore", "node_modules\n.yarn\n")])
}

fn runnable(path: &Path) {
    fs::set_permissions(path, fs::Permissions::from_mode(0o755)).expect("a mode");
}

fn on(house: &House, args: &[&str]) -> String {
    let ran = house.dulk(&[&["guard", "on"], args].concat());
    assert_eq!(ran.code, Some(0), "{}{}", ran.out, ran.err);
    ran.out
}

/// Lets the hook name another program than that of these tests.
fn renamed(house: &House, to: &str) {
    let path = house.path().join(".git/hooks/pre-push");
    let text = fs::read_to_string(&path).expect("a hook");
    let program = cargo_bin!("dulk").display().to_string();
    assert!(text.contains(&program), "{text}");
    fs::write(&path, text.replace(&program, to)).expect("written");
}

/// Pushes a new branch, with nothing on the path but git and what belongs to every system; gives whether it went through, and what was said.
fn push(house: &House, branch: &str) -> (bool, String) {
    let far = house.path().join(".git/far");
    if !far.exists() {
        house.git(&["init", "-q", "--bare", "-b", "main", &far.display().to_string()]);
    }
    if branch != "main" {
        house.git(&["branch", "-f", branch]);
    }
    let path = "/usr/local/bin:/usr/bin:/bin";
    let ran = git().arg("push").arg(&far).arg(branch).current_dir(house.path()).env("PATH", path).output().expect("git runs");
    (ran.status.success(), String::from_utf8_lossy(&ran.stdout).into_owned() + &String::from_utf8_lossy(&ran.stderr))
}

fn lines_of_dulk(said: &str) -> Vec<&str> {
    said.lines().filter(|line| line.starts_with("dulk: ")).collect()
}

#[test]
fn a_program_that_is_gone_is_told_in_one_line_and_stops_nobody() {
    let house = house();
    on(&house, &[]);
    renamed(&house, "/nowhere/dulk");
    let (through, said) = push(&house, "main");
    assert!(through, "{said}");
    assert_eq!(lines_of_dulk(&said), ["dulk: /nowhere/dulk is not there any more; this push was not looked at, and goes on"]);
}

#[test]
fn the_status_tells_a_program_that_is_gone() {
    let house = house();
    on(&house, &["--strict"]);
    renamed(&house, "/nowhere/dulk");
    let status = house.dulk(&["guard", "status"]).out;
    assert!(status.contains("not there any more: /nowhere/dulk") && status.contains("cannot look at"), "{status}");
    let status = {
        on(&house, &[]);
        house.dulk(&["guard", "status"]).out
    };
    assert!(!status.contains("not there any more") && !status.contains("cannot look at"), "{status}");
}

#[test]
fn a_program_that_fails_is_told_in_one_line_and_stops_nobody() {
    for status in ["2", "137"] {
        let house = house();
        on(&house, &[]);
        let broken = house.write("broken", format!("#!/bin/sh\ncat > /dev/null\nexit {status}\n"));
        runnable(&broken);
        renamed(&house, &broken.display().to_string());
        let (through, said) = push(&house, "main");
        assert!(through, "{said}");
        assert_eq!(lines_of_dulk(&said), [format!("dulk: it ended with {status}; this push was not looked at, and goes on")]);
    }
}

#[test]
fn who_asked_for_strictness_is_stopped_where_nothing_could_look() {
    let house = house();
    let said = on(&house, &["--strict"]);
    assert!(said.contains("cannot look at is stopped"), "{said}");
    assert!(push(&house, "main").0, "what can be looked at goes on");
    let hook = fs::read_to_string(house.path().join(".git/hooks/pre-push")).expect("a hook");
    let broken = house.write("broken", "#!/bin/sh\ncat > /dev/null\nexit 2\n");
    runnable(&broken);
    for (program, part) in
        [("/nowhere/dulk", "/nowhere/dulk is not there any more"), (&*broken.display().to_string(), "it ended with 2")]
    {
        house.write(".git/hooks/pre-push", &hook);
        renamed(&house, program);
        let (through, said) = push(&house, "winter");
        assert!(!through, "{said}");
        let lines = lines_of_dulk(&said);
        assert!(lines.len() == 1 && lines[0].contains(part) && lines[0].contains("git push --no-verify"), "{said}");
    }
}

/// The program of these tests, as a package manager lays it out in a folder.
fn installed(house: &House, at: &str) {
    let platform = if cfg!(target_os = "macos") { "darwin" } else { "linux" };
    let cpu = if cfg!(target_arch = "aarch64") { "arm64" } else { "x64" };
    let path = house.path().join(at.replace("PLATFORM", &format!("{platform}-{cpu}")));
    fs::create_dir_all(path.parent().expect("a folder")).expect("a folder");
    symlink(cargo_bin!("dulk"), path).expect("a link");
}

#[test]
fn a_hook_that_is_everybodys_finds_what_their_package_manager_installed() {
    for at in [
        "node_modules/@dulk/PLATFORM/dulk",
        "node_modules/.pnpm/@dulk+PLATFORM@9.9.9/node_modules/@dulk/PLATFORM/dulk",
        ".yarn/unplugged/@dulk-PLATFORM-npm-9.9.9-0123456789/node_modules/@dulk/PLATFORM/dulk",
        "node_modules/.bin/dulk",
    ] {
        let house = house();
        house.git(&["config", "core.hooksPath", "tools/hooks"]);
        on(&house, &["--shared"]);
        let (through, said) = push(&house, "main");
        let missing =
            "dulk: it is not installed here, and an install of the packages brings it; this push was not looked at, and goes on";
        assert!(through, "{said}");
        assert_eq!(lines_of_dulk(&said), [missing]);
        installed(&house, at);
        let (through, said) = push(&house, "winter");
        assert!(through && said.contains("a push to winter"), "{at}: {said}");
    }
}

#[test]
fn what_a_repository_calls_installed_is_not_run_unasked() {
    let house = house();
    on(&house, &[]);
    renamed(&house, "/nowhere/dulk");
    installed(&house, "node_modules/@dulk/PLATFORM/dulk");
    installed(&house, "node_modules/.bin/dulk");
    assert!(push(&house, "main").1.contains("was not looked at"));
}
