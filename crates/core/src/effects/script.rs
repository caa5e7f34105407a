//! What the commands of a script do.

use std::borrow::Cow;

use super::files::is_outside;
use super::run::{Call, Run, Written, path_of, program_name};
use super::{Effect, Folder, Scene, StepEffects, join};
use crate::expression::Expr;
use crate::facts::config::{Found, Setting, Value};
use crate::facts::{Facts, Reach};
use crate::knowledge::{self, VersionManager};
use crate::model::Text;
use crate::shell::{Command, Join, Script, Word, parse};
use crate::text::Place;

pub(super) fn effects(scene: &Scene<'_>, script: &Text) -> StepEffects {
    let dir = match (scene.goes_on_in, scene.directory) {
        (Some(folder), _) => folder.clone(),
        (None, Some(directory)) => join(&Some(String::new()), &directory.value),
        (None, None) => Some(String::new()),
    };
    let mut run = Run::new(scene);
    let end = run.script(&script.value, &Written::In(script), dir);
    run.out.ends_in = Some(end);
    run.out
}

/// The effects of a text that stands at one place, such as an action's input.
pub(super) fn of_text(scene: &Scene<'_>, text: &str, at: Place, dir: Folder) -> Vec<super::EffectAt> {
    let mut run = Run::new(scene);
    run.script(text, &Written::By(at), dir);
    run.out.effects
}

/// The effects of a script of package.json by itself.
pub(super) fn of_package_script(scene: &Scene<'_>, dir: &str, name: &str, command: &str, at: Place) -> StepEffects {
    let mut run = Run::new(scene);
    run.follow(dir, name, command, at, false);
    run.out
}

/// `|| true` and its kin: the failure of the command before counts for nothing.
fn passes_over(command: &Command) -> bool {
    let does_nothing = || {
        let words: Vec<&str> = command.words.iter().filter_map(Word::known).collect();
        matches!(words.as_slice(), ["true" | ":"] | ["exit", "0"]) || words.first() == Some(&"echo")
    };
    command.join == Join::Or && does_nothing()
}

/// More tests before one command are no honest line.
const TEST_LIMIT: usize = 20;

/// What `[ … ]`, `[[ … ]]` or `test …` asks; a test that is not understood is one of which nothing is known.
fn test_of(command: &Command, source: &str) -> Option<Expr> {
    let closing = match command.name()? {
        "[" => "]",
        "[[" => "]]",
        "test" => "",
        _ => return None,
    };
    let written = &source[command.range.clone()];
    let inside = written.trim().split_once(char::is_whitespace).map_or("", |(_, inside)| inside);
    let inside = inside.trim_end().strip_suffix(closing).unwrap_or(inside);
    // `-a` and `-o` stand between two tests there.
    let old = command.words.iter().any(|word| !word.quoted && matches!(word.text.as_str(), "-a" | "-o"));
    Some(crate::expression::parse_shell_test(inside).ok().filter(|_| !old).unwrap_or_else(|| Expr::dark(command.range.clone())))
}

/// `exit 0` and its kin, where something decides whether it happens.
fn ends_well(command: &Command) -> bool {
    let well = matches!(command.words.get(1).map(Word::known), None | Some(Some("0")));
    matches!(command.name(), Some("exit" | "return")) && well && (command.guarded || command.join != Join::Next)
}

/// What must hold where a script does not end at a command, by the tests before that in its line.
fn stays(command: &Command, tests: &[Expr]) -> Vec<Expr> {
    let dark = || vec![Expr::dark(command.range.clone())];
    match (command.join, tests) {
        _ if command.guarded => dark(),
        (Join::Or, [_, ..]) => tests.to_vec(),
        (Join::And, [only]) => vec![only.clone().negated()],
        _ => dark(),
    }
}

impl Run<'_, '_> {
    /// Follows a script from a folder, and gives the one it ends in.
    pub fn script(&mut self, source: &str, written: &Written<'_>, dir: Folder) -> Folder {
        let Script { commands, torn } = parse(source);
        let mut dirs: Vec<(u32, Folder)> = vec![(0, dir)];
        let (outer, forgiven) = (self.perhaps, self.forgiven);
        let (before, mut around) = (self.tests.len(), self.tests.len());
        for (index, command) in commands.iter().enumerate() {
            self.forgiven = forgiven || commands.get(index + 1).is_some_and(passes_over);
            enter_subshells(&mut dirs, &command.subshells);
            let here = dirs.last().and_then(|(_, dir)| dir.clone());
            self.perhaps = outer || command.guarded || command.join == Join::Or;
            if ends_well(command) {
                // What follows happens only where this does not.
                let stays = stays(command, &self.tests[around..]);
                self.tests.truncate(around);
                self.tests.extend(stays);
                around = self.tests.len();
            }
            if matches!(command.join, Join::Next | Join::Or) {
                self.tests.truncate(around);
            }
            let at = written.place(command.range.clone());
            if let Some(next) = change_of_folder(command, &here) {
                if next.as_ref().is_some_and(|path| !path.is_empty()) {
                    self.add(Effect::Enter { path: next.clone() }, at);
                }
                if let Some((_, dir)) = dirs.last_mut() {
                    *dir = if command.guarded { None } else { next };
                }
                continue;
            }
            self.redirects(command, &here, at);
            self.assigns(command);
            self.sets_for_build(command, written);
            self.announces(command);
            if !command.words.is_empty() {
                self.command(&Call { words: &command.words, dir: here, at, source }, written);
            }
            self.tests.extend(test_of(command, source).filter(|_| self.tests.len() < TEST_LIMIT));
        }
        (self.perhaps, self.forgiven) = (outer, forgiven);
        self.tests.truncate(before);
        if torn {
            self.add(Effect::Unknown(Reach::Anything), written.place(0..source.len()));
        }
        enter_subshells(&mut dirs, &[]);
        dirs.pop().and_then(|(_, dir)| dir)
    }

    /// Keeps the lines that are printed into a file such as `.env`.
    fn sets_for_build(&mut self, command: &Command, written: &Written<'_>) {
        let is_settings =
            |word: &Word| word.text.rsplit('/').next().is_some_and(|name| name == ".env" || name.starts_with(".env."));
        let prints = matches!(command.name(), Some("echo" | "printf"));
        if !prints || !command.redirects.iter().any(|redirect| redirect.writes && is_settings(&redirect.target)) {
            return;
        }
        for word in &command.words[1..] {
            let Some((name, _)) = word.text.split_once('=') else { continue };
            let is_name = !name.is_empty() && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
            if is_name {
                self.out.settings.push(super::SettingLine { name: name.to_owned(), at: written.place(word.range.clone()) });
            }
        }
    }

    /// Keeps the names of variables that are set for the steps after this one.
    fn announces(&mut self, command: &Command) {
        let files = &self.scene.customs.variable_files;
        let is_file = |word: &Word| files.iter().any(|file| word.text.contains(file));
        if !command.redirects.iter().any(|redirect| redirect.writes && is_file(&redirect.target)) {
            return;
        }
        let lines: Vec<&Word> = command.words.iter().skip(1).filter(|word| !word.text.starts_with('-')).collect();
        let name = match (command.name(), lines.as_slice()) {
            (Some("echo" | "printf"), [line]) if !line.text.contains("\\n") && !line.text.contains('\n') => {
                line.text.split_once('=').map(|(name, _)| name.to_owned()).filter(|name| !name.contains(['$', '{', '<']))
            }
            _ => None,
        };
        self.out.announced.push(name);
    }

    /// Keeps what goes into variables: a program that is run later may take it from there.
    fn assigns(&mut self, command: &Command) {
        const VALUES: usize = 200;
        let exported = command.words.iter().filter(|word| word.text.contains('=')).map(|word| word.text.clone());
        let values = command.assignments.iter().map(|(name, word)| format!("{name}={}", word.text)).chain(exported);
        let left = VALUES.saturating_sub(self.assigned.len());
        self.assigned.extend(values.take(left));
    }

    fn redirects(&mut self, command: &Command, dir: &Folder, at: Place) {
        for redirect in command.redirects.iter().filter(|redirect| redirect.writes) {
            // What goes to a device or to a file named by a variable makes no folder of the site.
            if redirect.target.known().is_some_and(|target| !is_outside(target)) {
                self.add(Effect::Write { path: join(dir, &redirect.target.text) }, at);
            }
        }
    }

    /// Understands one command, wrappers such as `npx` taken off first.
    pub fn command(&mut self, call: &Call<'_>, written: &Written<'_>) {
        let (words, call_words) = (unwrap(call.words), call.words.len());
        let call = Call { words, dir: call.dir.clone(), at: call.at, source: call.source };
        let Some(name) = words.first().and_then(Word::known).map(program_name) else {
            self.add(if words.is_empty() { Effect::Nothing } else { Effect::Unknown(Reach::Anything) }, call.at);
            return;
        };
        let known = call.known();
        // Nearly every program is called by its name alone.
        let named = if known.first() == Some(&name) { Cow::Borrowed(&known) } else { Cow::Owned(call.named()) };
        if let Some(command) = knowledge::commands().gone(&named) {
            self.out.gone.push(super::GoneWords { command, dir: call.dir.clone(), at: call.at });
        }
        let names = knowledge::names();
        // What a wrapper such as `npx` runs is looked for among the packages.
        let installed = names.is_installed(name) && words.len() == call_words && self.visiting.is_empty();
        if !self.perhaps && !self.forgiven && (names.is_lacking_somewhere(name) || installed) {
            self.out.calls.push((name.to_owned(), call.at));
        }
        self.starts_file(&call);
        let found = self.out.effects.len();
        self.understood(name, &call, &known, &named, written);
        // A build says itself which of its words count.
        let is_own = |effect: &super::EffectAt| matches!(effect.effect, Effect::Build { .. } | Effect::Publish { .. });
        if !self.out.effects.get(found..).is_some_and(|new| new.iter().any(is_own)) {
            self.speaks(words);
        }
    }

    /// Keeps a file of the repository that is run by its path.
    fn starts_file(&mut self, call: &Call<'_>) {
        let word = call.words.first().and_then(Word::known).filter(|word| word.contains('/') && !word.starts_with(['/', '~']));
        let path = word.and_then(|word| join(&call.dir, word)).filter(|_| self.scene.own_root && !self.perhaps && !self.forgiven);
        self.out.started.extend(path.map(|path| (path, call.at)));
    }

    /// Keeps the words of a command, as many as an honest step has.
    fn speaks(&mut self, words: &[Word]) {
        const WORDS: usize = 2_000;
        let left = WORDS.saturating_sub(self.out.spoken.len());
        self.out.spoken.extend(words.iter().skip(1).take(left).map(|word| word.text.clone()));
    }

    /// `known` are its words as they stand, `named` those with the first as the name of the program.
    fn understood(&mut self, name: &str, call: &Call<'_>, known: &[&str], named: &[&str], written: &Written<'_>) {
        let commands = knowledge::commands();
        if let Some(manager) = knowledge::managers().get(name) {
            self.package_manager(manager, call, written);
        } else if let Some((publisher, used)) = super::publisher::matching(known) {
            self.publisher(publisher, used, call, written);
        } else if let Some((generator, used)) = self.matching_generator(name, known, &call.dir) {
            self.generator(generator, used, call);
        } else if commands.installs(known) {
            self.add(
                Effect::Install { manager: name.to_owned(), frozen: false, without_dev: false, dir: call.dir.clone() },
                call.at,
            );
        } else if let Some((tool, used)) = commands.tool(named) {
            self.add(Effect::Test { tool: named[..used].join(" ") }, call.at);
            for folder in tool.writes {
                self.add(Effect::Write { path: join(&call.dir, folder) }, call.at);
            }
        } else if let Some(manager) = commands.version_manager(named) {
            self.version_manager(manager, call, written);
        } else if name == "git" {
            self.git(call);
        } else if name == commands.forge_cli.name {
            self.forge_cli(&commands.forge_cli, call);
        } else if commands.compiles(name) {
            self.compiler(call);
        } else if name == "deno" && known.get(1) == Some(&"task") {
            self.deno_task(call);
        } else if let Some(writer) = commands.writer(name) {
            self.writer(writer, call);
        } else if let Some(runner) = super::task_runner::matching(name) {
            self.task_runner(runner, call);
        } else if commands.runs_scripts(name) {
            self.script_runner(call);
        } else if self.images(name, call) || self.runs_program(call) || self.runs_recipe(name, call) {
        } else if commands.is_harmless(name) || starts_agent(name, call.words) {
            self.add(Effect::Nothing, call.at);
        } else if !self.files(name, call, written) {
            self.add(Effect::Unknown(Reach::Anything), call.at);
        }
    }

    /// `nvm use 22`: the version that is given, or that of a file in the folder or above it.
    fn version_manager(&mut self, manager: &VersionManager, call: &Call<'_>, written: &Written<'_>) {
        let word = call.words[2..].iter().find(|word| !word.text.starts_with('-'));
        let version = word.and_then(|word| {
            let known = word.known()?.trim_start_matches('v');
            let place = written.place(word.range.clone());
            known.starts_with(|c: char| c.is_ascii_digit()).then(|| Text::fixed(known, place))
        });
        let named = || {
            let mut dir = call.dir.clone()?;
            loop {
                let has = |file: &&&str| self.scene.facts.has_file(&join_known(&dir, file)) == Some(true);
                if let Some(file) = manager.files.iter().find(has) {
                    return Some(Text::fixed(&join_known(&dir, file), call.at));
                }
                dir = dir.rsplit_once('/').map(|(above, _)| above.to_owned()).or((!dir.is_empty()).then(String::new))?;
            }
        };
        let version_file = if call.words.len() == 2 { named().map(Box::new) } else { None };
        let tool = manager.tool.to_owned();
        self.add(Effect::SetUp { tool, version, version_file, cache: None, lockfiles: None }, call.at);
    }

    /// A TypeScript compiler writes where its project files say, and nowhere with `noEmit`.
    fn compiler(&mut self, call: &Call<'_>) {
        let known = call.known();
        let test = Effect::Test { tool: known[0].to_owned() };
        if known.contains(&"--noEmit") {
            self.add(test, call.at);
            return;
        }
        let builds = known.iter().any(|word| matches!(*word, "-b" | "--build"));
        let named =
            known.iter().position(|word| matches!(*word, "-p" | "--project")).and_then(|index| known.get(index + 1).copied());
        let argument = known[1..].iter().copied().find(|word| builds && !word.starts_with('-'));
        let project = named.or(argument).unwrap_or("tsconfig.json");
        let facts = self.scene.facts;
        let path = join(&call.dir, project).filter(|_| self.scene.own_root);
        match path.and_then(|path| compiled_folders(facts, &path, builds)) {
            Some(folders) => {
                self.add(test, call.at);
                for folder in folders {
                    self.add(Effect::Write { path: Some(folder) }, call.at);
                }
            }
            None => self.add(Effect::Unknown(Reach::Anything), call.at),
        }
    }

    /// `deno task build`: a text of deno.json, or else a script of package.json.
    fn deno_task(&mut self, call: &Call<'_>) {
        let facts = self.scene.facts;
        let dir = call.dir.as_deref().filter(|_| self.scene.own_root);
        let name = call.words[2..].iter().find(|word| !word.text.starts_with('-')).and_then(Word::known);
        let (Some(dir), Some(name)) = (dir, name) else { return self.add(Effect::Unknown(Reach::Anything), call.at) };
        let config = ["deno.json", "deno.jsonc"].iter().find_map(|file| facts.configs.get(&join(&call.dir, file)?));
        let task = config.and_then(|(_, config)| match config.find(&format!("tasks.{name}")) {
            Found::Here(task) => task.text().map(str::to_owned),
            _ => None,
        });
        let script = || facts.packages.get(dir)?.script(name).map(|script| script.command.clone());
        match task.or_else(script) {
            Some(command) => self.follow(dir, name, &command, call.at, false),
            None => self.add(Effect::Unknown(Reach::Anything), call.at),
        }
    }

    /// `run-s a b:*`: scripts of the package, by name. A pattern is followed as every script that it may mean.
    fn script_runner(&mut self, call: &Call<'_>) {
        let facts = self.scene.facts;
        let package = call.dir.as_deref().filter(|_| self.scene.own_root).and_then(|dir| facts.package_for(dir));
        let Some((dir, package)) = package else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
            return;
        };
        for word in call.words[1..].iter().take_while(|word| word.text != "--").filter(|word| !word.text.starts_with('-')) {
            // Arguments stand in the same word as the name: "build {@}".
            let name = word.text.split_whitespace().next().unwrap_or_default();
            match package.script(name) {
                Some(script) => self.follow(dir, name, &script.command, call.at, false),
                None => self.add(Effect::Unknown(Reach::Anything), call.at),
            }
        }
    }

    /// Follows a script of a package, when it is not followed already.
    pub fn follow(&mut self, dir: &str, name: &str, command: &str, at: Place, perhaps: bool) {
        self.within((dir.to_owned(), name.to_owned()), at, |run| {
            let (outer, test) = (run.perhaps, run.test.clone());
            run.perhaps |= perhaps;
            if knowledge::commands().is_test_script(name) {
                run.test = Some(name.to_owned());
            }
            run.script(command, &Written::By(at), Some(dir.to_owned()));
            (run.perhaps, run.test) = (outer, test);
        });
    }
}

/// A name in a folder; the root is "".
fn join_known(dir: &str, name: &str) -> String {
    if dir.is_empty() { name.to_owned() } else { format!("{dir}/{name}") }
}

/// The folders that a TypeScript project and those it refers to write; `None` when that is not known.
fn compiled_folders(facts: &Facts, project: &str, builds: bool) -> Option<Vec<String>> {
    let path = if project.ends_with(".json") {
        project.to_owned()
    } else {
        format!("{project}/tsconfig.json").trim_start_matches('/').to_owned()
    };
    let (_, setting) = facts.configs.get(&path)?;
    let dir = Some(path.rsplit_once('/').map_or(String::new(), |(dir, _)| dir.to_owned()));
    let mut folders = Vec::new();
    let is_empty_shell =
        matches!(setting.find("files"), Found::Here(Setting { value: Value::List(files), .. }) if files.is_empty());
    match (setting.find("compilerOptions.noEmit"), setting.find("compilerOptions.outDir")) {
        (Found::Here(Setting { value: Value::Bool(true), .. }), _) => {}
        (_, Found::Here(found)) => folders.push(join(&dir, found.text()?)?),
        // Without a folder of its own it writes beside the sources; a base that it extends may say otherwise.
        (Found::Absent, Found::Absent) if is_empty_shell => {}
        (Found::Absent, Found::Absent) if setting.find("extends") == Found::Absent => {}
        _ => return None,
    }
    if !builds {
        return Some(folders);
    }
    match setting.find("references") {
        Found::Absent => {}
        Found::Here(Setting { value: Value::List(items), .. }) => {
            for item in items {
                let Found::Here(path) = item.find("path") else { return None };
                folders.extend(compiled_folders(facts, &join(&dir, path.text()?)?, false)?);
            }
        }
        _ => return None,
    }
    Some(folders)
}

/// Keeps a folder for each subshell that is open; a new one starts where its parent is.
fn enter_subshells(dirs: &mut Vec<(u32, Folder)>, subshells: &[u32]) {
    let common = dirs[1..].iter().zip(subshells).take_while(|((open, _), wanted)| open == *wanted).count();
    dirs.truncate(common + 1);
    for id in &subshells[common..] {
        let here = dirs.last().and_then(|(_, dir)| dir.clone());
        dirs.push((*id, here));
    }
}

/// The folder after `cd` and its kin; nothing for other commands.
fn change_of_folder(command: &Command, here: &Folder) -> Option<Folder> {
    match command.name()? {
        "cd" => {
            let target = command.words[1..].iter().find(|word| !matches!(word.text.as_str(), "--" | "-P" | "-L"));
            Some(target.filter(|word| word.text != "-").and_then(|word| path_of(here, word)))
        }
        "pushd" | "popd" => Some(None),
        _ => None,
    }
}

/// `eval $(ssh-agent -s)` sets variables and nothing else.
fn starts_agent(name: &str, words: &[Word]) -> bool {
    name == "eval" && words.iter().any(|word| word.text.contains("ssh-agent"))
}

/// Takes off `npx`, `bundle exec`, `env NAME=value` and their kin.
fn unwrap(mut words: &[Word]) -> &[Word] {
    for _ in 0..4 {
        let Some(wrapper) = words.first().and_then(Word::known).and_then(|name| knowledge::commands().wrapper(name)) else {
            return words;
        };
        let mut rest = &words[1..];
        if let Some(wanted) = &wrapper.word {
            if rest.first().and_then(Word::known) != Some(wanted) {
                return words;
            }
            rest = &rest[1..];
        }
        while let Some(word) = rest.first() {
            let option = word.text.starts_with('-');
            let assignment = wrapper.assignments && word.text.contains('=');
            if !option && !assignment {
                break;
            }
            let takes_value = wrapper.value_options.contains(&word.text.as_str());
            rest = &rest[(1 + usize::from(takes_value)).min(rest.len())..];
        }
        if rest.is_empty() {
            return words;
        }
        words = rest;
    }
    words
}
