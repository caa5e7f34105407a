//! Programs of a repository, and what runs them, as data.

use crate::text::file_name;
use serde::Deserialize;

/// `catalog/programs.toml`.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Programs {
    /// What runs a file.
    interpreter: Vec<Interpreter>,
    task_file: Vec<TaskFile>,
    language: Vec<Language>,
    data: Data,
}

/// A command that runs a file which it looks for by itself.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct TaskFile {
    names: Vec<String>,
    files: Vec<String>,
}

/// A command that reads a file and runs it.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Interpreter {
    names: Vec<String>,
    /// The language's id.
    pub language: String,
    /// Options whose value is the next word.
    #[serde(default)]
    pub value_options: Vec<String>,
    /// Options behind which the text itself stands.
    #[serde(default)]
    pub inline_options: Vec<String>,
    /// With one of these it runs something else.
    #[serde(default)]
    pub other_words: Vec<String>,
}

/// A language that programs are written in.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields, default)]
#[derive(Default)]
pub struct Language {
    /// Such as `javascript`.
    pub id: String,
    endings: Vec<String>,
    files: Vec<String>,
    modules: Vec<String>,
    libraries: Vec<String>,
    tame_starts: Vec<String>,
    /// What in a text lets it reach anything.
    pub escapes: Vec<String>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Data {
    endings: Vec<String>,
    not: Vec<String>,
}

impl Language {
    /// Whether its commands are followed one by one, as those of a step.
    pub fn is_followed(&self) -> bool {
        matches!(self.id.as_str(), "shell" | "make" | "just")
    }

    /// Whether a module, as it is taken, writes nowhere but where the text says.
    pub fn is_tame(&self, module: &str) -> bool {
        let is = |list: &[String]| list.iter().any(|known| known == module);
        is(&self.modules) || is(&self.libraries) || self.tame_starts.iter().any(|start| module.starts_with(start.as_str()))
    }
}

impl Programs {
    /// What a command's first words name, and how many words that are; the longest name counts.
    pub fn interpreter(&self, words: &[&str]) -> Option<(&Interpreter, usize)> {
        let fits = |name: &String| super::commands::starts_with(words, name);
        let all = self.interpreter.iter().filter_map(|one| Some((one, one.names.iter().filter_map(fits).max()?)));
        all.max_by_key(|(_, used)| *used)
    }

    /// The files that a command looks for by itself, in the order in which it does.
    pub fn task_files(&self, name: &str) -> &[String] {
        let found = self.task_file.iter().find(|task| task.names.iter().any(|known| known == name));
        found.map_or(&[], |task| &task.files)
    }

    /// Whether a file is one that some command looks for by itself.
    pub fn is_task_file(&self, path: &str) -> bool {
        let name = file_name(path);
        self.task_file.iter().any(|task| task.files.iter().any(|file| file == name))
    }

    /// The language of a file, by its path.
    pub fn language_of(&self, path: &str) -> Option<&Language> {
        let name = file_name(path);
        let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
        let is = |list: &[String], word: &str| list.iter().any(|known| known == word);
        self.language.iter().find(|language| is(&language.files, name) || is(&language.endings, ending))
    }

    /// A language by its id.
    pub fn language(&self, id: &str) -> Option<&Language> {
        self.language.iter().find(|language| language.id == id)
    }

    /// Names of files that a tool looks for by itself, in the order in which it does.
    pub fn files_of(&self, id: &str) -> &[String] {
        self.language(id).map_or(&[], |language| &language.files)
    }

    /// Whether a file may hold names that a program takes from it.
    pub fn is_data(&self, path: &str) -> bool {
        let name = file_name(path);
        let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
        self.data.endings.iter().any(|known| known == ending) && !self.data.not.iter().any(|known| known == name)
    }
}
