//! What dulk.toml says of pipeline files, and files that are named in the call.

use crate::house::{House, workflow};

const SAIL: &str = ".github/workflows/sail.yml";

fn house() -> House {
    House::with_git(&[(
        SAIL,
        "on:\n  push:\n    branches: [master]\njobs:\n  a:\n    runs-on: ubuntu-latest\n    steps: [{run: ls}]\n",
    )])
}

#[test]
fn a_finding_is_accepted_in_the_settings_and_told_by_facts() {
    let house = house();
    assert!(house.dulk(&[]).out.contains("branch.absent"));
    house.write(
        "dulk.toml",
        format!("[[accept]]\nrule = \"branch.absent\"\nfile = \"{SAIL}\"\njob = \"b\"\nbecause = \"it comes\"\n"),
    );
    let ran = house.dulk(&[]);
    assert!(ran.out.contains("branch.absent") && ran.out.contains("branch.absent finds nothing in that job"), "{}", ran.out);
    house.write("dulk.toml", format!("[[accept]]\nrule = \"branch.absent\"\nfile = \"{SAIL}\"\nbecause = \"it comes\"\n"));
    let ran = house.dulk(&[]);
    assert_eq!((ran.code, ran.out.contains("Nothing wrong found")), (Some(0), true), "{}", ran.out);
    let facts = house.dulk(&["facts"]).out;
    assert!(facts.contains("branch.absent, because it comes"), "{facts}");
}

#[test]
fn settings_of_files_that_do_not_fit_are_told_with_their_line() {
    for (text, part) in [
        ("[[starts]]\npush = [\"main\"]\n".to_owned(), "dulk.toml:1: [[starts]] needs the key file"),
        (format!("[[starts]]\nfile = \"{SAIL}\"\n"), "dulk.toml:2: .github/workflows/sail.yml says itself what starts it"),
        (
            "[[starts]]\nfile = \"ci/quay.yml\"\n".to_owned(),
            "dulk.toml:2: [[starts]] is for ci/quay.yml, and there is no such file",
        ),
        (
            "\n[[accept]]\nrule = \"branch.absnt\"\n".to_owned(),
            "dulk.toml:3: there is no rule branch.absnt; did you mean branch.absent?",
        ),
        (format!("[[accept]]\nrule = \"branch.absent\"\nfile = \"{SAIL}\"\n"), "dulk.toml:1: [[accept]] needs the key because"),
        (
            "[[accept]]\nrule = \"branch.absent\"\nfile = \"x.yml\"\nbecause = \"y\"\n".to_owned(),
            "dulk.toml:3: [[accept]] is for x.yml",
        ),
    ] {
        let house = house();
        house.write("dulk.toml", &text);
        let ran = house.dulk(&[]);
        assert_eq!((ran.code, ran.err.lines().count()), (Some(2), 1), "{text}: {}", ran.err);
        assert!(ran.err.contains(part), "{text}: {}", ran.err);
    }
}

#[test]
fn a_file_that_is_named_is_read_as_what_it_holds() {
    let house = House::with_git(&[
        ("drafts/sail.yml", &workflow("on: push", "      - uses: ferry/plan@main\n")),
        ("drafts/tide.yml", "pages:\n  script: [make]\n  needs: [biuld]\n"),
        ("drafts/notes.yml", "quay: 3\n"),
    ]);
    assert!(house.dulk(&[]).out.contains("No pipeline file found here"));
    let of = |file: &str| house.dulk(&["check", "--format", "json", file]);
    assert!(of("drafts/sail.yml").out.contains("\"dialect\": \"workflow\""));
    let gitlab = of("drafts/tide.yml");
    assert!(gitlab.out.contains("\"dialect\": \"gitlab\"") && gitlab.out.contains("order.absent-job"), "{}", gitlab.out);
    let none = of("drafts/notes.yml");
    assert_eq!(none.code, Some(2));
    assert!(none.err.contains("drafts/notes.yml: neither its name nor what it holds"), "{}", none.err);
}
