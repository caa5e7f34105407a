//! Files that images are made by: what each takes out of the folder that it is made in, and what its image runs.

use std::ops::Range;

use crate::shell;
use crate::text::{FileId, Place, Span, file_name};

/// What is read of a `Dockerfile`.
#[derive(Clone, Debug)]
pub struct Dockerfile {
    /// The file.
    pub file: FileId,
    /// Its stages, the one last that becomes the image.
    pub stages: Vec<Stage>,
}

/// One `FROM` with all behind it.
#[derive(Clone, Debug)]
pub struct Stage {
    /// The name that other stages call it by.
    pub name: Option<String>,
    /// The image that it is made of, as it is written.
    pub base: Written,
    /// What it takes out of the folder that the image is made in; nothing of other stages, nor from elsewhere.
    pub takes: Vec<Written>,
    /// The words of `ENTRYPOINT`; nothing where there is none.
    pub entry: Option<Vec<String>>,
    /// The words of `CMD`.
    pub command: Option<Vec<String>>,
}

/// A word with its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Written {
    /// Without quotes.
    pub text: String,
    /// Where it stands.
    pub at: Place,
}

impl Dockerfile {
    /// The words of the program that its image runs, to which further words may be added; nothing where none is named.
    pub fn program(&self) -> Option<&[String]> {
        self.stages.last()?.entry.as_deref()
    }

    /// What any of its stages takes out of the folder that it is made in.
    pub fn takes(&self) -> impl Iterator<Item = &Written> {
        self.stages.iter().flat_map(|stage| &stage.takes)
    }

    /// The images that it starts from, other stages left out.
    pub fn bases(&self) -> impl Iterator<Item = &Written> {
        let is_stage = |word: &str| self.stages.iter().any(|stage| stage.name.as_deref() == Some(word));
        self.stages.iter().map(|stage| &stage.base).filter(move |base| !is_stage(&base.text))
    }
}

/// Whether a path names such a file: `Dockerfile`, `Dockerfile.site`, `site.Dockerfile`.
pub fn is_dockerfile(path: &str) -> bool {
    let name = file_name(path);
    name == "Dockerfile" || name == "Containerfile" || name.starts_with("Dockerfile.") || name.ends_with(".Dockerfile")
}

/// One instruction: its word, and its arguments as one text whose continued lines are joined.
struct Instruction<'t> {
    word: String,
    /// Arguments with the bytes that they have in the file.
    arguments: Vec<(&'t str, Range<usize>)>,
    /// All behind the word, as far as it stands in one line.
    rest: &'t str,
}

/// Reads a file of this kind. Lines that are not understood are passed over.
pub(super) fn read(file: FileId, text: &str) -> Dockerfile {
    let mut stages: Vec<Stage> = Vec::new();
    for instruction in instructions(text) {
        let written = |(word, range): &(&str, Range<usize>)| Written {
            text: word.trim_matches('"').to_owned(),
            at: Place { file, span: Span::new(range.start, range.end) },
        };
        let plain: Vec<&(&str, Range<usize>)> =
            instruction.arguments.iter().filter(|(word, _)| !word.starts_with("--")).collect();
        if instruction.word == "FROM" {
            let Some(base) = plain.first() else { continue };
            let name = plain.get(2).filter(|_| plain[1].0.eq_ignore_ascii_case("as")).map(|(word, _)| (*word).to_owned());
            stages.push(Stage { name, base: written(base), takes: Vec::new(), entry: None, command: None });
            continue;
        }
        let Some(stage) = stages.last_mut() else { continue };
        match instruction.word.as_str() {
            "COPY" | "ADD" => stage.takes.extend(taken(&instruction, file)),
            "ENTRYPOINT" => stage.entry = words(&instruction),
            "CMD" => stage.command = words(&instruction),
            _ => {}
        }
    }
    Dockerfile { file, stages }
}

/// The instructions of a file, comments and the bodies of here-documents left out.
fn instructions(text: &str) -> Vec<Instruction<'_>> {
    let mut found: Vec<Instruction<'_>> = Vec::new();
    let (mut start, mut goes_on) = (0, false);
    let mut body: Option<String> = None;
    for line in text.split_inclusive('\n') {
        let from = start;
        start += line.len();
        let trimmed = line.trim();
        if let Some(end) = &body {
            if trimmed == end {
                body = None;
            }
            continue;
        }
        if trimmed.starts_with('#') || trimmed.is_empty() {
            continue;
        }
        let kept = trimmed.strip_suffix('\\').unwrap_or(trimmed);
        let at = from + (line.len() - line.trim_start().len());
        if goes_on && let Some(last) = found.last_mut() {
            last.arguments.extend(words_of(kept, at));
        } else {
            let (word, rest) = kept.split_once(char::is_whitespace).unwrap_or((kept, ""));
            let behind = at + kept.len() - rest.len();
            let arguments = words_of(rest, behind);
            found.push(Instruction { word: word.to_ascii_uppercase(), arguments, rest });
        }
        goes_on = trimmed.ends_with('\\');
        if !goes_on && let Some(last) = found.last() {
            body = here_document(last);
        }
    }
    found
}

/// The word that ends the here-document that an instruction opens.
fn here_document(instruction: &Instruction<'_>) -> Option<String> {
    if !matches!(instruction.word.as_str(), "RUN" | "COPY" | "ADD") {
        return None;
    }
    let (word, _) = instruction.arguments.iter().find(|(word, _)| word.starts_with("<<") && word.len() > 2)?;
    Some(word.trim_start_matches("<<").trim_start_matches('-').trim_matches(['"', '\'']).to_owned())
}

fn words_of(text: &str, start: usize) -> Vec<(&str, Range<usize>)> {
    let of = |word: &'_ str| {
        let from = word.as_ptr() as usize - text.as_ptr() as usize;
        start + from..start + from + word.len()
    };
    text.split_whitespace().map(|word| (word, of(word))).collect()
}

/// What `COPY` takes out of the folder: all its words but the last, where nothing says that it is taken from elsewhere.
fn taken(instruction: &Instruction<'_>, file: FileId) -> Vec<Written> {
    if instruction.arguments.iter().any(|(word, _)| word.starts_with("--from") || word.starts_with("<<")) {
        return Vec::new();
    }
    let strip = |(word, range): &(&str, Range<usize>)| {
        let inner = word.trim_start_matches('[').trim_end_matches([']', ',']).trim_matches('"');
        let from = range.start + word.find(inner).unwrap_or(0);
        let at = Place { file, span: Span::new(from, from + inner.len()) };
        Written { text: inner.to_owned(), at }
    };
    let mut words: Vec<Written> = instruction
        .arguments
        .iter()
        .filter(|(word, _)| !word.starts_with("--"))
        .map(strip)
        .filter(|word| !word.text.is_empty())
        .collect();
    words.pop();
    // Addresses are fetched, and what a variable names is not known.
    words.retain(|word| !word.text.contains("://") && !word.text.contains('$') && !word.text.contains(','));
    words
}

/// The words of `["a", "b"]`, or of a line that a shell would run.
fn words(instruction: &Instruction<'_>) -> Option<Vec<String>> {
    let rest = instruction.rest.trim();
    if rest.starts_with('[') {
        return serde_json::from_str(rest).ok();
    }
    let script = shell::parse(rest);
    let [command] = script.commands.as_slice() else { return None };
    Some(command.words.iter().map(|word| word.text.clone()).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read_text(text: &str) -> Dockerfile {
        read(FileId(0), text)
    }

    #[test]
    fn stages_take_files_out_of_the_folder_and_of_each_other() {
        let text = "# ferry\nfrom node:24 AS made\nCOPY --chown=node package.json \\\n  # a word\n  package-lock.json ./\nCOPY . .\nRUN <<END\n\
                    COPY no such\nEND\nFROM nginx\nCOPY --from=made /app/dist /srv\nCOPY [\"conf/a.conf\", \"/etc/\"]\nADD https://quay.example/a /b\n";
        let file = read_text(text);
        let takes: Vec<&str> = file.takes().map(|taken| taken.text.as_str()).collect();
        assert_eq!(takes, ["package.json", "package-lock.json", ".", "conf/a.conf"]);
        for taken in file.takes() {
            assert_eq!(&text[taken.at.span.range()], taken.text);
        }
        assert_eq!(file.bases().map(|base| base.text.as_str()).collect::<Vec<_>>(), ["node:24", "nginx"]);
    }

    #[test]
    fn the_last_stage_says_what_runs() {
        let program = |text: &str| read_text(text).program().map(<[String]>::to_vec);
        assert_eq!(program("FROM node:24\nENTRYPOINT [\"firebase\"]\nCMD [\"--help\"]\n"), Some(vec!["firebase".to_owned()]));
        assert_eq!(program("FROM a\nENTRYPOINT exec hugo\n"), Some(vec!["exec".to_owned(), "hugo".to_owned()]));
        assert_eq!(program("FROM a\nENTRYPOINT [\"x\"]\nFROM b\n"), None);
        assert_eq!(program("ENTRYPOINT [\"x\"]\n"), None);
        assert_eq!(program("FROM a\nENTRYPOINT [\"x\n"), None);
    }

    #[test]
    fn names_of_such_files_are_known() {
        assert!(["Dockerfile", "web/Dockerfile.site", "site.Dockerfile"].iter().all(|path| is_dockerfile(path)));
        assert!(!is_dockerfile("docs/dockerfile.md"));
    }
}
