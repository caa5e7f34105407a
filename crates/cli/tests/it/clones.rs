//! Repositories and clones of other kinds than the usual one: what they do not know is said to be unknown, and never to be nothing.

use crate::house::{House, git, said, workflow};

const SAIL: &str = ".github/workflows/sail.yml";

/// A pipeline that a push to `master` starts, which is there nowhere.
fn sail() -> String {
    workflow("on:\n  push:\n    branches: [master]\n    tags: ['v*']", "      - run: npx vite build\n")
}

fn with_git(args: &[&str]) -> Option<House> {
    let house = House::new(&[(SAIL, &sail())]);
    let made = git().args(["init", "-q", "-b", "main"]).args(args).current_dir(house.path()).output().expect("git runs");
    if !made.status.success() {
        // An older git does not know this kind.
        return None;
    }
    house.git(&["add", "-A"]);
    house.git(&["commit", "-q", "-m", "first"]);
    Some(house)
}

/// A clone, and the repository that it is made of, with two branches and two tags, of which one is on no branch that `main` holds.
fn cloned(args: &[&str]) -> (House, House) {
    let far = House::with_git(&[(SAIL, &sail())]);
    far.git(&["tag", "v1"]);
    far.git(&["checkout", "-q", "-b", "winter-plan"]);
    far.git(&["commit", "-q", "--allow-empty", "-m", "winter"]);
    far.git(&["tag", "v2"]);
    far.git(&["checkout", "-q", "main"]);
    let near = House::new(&[]);
    near.git(&[&["clone", "-q"], args, &[&format!("file://{}", far.path().display()), "."]].concat());
    (near, far)
}

/// What `facts` says of one thing: its value, and from where it is known or why it is not.
fn fact(house: &House, name: &str) -> (Option<String>, String) {
    let facts = house.dulk(&["facts", "--format", "json"]).json();
    let found = facts["facts"].as_array().and_then(|facts| facts.iter().find(|fact| fact["name"] == name)).cloned();
    let found = found.unwrap_or_else(|| panic!("no fact {name} in {facts}"));
    (found["value"].as_str().map(str::to_owned), found["from"].as_str().unwrap_or_default().to_owned())
}

#[test]
fn references_kept_in_another_form_are_unknown_and_the_rest_is_read() {
    let Some(house) = with_git(&["--ref-format=reftable"]) else { return };
    for name in ["branches", "tags", "default branch"] {
        let (value, from) = fact(&house, name);
        assert!(value.is_none() && from.contains("reftable"), "{name}: {value:?} {from}");
    }
    assert!(!house.dulk(&["check", "--format", "json"]).rules().contains(&"branch.absent".to_owned()));
    let since = house.dulk(&["check", "--since", "main"]);
    assert!(since.code == Some(2) && since.err.contains("reftable"), "{}", since.err);
}

#[test]
fn longer_names_of_objects_are_read_like_the_usual_ones() {
    let Some(house) = with_git(&["--object-format=sha256"]) else { return };
    assert_eq!(fact(&house, "branches").0.as_deref(), Some("main"));
    assert!(house.dulk(&["check", "--format", "json"]).rules().contains(&"branch.absent".to_owned()));
    assert_eq!(house.dulk(&["check", "--since", "main", "--format", "json"]).rules().len(), 0);
    assert!(house.dulk(&["guard", "on"]).code == Some(0));
    let far = tempfile::tempdir().expect("a temporary folder");
    let bare = ["init", "-q", "--bare", "--object-format=sha256"];
    git().args(bare).current_dir(far.path()).output().expect("git runs");
    let push = || {
        let args = ["push", &far.path().display().to_string(), "main"];
        let output = git().args(args).current_dir(house.path()).output().expect("git runs");
        said(&output)
    };
    let text = push();
    assert!(text.contains("a push to main") && text.contains("branch.absent"), "{text}");
}

#[test]
fn clones_know_no_more_than_they_fetch() {
    let (whole, _far) = cloned(&[]);
    assert_eq!(
        (fact(&whole, "branches").0.as_deref(), fact(&whole, "tags").0.as_deref()),
        (Some("main and winter-plan"), Some("v1 and v2"))
    );
    for (args, name, reason) in [
        (["--no-tags"].as_slice(), "tags", "fetches no tags of origin"),
        (&["--single-branch"], "tags", "only some branches"),
        (&["--single-branch"], "branches", "only some branches"),
        (&["--depth=1"], "tags", "shallow"),
        (&["--depth=1", "--no-single-branch"], "branches", "shallow"),
    ] {
        let (value, from) = fact(&cloned(args).0, name);
        assert!(value.is_none() && from.contains(reason), "{args:?} {name}: {value:?} {from}");
    }
    // A branch that is left out may be the one that a filter names.
    whole.git(&["config", "--add", "remote.origin.fetch", "^refs/heads/master"]);
    assert_eq!(fact(&whole, "branches").0, None);
    let (all, _far) = cloned(&["--no-tags"]);
    all.git(&["config", "--add", "remote.origin.fetch", "+refs/tags/*:refs/tags/*"]);
    all.git(&["fetch", "-q"]);
    assert_eq!(fact(&all, "tags").0.as_deref(), Some("v1 and v2"));
}

#[test]
fn a_sparse_checkout_still_knows_all_files() {
    let house = House::with_git(&[(SAIL, &sail()), ("docs/plan/a.md", ""), ("package.json", "{}")]);
    house.git(&["sparse-checkout", "set", "--cone", "--sparse-index", ".github"]);
    assert!(!house.path().join("docs").exists());
    let ran = house.dulk(&["check", "--format", "json"]);
    assert!(ran.rules().iter().all(|rule| !rule.starts_with("form.")), "{}", ran.out);
    assert!(ran.rules().contains(&"branch.absent".to_owned()), "{}", ran.out);
}
