//! What the commands of a script do.

use super::{CopySource, Effect, EffectAt, Folder, NeededGrant, Scene, StepEffects, join};
use crate::facts::config::{Found, Setting, Value};
use crate::facts::{Facts, Origin, fits_package, needs_server, output_suffix, served_under, site_output};
use crate::knowledge::{self, Generator};
use crate::model::{Level, Text};
use crate::shell::{Command, Join, Script, Word, parse};
use crate::text::Place;

/// Scripts that call scripts: deeper is a circle or a maze.
const DEPTH_LIMIT: usize = 8;
/// More effects than any honest step has.
const EFFECT_LIMIT: usize = 4_000;

pub(super) fn effects(scene: &Scene<'_>, script: &Text) -> StepEffects {
    let dir = match scene.directory {
        Some(directory) => join(&Some(String::new()), &directory.value),
        None => Some(String::new()),
    };
    let mut run = Run { scene, out: StepEffects::default(), visiting: Vec::new(), perhaps: false, forgiven: false };
    run.script(&script.value, &Written::In(script), dir);
    run.out
}

/// The effects of a script of package.json by itself.
pub(super) fn of_package_script(scene: &Scene<'_>, dir: &str, name: &str, command: &str, at: Place) -> StepEffects {
    let mut run = Run { scene, out: StepEffects::default(), visiting: Vec::new(), perhaps: false, forgiven: false };
    run.follow(dir, name, command, at, false);
    run.out
}

/// `|| true` and its kin: the failure of the command before counts for nothing.
fn passes_over(command: &Command) -> bool {
    let words: Vec<&str> = command.words.iter().filter_map(Word::known).collect();
    let does_nothing = matches!(words.as_slice(), ["true" | ":"] | ["exit", "0"]) || words.first() == Some(&"echo");
    command.join == Join::Or && does_nothing
}

/// Where commands are written: in the step itself, or in a package's script that a command of the step runs.
pub(super) enum Written<'t> {
    /// Each command has a place of its own.
    In(&'t Text),
    /// All have the place of the command that runs them.
    By(Place),
}

impl Written<'_> {
    fn place(&self, range: std::ops::Range<usize>) -> Place {
        match self {
            Self::In(text) => text.place(range),
            Self::By(place) => *place,
        }
    }
}

/// The work on one step.
pub(super) struct Run<'r, 's> {
    pub scene: &'r Scene<'s>,
    pub out: StepEffects,
    /// The scripts that are being followed, by folder and name.
    pub visiting: Vec<(String, String)>,
    perhaps: bool,
    forgiven: bool,
}

/// One command, ready to be understood.
pub(super) struct Call<'c> {
    pub words: &'c [Word],
    pub dir: Folder,
    pub at: Place,
    pub source: &'c str,
}

impl Call<'_> {
    /// The words that are known now; the rest are "".
    pub fn known(&self) -> Vec<&str> {
        self.words.iter().map(|word| word.known().unwrap_or_default()).collect()
    }
}

impl Run<'_, '_> {
    pub fn add(&mut self, effect: Effect, at: Place) {
        if self.out.effects.len() < EFFECT_LIMIT {
            self.out.effects.push(EffectAt {
                effect,
                at,
                perhaps: self.perhaps,
                branching: self.perhaps,
                forgiven: self.forgiven,
            });
        }
    }

    /// Follows a script from a folder.
    pub fn script(&mut self, source: &str, written: &Written<'_>, dir: Folder) {
        let Script { commands, torn } = parse(source);
        let mut dirs: Vec<(u32, Folder)> = vec![(0, dir)];
        let (outer, forgiven) = (self.perhaps, self.forgiven);
        for (index, command) in commands.iter().enumerate() {
            self.forgiven = forgiven || commands.get(index + 1).is_some_and(passes_over);
            enter_subshells(&mut dirs, &command.subshells);
            let here = dirs.last().and_then(|(_, dir)| dir.clone());
            self.perhaps = outer || command.guarded || command.join == Join::Or;
            let at = written.place(command.range.clone());
            if let Some(next) = change_of_folder(command, &here) {
                if let Some((_, dir)) = dirs.last_mut() {
                    *dir = if command.guarded { None } else { next };
                }
                continue;
            }
            self.redirects(command, &here, at);
            if !command.words.is_empty() {
                self.command(&Call { words: &command.words, dir: here, at, source }, written);
            }
        }
        (self.perhaps, self.forgiven) = (outer, forgiven);
        if torn {
            self.add(Effect::Unknown, written.place(0..source.len()));
        }
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
        let words = unwrap(call.words);
        let call = Call { words, dir: call.dir.clone(), at: call.at, source: call.source };
        let Some(name) = words.first().and_then(Word::known).map(program_name) else {
            self.add(if words.is_empty() { Effect::Nothing } else { Effect::Unknown }, call.at);
            return;
        };
        let commands = knowledge::commands();
        if let Some(manager) = knowledge::managers().get(name) {
            self.package_manager(manager, &call, written);
        } else if let Some((publisher, used)) = super::publisher::matching(&call.known()) {
            self.publisher(publisher, used, &call, written);
        } else if let Some((generator, used)) = self.matching_generator(name, &call) {
            self.generator(generator, used, &call);
        } else if commands.installs(&call.known()) {
            self.add(Effect::Install { manager: name.to_owned(), frozen: false, dir: call.dir.clone() }, call.at);
        } else if let Some(tool) = commands.tool(name) {
            self.add(Effect::Test { tool: name.to_owned() }, call.at);
            for folder in &tool.writes {
                self.add(Effect::Write { path: join(&call.dir, folder) }, call.at);
            }
        } else if name == "git" {
            self.git(&call);
        } else if commands.compiles(name) {
            self.compiler(&call);
        } else if commands.runs_scripts(name) {
            self.script_runner(&call);
        } else if commands.is_harmless(name) || starts_agent(name, words) {
            self.add(Effect::Nothing, call.at);
        } else if !self.files(name, &call, written) {
            self.add(Effect::Unknown, call.at);
        }
    }

    /// The commands that make, move and remove files; gives whether it was one.
    fn files(&mut self, name: &str, call: &Call<'_>, written: &Written<'_>) -> bool {
        let arguments: Vec<&Word> =
            call.words[1..].iter().filter(|word| !word.text.starts_with('-') || word.text == "-").collect();
        let path = |word: &&Word| path_of(&call.dir, word);
        match name {
            "mkdir" | "mkdirp" | "touch" | "tee" => {
                for word in &arguments {
                    let outside = is_outside(&word.text);
                    self.add(if outside { Effect::Nothing } else { Effect::Write { path: path(word) } }, call.at);
                }
            }
            "rm" | "rmdir" | "rimraf" | "del-cli" => {
                for word in &arguments {
                    // Some files of a folder: the folder stays.
                    let effect = match path(word) {
                        _ if is_outside(&word.text) => Effect::Nothing,
                        Some(folder) if word.glob && !folder.is_empty() => Effect::Nothing,
                        _ if word.glob => Effect::Remove { path: None },
                        folder => Effect::Remove { path: folder },
                    };
                    self.add(effect, call.at);
                }
            }
            "ln" => {
                let target = arguments.last().filter(|_| arguments.len() > 1);
                self.add(target.map_or(Effect::Unknown, |word| Effect::Write { path: path(word) }), call.at);
            }
            "tar" => self.tar(call),
            "zip" => self.add(arguments.first().map_or(Effect::Nothing, |word| Effect::Write { path: path(word) }), call.at),
            "unzip" => {
                let into = after_option(call, "-d");
                self.add(into.map_or(Effect::Unknown, |word| Effect::Write { path: path(&word) }), call.at);
            }
            "cp" | "mv" | "rsync" | "scp" => {
                let Some((to, from)) = arguments.split_last() else { return true };
                // `host:folder` is another machine.
                let far = |word: &Word| {
                    word.text.split('/').next().is_some_and(|first| first.contains(':')) || word.text.starts_with("rsync://")
                };
                if far(to) {
                    self.copy_to_machine(to, from, call, written);
                    return true;
                }
                let effect = if is_outside(&to.text) {
                    Effect::Nothing
                } else if from.iter().any(|word| far(word)) {
                    Effect::Write { path: path(to) }
                } else {
                    let sources = from.iter().map(|word| copy_source(name, &call.dir, word)).collect();
                    Effect::Copy { from: sources, to: path(to), is_folder: to.text.ends_with('/'), moves: name == "mv" }
                };
                self.add(effect, call.at);
            }
            "curl" | "wget" => {
                let known = call.known();
                let saves =
                    name == "wget" || known.iter().any(|word| matches!(*word, "-o" | "-O" | "--output" | "--remote-name"));
                let target = known
                    .iter()
                    .position(|word| matches!(*word, "-o" | "-O" | "--output"))
                    .and_then(|index| call.words.get(index + 1));
                match target {
                    Some(word) if name == "curl" || known.contains(&"-O") => {
                        self.add(Effect::Write { path: path(&word) }, call.at)
                    }
                    _ if saves => self.add(Effect::Write { path: call.dir.clone() }, call.at),
                    _ => self.add(Effect::Nothing, call.at),
                }
            }
            _ => return false,
        }
        true
    }

    /// Packs a folder into one file, or unpacks one.
    fn tar(&mut self, call: &Call<'_>) {
        let mode = call.words.get(1).map_or("", |word| word.text.trim_start_matches('-'));
        let unpacks = mode.starts_with('x') || mode.contains('x') || call.known().contains(&"--extract");
        let target =
            if unpacks { after_option(call, "-C") } else { after_option(call, call.words.get(1).map_or("", |word| &word.text)) };
        let effect = match target {
            Some(word) => Effect::Write { path: path_of(&call.dir, word) },
            None if unpacks => Effect::Unknown,
            None => Effect::Nothing,
        };
        self.add(effect, call.at);
    }

    /// `rsync dist/ host:folder`: the last word before the machine's is what is published, options and their values aside.
    fn copy_to_machine(&mut self, to: &Word, from: &[&Word], call: &Call<'_>, written: &Written<'_>) {
        let folder = from.last().map(|word| self.published(word, call, written));
        let place = self.scene.steady(&to.text).map(|text| text.trim_end_matches('/').to_owned());
        let dry = call.known().iter().any(|word| matches!(*word, "--dry-run" | "-n"));
        let publish = Effect::Publish {
            target: "ssh".into(),
            folder,
            artifact: None,
            branch: None,
            place,
            creates_branch: false,
            needs_hand_on: false,
        };
        self.add(if dry { Effect::Nothing } else { publish }, call.at);
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
            None => self.add(Effect::Unknown, call.at),
        }
    }

    /// `run-s a b:*`: scripts of the package, by name. A pattern is followed as every script that it may mean.
    fn script_runner(&mut self, call: &Call<'_>) {
        let facts = self.scene.facts;
        let package = call.dir.as_deref().filter(|_| self.scene.own_root).and_then(|dir| facts.package_for(dir));
        let Some((dir, package)) = package else {
            self.add(Effect::Unknown, call.at);
            return;
        };
        for word in call.words[1..].iter().take_while(|word| word.text != "--").filter(|word| !word.text.starts_with('-')) {
            // Arguments stand in the same word as the name: "build {@}".
            let name = word.text.split_whitespace().next().unwrap_or_default();
            match package.script(name) {
                Some(script) => self.follow(dir, name, &script.command, call.at, false),
                None => self.add(Effect::Unknown, call.at),
            }
        }
    }

    fn git(&mut self, call: &Call<'_>) {
        let known = call.known();
        let mut words = known[1..].iter();
        let mut elsewhere = false;
        let word = loop {
            match words.next() {
                Some(&("-c" | "-C" | "--git-dir" | "--work-tree")) => {
                    elsewhere = true;
                    words.next();
                }
                Some(option) if option.starts_with('-') && !option.starts_with("--version") => {}
                other => break other.copied().unwrap_or_default(),
            }
        };
        match word {
            "push" => self.git_push(call, elsewhere),
            word if knowledge::commands().git_is_harmless(word) => self.add(Effect::Nothing, call.at),
            _ => self.add(Effect::Unknown, call.at),
        }
    }

    /// `git push` writes with the credential that the checkout left, unless an address or a key of its own is named.
    fn git_push(&mut self, call: &Call<'_>, elsewhere: bool) {
        let known = call.known();
        let after = known.iter().position(|word| *word == "push").map_or(known.len(), |index| index + 1);
        let arguments: Vec<(usize, &str)> = known
            .iter()
            .enumerate()
            .skip(after)
            .filter(|(_, word)| !word.starts_with('-'))
            .map(|(index, word)| (index, *word))
            .collect();
        // An address that holds the job's own token uses that, and so does the remote that the sources came from.
        let customs = self.scene.customs;
        let by_own_token = |index: usize| {
            let text = call.words.get(index).map_or("", |word| word.text.as_str());
            customs.reads_variables && customs.own_tokens.iter().any(|name| text.contains(name.as_str()))
        };
        let remote_is_plain = arguments.first().is_none_or(|(index, remote)| *remote == "origin" || by_own_token(*index));
        let branch = arguments.get(1).map(|(_, word)| *word).filter(|word| !word.is_empty());
        let current =
            !elsewhere && branch.is_none_or(|word| word == "HEAD") && arguments.iter().all(|(_, word)| !word.is_empty());
        let branch = branch
            .map(|word| word.rsplit_once(':').map_or(word, |(_, target)| target))
            .filter(|word| *word != "HEAD")
            .map(str::to_owned);
        self.add(Effect::Push { branch, current }, call.at);
        if remote_is_plain && !elsewhere && !self.perhaps {
            let why = "to push commits".to_owned();
            self.out.grants.push(NeededGrant {
                scope: "contents".into(),
                level: Level::Write,
                why,
                visible_anyway: false,
                by_git: true,
                at: call.at,
            });
        }
    }

    /// The generator that a command runs, and how many words name it; the longest match counts. Where several frameworks share a
    /// command, the packages of the folder decide.
    fn matching_generator(&self, name: &str, call: &Call<'_>) -> Option<(&'static Generator, usize)> {
        let known = call.known();
        let matches = |command: &str| {
            let words: Vec<&str> = command.split(' ').collect();
            let rest_fits = words[1..].iter().enumerate().all(|(index, word)| known.get(index + 1) == Some(word));
            (words[0] == name && rest_fits).then_some(words.len())
        };
        let dir = call.dir.as_deref().filter(|_| self.scene.own_root);
        let fits = |generator: &&Generator| fits_package(self.scene.facts, generator, dir);
        let all = knowledge::generators().generator.iter().filter(fits);
        all.filter_map(|generator| Some((generator, generator.commands.iter().filter_map(|command| matches(command)).max()?)))
            .max_by_key(|(_, used)| *used)
    }

    fn generator(&mut self, generator: &'static Generator, used: usize, call: &Call<'_>) {
        let options = Options { words: &call.words[used..], generator };
        let first = options.arguments().next();
        let other = first.is_some_and(|word| generator.other_words.contains(&word.text));
        let stays = call.words.iter().any(|word| generator.not_with.iter().any(|option| word.text.starts_with(option.as_str())));
        if other || stays || call.words.iter().any(|word| matches!(word.text.as_str(), "--help" | "--version")) {
            self.add(Effect::Nothing, call.at);
            return;
        }
        let (output, origin) = self.built_folder(&options, call);
        for also in &generator.output_also {
            self.add(Effect::Write { path: join(&call.dir, also) }, call.at);
        }
        let own_dir = call.dir.as_deref().filter(|_| self.scene.own_root && options.arguments().next().is_none());
        let server = own_dir.and_then(|dir| needs_server(self.scene.facts, generator, dir));
        let base = self.base(&options, own_dir);
        self.add(Effect::Build { generator: generator.id.clone(), output, origin, base, server }, call.at);
    }

    /// The path that the pages expect to be served under: the command's option, the configuration, or the generator's own.
    fn base(&self, options: &Options<'_>, dir: Option<&str>) -> Option<(String, Origin)> {
        match options.value(&options.generator.base_options) {
            Given::Known(word) => return Some((word.to_owned(), Origin::Catalog)),
            Given::Unknown => return None,
            Given::Absent => {}
        }
        let rooted = matches!(options.value(&options.generator.root_options), Given::Absent);
        served_under(self.scene.facts, options.generator, dir.filter(|_| rooted)?)
    }

    fn built_folder(&self, options: &Options<'_>, call: &Call<'_>) -> (Folder, Origin) {
        let generator = options.generator;
        let written = Origin::At(call.at);
        let mut root = call.dir.clone();
        match options.value(&generator.root_options) {
            Given::Known(word) => root = join(&root, word),
            Given::Unknown => root = None,
            Given::Absent => {}
        }
        if !matches!(options.value(&generator.root_option_unknown), Given::Absent) {
            root = None;
        }
        match (generator.arguments.as_deref(), options.arguments().next()) {
            (Some("source-output"), _) => {
                // Without a known root the second word is no folder either.
                let output = root.as_ref().and_then(|_| options.arguments().nth(1)).and_then(|word| path_of(&call.dir, word));
                return (output, written);
            }
            (_, None) | (Some("ignored"), _) => {}
            (Some("root"), Some(word)) => root = path_of(&root, word),
            (_, Some(_)) => root = None,
        }
        let suffix = || match (&root, self.scene.own_root) {
            (Some(dir), true) => output_suffix(self.scene.facts, generator, dir),
            _ => generator.output_suffix.is_none().then(String::new),
        };
        match options.value(&generator.output_options) {
            Given::Known(word) => return (suffix().and_then(|suffix| join(&join(&root, word), &suffix)), written),
            Given::Unknown => return (None, written),
            Given::Absent => {}
        }
        if let Some(text) = generator.output_variable.as_ref().and_then(|name| self.scene.variable(name)) {
            return (text.known().and_then(|text| join(&root, text)), Origin::At(text.at));
        }
        let found = match (&root, self.scene.own_root) {
            (Some(dir), true) => site_output(self.scene.facts, generator, dir),
            _ => None,
        };
        match found {
            Some(site) => (join(&root, &site.output), site.origin),
            None => (None, Origin::Catalog),
        }
    }

    /// Follows a script of a package, when it is not followed already.
    pub fn follow(&mut self, dir: &str, name: &str, command: &str, at: Place, perhaps: bool) {
        let key = (dir.to_owned(), name.to_owned());
        if self.visiting.len() >= DEPTH_LIMIT || self.visiting.contains(&key) {
            self.add(Effect::Unknown, at);
            return;
        }
        self.visiting.push(key);
        let outer = self.perhaps;
        self.perhaps |= perhaps;
        self.script(command, &Written::By(at), Some(dir.to_owned()));
        self.perhaps = outer;
        self.visiting.pop();
    }
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

/// The path of a word; for a pattern, the folder it looks in.
pub(super) fn path_of(dir: &Folder, word: &Word) -> Folder {
    if word.glob {
        let fixed = word.text.split(['*', '?', '[']).next().unwrap_or_default();
        return join(dir, fixed.rsplit_once('/').map_or("", |(folder, _)| folder));
    }
    join(dir, &word.text)
}

/// `eval $(ssh-agent -s)` sets variables and nothing else.
fn starts_agent(name: &str, words: &[Word]) -> bool {
    name == "eval" && words.iter().any(|word| word.text.contains("ssh-agent"))
}

/// The home directory and the machine's own folders: nothing there is part of the workspace.
fn is_outside(path: &str) -> bool {
    const WORKSPACES: [&str; 5] = ["/builds/", "/github/workspace", "/home/runner/work", "/workspace", "/bitbucket"];
    let home = path == "~" || path.starts_with("~/") || path.starts_with("$HOME") || path.starts_with("${HOME}");
    home || (path.starts_with('/') && !WORKSPACES.iter().any(|workspace| path.starts_with(workspace)))
}

/// The word after an option.
fn after_option<'c>(call: &Call<'c>, option: &str) -> Option<&'c Word> {
    let index = call.words.iter().position(|word| word.text == option)?;
    call.words.get(index + 1)
}

/// What a word of `cp`, `mv` or `rsync` names: a folder, or what lies in it.
fn copy_source(name: &str, dir: &Folder, word: &Word) -> CopySource {
    let text = word.text.as_str();
    let all = text == "*" || text.ends_with("/*");
    if word.glob && !all {
        return CopySource { path: None, contents: true, always_nests: false };
    }
    let slash = name == "rsync" && text.ends_with('/');
    let contents = all || text == "." || text.ends_with("/.") || slash;
    CopySource { path: path_of(dir, word), contents, always_nests: name == "rsync" && !contents }
}

/// `./node_modules/.bin/vite` and `vite@5` are vite.
pub(super) fn program_name(word: &str) -> &str {
    let name = word.rsplit_once("node_modules/.bin/").map_or(word, |(_, name)| name);
    match name.rfind('@') {
        Some(index) if index > 0 => &name[..index],
        _ => name,
    }
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
            let takes_value = wrapper.value_options.contains(&word.text);
            rest = &rest[(1 + usize::from(takes_value)).min(rest.len())..];
        }
        if rest.is_empty() {
            return words;
        }
        words = rest;
    }
    words
}

/// The words after a generator's command.
struct Options<'w> {
    words: &'w [Word],
    generator: &'static Generator,
}

enum Given<'w> {
    Known(&'w str),
    Unknown,
    Absent,
}

impl<'w> Options<'w> {
    fn value(&self, names: &[String]) -> Given<'w> {
        for (index, word) in self.words.iter().enumerate() {
            for name in names {
                if word.text == *name {
                    return self.words.get(index + 1).map_or(Given::Absent, given);
                }
                let joined = word.text.strip_prefix(name.as_str()).and_then(|rest| rest.strip_prefix('='));
                if let Some(value) = joined {
                    return if word.dynamic { Given::Unknown } else { Given::Known(value) };
                }
            }
        }
        Given::Absent
    }

    /// Words that are neither options nor the values of options that are known to take one.
    fn arguments(&self) -> impl Iterator<Item = &'w Word> {
        let generator = self.generator;
        let takes_value = |word: &Word| {
            let lists = [
                &generator.output_options,
                &generator.base_options,
                &generator.root_options,
                &generator.root_option_unknown,
                &generator.value_options,
            ];
            lists.iter().any(|names| names.contains(&word.text))
        };
        let words = self.words;
        words
            .iter()
            .enumerate()
            .filter(move |(index, word)| {
                !word.text.starts_with('-') && !index.checked_sub(1).is_some_and(|before| takes_value(&words[before]))
            })
            .map(|(_, word)| word)
    }
}

fn given(word: &Word) -> Given<'_> {
    word.known().map_or(Given::Unknown, Given::Known)
}
