//! Programs of the repository that its scripts run: their texts, and what they may reach at most.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use super::FileList;
use super::config::demands;
use crate::effects::join;
use crate::knowledge::{self, Language};
use crate::text::{FileId, Place, Sources};

/// A file that a script may run.
#[derive(Clone, Debug)]
pub struct Program {
    /// The language's id in the catalog; nothing for a file that a program takes names from.
    pub language: Option<&'static str>,
    /// Its text, where that is followed command by command.
    pub text: Option<Arc<str>>,
    /// What it may reach, with everything that it takes from other files of the repository.
    pub reach: Reach,
    /// Variables that it surely ends without, and where it reads them.
    pub demands: Vec<(String, Place)>,
}

/// What a program whose work is not known may touch.
#[derive(Clone, Debug)]
pub enum Reach {
    /// Anything at all.
    Anything,
    /// Folders, files and variables whose names stand in its text, or are handed to it.
    Named(Named),
}

/// Names that a program knows.
#[derive(Clone, Debug, Default)]
pub struct Named {
    /// The words of its text and of the files that it takes along.
    words: Arc<HashSet<String>>,
    /// What is handed to it: its arguments, the values of its variables, the folder that it works in.
    handed: Vec<String>,
}

impl Reach {
    /// What a text alone may reach, written in a language.
    pub fn of_text(text: &str, language: &Language) -> Self {
        if Taken::of("", text, language, &|_| false).escapes {
            return Self::Anything;
        }
        Self::Named(Named { words: Arc::new(words(text).collect()), handed: Vec::new() })
    }

    /// The same, with more that is handed to the program.
    pub fn with(&self, handed: impl Iterator<Item = String>) -> Self {
        match self {
            Self::Anything => Self::Anything,
            Self::Named(named) => {
                let handed = named.handed.iter().cloned().chain(handed).collect();
                Self::Named(Named { words: named.words.clone(), handed })
            }
        }
    }

    /// Whether a name may be known to the program, as a whole or put together from parts.
    pub fn knows(&self, name: &str) -> bool {
        let Self::Named(named) = self else { return true };
        named.words.contains(name)
            || named.words.iter().any(|word| is_part(word, name))
            || named.handed.iter().any(|text| text.contains(name))
    }

    /// Whether the program may make or change a path: it knows a name of it that is not one of the folders that are there anyway.
    /// `is_there` says so of a folder.
    pub fn may_touch(&self, path: &str, is_there: impl Fn(&str) -> bool) -> bool {
        let Self::Named(_) = self else { return true };
        let mut end = 0;
        let mut names = path.split('/').filter(|name| {
            end += name.len() + 1;
            end > path.len() || !is_there(&path[..end - 1])
        });
        names.any(|name| self.knows(name))
    }
}

/// `site-` or `-site`: the beginning or the end of a name that is put together when it runs.
fn is_part(word: &str, name: &str) -> bool {
    let joins = |c: char| matches!(c, '-' | '_' | '.');
    word.len() > 1 && (word.ends_with(joins) && name.starts_with(word) || word.starts_with(joins) && name.ends_with(word))
}

/// The words of a text, also those between dots.
fn words(text: &str) -> impl Iterator<Item = String> {
    let runs = text.split(|c: char| !(c.is_alphanumeric() || matches!(c, '-' | '_' | '.'))).filter(|run| !run.is_empty());
    runs.flat_map(|run| {
        let parts = run.split('.').filter(|part| part.len() < run.len() && !part.is_empty());
        std::iter::once(run).chain(parts).map(str::to_owned).collect::<Vec<_>>()
    })
}

/// What a program takes from elsewhere.
struct Taken {
    /// Files of the repository.
    files: Vec<String>,
    /// It takes something that may reach anything.
    escapes: bool,
}

impl Taken {
    fn of(path: &str, text: &str, language: &Language, has: &dyn Fn(&str) -> bool) -> Self {
        let mut taken = Self { files: Vec::new(), escapes: language.escapes.iter().any(|word| text.contains(word)) };
        let dir = Some(path.rsplit_once('/').map_or(String::new(), |(dir, _)| dir.to_owned()));
        match language.id {
            "javascript" => taken.modules_of_javascript(text, &dir, language, has),
            "python" => taken.modules_of_python(text, &dir, language, has),
            // Their commands are followed one by one.
            _ => {}
        }
        for word in paths_in(text) {
            taken
                .files
                .extend([join(&dir, word), join(&Some(String::new()), word)].into_iter().flatten().filter(|path| has(path)));
        }
        taken
    }

    /// `import … from "x"`, `import("x")`, `require("x")`.
    fn modules_of_javascript(&mut self, text: &str, dir: &Option<String>, language: &Language, has: &dyn Fn(&str) -> bool) {
        for word in ["from", "import", "require"] {
            for (index, _) in text.match_indices(word) {
                let before = text[..index].chars().next_back();
                if before.is_some_and(|c| c.is_alphanumeric() || matches!(c, '_' | '$' | '.')) {
                    continue;
                }
                let rest = text[index + word.len()..].trim_start();
                let (called, rest) = match rest.strip_prefix('(') {
                    Some(inner) => (true, inner.trim_start()),
                    None => (false, rest),
                };
                match rest.chars().next() {
                    Some(quote @ ('"' | '\'' | '`')) => {
                        let name = rest[1..].split(quote).next().unwrap_or_default();
                        self.take_module(name, dir, language, has);
                    }
                    // What is taken is only known when it runs.
                    Some(_) if called && word != "from" => self.escapes = true,
                    _ => {}
                }
            }
        }
    }

    fn take_module(&mut self, name: &str, dir: &Option<String>, language: &Language, has: &dyn Fn(&str) -> bool) {
        if !name.starts_with('.') {
            self.escapes |= !language.is_tame(name.strip_prefix("node:").unwrap_or(name));
            return;
        }
        let Some(path) = join(dir, name) else {
            self.escapes = true;
            return;
        };
        const ENDINGS: [&str; 9] = ["", ".js", ".mjs", ".cjs", ".ts", ".mts", "/index.js", "/index.mjs", "/index.ts"];
        let written = |path: &str| path.strip_suffix(".js").map(|stem| format!("{stem}.ts"));
        let found = ENDINGS.iter().map(|ending| format!("{path}{ending}")).chain(written(&path)).find(|path| has(path));
        match found {
            Some(path) => self.files.push(path),
            None => self.escapes = true,
        }
    }

    /// `import a, b.c as d`, `from a.b import c`.
    fn modules_of_python(&mut self, text: &str, dir: &Option<String>, language: &Language, has: &dyn Fn(&str) -> bool) {
        for line in text.lines().map(str::trim_start) {
            let named = match line.strip_prefix("import ") {
                Some(names) => names.split(',').collect::<Vec<_>>(),
                None => line.strip_prefix("from ").and_then(|rest| rest.split(" import").next()).into_iter().collect(),
            };
            for name in named {
                let name = name.split_whitespace().next().unwrap_or_default().trim_start_matches('.');
                let path = name.replace('.', "/");
                let top = name.split('.').next().unwrap_or_default();
                let near = [join(dir, &path), join(&Some(String::new()), &path)].into_iter().flatten();
                let found = near.flat_map(|path| [format!("{path}.py"), format!("{path}/__init__.py")]).find(|path| has(path));
                match found {
                    Some(path) => self.files.push(path),
                    None => self.escapes |= !top.is_empty() && !language.is_tame(top),
                }
            }
        }
    }
}

/// Words of a text that name a file with an ending that the catalog knows.
pub(super) fn paths_in(text: &str) -> impl Iterator<Item = &str> {
    with_endings(text).filter(|token| is_path(token))
}

/// The words of a text, apart from what no path holds, that end in something behind a point.
pub(super) fn with_endings(text: &str) -> impl Iterator<Item = &str> {
    let part_of_path = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_' | '.' | '/' | '@');
    let mut from = 0;
    // Points are rarer than words: each word is looked for round the first point in it.
    let words = std::iter::from_fn(move || {
        let point = from + text[from..].find('.')?;
        let before = text[from..point].char_indices().rev().find(|(_, c)| !part_of_path(*c));
        let start = before.map_or(from, |(at, c)| from + at + c.len_utf8());
        let end = text[point..].find(|c| !part_of_path(c)).map_or(text.len(), |length| point + length);
        from = end;
        Some(&text[start..end])
    });
    words.filter(|word| word.rfind('.').is_some_and(|point| point > 0))
}

/// Whether a word with an ending is that of a program, or of a file that one takes names from.
pub(super) fn is_path(token: &str) -> bool {
    knowledge::programs().language_of(token).is_some() || knowledge::programs().is_data(token)
}

/// Files that one program takes names from, over and over; more are no honest program.
const TAKEN_LIMIT: usize = 64;

/// What a file says by itself: its words, and what it takes from elsewhere; nothing of the latter for a file that holds names only.
struct Own {
    words: HashSet<String>,
    taken: Option<Taken>,
}

/// Programs of what was read, each with what it may reach.
pub(super) fn read(files: &[FileId], list: Option<&FileList>, sources: &Sources) -> BTreeMap<String, Program> {
    let by_path: HashMap<&str, FileId> = files.iter().map(|file| (sources.get(*file).path.as_str(), *file)).collect();
    let has = |path: &str| list.map_or_else(|| by_path.contains_key(path), |list| list.has(path));
    let look = |path: &str, text: &str| Own {
        words: words(text).collect(),
        taken: knowledge::programs().language_of(path).map(|language| Taken::of(path, text, language, &has)),
    };
    let own: HashMap<&str, Own> = by_path.iter().map(|(path, file)| (*path, look(path, &sources.get(*file).text))).collect();
    let program = |(path, file): (&&str, &FileId)| {
        let text = &sources.get(*file).text;
        let language = knowledge::programs().language_of(path);
        let program = Program {
            language: language.map(|language| language.id),
            text: language.is_some_and(Language::is_followed).then(|| Arc::from(text.as_str())),
            demands: demanded(path, text, language, *file),
            reach: if language.is_some() { reach_of(path, &own) } else { Reach::Anything },
        };
        ((*path).to_owned(), program)
    };
    by_path.iter().map(program).collect()
}

/// What in a text says that it reads variables from a file by itself.
const READS_FILE: [&str; 4] = ["dotenv", ".env\"", ".env'", "loadEnvFile"];

/// The variables that a text in a language ends without, with their bytes.
fn demands_of(path: &str, text: &str, language: &Language) -> Vec<demands::Demand> {
    match language.id {
        _ if READS_FILE.iter().any(|word| text.contains(word)) => Vec::new(),
        "javascript" => demands::of_javascript(path, text),
        "python" => demands::of_python(text),
        "shell" => demands::of_shell(text),
        _ => Vec::new(),
    }
}

/// The variables that a text which stands in a command ends without.
pub fn demanded_by(text: &str, language: &Language) -> Vec<String> {
    demands_of("inline.mjs", text, language).into_iter().map(|(name, _)| name).collect()
}

fn demanded(path: &str, text: &str, language: Option<&Language>, file: FileId) -> Vec<(String, Place)> {
    let found = language.map(|language| demands_of(path, text, language)).unwrap_or_default();
    found.into_iter().map(|(name, span)| (name, Place { file, span })).collect()
}

fn reach_of(path: &str, own: &HashMap<&str, Own>) -> Reach {
    let mut open = vec![path];
    let mut seen: HashSet<&str> = open.iter().copied().collect();
    let mut all: HashSet<String> = HashSet::new();
    while let Some(path) = open.pop() {
        // What is there and was not read may hold anything.
        let Some(own) = own.get(path) else { return Reach::Anything };
        all.extend(own.words.iter().cloned());
        let Some(taken) = &own.taken else { continue };
        if taken.escapes || seen.len() + taken.files.len() > TAKEN_LIMIT {
            return Reach::Anything;
        }
        open.extend(taken.files.iter().map(String::as_str).filter(|path| seen.insert(path)));
    }
    Reach::Named(Named { words: Arc::new(all), handed: Vec::new() })
}

/// The files of the repository that a program takes names from.
pub(super) fn taken_by(path: &str, text: &str, has: &dyn Fn(&str) -> bool) -> Vec<String> {
    let language = knowledge::programs().language_of(path);
    language.map(|language| Taken::of(path, text, language, has).files).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn reach(text: &str) -> Reach {
        Reach::of_text(text, knowledge::programs().language("javascript").expect("the language is known"))
    }

    #[test]
    fn a_program_reaches_what_it_names() {
        let packs = reach("import fs from 'node:fs'\nfs.cpSync('public', `site-${year}/pages`)\n");
        for (path, expected) in
            [("public", true), ("site-2026", true), ("out/pages", true), ("dist", false), ("web/build", false)]
        {
            assert_eq!(packs.may_touch(path, |_| false), expected, "{path}");
        }
        let tracked = |folder: &str| folder == "public";
        assert!(!packs.may_touch("public/ferries", tracked), "a folder that is there anyway proves nothing");
        assert!(packs.with(["--out=ferries".to_owned()].into_iter()).may_touch("public/ferries", tracked));
    }

    #[test]
    fn words_with_endings_are_cut_where_no_path_goes_on() {
        let words: Vec<&str> = with_endings("node ./make.mjs, \"é/plan.js\";.hidden end. a..b §x.y .").collect();
        assert_eq!(words, ["./make.mjs", "é/plan.js", "end.", "a..b", "x.y"]);
    }

    #[test]
    fn what_runs_other_programs_reaches_anything() {
        for text in [
            "import { execSync } from 'node:child_process'",
            "const build = require(\"metalsmith\")",
            "await import(name)",
            "import './not-there.js'",
        ] {
            assert!(matches!(reach(text), Reach::Anything), "{text}");
        }
        assert!(matches!(reach("import { parse } from 'yaml'\nObject.fromEntries([])"), Reach::Named(_)));
    }
}
