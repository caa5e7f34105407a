//! The hook where the program is not where it was: one line, and the push goes on, unless strictness was asked for.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::symlink;

use assert_cmd::cargo::cargo_bin;

use crate::house::{HARMLESS, House};

fn house() -> House {
    House::with_git(&[(".github/workflows/sail.yml", HARMLESS), (".gitignore", "node_modules\n.yarn\n")])
}

/// Lets the hook name another program than that of these tests.
fn renamed(house: &House, to: &str) {
    let path = house.path().join(".git/hooks/pre-push");
    let text = fs::read_to_string(&path).expect("a hook");
    let program = cargo_bin!("dulk").display().to_string();
    assert!(text.contains(&program), "{text}");
    fs::write(&path, text.replace(&program, to)).expect("written");
}

/// Pushes a branch that stands where main does.
fn push_new(house: &House, branch: &str) -> (bool, String) {
    house.git(&["branch", "-f", branch]);
    house.push(&[branch])
}

fn lines_of_dulk(said: &str) -> Vec<&str> {
    said.lines().filter(|line| line.starts_with("dulk: ")).collect()
}

#[test]
fn a_program_that_is_gone_is_told_in_one_line_and_stops_nobody() {
    let house = house();
    house.guard_on(&[]);
    renamed(&house, "/nowhere/dulk");
    let (through, said) = house.push(&["main"]);
    assert!(through, "{said}");
    assert_eq!(lines_of_dulk(&said), ["dulk: /nowhere/dulk is not there any more; this push was not looked at, and goes on"]);
}

#[test]
fn the_status_tells_a_program_that_is_gone() {
    let house = house();
    house.guard_on(&["--strict"]);
    renamed(&house, "/nowhere/dulk");
    let status = house.dulk(&["guard", "status"]).out;
    assert!(status.contains("not there any more: /nowhere/dulk") && status.contains("cannot look at"), "{status}");
    house.guard_on(&[]);
    let status = house.dulk(&["guard", "status"]).out;
    assert!(!status.contains("not there any more") && !status.contains("cannot look at"), "{status}");
}

#[test]
fn a_program_that_fails_is_told_in_one_line_and_stops_nobody() {
    for status in ["2", "137"] {
        let house = house();
        house.guard_on(&[]);
        let broken = house.write_program("broken", format!("#!/bin/sh\ncat > /dev/null\nexit {status}\n"));
        renamed(&house, &broken.display().to_string());
        let (through, said) = house.push(&["main"]);
        assert!(through, "{said}");
        assert_eq!(lines_of_dulk(&said), [format!("dulk: it ended with {status}; this push was not looked at, and goes on")]);
    }
}

#[test]
fn who_asked_for_strictness_is_stopped_where_nothing_could_look() {
    let house = house();
    let said = house.guard_on(&["--strict"]);
    assert!(said.contains("cannot look at is stopped"), "{said}");
    assert!(house.push(&["main"]).0, "what can be looked at goes on");
    let hook = fs::read_to_string(house.path().join(".git/hooks/pre-push")).expect("a hook");
    let broken = house.write_program("broken", "#!/bin/sh\ncat > /dev/null\nexit 2\n");
    for (program, part) in
        [("/nowhere/dulk", "/nowhere/dulk is not there any more"), (&*broken.display().to_string(), "it ended with 2")]
    {
        house.write(".git/hooks/pre-push", &hook);
        renamed(&house, program);
        let (through, said) = push_new(&house, "winter");
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
        house.guard_on(&["--shared"]);
        let (through, said) = house.push(&["main"]);
        let missing =
            "dulk: it is not installed here, and an install of the packages brings it; this push was not looked at, and goes on";
        assert!(through, "{said}");
        assert_eq!(lines_of_dulk(&said), [missing]);
        installed(&house, at);
        let (through, said) = push_new(&house, "winter");
        assert!(through && said.contains("a push to winter"), "{at}: {said}");
    }
}

#[test]
fn what_a_repository_calls_installed_is_not_run_unasked() {
    let house = house();
    house.guard_on(&[]);
    renamed(&house, "/nowhere/dulk");
    installed(&house, "node_modules/@dulk/PLATFORM/dulk");
    installed(&house, "node_modules/.bin/dulk");
    assert!(house.push(&["main"]).1.contains("was not looked at"));
}
