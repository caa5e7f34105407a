use std::fs;
use std::path::Path;

use dulk_core::finding::Finding;
use dulk_core::text::Sources;

use crate::{Renewed, Snapshot};

/// Pipelines that have to do with each other in every way that there is.
const FILES: &[(&str, &str)] = &[
    ("package.json", "{\"scripts\": {\"build\": \"vite build\"}, \"devDependencies\": {\"vite\": \"^7\"}}\n"),
    ("dulk.toml", "[forge]\ndefault-branch = \"main\"\nsecrets = []\nvariables = []\n"),
    ("tools/wake.sh", "echo awake\n"),
    (
        ".github/workflows/site.yml",
        "name: Site\non:\n  push:\n    branches: [master]\nconcurrency: quay\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v5\n      - uses: ./.github/actions/bake\n      - uses: actions/cache/restore@v4\n        with: {path: .boat, key: tide}\n      - run: npm run biuld\n      - run: rsync -a dist/ pier@tarnsay.example:/www\n",
    ),
    (
        ".github/workflows/other.yml",
        "name: Other\non: [push, pull_request]\nconcurrency: {group: quay, cancel-in-progress: true}\njobs:\n  live:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v5\n      - run: npx vite build\n      - run: rsync -a dist/ pier@tarnsay.example:/www\n",
    ),
    (
        ".github/workflows/after.yml",
        "on:\n  workflow_run:\n    workflows: [Site]\n    types: [completed]\njobs:\n  look:\n    runs-on: ubuntu-latest\n    steps:\n      - run: curl -f https://tarnsay.example/\n  call:\n    uses: ./.github/workflows/called.yml\n",
    ),
    (
        ".github/workflows/called.yml",
        "on: workflow_call\njobs:\n  look:\n    runs-on: ubuntu-latest\n    steps:\n      - run: ls ${{ inputs.place }}\n",
    ),
    (
        ".github/actions/bake/action.yml",
        "name: Bake\nruns:\n  using: composite\n  steps:\n    - run: npm run gone\n      shell: bash\n    - uses: actions/cache/save@v4\n      with: {path: .boat, key: tide}\n",
    ),
    (
        ".gitlab-ci.yml",
        "include: part.yml\nbuild:\n  script: [npx vite build]\n  artifacts: {paths: [dist]}\npages:\n  needs: [biuld]\n  script: [mv dist public]\n  artifacts: {paths: [public]}\n",
    ),
    (
        "infra/way.yml",
        "Resources:\n  Quay:\n    Type: AWS::S3::Bucket\n    Properties:\n      WebsiteConfiguration: {IndexDocument: start.html}\n  Bake:\n    Type: AWS::CodeBuild::Project\n    Properties:\n      Triggers: {Webhook: true}\n      Source: {Type: GITHUB, BuildSpec: buildspec.yml}\n",
    ),
    (
        "buildspec.yml",
        "version: 0.2\nphases:\n  build:\n    commands:\n      - npx vite build --base /x/\n      - aws s3 sync dist s3://Quay\n",
    ),
    ("part.yml", "look:\n  script: [ls]\n  cache: {paths: [.boat], key: tide}\n"),
];

fn lay_out(root: &Path) {
    for (path, text) in FILES {
        let path = root.join(path);
        fs::create_dir_all(path.parent().expect("a folder")).expect("a folder");
        fs::write(path, text).expect("a file");
    }
}

fn told(findings: impl Iterator<Item = Finding>, sources: &Sources) -> Vec<String> {
    let place = |finding: &Finding| {
        let source = sources.get(finding.at.file);
        format!("{}:{:?}", source.path, source.range(finding.at.span))
    };
    let witnesses = |finding: &Finding| finding.witnesses.iter().map(|one| one.text.clone()).collect::<Vec<_>>().join("; ");
    findings.map(|one| format!("{} {} {} | {}", place(&one), one.rule, one.message, witnesses(&one))).collect()
}

fn all(snapshot: &Snapshot) -> Vec<String> {
    let files = snapshot.check();
    told(files.into_iter().flat_map(|file| file.findings), snapshot.sources())
}

/// What anyone would find who came now and found another text on the disk.
fn fresh(root: &Path, path: &str, text: &str) -> Vec<String> {
    fs::write(root.join(path), text).expect("a file");
    all(&Snapshot::of_disk(root, &[], None).expect("a repository"))
}

/// Every line of every pipeline taken out, doubled, or moved by one above it: what is found then is what a fresh look finds.
#[test]
fn what_is_found_again_is_what_a_fresh_look_finds() {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path());
    let mut snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("a repository");
    assert!(all(&snapshot).len() > 10, "{:#?}", all(&snapshot));
    let other = tempfile::tempdir().expect("a temporary folder");
    lay_out(other.path());
    for (path, text) in FILES.iter().filter(|(path, _)| path.ends_with(".yml")) {
        let lines: Vec<&str> = text.split_inclusive('\n').collect();
        for number in 0..lines.len() {
            for changed in [[&lines[..number], &lines[number + 1..]].concat(), [&lines[..=number], &lines[number..]].concat()] {
                let changed = changed.concat();
                let renewed = snapshot.lay_over(path, Some(changed.clone())).expect("a text");
                assert_ne!(renewed, Renewed::Nothing, "{path}: {changed}");
                assert_eq!(all(&snapshot), fresh(other.path(), path, &changed), "{path}, {renewed:?}:\n{changed}");
            }
        }
        snapshot.lay_over(path, None).expect("the disk's text");
        fs::write(other.path().join(path), text).expect("a file");
    }
}

/// Two files become others one after the other, and questions are asked meanwhile, before anything is checked.
#[test]
fn what_is_worked_out_between_checks_is_of_its_moment() {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path());
    let mut snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("a repository");
    let other = tempfile::tempdir().expect("a temporary folder");
    lay_out(other.path());
    let ask = |snapshot: &Snapshot| {
        let project = snapshot.project();
        (0..project.prepared.len()).for_each(|index| project.prepare(index));
    };
    let without = |text: &str, number: usize| {
        let kept = text.split_inclusive('\n').enumerate().filter(|(line, _)| *line != number).map(|(_, line)| line);
        kept.collect::<String>()
    };
    let pipelines: Vec<_> = FILES.iter().filter(|(path, _)| path.ends_with(".yml")).collect();
    for (at, first) in pipelines.iter().enumerate() {
        for (step, second) in pipelines.iter().enumerate().filter(|(other, _)| *other != at) {
            // The later file loses a line, then the earlier one, and the first gets its own back.
            let lines = second.1.lines().count();
            let changes = [
                (first, without(first.1, at + step)),
                (second, without(second.1, (at * 3 + step * 5) % lines)),
                (first, first.1.to_owned()),
            ];
            for ((path, _), text) in &changes {
                snapshot.lay_over(path, Some(text.clone())).expect("a text");
                ask(&snapshot);
            }
            assert_eq!(
                all(&snapshot),
                fresh(other.path(), second.0, &changes[1].1),
                "{}, {}:\n{}",
                first.0,
                second.0,
                changes[1].1
            );
            snapshot.lay_over(second.0, None).expect("the disk's text");
            fs::write(other.path().join(second.0), second.1).expect("a file");
        }
    }
}

#[test]
fn a_file_that_nobody_looks_at_costs_itself() {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path());
    for number in 0..30 {
        let text = format!("on: push\njobs:\n  a{number}:\n    runs-on: ubuntu-latest\n    steps: [{{run: ls}}]\n");
        fs::write(dir.path().join(format!(".github/workflows/quiet{number}.yml")), text).expect("a file");
    }
    let mut snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("a repository");
    snapshot.check();
    let quiet = ".github/workflows/quiet7.yml";
    let text = "# a tide\non: push\njobs:\n  a:\n    runs-on: ubuntu-latest\n    steps: [{run: ls -l}]\n";
    assert_eq!(snapshot.lay_over(quiet, Some(text.to_owned())).expect("a text"), Renewed::File);
    assert_eq!(snapshot.unchecked(), 1);
    assert_eq!(snapshot.lay_over(quiet, Some(text.to_owned())).expect("a text"), Renewed::Nothing);
    // Another branch is everybody's business.
    let other = text.replace("on: push", "on: {push: {branches: [x]}}");
    assert_eq!(snapshot.lay_over(quiet, Some(other)).expect("a text"), Renewed::File);
    assert!(snapshot.unchecked() > 1);
    // So is a program that it names, which has to be read, and a file that is none of the pipelines.
    let names = text.replace("ls -l", "tools/wake.sh");
    assert_eq!(snapshot.lay_over(quiet, Some(names)).expect("a text"), Renewed::Everything);
    assert_eq!(snapshot.lay_over("package.json", Some("{}".to_owned())).expect("a text"), Renewed::Everything);
}

#[test]
fn files_come_and_go_on_the_disk() {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path());
    let mut snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("a repository");
    let before = snapshot.check().len();
    let new = ".github/workflows/new.yml";
    fs::write(dir.path().join(new), "on: push\njobs: {a: {runs-on: x, steps: [{run: ls}]}}\n").expect("a file");
    assert_eq!(snapshot.renew(new).expect("a file"), Renewed::Everything);
    assert_eq!(snapshot.check().len(), before + 1);
    fs::remove_file(dir.path().join(new)).expect("a file");
    snapshot.renew(new).expect("no file");
    assert_eq!(snapshot.check().len(), before);
    // A text that stands nowhere on the disk is a file as well.
    snapshot.lay_over(new, Some("on: push\n".to_owned())).expect("a text");
    assert_eq!(snapshot.check().len(), before + 1);
}

#[test]
fn wrong_settings_change_nothing() {
    let dir = tempfile::tempdir().expect("a temporary folder");
    lay_out(dir.path());
    let mut snapshot = Snapshot::of_disk(dir.path(), &[], None).expect("a repository");
    let before = all(&snapshot);
    assert!(snapshot.lay_over("dulk.toml", Some("[rulse]\n".to_owned())).is_err());
    assert_eq!(all(&snapshot), before);
    assert!(before.iter().any(|one| one.contains("order.wide-lock")));
    let quiet = "[rules]\norder.wide-lock = \"off\"\n";
    snapshot.lay_over("dulk.toml", Some(quiet.to_owned())).expect("settings");
    assert!(all(&snapshot).iter().all(|one| !one.contains("order.wide-lock")));
}
