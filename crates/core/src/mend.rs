//! Edits that are surely right, put together: which of them go together, and the text that comes out.

use crate::finding::{Edit, Finding};
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

/// Chooses from the certain mends a set in which nothing overlaps: in the order of places, each whole or not at all. Two findings with
/// the very same edit are mended by one.
pub fn plan(findings: &[Finding], sources: &Sources, wanted: &dyn Fn(&Finding) -> bool) -> Vec<FileMend> {
    let mut order: Vec<usize> = (0..findings.len())
        .filter(|index| {
            let finding = &findings[*index];
            finding.mend.certain && !finding.mend.edits.is_empty() && wanted(finding)
        })
        .collect();
    order.sort_by_key(|index| {
        findings[*index].mend.edits.iter().map(|edit| (edit.at.file, edit.at.span.start, edit.at.span.end)).min()
    });
    let mut chosen: Vec<(usize, &[Edit])> = Vec::new();
    for index in order {
        let edits = findings[index].mend.edits.as_slice();
        let one_file = edits.iter().all(|edit| edit.at.file == edits[0].at.file);
        let clashes = edits
            .iter()
            .any(|edit| chosen.iter().any(|(_, others)| others.iter().any(|other| clash(edit, other) && edit != other)));
        if one_file && !clashes {
            chosen.push((index, edits));
        }
    }
    let mut files: Vec<FileId> = chosen.iter().map(|(_, edits)| edits[0].at.file).collect();
    files.sort_unstable();
    files.dedup();
    files.into_iter().map(|file| file_mend(file, &chosen, sources)).collect()
}

fn clash(one: &Edit, other: &Edit) -> bool {
    let (a, b) = (one.at.span, other.at.span);
    let same_point = a.start == b.start && (a.is_empty() || b.is_empty());
    one.at.file == other.at.file && (same_point || (a.start < b.end && b.start < a.end))
}

fn file_mend(file: FileId, chosen: &[(usize, &[Edit])], sources: &Sources) -> FileMend {
    let own: Vec<&(usize, &[Edit])> = chosen.iter().filter(|(_, edits)| edits[0].at.file == file).collect();
    let mut edits: Vec<&Edit> = own.iter().flat_map(|(_, edits)| edits.iter()).collect();
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
    FileMend { file, findings: own.iter().map(|(index, _)| *index).collect(), text }
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
        let planned = plan(&findings, &sources, &|_| true);
        assert_eq!(planned.len(), 1);
        assert_eq!((planned[0].text.as_str(), planned[0].findings.as_slice()), ("1\r\n 2 three\r\n", [1, 0].as_slice()));
        assert!(plan(&findings, &sources, &|finding| finding.message == "d").is_empty());
    }
}
