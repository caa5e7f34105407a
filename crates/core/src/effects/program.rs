//! Programs of the repository: those whose commands are followed, and those of which only the names they know bound the work.

use super::recipes::Recipes;
use super::run::{Call, Run, Written};
use super::{Effect, Folder, WantedCredential, join};
use crate::facts::{Facts, Program, Reach};
use crate::knowledge::{self, Interpreter};
use crate::shell::Word;
use crate::text::Place;

impl<'r> Run<'r, '_> {
    /// `node pack.mjs`, `bash pack.sh`, `./pack.sh`; gives whether the command was one of them.
    pub(super) fn runs_program(&mut self, call: &Call<'_>) -> bool {
        if let Some((path, program)) = self.own_program(&call.dir, &call.words[0]) {
            self.program(&path, program, &call.words[1..], call);
            return true;
        }
        let name = call.named().first().copied().unwrap_or_default();
        let files = knowledge::programs().task_files(name).iter().filter_map(|file| join(&call.dir, file));
        let facts: &'r Facts = self.scene.facts;
        let task_file = files.filter(|_| self.scene.own_root).find_map(|path| Some((facts.programs.get(&path)?, path)));
        if let Some((program, path)) = task_file {
            self.program(&path, program, &call.words[1..], call);
            return true;
        }
        let known = call.known();
        let Some((interpreter, used)) = knowledge::programs().interpreter(&known) else { return false };
        self.interpreted(interpreter, &call.words[used..], call);
        true
    }

    /// The file that a word names, when it is a program of the repository that was read.
    pub(super) fn own_program(&self, dir: &Folder, word: &Word) -> Option<(String, &'r Program)> {
        let path = join(dir, word.known()?).filter(|_| self.scene.own_root)?;
        let facts: &'r Facts = self.scene.facts;
        let program = facts.programs.get(&path)?;
        program.language.is_some().then_some((path, program))
    }

    fn interpreted(&mut self, interpreter: &Interpreter, words: &[Word], call: &Call<'_>) {
        let mut index = 0;
        while let Some(word) = words.get(index) {
            let is = |list: &[&str]| list.contains(&word.text.as_str());
            if is(interpreter.inline_options) {
                return self.inline(interpreter, words.get(index + 1), call);
            }
            if is(interpreter.other_words) {
                break;
            }
            if !word.text.starts_with(['-', '+']) {
                if let Some((path, program)) = self.own_program(&call.dir, word) {
                    return self.program(&path, program, &words[index + 1..], call);
                }
                // A library of shell functions on the machine, such as `~/.nvm/nvm.sh`, makes no folder.
                if interpreter.language == "shell" && super::files::is_outside(&word.text) {
                    return self.add(Effect::Nothing, call.at);
                }
                break;
            }
            index += 1 + usize::from(is(interpreter.value_options));
        }
        self.add(Effect::Unknown(Reach::Anything), call.at);
    }

    /// The program's text stands in the command itself.
    fn inline(&mut self, interpreter: &Interpreter, text: Option<&Word>, call: &Call<'_>) {
        let text = text.and_then(Word::known);
        match (text, knowledge::programs().language(interpreter.language)) {
            (Some(text), Some(language)) if language.is_followed() => {
                self.followed(call, (call.dir.clone().unwrap_or_default(), text.to_owned()), text);
            }
            (Some(text), Some(language)) => {
                for name in crate::facts::demanded_by(text, language) {
                    self.demand(&name, "this program", call.at, call);
                }
                let reach = Reach::of_text(text, language).with(self.handed(&[], call));
                self.add(Effect::Unknown(reach), call.at);
            }
            _ => self.add(Effect::Unknown(Reach::Anything), call.at),
        }
    }

    pub(super) fn program(&mut self, path: &str, program: &Program, arguments: &[Word], call: &Call<'_>) {
        self.demands(path, program, call);
        match &program.text {
            Some(text) if program.language == Some("shell") => self.followed(call, (path.to_owned(), String::new()), text),
            _ => {
                let folder = path.rsplit_once('/').map(|(folder, _)| folder.to_owned());
                let reach = program.reach.with(self.handed(arguments, call).chain(folder));
                self.add(Effect::Unknown(reach), call.at);
            }
        }
    }

    /// What it ends without must be given to the step, unless a command before may give it, or the program fetches it itself.
    fn demands(&mut self, path: &str, program: &Program, call: &Call<'_>) {
        let from_file = ["env-file", "dotenv", "env-cmd", ".env"].iter().any(|word| call.source.contains(word));
        let by_itself =
            [".env", "dotenv"].iter().any(|name| program.reach.knows(name)) && !matches!(program.reach, Reach::Anything);
        if self.perhaps || from_file || by_itself {
            return;
        }
        for (name, place) in &program.demands {
            self.demand(name, path, *place, call);
        }
    }

    fn demand(&mut self, name: &str, program: &str, place: Place, call: &Call<'_>) {
        let start = format!("{name}=");
        let assigned = self.assigned.iter().any(|text| text.starts_with(&start));
        if !self.perhaps && !assigned && !knowledge::names().is_of_machine(name) {
            self.out.wants.push(WantedCredential {
                variables: vec![name.to_owned()],
                inputs: Vec::new(),
                publisher: program.to_owned(),
                read_at: Some(place),
                at: call.at,
            });
        }
    }

    /// What a program gets beside its text: arguments, variables, the folder that it works in.
    fn handed(&self, arguments: &[Word], call: &Call<'_>) -> impl Iterator<Item = String> + use<> {
        let variables = self.scene.variables.iter().flat_map(|layer| &layer.entries).map(|(_, value)| value.value.clone());
        let given = arguments.iter().map(|word| word.text.clone());
        let by_steps = self.scene.announced.iter().map(|text| (*text).to_owned());
        let all: Vec<String> =
            variables.chain(given).chain(by_steps).chain(self.assigned.iter().cloned()).chain(call.dir.clone()).collect();
        all.into_iter()
    }

    /// Follows a text as if its commands stood in the step.
    fn followed(&mut self, call: &Call<'_>, key: (String, String), text: &str) {
        self.within(key, call.at, |run| {
            run.script(text, &Written::By(call.at), call.dir.clone());
        });
    }

    /// `make TARGET` and `just RECIPE`: the commands of the target and of those that it waits for. Gives whether it was one of them.
    pub(super) fn runs_recipe(&mut self, name: &str, call: &Call<'_>) -> bool {
        if !matches!(name, "make" | "gmake" | "just") {
            return false;
        }
        let tool = if name == "just" { "just" } else { "make" };
        let mut dir = call.dir.clone();
        let mut file: Option<&Word> = None;
        let mut wanted: Vec<&str> = Vec::new();
        let mut given: Vec<(&str, &str)> = Vec::new();
        let mut words = call.words[1..].iter();
        while let Some(word) = words.next() {
            match word.text.as_str() {
                "-C" | "--directory" | "-d" | "--working-directory" => {
                    dir = words.next().and_then(|word| join(&dir, word.known()?));
                }
                "-f" | "--file" | "--makefile" | "--justfile" => file = words.next(),
                "-j" | "--jobs" => {}
                option if option.starts_with('-') => {}
                _ if word.dynamic => return self.anything(call),
                // Numbers follow `-j`.
                number if number.bytes().all(|byte| byte.is_ascii_digit()) => {}
                text => match text.split_once('=') {
                    Some(pair) => given.push(pair),
                    None => wanted.push(text),
                },
            }
        }
        let names: Vec<&str> = match file {
            Some(word) => word.known().into_iter().collect(),
            None => knowledge::programs().files_of(tool).to_vec(),
        };
        let programs = &self.scene.facts.programs;
        let found = names
            .iter()
            .filter_map(|name| join(&dir, name))
            .filter(|_| self.scene.own_root)
            .find_map(|path| programs.get(&path).map(|program| (path, program)));
        let Some((path, text)) = found.and_then(|(path, program)| Some((path, program.text.clone()?))) else {
            return self.anything(call);
        };
        let recipes = Recipes::read(tool, &text);
        if wanted.is_empty() {
            wanted.extend(recipes.first());
        }
        let known = |name: &str| given.iter().find(|(own, _)| *own == name).map(|(_, value)| (*value).to_owned());
        for target in wanted {
            self.target(&recipes, &path, target, &known, &dir, call);
        }
        true
    }

    fn anything(&mut self, call: &Call<'_>) -> bool {
        self.add(Effect::Unknown(Reach::Anything), call.at);
        true
    }

    fn target(
        &mut self,
        recipes: &Recipes<'_>,
        path: &str,
        target: &str,
        given: &dyn Fn(&str) -> Option<String>,
        dir: &Folder,
        call: &Call<'_>,
    ) {
        // A file of the repository is there already.
        let is_file = join(dir, target).is_some_and(|path| self.scene.facts.has_file(&path) == Some(true));
        let Some(rule) = recipes.rule(target, is_file) else {
            if !is_file {
                self.add(Effect::Unknown(Reach::Anything), call.at);
            }
            return;
        };
        self.within((path.to_owned(), target.to_owned()), call.at, |run| {
            for other in &rule.waits_for {
                let other = recipes.filled(other, target, rule, given);
                for other in other.split_whitespace() {
                    run.target(recipes, path, other, given, dir, call);
                }
            }
            let variable = |name: &str| given(name).or_else(|| run.scene.variable(name)?.known().map(str::to_owned));
            let commands: Vec<String> = rule.commands.iter().map(|line| recipes.filled(line, target, rule, &variable)).collect();
            for command in commands {
                run.script(&command, &Written::By(call.at), dir.clone());
            }
        });
    }
}
