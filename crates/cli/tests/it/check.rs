use crate::house::{House, workflow};

const PATH: &str = ".github/workflows/sail.yml";

fn master_house() -> House {
    let house = House::with_git(&[(PATH, &workflow("on:\n  push:\n    branches: [master]", "      - run: ls\n"))]);
    house.git(&["branch", "winter-plan"]);
    house.clone_of("https://forge.example/tarnsay/timetable.git")
}

#[test]
fn a_finding_says_but_and_do() {
    let ran = master_house().dulk(&[]);
    assert_eq!(ran.code, Some(1));
    insta::assert_snapshot!(ran.out);
}

#[test]
fn json_is_the_contract() {
    let ran = master_house().dulk(&["check", "--format", "json"]);
    assert_eq!(ran.code, Some(1));
    insta::assert_snapshot!(ran.out);
}

#[test]
fn it_works_from_a_subfolder_on_paths_and_without_git() {
    let house = master_house();
    house.write("docs/a.md", "");
    assert_eq!(house.dulk_in("docs", &["check"]).code, Some(1));
    assert_eq!(house.dulk_in("docs", &["check", "../.github"]).code, Some(1));
    assert!(house.dulk(&["check", "docs"]).out.contains("No pipeline file found in docs"));
    let plain = House::new(&[(PATH, &workflow("on: push", "      - run: ls\n"))]);
    let ran = plain.dulk(&[]);
    assert_eq!((ran.code, ran.out.contains("Nothing wrong found in 1 pipeline file.")), (Some(0), true), "{}", ran.out);
}

#[test]
fn no_pipeline_file_is_told_and_is_no_fault() {
    let ran = House::new(&[("package.json", "{}")]).dulk(&[]);
    assert_eq!(ran.code, Some(0));
    assert!(ran.out.contains("No pipeline file found here") && ran.out.contains(".github/workflows/*.yml"), "{}", ran.out);
}

#[test]
fn a_repository_without_a_commit_is_checked() {
    let house = House::new(&[(
        PATH,
        &workflow("on:\n  push:\n    branches: [master]", "      - uses: actions/checkout@v4\n      - run: npm ci\n"),
    )]);
    house.git(&["init", "-q", "-b", "main"]);
    assert_eq!(house.dulk(&["check", "--format", "json"]).rules(), ["branch.absent", "site.absent-lockfile"]);
}

#[test]
fn the_threshold_decides_the_exit_status() {
    let house = House::new(&[(PATH, &workflow("on: push", "      - uses: actions/checkout@main\n"))]);
    assert_eq!(house.dulk(&[]).code, Some(0));
    assert_eq!(house.dulk(&["--fail-on", "warning"]).code, Some(1));
    assert_eq!(house.dulk(&["check", "--fail-on", "error"]).code, Some(0));
    house.write("dulk.toml", "[rules]\nupkeep.moving = \"error\"\n");
    assert_eq!(house.dulk(&[]).code, Some(1));
    house.write("dulk.toml", "[rules]\nupkeep.moving = \"off\"\n");
    assert!(house.dulk(&["--fail-on", "advice"]).rules_text().is_empty());
}

impl crate::house::Ran {
    /// The lines that name a rule.
    fn rules_text(&self) -> Vec<&str> {
        self.out.lines().filter(|line| line.starts_with(['✖', '!', '•'])).collect()
    }
}

#[test]
fn colours_are_for_terminals_and_for_those_who_ask() {
    let house = master_house();
    assert!(!house.dulk(&[]).out.contains('\x1b'));
    assert!(house.dulk(&["--color", "always"]).out.contains('\x1b'));
    assert!(!house.dulk(&["--color", "never"]).out.contains('\x1b'));
}

#[test]
fn ignored_and_untracked_lockfiles_are_told_apart() {
    let steps = "      - uses: actions/checkout@v4\n      - run: npm ci\n";
    let house =
        House::with_git(&[(PATH, &workflow("on: push", steps)), ("package.json", "{}"), (".gitignore", "package-lock.json\n")]);
    house.write("package-lock.json", "{}");
    assert_eq!(house.dulk(&["check", "--format", "json"]).rules(), ["site.absent-lockfile"]);
    house.write(".gitignore", "");
    assert!(house.dulk(&["check", "--format", "json"]).rules().is_empty());
}

#[test]
fn branches_of_the_remote_count_and_a_partial_clone_proves_nothing() {
    let house = House::with_git(&[(PATH, &workflow("on:\n  push:\n    branches: [harbour]", "      - run: ls\n"))]);
    house.git(&["remote", "add", "origin", "https://forge.example/tarnsay/timetable.git"]);
    assert_eq!(house.dulk(&["check", "--format", "json"]).rules(), ["branch.absent"]);
    house.git(&["update-ref", "refs/remotes/origin/harbour", "HEAD"]);
    assert!(house.dulk(&["check", "--format", "json"]).rules().is_empty());
    house.git(&["update-ref", "-d", "refs/remotes/origin/harbour"]);
    house.git(&["config", "remote.origin.fetch", "+refs/heads/main:refs/remotes/origin/main"]);
    assert!(house.dulk(&["check", "--format", "json"]).rules().is_empty());
}

#[test]
fn many_files_give_the_same_answer_every_time() {
    let house = House::new(&[]);
    for number in 0..40 {
        house.write(&format!(".github/workflows/{number:02}.yml"), workflow("on: push", "      - uses: ferry/plan@main\n"));
    }
    let first = house.dulk(&["check", "--format", "json"]).out;
    assert_eq!(first, house.dulk(&["check", "--format", "json"]).out);
    assert_eq!(first.matches("upkeep.moving").count(), 40);
    // Shown on many threads, and still in their order.
    let shown = house.dulk(&["check"]).out;
    let files: Vec<&str> = shown.lines().filter_map(|line| line.trim().strip_prefix("says  ")?.split(':').next()).collect();
    let strips: Vec<&str> = shown.lines().filter(|line| line.contains("form ✔")).filter_map(|line| line.get(..6)).collect();
    assert!(files.len() >= 40 && files.is_sorted(), "{shown}");
    assert_eq!(strips, (0..40).map(|number| format!("{number:02}.yml")).collect::<Vec<_>>());
}

#[test]
fn what_is_wrong_inside_an_action_is_told_once() {
    const ACTION: &str = ".github/actions/make/action.yml";
    let action =
        "name: make\ndescription: builds\nruns:\n  using: composite\n  steps:\n    - run: npm run biuld\n      shell: bash\n";
    let caller = workflow("on: [push]", "      - uses: actions/checkout@v5\n      - uses: ./.github/actions/make\n");
    let house = House::with_git(&[
        ("package.json", r#"{"scripts": {"build": "vite build"}}"#),
        (ACTION, action),
        (".github/workflows/a.yml", &caller),
        (".github/workflows/b.yml", &caller.replace("build:", "other:")),
    ]);
    let scripts = |house: &House| {
        let report = house.dulk(&["check", "--format", "json"]).json();
        let findings = report["findings"].as_array().cloned().unwrap_or_default();
        findings.into_iter().filter(|finding| finding["rule"] == "site.absent-script").collect::<Vec<_>>()
    };
    let found = scripts(&house);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert_eq!(found[0]["file"], ACTION);
    assert!(found[0]["witnesses"].to_string().contains("it is run from here"), "{found:#?}");
    house.write(ACTION, action.replace("biuld", "biuld # dulk: accept site.absent-script because it comes tomorrow"));
    assert_eq!(scripts(&house).len(), 0);
    let report = house.dulk(&["check", "--format", "json"]);
    assert!(!report.rules().contains(&"form.idle-acceptance".to_owned()), "{}", report.out);
}

#[test]
fn one_cause_is_told_once_with_all_its_places() {
    let step = |number: i32| format!("      - uses: actions/upload-artifact@v2\n        with: {{name: a{number}, path: a}}\n");
    let steps: String = (0..8).map(step).collect();
    let house = House::new(&[(PATH, &workflow("on: push", &steps))]);
    let ran = house.dulk(&["check"]);
    let told = |text: &str| ran.out.matches(text).count();
    assert_eq!((told("upkeep.retired-action"), told("and here"), told("and 2 more")), (1, 5, 1), "{}", ran.out);
    let json = house.dulk(&["check", "--format", "json"]).json();
    let findings = json["findings"].as_array().expect("a list of findings");
    let found: Vec<_> = findings.iter().filter(|finding| finding["rule"] == "upkeep.retired-action").collect();
    let places = |finding: &serde_json::Value| {
        finding["witnesses"].as_array().into_iter().flatten().filter(|witness| witness["text"] == "and here").count()
    };
    assert_eq!(found.iter().map(|finding| places(finding)).collect::<Vec<_>>(), [7]);
    assert_eq!(house.dulk(&["mend", "--write"]).code, Some(0));
    let mended = std::fs::read_to_string(house.path().join(PATH)).expect("the mended file");
    assert!(!mended.contains("upload-artifact@v2"), "{mended}");
}
