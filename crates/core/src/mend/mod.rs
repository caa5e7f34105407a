//! Edits that are surely right, put together: which of them go together, and the texts that come out.

mod kept;

use std::collections::BTreeMap;

use crate::finding::{Edit, Finding, Severity};
use crate::text::{FileId, Sources, Span};

/// The edits of one file that are applied together.
#[derive(Clone, Debug, PartialEq)]
pub struct FileMend {
    /// The file.
    pub file: FileId,
    /// The findings that are mended, by their number in the list that was given.
    pub findings: Vec<usize>,
    /// The text after all edits.
    pub text: String,
    /// The bytes that are replaced, in the text before, in its order.
    replaced: Vec<Span>,
    /// The bytes that are new, in the text after, in its order.
    written: Vec<Span>,
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
/// A mend is found by halving and left out after which its finding is still there, the file means something else where the mend
/// writes nothing, or something is said of what it writes. What another rule says then of the rest was only hidden before.
pub fn mend_all(
    findings: Vec<Finding>,
    sources: &Sources,
    wanted: &dyn Fn(&Finding) -> bool,
    check: &dyn Fn(&Sources) -> Vec<Finding>,
) -> Mended {
    let mut done = Mended { sources: sources.clone(), count: 0, left: findings, refused: Vec::new() };
    let mut refused: Vec<Told> = Vec::new();
    let mut left = CHECKS;
    while left > 0 {
        let candidates: Vec<usize> = (0..done.left.len())
            .filter(|index| {
                let finding = &done.left[*index];
                wanted(finding) && !refused.contains(&Told::of(finding, &done.sources))
            })
            .collect();
        let round = Round { before: &done.left, sources: &done.sources, check };
        let planned = plan(&done.left, &done.sources, candidates);
        if planned.is_empty() {
            break;
        }
        let chosen: Vec<usize> = planned.into_iter().flat_map(|mend| mend.findings).collect();
        let (outcome, bad) = round.best_of(&chosen, &mut left);
        if let Some((index, reason)) = bad {
            refused.push(Told::of(&done.left[index], &done.sources));
            done.refused.push((done.left[index].clone(), reason));
        }
        if let Some(outcome) = outcome {
            (done.sources, done.left) = (outcome.sources, outcome.left);
            done.count += outcome.count;
        }
    }
    done
}

/// What is said, and of which words; places move while a file is mended.
#[derive(PartialEq, Eq)]
struct Told {
    file: FileId,
    rule: &'static str,
    message: String,
    line: String,
}

impl Told {
    fn of(finding: &Finding, sources: &Sources) -> Self {
        let line = sources.get(finding.at.file).line_at(finding.at.span.start).to_owned();
        Self { file: finding.at.file, rule: finding.rule, message: finding.message.clone(), line }
    }
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

    /// What comes out, or why these mends are not kept.
    fn holds(&self, chosen: &[usize]) -> Result<Outcome, String> {
        let planned = plan(self.before, self.sources, chosen.iter().copied());
        for mend in &planned {
            let source = self.sources.get(mend.file);
            if kept::is_yaml(&source.path) && !kept::keeps_the_rest(&source.text, mend) {
                return Err("it would change more than it writes".to_owned());
            }
        }
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
        let is_new = |finding: &&Finding| count.get(&key(finding)).is_some_and(|left| *left < 0);
        let of_mends = |finding: &&Finding| planned.iter().any(|mend| mend.wrote(finding));
        let mut new = left.iter().filter(|finding| finding.severity > Severity::Advice).filter(is_new);
        if let Some(new) = new.find(of_mends) {
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

impl FileMend {
    /// Whether a finding in the text afterwards is about what was written.
    fn wrote(&self, finding: &Finding) -> bool {
        finding.at.file == self.file && kept::touches(&self.written, finding.at.span)
    }
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
    edits.sort_by_key(|edit| (edit.at.span.start, edit.at.span.end));
    edits.dedup();
    let source = sources.get(file);
    let line_end = if source.text.contains("\r\n") { "\r\n" } else { "\n" };
    let mut mend = FileMend {
        file,
        findings: chosen,
        text: String::with_capacity(source.text.len()),
        replaced: Vec::new(),
        written: Vec::new(),
    };
    let mut done = 0;
    for edit in edits {
        let range = edit.at.span.range();
        mend.text.push_str(&source.text[done..range.start]);
        let start = mend.text.len();
        match line_end == "\n" || edit.text.contains("\r\n") {
            true => mend.text.push_str(&edit.text),
            false => mend.text.push_str(&edit.text.replace('\n', line_end)),
        }
        mend.written.push(Span::new(start, mend.text.len()));
        mend.replaced.push(edit.at.span);
        done = range.end;
    }
    mend.text.push_str(&source.text[done..]);
    mend
}

#[cfg(test)]
mod tests;
