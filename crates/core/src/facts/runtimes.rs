//! Versions of runtimes that files of the repository ask for.

use super::{Facts, Origin};
use crate::knowledge::hostings;
use crate::text::{FileId, Place, Sources, Span, file_name};

/// A runtime and the version that a file asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RuntimeFact {
    /// Such as `node`.
    pub tool: String,
    /// As written; `lts/*` and the like name no number.
    pub version: String,
    /// The file.
    pub path: String,
    /// Where in it.
    pub origin: Origin,
}

impl RuntimeFact {
    /// The major version, when the file names one.
    pub fn major(&self) -> Option<u32> {
        let digits: String = self.version.trim_start_matches('v').chars().take_while(char::is_ascii_digit).collect();
        digits.parse().ok()
    }
}

/// Reads the version files that the repository has, at its root and beside its packages.
pub(super) fn read(facts: &Facts, sources: &Sources) -> Vec<RuntimeFact> {
    let mut found = Vec::new();
    for (path, file) in &facts.texts {
        let name = file_name(path);
        let Some(entry) = hostings().runtime_file.iter().find(|entry| entry.file == name) else { continue };
        let text = &sources.get(*file).text;
        let mut start = 0;
        for line in text.split_inclusive('\n') {
            let at = start;
            start += line.len();
            let words: Vec<&str> = line.split('#').next().unwrap_or_default().split_whitespace().collect();
            match (entry.many, &entry.tool, words.as_slice()) {
                (true, _, [tool, version, ..]) => found.push(fact(tool_name(tool), version, path, *file, line, at)),
                (false, Some(tool), [version, ..]) => {
                    found.push(fact(tool, version, path, *file, line, at));
                    break;
                }
                _ => {}
            }
        }
    }
    found
}

/// `.tool-versions` names node by its longer name.
fn tool_name(tool: &str) -> &str {
    match tool {
        "nodejs" => "node",
        "golang" => "go",
        other => other,
    }
}

fn fact(tool: &str, version: &str, path: &str, file: FileId, line: &str, start: usize) -> RuntimeFact {
    let from = start + line.find(version).unwrap_or(0);
    let origin = Origin::At(Place { file, span: Span::new(from, from + version.len()) });
    RuntimeFact { tool: tool.to_owned(), version: version.to_owned(), path: path.to_owned(), origin }
}
