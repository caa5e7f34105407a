//! Programs of a repository, and what runs them, as data.

use super::{List, Word};
use crate::text::file_name;
/// `catalog/programs.toml`.
#[derive(Debug)]
pub struct Programs {
    /// What runs a file.
    pub(super) interpreter: List<Interpreter>,
    pub(super) task_file: List<TaskFile>,
    pub(super) language: List<Language>,
    pub(super) data: Data,
}

/// A command that runs a file which it looks for by itself.
#[derive(Debug)]
pub(super) struct TaskFile {
    pub(super) names: List<Word>,
    pub(super) files: List<Word>,
}

/// A command that reads a file and runs it.
#[derive(Debug)]
pub struct Interpreter {
    pub(super) names: List<Word>,
    /// The language's id.
    pub language: Word,
    /// Options whose value is the next word.
    pub value_options: List<Word>,
    /// Options behind which the text itself stands.
    pub inline_options: List<Word>,
    /// With one of these it runs something else.
    pub other_words: List<Word>,
}

/// A language that programs are written in.
#[derive(Debug, Default)]
pub struct Language {
    /// Such as `javascript`.
    pub id: Word,
    pub(super) endings: List<Word>,
    pub(super) files: List<Word>,
    pub(super) modules: List<Word>,
    pub(super) libraries: List<Word>,
    pub(super) tame_starts: List<Word>,
    /// What in a text lets it reach anything.
    pub escapes: List<Word>,
}

#[derive(Debug)]
pub(super) struct Data {
    pub(super) endings: List<Word>,
    pub(super) not: List<Word>,
}

impl Language {
    /// Whether its commands are followed one by one, as those of a step.
    pub fn is_followed(&self) -> bool {
        matches!(self.id, "shell" | "make" | "just")
    }

    /// Whether a module, as it is taken, writes nowhere but where the text says.
    pub fn is_tame(&self, module: &str) -> bool {
        let is = |list: &[&str]| list.contains(&module);
        is(self.modules) || is(self.libraries) || self.tame_starts.iter().any(|start| module.starts_with(start))
    }
}

impl Programs {
    /// What a command's first words name, and how many words that are; the longest name counts.
    pub fn interpreter(&self, words: &[&str]) -> Option<(&Interpreter, usize)> {
        let fits = |name: &&str| super::commands::starts_with(words, name);
        let all = self.interpreter.iter().filter_map(|one| Some((one, one.names.iter().filter_map(fits).max()?)));
        all.max_by_key(|(_, used)| *used)
    }

    /// The files that a command looks for by itself, in the order in which it does.
    pub fn task_files(&self, name: &str) -> &[&str] {
        let found = self.task_file.iter().find(|task| task.names.contains(&name));
        found.map_or(&[], |task| task.files)
    }

    /// Whether a file is one that some command looks for by itself.
    pub fn is_task_file(&self, path: &str) -> bool {
        let name = file_name(path);
        self.task_file.iter().any(|task| task.files.contains(&name))
    }

    /// The language of a file, by its path.
    pub fn language_of(&self, path: &str) -> Option<&Language> {
        let name = file_name(path);
        let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
        let is = |list: &[&str], word: &str| list.contains(&word);
        self.language.iter().find(|language| is(language.files, name) || is(language.endings, ending))
    }

    /// A language by its id.
    pub fn language(&self, id: &str) -> Option<&Language> {
        self.language.iter().find(|language| language.id == id)
    }

    /// Names of files that a tool looks for by itself, in the order in which it does.
    pub fn files_of(&self, id: &str) -> &[&str] {
        self.language(id).map_or(&[], |language| language.files)
    }

    /// Whether a file may hold names that a program takes from it.
    pub fn is_data(&self, path: &str) -> bool {
        let name = file_name(path);
        let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
        self.data.endings.contains(&ending) && !self.data.not.contains(&name)
    }
}
