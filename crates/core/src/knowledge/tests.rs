//! The catalog refers to nothing that is not there, and says of everything where it is from.

use std::fs;
use std::path::{Path, PathBuf};

use super::*;

/// What is read of a format, for tests that hold for each.
fn formats() -> impl Iterator<Item = (&'static str, &'static Grammar, &'static Customs, &'static Run)> {
    crate::formats::all().iter().map(|format| (format.id(), format.grammar(), &format.data().customs, format.run()))
}

#[test]
fn grammars_refer_only_to_what_is_there() {
    for (format, grammar, ..) in formats() {
        assert_eq!(grammar.loose_ends(), Vec::<String>::new(), "{format}");
    }
}

#[test]
fn customs_name_scopes_keys_and_managers_that_exist() {
    let manager = |id: &&str| managers().manager.iter().any(|known| known.id == *id);
    for (format, grammar, customs, _) in formats() {
        for scope in customs.default_grant.values().copied().flatten() {
            assert!(customs.scope(scope).is_some(), "{format}: {scope}");
        }
        for key in customs.purposes.names() {
            assert!(grammar.has_key(key), "{format}: no place has the key {key}");
        }
        assert!(customs.machine.iter().flat_map(|machine| machine.lacks).all(manager), "{format}");
    }
    for (image, lacks) in &names().image_lacks {
        assert!(names().images.has(image) && lacks.iter().all(manager), "{image}");
    }
}

#[test]
fn runs_name_facts_and_refs_that_exist() {
    for (format, _, _, run) in formats() {
        for (name, word) in &run.facts {
            assert!(["commit", "run", "ref", "os", "job"].contains(word), "{format}: {name} is {word}");
        }
        let refs: Vec<&str> = run.values.full.iter().chain(run.values.short).copied().chain(run.facts.names()).collect();
        for name in run.values.passing_refs {
            assert!(refs.contains(name), "{format}: {name}");
        }
    }
}

#[test]
fn what_has_ended_is_replaced_by_what_exists() {
    for runner in upkeep().runner {
        assert!(upkeep().labels.hosted.contains(&runner.instead), "{} is replaced by {}", runner.label, runner.instead);
    }
}

fn catalog_files() -> Vec<PathBuf> {
    let mut open = vec![Path::new(env!("CARGO_MANIFEST_DIR")).join("../../catalog")];
    let mut found = Vec::new();
    while let Some(dir) = open.pop() {
        for entry in fs::read_dir(dir).expect("a folder of the catalog") {
            let path = entry.expect("an entry").path();
            if path.is_dir() { open.push(path) } else { found.push(path) }
        }
    }
    found
}

/// `2026-11` somewhere in a line.
fn has_month(line: &str) -> bool {
    line.as_bytes().windows(7).any(|part| {
        let digits = |range: std::ops::Range<usize>| part[range].iter().all(u8::is_ascii_digit);
        digits(0..4) && part[4] == b'-' && digits(5..7)
    })
}

/// Entries of which each has a page of its own.
const ONE_BY_ONE: [&str; 5] = ["[[action]]", "[[generator]]", "[[manager]]", "[[publisher]]", "[[hosting]]"];

#[test]
fn every_entry_says_from_which_page_and_month_it_is() {
    for path in catalog_files() {
        let text = fs::read_to_string(&path).expect("a file of the catalog");
        let lines: Vec<&str> = text.lines().collect();
        let head = lines.iter().take_while(|line| line.starts_with('#')).copied().collect::<Vec<_>>().join(" ");
        let from_head = head.contains("Source: ") && has_month(&head);
        for (number, line) in lines.iter().enumerate() {
            let above =
                || lines[..number].iter().rev().take_while(|line| line.starts_with('#')).copied().collect::<Vec<_>>().join(" ");
            let shown = format!("{}:{}", path.display(), number + 1);
            if ONE_BY_ONE.contains(line) {
                assert!(above().contains("Source: ") && has_month(&above()), "{shown} has no page and month of its own");
            } else if line.starts_with('[') {
                let before = lines[..number].iter().any(|line| line.starts_with("# ") && line.contains("Source: "));
                assert!(from_head || before, "{shown} is from nowhere");
            }
            if line.starts_with('#') && line.contains("Source: ") {
                let next = lines.get(number + 1).filter(|next| next.starts_with('#')).copied().unwrap_or_default();
                assert!(has_month(line) || has_month(next), "{shown} names a page without a month");
            }
        }
    }
}

#[test]
fn the_nearest_word_is_a_slip_away() {
    let words = ["branches", "runs-on", "steps", "env"];
    assert_eq!(nearest("branch", words), Some("branches"));
    assert_eq!(nearest("runs_on", words), Some("runs-on"));
    assert_eq!(nearest("step", words), Some("steps"));
    assert_eq!(nearest("harbour", words), None);
    assert_eq!(nearest("on", words), None);
}

#[test]
fn only_a_slip_of_the_keys_is_sure() {
    let sure = |word: &str, words: &[&str], among: Among| near(word, words.iter().copied(), among).map(|found| found.sure);
    for (word, meant) in
        [("biuld", "build"), ("buld", "build"), ("Build", "build"), ("build_site", "build-site"), ("stagng", "staging")]
    {
        assert_eq!(sure(word, &[meant, "harbour"], Among::Whole), Some(true), "{word}");
        assert_eq!(sure(word, &[meant, "harbour"], Among::Open), Some(false), "{word}");
    }
    for (word, meant) in [
        ("DEPLOY_KEY_2", "DEPLOY_KEY_1"),
        ("STAGE_TOKEN", "STORE_TOKEN"),
        ("build:prod", "build:prd2"),
        ("test2", "test1"),
        ("deploy-b.yml", "deploy-a.yml"),
        ("tests", "test"),
        ("exclude", "include"),
    ] {
        assert_ne!(sure(word, &[meant], Among::Whole), Some(true), "{word}");
    }
    assert_eq!(sure("step", &["steps", "needs"], Among::Closed), Some(true));
    assert_eq!(sure("biuld", &["build", "buildd"], Among::Whole), Some(true));
    assert_eq!(sure("buil", &["build", "built"], Among::Whole), Some(false));
}
