//! What surrounds a step's commands.

use std::cell::Cell;

use super::{Folder, UploadPath, WorkTree};
use crate::facts::Facts;
use crate::knowledge;
use crate::model::{Text, Variables};

/// What surrounds a step's commands.
pub(super) struct Scene<'s> {
    pub facts: &'s Facts,
    /// The folder it starts in, as written.
    pub directory: Option<&'s Text>,
    /// The folder that the shell is in already, where it is that of the step before.
    pub goes_on_in: Option<&'s Folder>,
    /// The step's own, the job's and the file's, nearest first.
    pub variables: &'s [&'s Variables],
    /// This repository's files stand at the root of the workspace, so that facts about them hold.
    pub own_root: bool,
    /// The job runs on a machine of the forge's, which starts empty.
    pub hosted: bool,
    /// Names whose values a choice or a leg of the job may set otherwise.
    pub unsure: &'s [&'s str],
    /// Scripts of the job by which steps set variables for those after them.
    pub announced: &'s [&'s str],
    /// Working trees that steps before have laid beside the sources.
    pub trees: &'s [WorkTree],
    /// Files that steps before have packed a folder into: the name, and the folder.
    pub packed: &'s [(String, UploadPath)],
    /// Images that steps before have made: the name, and the file that each is made by.
    pub made: &'s [(String, String)],
    /// What the format's runs know of themselves.
    pub run: &'static knowledge::Run,
    /// What the format does by itself.
    pub customs: &'static knowledge::Customs,
    /// How many more effects may come of what the steps of the pipeline run.
    pub effects_left: &'s Cell<usize>,
}

/// Whether a text is the same in every run, even where its value is not known: all its holes read secrets or variables of the forge.
pub(super) fn is_steady(text: &str) -> bool {
    crate::expression::holes(text).iter().all(|hole| {
        let path = hole.inside.as_ref().ok().and_then(crate::expression::Expr::path);
        path.is_some_and(|path| matches!(path.first(), Some((context, _)) if matches!(*context, "secrets" | "vars")))
    })
}

/// Variables that read variables: deeper is a circle.
const VARIABLE_DEPTH: usize = 8;

impl Scene<'_> {
    /// A word of a command with its variables filled in, when it is the same in every run. What the forge holds stands for itself.
    pub fn steady(&self, word: &str) -> Option<String> {
        self.steady_within(word, 0)
    }

    fn steady_within(&self, word: &str, depth: usize) -> Option<String> {
        if !is_steady(word) || depth > VARIABLE_DEPTH {
            return None;
        }
        let mut filled = String::new();
        let mut rest = word;
        while let Some(index) = rest.find('$') {
            filled.push_str(&rest[..index]);
            rest = &rest[index + 1..];
            if let Some(end) = rest.strip_prefix("{{").and_then(|inside| inside.find("}}")) {
                filled.push('$');
                filled.push_str(&rest[..end + 4]);
                rest = &rest[end + 4..];
                continue;
            }
            let braced = rest.starts_with('{');
            let start = usize::from(braced);
            let length = rest[start..].bytes().take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'_').count();
            let name = &rest[start..start + length];
            if self.is_held(name) {
                filled.push_str(&format!("${{{name}}}"));
            } else {
                filled.push_str(&self.steady_value(name, depth)?);
            }
            rest = rest.get(start + length + usize::from(braced)..)?;
        }
        filled.push_str(rest);
        Some(filled)
    }

    pub fn steady_value(&self, name: &str, depth: usize) -> Option<String> {
        let value = &self.variable(name)?.value;
        if value.contains("$(") { None } else { self.steady_within(value, depth + 1) }
    }

    /// The forge gives every job this name without being asked, the same in every run.
    pub fn is_held(&self, name: &str) -> bool {
        let forge = &self.facts.settings.forge;
        let declared =
            || forge.environments.keys().map(|name| Some(name.as_str())).chain([None]).any(|one| forge.holds(name, one));
        self.customs.reads_variables && (self.run.steady_names.contains(&name) || declared())
    }

    /// A text with the pipeline's own variables filled in; as it is written where one of them is not known.
    pub fn filled(&self, text: &str) -> String {
        match self.steady(text).filter(|_| self.customs.reads_variables) {
            Some(filled) if !filled.contains('$') => filled,
            _ => text.to_owned(),
        }
    }

    /// A variable as the step sees it.
    pub fn variable(&self, name: &str) -> Option<&Text> {
        if self.unsure.contains(&name) {
            return None;
        }
        self.variables.iter().find_map(|variables| variables.get(name))
    }
}
