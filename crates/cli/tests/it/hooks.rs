//! The guard beside other hooks: nobody's is lost, switched off or taken unasked.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;

use crate::house::{HARMLESS, House, git};

const SAIL: &str = ".github/workflows/sail.yml";
/// Tells who ran, under which name, with which lines.
const TELLS: &str = "printf '%s %s %s\\n' \"$(basename \"$0\")\" \"$1\" \"$(cut -d' ' -f1,3 | tr '\\n' ',')\" >> told\n";

fn house() -> House {
    House::with_git(&[(SAIL, HARMLESS), (".gitignore", "told\nlog\n")])
}

fn told(house: &House) -> String {
    let text = fs::read_to_string(house.path().join("told")).unwrap_or_default();
    let _ = fs::remove_file(house.path().join("told"));
    text.replace(&format!("{} ", house.path().join(".git/far").display()), "")
}

#[test]
fn a_hook_that_looks_at_its_own_name_and_folder_runs_as_before() {
    let house = house();
    house.write_program(".git/hooks/beside", "who=beside\n");
    let text = format!("#!/bin/sh -e\n. \"$(dirname \"$0\")/beside\"\n[ \"$who\" = beside ]\n{TELLS}");
    house.write_program(".git/hooks/pre-push", &text);
    house.guard_on(&[]);
    let (through, said) = house.push(&["main"]);
    assert!(through && said.contains("dulk guard"), "{said}");
    assert_eq!(told(&house), "pre-push refs/heads/main,refs/heads/main,\n".replace(",refs", " refs"));
    // What is there already is no line for anybody.
    let (through, said) = house.push(&["main"]);
    assert!(through && !said.contains("dulk"), "{said}");
    assert_eq!(told(&house), "pre-push \n");
    // A hook that refuses still does, and it is said whose word that is.
    house.write_program(".git/hooks/before-dulk/pre-push", "#!/usr/bin/env bash\nexit 3\n");
    house.git(&["branch", "winter"]);
    let (through, said) = house.push(&["winter"]);
    assert!(!through && said.contains("before ended with 3") && said.contains("--no-verify"), "{said}");
}

#[test]
fn a_hook_of_another_language_and_one_behind_a_link_are_kept_too() {
    let house = house();
    house.write_program(
        "tools/plan",
        "#!/usr/bin/env perl\nopen(F, '>', 'told'); local $/; my $said = <STDIN>; print F substr($0, -8), length($said);\n",
    );
    symlink("../../tools/plan", house.path().join(".git/hooks/pre-push")).expect("a link");
    house.guard_on(&[]);
    let (through, said) = house.push(&["main"]);
    assert!(through, "{said}");
    assert!(told(&house).starts_with("pre-push1"), "{said}");
    assert_eq!(house.dulk(&["guard", "off"]).code, Some(0));
    assert_eq!(fs::read_link(house.path().join(".git/hooks/pre-push")).expect("a link"), Path::new("../../tools/plan"));
    assert!(!house.path().join(".git/hooks/before-dulk").exists());
}

/// A manager of hooks as people have them: it writes a folder again at each install, and calls people's scripts beside it.
fn managed(house: &House) {
    house.write_program(
        ".husky/_/h",
        "n=$(basename \"$0\")\ns=$(dirname \"$(dirname \"$0\")\")/$n\n[ ! -f \"$s\" ] && exit 0\nsh -e \"$s\" \"$@\"\n",
    );
    install(house);
    house.write(".husky/_/.gitignore", "*");
    house.git(&["config", "core.hooksPath", ".husky/_"]);
}

fn install(house: &House) {
    house.write_program(".husky/_/pre-push", "#!/usr/bin/env sh\n. \"$(dirname \"$0\")/h\"\n");
}

#[test]
fn beside_a_manager_that_writes_its_hooks_again_the_guard_stays() {
    let house = house();
    managed(&house);
    let said = house.guard_on(&[]);
    assert!(said.contains(".husky/pre-push"), "{said}");
    assert!(house.push(&["main"]).1.contains("dulk guard"));
    install(&house);
    house.git(&["branch", "winter"]);
    assert!(house.push(&["winter"]).1.contains("a push to winter"));
    // It is this clone's, and no commit takes it along.
    house.git(&["add", "-A"]);
    let staged = git().args(["diff", "--cached", "--name-only"]).current_dir(house.path()).output().expect("git runs");
    assert!(!String::from_utf8_lossy(&staged.stdout).contains("pre-push"));
    house.dulk(&["guard", "off"]);
    assert!(!house.path().join(".husky/pre-push").exists());
    assert!(!fs::read_to_string(house.path().join(".git/info/exclude")).expect("a list").contains("dulk"));
}

#[test]
fn a_tracked_hook_is_taken_only_when_asked_and_works_for_everybody() {
    let house = house();
    managed(&house);
    house.write_program(".husky/pre-push", TELLS);
    house.git(&["add", "-f", ".husky/pre-push"]);
    let ran = house.dulk(&["guard", "on"]);
    assert!(ran.code == Some(2) && ran.err.contains("git tracks") && ran.err.contains("--shared"), "{}", ran.err);
    house.guard_on(&["--shared"]);
    let text = fs::read_to_string(house.path().join(".husky/pre-push")).expect("a hook");
    assert!(text.ends_with(TELLS) && !text.contains("target/"), "{text}");
    // Nobody has it here: one line, and both go on.
    let (through, said) = house.push(&["main"]);
    assert!(through && said.matches("dulk").count() == 1 && said.contains("not installed here"), "{said}");
    assert!(told(&house).contains("refs/heads/main refs/heads/main"));
    house.dulk(&["guard", "off"]);
    assert_eq!(fs::read_to_string(house.path().join(".husky/pre-push")).expect("a hook"), TELLS);
}

#[test]
fn a_folder_of_hooks_for_all_repositories_is_taken_only_when_asked() {
    let house = house();
    let beside = tempfile::tempdir().expect("a temporary folder");
    house.git(&["config", "core.hooksPath", &beside.path().display().to_string()]);
    let ran = house.dulk(&["guard", "on"]);
    assert!(ran.code == Some(2) && ran.err.contains("more repositories"), "{}", ran.err);
    assert!(!beside.path().join("pre-push").exists());
    house.guard_on(&["--shared"]);
    assert!(house.push(&["main"]).1.contains("dulk guard"));
}

#[test]
fn a_manager_that_moves_ours_aside_neither_loses_a_hook_nor_runs_in_a_circle() {
    let house = house();
    let manager = format!(
        "#!/bin/sh\n# Made by a manager of hooks\n# Number 1\n[ -z \"$OLD\" ] || {{ echo in a circle; exit 1; }}\nlines=$(cat)\nprintf '%s\\n' \"$lines\" | {{ {TELLS} }}\n\
         old=$(cd \"$(dirname \"$0\")\" && pwd)/pre-push.legacy\n[ ! -x \"$old\" ] || printf '%s\\n' \"$lines\" | OLD=yes \"$old\" \"$@\"\n"
    );
    house.write_program(".git/hooks/pre-push", &manager);
    house.guard_on(&[]);
    // Its next install takes ours for a hook of the user's, and runs it after its own.
    fs::rename(house.path().join(".git/hooks/pre-push"), house.path().join(".git/hooks/pre-push.legacy")).expect("moved");
    house.write_program(".git/hooks/pre-push", &manager);
    assert!(house.dulk(&["guard", "status"]).out.contains("pre-push.legacy"));
    let (through, said) = house.push(&["main"]);
    assert!(through && said.matches("a push to main").count() == 1, "{said}");
    assert_eq!(told(&house).lines().count(), 1);
    house.guard_on(&[]);
    house.git(&["branch", "winter"]);
    let (through, said) = house.push(&["winter"]);
    assert!(through && said.matches("a push to winter").count() == 1, "{said}");
    assert_eq!(told(&house).lines().count(), 1);
    assert_eq!(house.dulk(&["guard", "off"]).code, Some(0));
    assert_eq!(fs::read_to_string(house.path().join(".git/hooks/pre-push")).expect("a hook"), manager);
}

#[test]
fn off_keeps_what_people_added_and_the_hook_that_was_there() {
    let house = house();
    house.write_program(".git/hooks/pre-push", format!("#!/bin/sh\n{TELLS}"));
    house.guard_on(&[]);
    let path = house.path().join(".git/hooks/pre-push");
    let text = fs::read_to_string(&path).expect("a hook") + "echo added: $(cut -d' ' -f1) >> told\n";
    fs::write(&path, text).expect("written");
    assert!(house.push(&["main"]).0);
    assert_eq!(told(&house), "pre-push refs/heads/main refs/heads/main,\nadded: refs/heads/main\n");
    assert!(house.dulk(&["guard", "off"]).out.contains("is off"));
    house.git(&["branch", "winter"]);
    let (through, said) = house.push(&["winter"]);
    assert!(through && !said.contains("dulk guard"), "{said}");
    assert_eq!(told(&house), "pre-push refs/heads/winter refs/heads/winter,\nadded: refs/heads/winter\n");
    house.guard_on(&[]);
    house.git(&["branch", "spring"]);
    assert!(house.push(&["spring"]).1.contains("dulk guard"));
    assert_eq!(told(&house).lines().count(), 2);
}

#[test]
fn a_hook_that_is_kept_twice_in_one_run_is_not_lost() {
    let house = house();
    house.write_program(".git/hooks/pre-push", "#!/bin/sh\nexit 0\n");
    // Ended after the second name was given, and before ours took the first.
    fs::create_dir(house.path().join(".git/hooks/before-dulk")).expect("a folder");
    fs::hard_link(house.path().join(".git/hooks/pre-push"), house.path().join(".git/hooks/before-dulk/pre-push"))
        .expect("a link");
    house.guard_on(&[]);
    assert!(!house.path().join(".git/hooks/before-dulk-2").exists());
    house.dulk(&["guard", "off"]);
    assert_eq!(fs::read_to_string(house.path().join(".git/hooks/pre-push")).expect("a hook"), "#!/bin/sh\nexit 0\n");
}

#[test]
fn a_script_of_peoples_that_is_not_tracked_yet_stays_theirs() {
    let house = house();
    house.git(&["config", "core.hooksPath", "tools/hooks"]);
    house.write_program("tools/hooks/pre-push", format!("#!/bin/sh\n{TELLS}"));
    house.guard_on(&[]);
    let path = house.path().join("tools/hooks/pre-push");
    let text = fs::read_to_string(&path).expect("a hook");
    assert!(text.ends_with(TELLS), "{text}");
    assert!(!house.path().join("tools/hooks/before-dulk").exists());
    let (through, said) = house.push(&["main"]);
    assert!(through && said.contains("a push to main"), "{said}");
    assert!(told(&house).contains("pre-push"));
    // What everybody gets does not say where this machine has the program.
    assert_eq!(house.dulk(&["guard", "on", "--shared"]).code, Some(0));
    assert!(!fs::read_to_string(&path).expect("a hook").contains("/debug/"));
    house.git(&["add", "-A"]);
    let staged = git().args(["diff", "--cached", "--name-only"]).current_dir(house.path()).output().expect("git runs");
    assert!(String::from_utf8_lossy(&staged.stdout).contains("pre-push"));
    house.dulk(&["guard", "off"]);
    assert_eq!(fs::read_to_string(&path).expect("a hook"), format!("#!/bin/sh\n{TELLS}"));
}

#[test]
fn a_script_that_is_none_of_a_shell_is_not_written_into() {
    let house = house();
    house.write_program("hooks/pre-push", "#!/usr/bin/env python3\nprint(1)\n");
    house.git(&["add", "-A"]);
    house.git(&["config", "core.hooksPath", "hooks"]);
    let ran = house.dulk(&["guard", "on", "--shared"]);
    assert!(ran.code == Some(2) && ran.err.contains("no script of a shell") && ran.err.contains("guard check"), "{}", ran.err);
    assert!(fs::read_to_string(house.path().join("hooks/pre-push")).expect("a hook").starts_with("#!/usr/bin/env python3"));
}

#[test]
fn a_hook_that_runs_the_look_itself_is_left_as_it_is() {
    let house = house();
    let text = format!(
        "#!/bin/sh\n# dulk guard check, since the winter\n'{}' guard check \"$@\"\n",
        assert_cmd::cargo::cargo_bin!("dulk").display()
    );
    house.write_program(".git/hooks/pre-push", &text);
    for args in [&["guard", "on"][..], &["guard", "status"]] {
        let ran = house.dulk(args);
        assert!(ran.code == Some(0) && ran.out.contains("every push is looked at"), "{}{}", ran.out, ran.err);
    }
    assert_eq!(fs::read_to_string(house.path().join(".git/hooks/pre-push")).expect("a hook"), text);
    assert!(house.push(&["main"]).1.contains("dulk guard a push to main"));
    // What only speaks of it does not run it.
    house.write_program(".git/hooks/pre-push", "#!/bin/sh\n# dulk guard check was here\n");
    assert!(house.dulk(&["guard", "status"]).out.contains("The guard is off"));
}
