//! Real pipeline files, damaged at random: no damage may end in a panic, or in more than a person could read.

use proptest::prelude::*;

use crate::facts::{Facts, FileList, Found, GitFacts, Origin};
use crate::formats::prepare_alone;
use crate::project::Project;
use crate::text::{SourceFile, Sources};

const FILES: [(&str, &str, &str); 4] = [
    (".github/workflows/sail.yml", include_str!("../../../demo/healthy/.github/workflows/sail.yml"), "workflow"),
    (".github/workflows/preview.yml", include_str!("../../../demo/faulty/.github/workflows/preview.yml"), "workflow"),
    (".gitlab-ci.yml", include_str!("../../../demo/healthy_gitlab/.gitlab-ci.yml"), "gitlab"),
    (".gitlab-ci.yml", include_str!("../../../demo/faulty_gitlab/.gitlab-ci.yml"), "gitlab"),
];

/// Something that a tired hand does to a text.
#[derive(Clone, Debug)]
enum Slip {
    Remove(usize, usize),
    Insert(usize, &'static str),
    Repeat(usize, usize),
}

fn slip() -> impl Strategy<Value = Slip> {
    let pieces = prop::sample::select(vec![
        ":",
        "- ",
        "\t",
        "{{",
        "${{ ",
        "}}",
        "'",
        "\"",
        "*",
        "!",
        "&a ",
        "*a",
        "[",
        "]",
        "{",
        "}",
        "\n",
        "  ",
        "|\n",
        "#",
        "<<: ",
        "\u{202e}",
        "é",
        "\r",
        "---\n",
        "$(",
        "|| true",
        "(",
        "!reference [a, b]",
    ]);
    prop_oneof![
        (any::<usize>(), 1..40_usize).prop_map(|(at, length)| Slip::Remove(at, length)),
        (any::<usize>(), pieces).prop_map(|(at, piece)| Slip::Insert(at, piece)),
        (any::<usize>(), 1..200_usize).prop_map(|(at, length)| Slip::Repeat(at, length)),
    ]
}

fn damaged(text: &str, slips: &[Slip]) -> String {
    let mut characters: Vec<char> = text.chars().collect();
    for slip in slips {
        let count = characters.len().max(1);
        match slip {
            Slip::Remove(at, length) => {
                let from = at % count;
                characters.drain(from.min(characters.len())..(from + length).min(characters.len()));
            }
            Slip::Insert(at, piece) => {
                let from = (at % count).min(characters.len());
                characters.splice(from..from, piece.chars());
            }
            Slip::Repeat(at, length) => {
                let from = (at % count).min(characters.len());
                let part: Vec<char> = characters[from..(from + length).min(characters.len())].to_vec();
                characters.splice(from..from, part);
            }
        }
    }
    characters.into_iter().collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]
    #[test]
    fn damaged_files_end_in_findings(file in 0..FILES.len(), slips in prop::collection::vec(slip(), 1..6)) {
        let (path, text, format) = FILES[file];
        let mut sources = Sources::default();
        let id = sources.add(SourceFile::new(path, damaged(text, &slips)));
        let package = sources.add(SourceFile::new("package.json", include_str!("../../../demo/healthy/package.json")));
        let list = FileList::new(vec!["package.json".into(), "package-lock.json".into(), "src/main.js".into()], Vec::new());
        let known = |name: &str| crate::facts::Fact::Known(name.to_owned(), Origin::Git);
        let git = GitFacts { branches: crate::facts::Fact::Known(vec!["main".into()], Origin::Git), default_branch: known("main"), ..GitFacts::default() };
        let facts = Facts::from_found(Found { git, files: crate::facts::Fact::Known(list, Origin::Files), companions: vec![package], ..Found::default() }, &sources);
        let prepared = prepare_alone(id, sources.get(id), crate::formats::named(format).expect("a format"));
        let project = Project::new(&prepared, &facts, &sources, None);
        let findings = crate::check(&project, 0);
        prop_assert!(findings.len() < 2_000);
        let mended = crate::mend::plan(&findings, &sources, 0..findings.len());
        prop_assert!(mended.len() <= 1);
        prop_assert!(crate::views::ways(&project).len() < 100);
    }
}
