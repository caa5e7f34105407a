//! The hook with real git, and a bare repository beside it.

use std::fs;
use std::process::{Command, Stdio};

use crate::house::{self, House, Ran, git};

const SAIL: &str = ".github/workflows/sail.yml";

fn pipeline(branch: &str) -> String {
    format!(
        "on:\n  push:\n    branches: [{branch}]\n    paths: ['src/**', .github/**]\npermissions: {{contents: write}}\njobs:\n  publish:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v5\n      - run: npx vite build\n      - run: npx gh-pages -d dist -r $ADDRESS\n"
    )
}

/// A repository with the guard on, and the one it is pushed to.
fn harbour(branch: &str) -> (House, tempfile::TempDir) {
    let house = House::with_git(&[(SAIL, &pipeline(branch)), ("src/a.css", ""), ("README.md", "")]);
    let far = tempfile::tempdir().expect("a temporary folder");
    let bare = git().args(["init", "-q", "--bare", "-b", "main"]).current_dir(far.path()).output().expect("git runs");
    assert!(bare.status.success());
    house.git(&["remote", "add", "origin", &far.path().display().to_string()]);
    let on = house.dulk(&["guard", "on"]);
    assert_eq!(on.code, Some(0), "{}", on.err);
    (house, far)
}

fn push(house: &House, args: &[&str]) -> Ran {
    let output = git().arg("push").args(args).current_dir(house.path()).output().expect("git runs");
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    Ran { code: output.status.code(), out: text(&output.stdout), err: text(&output.stderr) }
}

fn said(ran: &Ran) -> String {
    format!("{}{}", ran.out, ran.err)
}

/// Hands lines to what the hook runs; gives how it ended, and what it said.
fn feed(house: &House, text: &str) -> (Option<i32>, String) {
    let mut child = Command::new(assert_cmd::cargo::cargo_bin!("dulk"))
        .args(["guard", "check", "origin"])
        .current_dir(house.path())
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("dulk runs");
    use std::io::Write;
    child.stdin.take().expect("a pipe").write_all(text.as_bytes()).expect("written");
    let output = child.wait_with_output().expect("it ends");
    (output.status.code(), house::said(&output))
}

#[test]
fn a_push_that_would_publish_nothing_is_stopped_and_the_mended_one_goes_through() {
    let (house, _far) = harbour("master");
    let stopped = push(&house, &["origin", "main"]);
    assert_ne!(stopped.code, Some(0));
    let text = said(&stopped);
    assert!(text.contains("branch.absent") && text.contains("starts nothing") && text.contains("git push --no-verify"), "{text}");
    assert_eq!(house.dulk(&["mend", "--write"]).code, Some(0));
    // Not the work tree counts, but what is pushed.
    assert_ne!(push(&house, &["origin", "main"]).code, Some(0));
    house.git(&["commit", "-q", "-am", "mended"]);
    let through = push(&house, &["origin", "main"]);
    assert_eq!(through.code, Some(0), "{}", said(&through));
    assert!(said(&through).contains("publish the folder dist to the branch gh-pages"), "{}", said(&through));
}

#[test]
fn the_really_changed_paths_are_played() {
    let (house, _far) = harbour("main");
    assert_eq!(push(&house, &["origin", "main"]).code, Some(0));
    house.write("README.md", "more");
    house.git(&["commit", "-q", "-am", "words"]);
    let quiet = push(&house, &["origin", "main"]);
    assert!(quiet.code == Some(0) && said(&quiet).contains("starts nothing"), "{}", said(&quiet));
    house.write("src/a.css", "a{}");
    house.git(&["commit", "-q", "-am", "style"]);
    assert!(said(&push(&house, &["origin", "main"])).contains("starts .github/workflows/sail.yml: publish"));
}

#[test]
fn tags_deletions_and_several_refs_are_told_one_by_one() {
    let (house, _far) = harbour("main");
    house.git(&["branch", "winter-plan"]);
    house.git(&["tag", "-a", "v1", "-m", "first"]);
    let all = push(&house, &["origin", "main", "winter-plan", "v1"]);
    let text = said(&all);
    for part in ["a push to main", "a push to winter-plan", "the tag v1"] {
        assert!(text.contains(part), "{part}: {text}");
    }
    assert!(said(&push(&house, &["origin", "--delete", "winter-plan"])).contains("refs/heads/winter-plan is deleted"));
}

#[test]
fn errors_elsewhere_are_said_and_stop_nobody() {
    let (house, _far) = harbour("main");
    house.write(".github/workflows/other.yml", "on: workflow_dispatch\njobs:\n  a:\n    runs_on: x\n    steps: [{run: ls}]\n");
    house.git(&["add", "-A"]);
    house.git(&["commit", "-q", "-m", "other"]);
    let ran = push(&house, &["origin", "main"]);
    assert_eq!(ran.code, Some(0), "{}", said(&ran));
    assert!(said(&ran).contains("error in a pipeline that this push does not start"), "{}", said(&ran));
}

#[test]
fn a_hook_that_was_there_is_kept_run_and_put_back() {
    let house = House::with_git(&[(SAIL, &pipeline("main"))]);
    let hook = house.write(".git/hooks/pre-push", "#!/bin/sh\ncat > seen\n");
    let off = house.dulk(&["guard", "status"]);
    assert!(off.out.contains("another hook stands"), "{}", off.out);
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        fs::set_permissions(&hook, fs::Permissions::from_mode(0o755)).expect("a mode");
    }
    let before = fs::read(&hook).expect("a hook");
    assert!(house.dulk(&["guard", "on"]).out.contains("is kept"));
    assert!(house.dulk(&["guard", "on"]).code == Some(0), "twice is no harm");
    let far = tempfile::tempdir().expect("a temporary folder");
    git().args(["init", "-q", "--bare"]).current_dir(far.path()).output().expect("git runs");
    let ran = push(&house, &[&far.path().display().to_string(), "main"]);
    assert_eq!(ran.code, Some(0), "{}", said(&ran));
    assert!(fs::read_to_string(house.path().join("seen")).expect("the old hook ran").starts_with("refs/heads/main "));
    assert!(house.dulk(&["guard", "off"]).out.contains("back in its place"));
    assert_eq!(fs::read(&hook).expect("a hook"), before);
    assert!(house.dulk(&["guard", "off"]).out.contains("was not on"));
}

#[test]
fn hooks_stand_where_git_is_told_to_look_and_work_trees_share_them() {
    let house = House::with_git(&[(SAIL, &pipeline("main"))]);
    house.git(&["config", "core.hooksPath", "tools/hooks"]);
    assert_eq!(house.dulk(&["guard", "on"]).code, Some(0));
    assert!(house.path().join("tools/hooks/pre-push").is_file());
    house.git(&["config", "--unset", "core.hooksPath"]);
    let beside = tempfile::tempdir().expect("a temporary folder");
    let tree = beside.path().join("tree");
    house.git(&["worktree", "add", "-q", &tree.display().to_string(), "-b", "beside"]);
    let on =
        Command::new(assert_cmd::cargo::cargo_bin!("dulk")).args(["guard", "on"]).current_dir(&tree).output().expect("dulk runs");
    assert!(on.status.success());
    assert!(house.path().join(".git/hooks/pre-push").is_file());
}

#[test]
fn what_is_not_gits_own_and_what_is_not_there_end_in_one_line() {
    let house = House::with_git(&[(SAIL, &pipeline("main"))]);
    let feed = |text: &str| feed(&house, text);
    let (code, text) = feed("hello there\n");
    assert!(code == Some(2) && text.contains("no line of git's pre-push hook"), "{text}");
    let absent = "1".repeat(40);
    let (code, text) = feed(&format!("refs/heads/main {absent} refs/heads/main {}\n", "0".repeat(40)));
    assert!(code == Some(0) && text.contains("not looked at"), "{text}");
    assert_eq!(feed("").0, Some(0));
}

#[cfg(unix)]
#[test]
fn names_with_spaces_and_odd_bytes_are_read() {
    let (house, far) = harbour("main");
    assert_eq!(push(&house, &["origin", "main"]).code, Some(0));
    house.write("src/a.css", "a{}");
    house.git(&["commit", "-q", "-am", "new colours on the map"]);
    let ran = push(&house, &["origin", ":/new colours:refs/heads/winter"]);
    assert!(ran.code == Some(0) && said(&ran).contains("a push to winter"), "{}", said(&ran));
    use std::os::unix::ffi::OsStrExt;
    let odd = std::ffi::OsStr::from_bytes(b"main:refs/heads/caf\xe9");
    let output = git().args(["push", "origin"]).arg(odd).current_dir(house.path()).output().expect("git runs");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    drop(far);
}

#[test]
fn every_one_of_very_many_refs_is_looked_at() {
    let (house, _far) = harbour("main");
    let head = git().args(["rev-parse", "HEAD"]).current_dir(house.path()).output().expect("git runs");
    let head = String::from_utf8_lossy(&head.stdout).trim().to_owned();
    let none = "0".repeat(40);
    let line = |branch: &str, id: &str| format!("refs/heads/{branch} {id} refs/heads/{branch} {none}\n");
    let mut text: String = (0..3_000).map(|number| line(&format!("plan-{number}"), &head)).collect();
    let (code, quiet) = feed(&house, &text);
    assert_eq!(code, Some(0), "{quiet}");
    assert!(quiet.contains("and 2988 more refs") && quiet.lines().count() < 60, "{quiet}");
    // The last of them all is held up.
    house.write(SAIL, pipeline("main").replace("runs-on", "runs_on"));
    house.git(&["commit", "-q", "-am", "a slip"]);
    let slip = git().args(["rev-parse", "HEAD"]).current_dir(house.path()).output().expect("git runs");
    text.push_str(&line("main", String::from_utf8_lossy(&slip.stdout).trim()));
    let (code, stopped) = feed(&house, &text);
    assert!(code == Some(1) && stopped.contains("a push to main") && stopped.contains("git push --no-verify"), "{stopped}");
}

#[cfg(unix)]
#[test]
fn a_link_and_the_size_limit_are_the_same_to_a_push_as_to_a_check() {
    let house = House::with_git(&[("ci/sail.yml", &pipeline("master")), ("src/a.css", "")]);
    fs::create_dir_all(house.path().join(".github")).expect("a folder");
    std::os::unix::fs::symlink("../ci", house.path().join(".github/workflows")).expect("a link");
    let far = tempfile::tempdir().expect("a temporary folder");
    git().args(["init", "-q", "--bare"]).current_dir(far.path()).output().expect("git runs");
    house.git(&["remote", "add", "origin", &far.path().display().to_string()]);
    assert_eq!(house.dulk(&["guard", "on"]).code, Some(0));
    house.git(&["add", "-A"]);
    house.git(&["commit", "-q", "-m", "linked"]);
    assert!(house.dulk(&["check"]).out.contains("branch.absent"));
    let ran = push(&house, &["origin", "main"]);
    assert!(ran.code != Some(0) && said(&ran).contains("branch.absent"), "{}", said(&ran));
    house.git(&["rm", "-q", ".github/workflows"]);
    house.write(SAIL, pipeline("main") + &"# the plan of the ferry\n".repeat(200_000));
    house.git(&["add", "-A"]);
    house.git(&["commit", "-q", "-m", "large"]);
    assert!(house.dulk(&["check"]).out.contains("no more than 4 MB are read"));
    let ran = push(&house, &["origin", "main"]);
    assert!(ran.code != Some(0) && said(&ran).contains("form.unreadable"), "{}", said(&ran));
}

#[test]
fn the_repository_that_git_is_told_of_is_the_one_that_is_looked_at() {
    let (house, _far) = harbour("master");
    let apart = tempfile::tempdir().expect("a temporary folder");
    let git_dir = apart.path().join("kept-apart");
    fs::rename(house.path().join(".git"), &git_dir).expect("moved");
    let output = git()
        .args(["--git-dir", &git_dir.display().to_string(), "--work-tree", "."])
        .args(["push", "origin", "main"])
        .current_dir(house.path())
        .output()
        .expect("git runs");
    let text = house::said(&output);
    assert!(!output.status.success() && text.contains("branch.absent"), "{text}");
}
