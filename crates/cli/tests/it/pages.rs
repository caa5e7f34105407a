//! The pages that people read: every command in them is run, and what stands below it is what it really says.
//! `DULK_WRITE_DOCS=1 cargo test -p dulk --test it pages` writes it anew.
#![cfg(unix)]

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use assert_cmd::cargo::cargo_bin;

use crate::house::{House, TODAY};

/// Runs what stands between `<!-- run: ` and ` -->`, of which readers see what it changed.
const SILENT: (&str, &str) = ("<!-- run: ", " -->");

/// A shell in a folder of its own.
struct Desk {
    house: House,
    folder: PathBuf,
}

impl Desk {
    fn new() -> Self {
        let house = House::new(&[]);
        // The day of the tests, for what the hook runs too.
        house.write_program("bin/dulk", format!("#!/bin/sh\nexec '{}' --today {TODAY} \"$@\"\n", cargo_bin!("dulk").display()));
        house.write("desk/.keep", "");
        let folder = house.path().join("desk");
        Self { house, folder }
    }

    /// Runs a line; gives what it said. What it leaves, the next one finds, and the folder too.
    fn run(&mut self, line: &str) -> String {
        let at = self.house.path().join("at");
        let script = format!("exec 2>&1\n{line}\npwd > '{}'\n", at.display());
        let path = format!("{}:{}", self.house.path().join("bin").display(), std::env::var("PATH").expect("a path"));
        let ran = Command::new("sh")
            .args(["-c", &script])
            .current_dir(&self.folder)
            .env("PATH", path)
            .env("HOME", self.house.path())
            .env("LC_ALL", "C.UTF-8")
            .env("GIT_CONFIG_GLOBAL", "/dev/null")
            .env("GIT_CONFIG_NOSYSTEM", "1")
            .envs(["GIT_AUTHOR_NAME", "GIT_COMMITTER_NAME"].map(|name| (name, "Pier")))
            .envs(["GIT_AUTHOR_EMAIL", "GIT_COMMITTER_EMAIL"].map(|name| (name, "pier@tarnsay.example")))
            .output()
            .expect("sh runs");
        self.folder = PathBuf::from(fs::read_to_string(at).expect("the folder").trim());
        let hook = self.folder.join(".git/hooks/pre-push");
        if let Ok(text) = fs::read_to_string(&hook) {
            let dulk = self.house.path().join("bin/dulk").display().to_string();
            fs::write(hook, text.replace(&cargo_bin!("dulk").display().to_string(), &dulk)).expect("written");
        }
        String::from_utf8(ran.stdout).expect("UTF-8")
    }
}

/// A page with what its commands say today.
fn rerun(page: &str) -> String {
    let mut desk = Desk::new();
    let mut new = String::new();
    let mut in_block = false;
    let mut add = |line: &str| {
        new.push_str(line.trim_end());
        new.push('\n');
    };
    for line in page.lines() {
        match (line, in_block) {
            ("```console", _) => {
                in_block = true;
                add(line);
            }
            ("```", _) => {
                in_block = false;
                add(line);
            }
            (command, true) => {
                let Some(command) = command.strip_prefix("$ ") else { continue };
                add(line);
                desk.run(command).trim_end().lines().for_each(&mut add);
            }
            (text, false) => {
                if let Some(command) = text.strip_prefix(SILENT.0).and_then(|rest| rest.strip_suffix(SILENT.1)) {
                    assert_eq!(desk.run(command), "", "{command}");
                }
                add(line);
            }
        }
    }
    new
}

fn path_of(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs").join(name)
}

fn holds(name: &str) {
    let path = path_of(name);
    let old = fs::read_to_string(&path).expect("the page");
    let new = rerun(&old);
    if std::env::var_os("DULK_WRITE_DOCS").is_some() {
        fs::write(path, new).expect("written");
    } else {
        let drift =
            "the program says something else today; DULK_WRITE_DOCS=1 cargo test -p dulk --test it pages writes the page anew";
        similar_lines(&old, &new, &format!("docs/{name}: {drift}"));
    }
}

fn similar_lines(old: &str, new: &str, drift: &str) {
    for (number, (old, new)) in old.lines().zip(new.lines()).enumerate() {
        assert_eq!(old, new, "line {}: {drift}", number + 1);
    }
    assert_eq!(old.lines().count(), new.lines().count(), "{drift}");
}

#[test]
fn the_guide_shows_what_the_program_says() {
    holds("guide.md");
}

#[test]
fn the_page_on_a_first_pipeline_shows_what_the_program_says() {
    holds("draft.md");
}

#[test]
fn the_page_on_asking_the_forge_shows_what_the_program_says() {
    holds("forge.md");
}

#[test]
fn the_page_for_five_minutes_shows_what_the_program_says() {
    holds("five-minutes.md");
}

/// The lines for every format, each as the file that its heading names.
fn pipelines_of(page: &str) -> Vec<(&str, &str)> {
    let parts = page.split("\n## `").skip(1).filter_map(|part| part.split_once('`'));
    parts
        .filter_map(|(path, part)| {
            let (_, block) = part.split_once("\n```")?;
            let (_, lines) = block.split_once('\n')?;
            Some((path, lines.split_once("\n```")?.0))
        })
        .collect()
}

#[test]
fn the_lines_for_a_pipeline_are_clean_in_every_format() {
    let page = fs::read_to_string(path_of("in-a-pipeline.md")).expect("the page");
    let pipelines = pipelines_of(&page);
    assert_eq!(pipelines.len(), 8, "{pipelines:?}");
    for (path, lines) in pipelines {
        let house = House::with_git(&[
            ("package.json", r#"{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "^7", "dulk": "^0.2.0"}}"#),
            (
                "package-lock.json",
                "{\"lockfileVersion\": 3, \"packages\": {\"node_modules/vite\": {\"version\": \"7.1.0\"}, \"node_modules/dulk\": {\"version\": \"0.2.0\"}}}",
            ),
            ("index.html", "<p>Ferry</p>"),
            (path, lines),
        ]);
        let ran = house.dulk(&["check", "--fail-on", "advice"]);
        assert_eq!(ran.code, Some(0), "{path}: {}{}", ran.out, ran.err);
        assert!(ran.out.contains("Nothing wrong found in 1 pipeline file."), "{path} is read: {}", ran.out);
    }
}
