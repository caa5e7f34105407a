//! Edits that are surely right, put together: which of them go together, and the texts that come out.

use std::collections::BTreeMap;

use crate::finding::{Edit, Finding, Severity};
use crate::text::{FileId, Sources};

/// The edits of one file that are applied together.
#[derive(Clone, Debug, PartialEq)]
pub struct FileMend {
    /// The file.
    pub file: FileId,
    /// The findings that are mended, by their number in the list that was given.
    pub findings: Vec<usize>,
    /// The text after all edits.
    pub text: String,
}

/// What comes of mending all that is certain.
#[derive(Debug)]
pub struct Mended {
    /// The texts afterwards.
    pub sources: Sources,
    /// How many findings are gone.
    pub count: usize,
    /// Findings that are left, in the new texts.
    pub left: Vec<Finding>,
    /// Findings whose certain mend is not applied, as it does not do what it should; with the reason.
    pub refused: Vec<(Finding, String)>,
}

/// A repository is checked at most so often while it is mended: mends make room for others, and one that fails has to be found.
const CHECKS: usize = 200;

/// Mends everything certain in all files together, and checks what comes out with `check`; over and over, as mends make room for others.
/// A mend after which its finding is still there, or a new one is, is found by halving and left out.
pub fn mend_all(
    findings: Vec<Finding>,
    sources: &Sources,
    wanted: &dyn Fn(&Finding) -> bool,
    check: &dyn Fn(&Sources) -> Vec<Finding>,
) -> Mended {
    let mut done = Mended { sources: sources.clone(), count: 0, left: findings, refused: Vec::new() };
    let mut left = CHECKS;
    while left > 0 {
        let candidates: Vec<usize> = (0..done.left.len())
            .filter(|index| {
                let finding = &done.left[*index];
                wanted(finding) && !done.refused.iter().any(|(refused, _)| same(refused, finding))
            })
            .collect();
        let round = Round { before: &done.left, sources: &done.sources, check };
        let planned = plan(&done.left, &done.sources, candidates);
        if planned.is_empty() {
            break;
        }
        let chosen: Vec<usize> = planned.into_iter().flat_map(|mend| mend.findings).collect();
        let (outcome, bad) = round.best_of(&chosen, &mut left);
        let bad: Vec<(Finding, String)> = bad.into_iter().map(|(index, reason)| (done.left[index].clone(), reason)).collect();
        done.refused.extend(bad);
        if let Some(outcome) = outcome {
            (done.sources, done.left) = (outcome.sources, outcome.left);
            done.count += outcome.count;
        }
    }
    done
}

/// The same thing said of the same file; places move while it is mended.
fn same(one: &Finding, other: &Finding) -> bool {
    (one.at.file, one.rule, &one.message) == (other.at.file, other.rule, &other.message)
}

/// One state of all texts, and mends to be tried on it.
struct Round<'r> {
    before: &'r [Finding],
    sources: &'r Sources,
    check: &'r dyn Fn(&Sources) -> Vec<Finding>,
}

/// What came of trying some mends.
struct Outcome {
    sources: Sources,
    left: Vec<Finding>,
    count: usize,
}

impl Round<'_> {
    /// All of these mends when that goes well; otherwise as many of them as can be found quickly, with one that cannot be kept.
    fn best_of(&self, chosen: &[usize], left: &mut usize) -> (Option<Outcome>, Option<(usize, String)>) {
        *left = left.saturating_sub(1);
        let reason = match self.holds(chosen) {
            Ok(outcome) => return (Some(outcome), None),
            Err(reason) => reason,
        };
        if let [only] = chosen {
            return (None, Some((*only, reason)));
        }
        // Half of them go well, and the next round tries the others; or the one that does not is among these.
        self.best_of(&chosen[..chosen.len() / 2], left)
    }

    /// What comes out; an error when a finding is left that should be gone, or a new one is there.
    fn holds(&self, chosen: &[usize]) -> Result<Outcome, String> {
        let planned = plan(self.before, self.sources, chosen.iter().copied());
        let texts = planned.iter().map(|mend| (mend.file, mend.text.clone()));
        let sources = self.sources.with(texts);
        let left = (self.check)(&sources);
        let mut count: BTreeMap<_, isize> = BTreeMap::new();
        for finding in self.before {
            *count.entry(key(finding)).or_default() += 1;
        }
        let known = count.clone();
        for finding in &left {
            *count.entry(key(finding)).or_default() -= 1;
        }
        let new = left
            .iter()
            .find(|finding| finding.severity > Severity::Advice && count.get(&key(finding)).is_some_and(|left| *left < 0));
        if let Some(new) = new {
            return Err(format!("it would bring a new finding, {}", new.rule));
        }
        let stays = |index: &&usize| {
            let key = key(&self.before[**index]);
            known.get(&key).is_some_and(|known| *known > 0) && count.get(&key).is_none_or(|gone| *gone <= 0)
        };
        match chosen.iter().find(stays) {
            Some(index) => Err(format!("{} would still be there", self.before[*index].rule)),
            None => Ok(Outcome { sources, left, count: chosen.len() }),
        }
    }
}

fn key(finding: &Finding) -> (FileId, &'static str, &str) {
    (finding.at.file, finding.rule, &finding.message)
}

/// Chooses from certain mends a set in which nothing overlaps: in the order of places, each whole or not at all. Two findings with
/// the very same edit are mended by one. `candidates` are numbers in the list of findings.
pub fn plan(findings: &[Finding], sources: &Sources, candidates: impl IntoIterator<Item = usize>) -> Vec<FileMend> {
    let mut by_file: BTreeMap<FileId, Vec<(usize, &[Edit])>> = BTreeMap::new();
    for index in candidates {
        let mend = &findings[index].mend;
        let Some(first) = mend.edits.first().filter(|_| mend.certain) else { continue };
        if mend.edits.iter().all(|edit| edit.at.file == first.at.file) {
            by_file.entry(first.at.file).or_default().push((index, &mend.edits));
        }
    }
    by_file.into_iter().map(|(file, mends)| file_mend(file, mends, sources)).collect()
}

fn clash(one: &Edit, other: &Edit) -> bool {
    let (a, b) = (one.at.span, other.at.span);
    let same_point = a.start == b.start && (a.is_empty() || b.is_empty());
    same_point || (a.start < b.end && b.start < a.end)
}

fn file_mend(file: FileId, mut mends: Vec<(usize, &[Edit])>, sources: &Sources) -> FileMend {
    mends.sort_by_key(|(_, edits)| edits.iter().map(|edit| (edit.at.span.start, edit.at.span.end)).min());
    let mut edits: Vec<&Edit> = Vec::new();
    let mut chosen = Vec::new();
    for (index, own) in mends {
        if own.iter().any(|edit| edits.iter().any(|other| clash(edit, other) && *other != edit)) {
            continue;
        }
        chosen.push(index);
        edits.extend(own);
    }
    edits.sort_by_key(|edit| std::cmp::Reverse((edit.at.span.start, edit.at.span.end)));
    edits.dedup();
    let source = sources.get(file);
    let mut text = source.text.clone();
    let line_end = if source.text.contains("\r\n") { "\r\n" } else { "\n" };
    for edit in edits {
        let new =
            if line_end == "\n" || edit.text.contains("\r\n") { edit.text.clone() } else { edit.text.replace('\n', line_end) };
        text.replace_range(edit.at.span.range(), &new);
    }
    FileMend { file, findings: chosen, text }
}

#[cfg(test)]
mod tests {
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
}
