//! Mends that are put together.

use super::*;
use crate::finding::{Findings, Mend, Severity};
use crate::text::{Place, SourceFile, Span};

fn at(start: usize, end: usize) -> Place {
    Place { file: FileId(0), span: Span::new(start, end) }
}

#[test]
fn edits_that_overlap_are_left_for_the_next_time() {
    let mut sources = Sources::default();
    sources.add(SourceFile::new("a.yml", "one two three\r\n"));
    let mut out = Findings::new("branch.absent", Severity::Error);
    out.add(at(4, 7), "b").mend(Mend::certain("", [Edit::replace(at(4, 7), "2")]));
    out.add(at(0, 3), "a").mend(Mend::certain("", [Edit::replace(at(0, 3), "1\n")]));
    out.add(at(2, 5), "c").mend(Mend::certain("", [Edit::replace(at(2, 5), "x")]));
    out.add(at(8, 13), "d").mend(Mend::likely("", [Edit::replace(at(8, 13), "3")]));
    let findings = out.into_vec();
    let planned = plan(&findings, &sources, [0, 1, 2, 3]);
    assert_eq!(planned.len(), 1);
    assert_eq!((planned[0].text.as_str(), planned[0].findings.as_slice()), ("1\r\n 2 three\r\n", [1, 0].as_slice()));
    assert!(plan(&findings, &sources, [3]).is_empty());
}
/// A check of words: each `bad` is a finding whose certain mend writes `good`, except that `worse` comes of `bad!`.
fn words(sources: &Sources) -> Vec<Finding> {
    let mut out = Findings::new("branch.absent", Severity::Error);
    for (file, source) in sources.iter() {
        let text = &source.text;
        for (start, word) in text.match_indices("bad").chain(text.match_indices("worse")) {
            let place = Place { file, span: Span::new(start, start + word.len()) };
            let instead = if text[start..].starts_with("bad!") { "worse" } else { "good" };
            let mend = if word == "bad" { Mend::certain("", [Edit::replace(place, instead)]) } else { Mend::by_hand("") };
            let before = text[..start].split(' ').count();
            out.add(place, format!("word {before} is {word}")).mend(mend);
        }
    }
    out.into_vec()
}

#[test]
fn all_files_are_mended_at_once_and_one_that_would_get_worse_is_left() {
    let mut sources = Sources::default();
    for number in 0..40 {
        sources.add(SourceFile::new(format!("{number}.yml"), if number == 17 { "bad bad! x\n" } else { "bad x bad\n" }));
    }
    let checks = std::cell::Cell::new(0);
    let check = |sources: &Sources| {
        checks.set(checks.get() + 1);
        words(sources)
    };
    let mended = mend_all(words(&sources), &sources, &|_| true, &check);
    assert_eq!(mended.count, 39 * 2 + 1);
    assert_eq!(mended.left.len(), 1);
    assert_eq!(mended.refused.len(), 1, "{:?}", mended.refused.iter().map(|(_, reason)| reason).collect::<Vec<_>>());
    assert_eq!(mended.sources.get(FileId(17)).text, "good bad! x\n");
    assert!(checks.get() < 20, "{} checks", checks.get());
}

/// What comes of one edit that is called certain: the text, and why it was refused.
fn mended(path: &str, text: &str, (old, new): (&str, &str), also: &str) -> (String, Vec<String>) {
    let mut sources = Sources::default();
    sources.add(SourceFile::new(path, text));
    let check = |sources: &Sources| {
        let mut out = Findings::new("branch.absent", Severity::Error);
        let source = &sources.get(FileId(0)).text;
        match source.find(old) {
            Some(start) => {
                let place = at(start, start + old.len());
                out.add(place, "wrong").mend(Mend::certain("", [Edit::replace(place, new)]));
            }
            None => {
                if let Some(start) = source.find(also) {
                    out.add(at(start, start + also.len()), "was hidden");
                }
            }
        }
        out.into_vec()
    };
    let done = mend_all(check(&sources), &sources, &|_| true, &check);
    (done.sources.get(FileId(0)).text.clone(), done.refused.into_iter().map(|(_, reason)| reason).collect())
}

#[test]
fn what_was_hidden_before_does_not_hold_a_mend_up_and_what_it_writes_does() {
    let text = "needs: biuld\nif: never()\n";
    let hidden = mended("a.yml", text, ("biuld", "build"), "never()");
    assert_eq!(hidden, ("needs: build\nif: never()\n".to_owned(), Vec::new()));
    let (left, refused) = mended("a.yml", text, ("biuld", "build"), "build");
    assert_eq!((left.as_str(), refused.len()), (text, 1));
}

#[test]
fn a_mend_that_changes_what_it_does_not_write_is_refused() {
    let moved = mended("a.yml", "a:\n  b: 1\nc: 2\n", ("\nc", "\n  c"), "nothing");
    assert_eq!(moved.1, ["it would change more than it writes"]);
    let braces = mended("a.yml", "with: {key: KEY, other: 1}\n", ("KEY", "${{ KEY2 }}"), "nothing");
    assert_eq!(braces.1, ["it would change more than it writes"]);
    assert!(mended("a.yml", "a:\n  b: 1\nc: 2\n", ("b: 1", "b: 4\n  d: 3"), "nothing").1.is_empty());
    assert!(mended("a.js", "a = {\n", ("a = {", "a = 1"), "nothing").1.is_empty());
}
