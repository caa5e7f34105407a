//! How the packages of a package.json are installed, tested and built with.

use super::in_shell;
use super::plan::{Command, Kept, below};
use crate::effects::built_by_scripts;
use crate::facts::{Facts, Package, Recognised, lockfiles, major_of};
use crate::knowledge::{Manager, managers};

/// A package.json with the manager of its folder.
#[derive(Debug)]
pub(super) struct Packages<'f> {
    facts: &'f Facts,
    /// The folder of package.json.
    dir: &'f str,
    package: &'f Package,
    /// The manager.
    pub manager: &'static Manager,
    /// The lockfile, from the root.
    pub lockfile: Option<String>,
    /// More than one manager has a lockfile here.
    pub is_disputed: bool,
}

impl<'f> Packages<'f> {
    /// Those of a folder that has a package.json.
    pub fn of(facts: &'f Facts, dir: &str) -> Option<Self> {
        let (dir, package) = facts.packages.get_key_value(dir).map(|(dir, package)| (dir.as_str(), package))?;
        let locks = lockfiles(facts, dir);
        let above = locks.first().map(|(_, path)| path.rsplit_once('/').map_or("", |(folder, _)| folder));
        let above = above.and_then(|folder| facts.packages.get(folder)).and_then(|package| package.manager.as_ref());
        let asked = package.manager.as_ref().or(above).and_then(|(text, _)| text.split('@').next());
        let lock = locks.iter().find(|(id, _)| Some(*id) == asked).or(locks.first());
        let id = lock.map(|(id, _)| *id).or(asked).unwrap_or("npm");
        let is_disputed = asked.is_none() && locks.iter().any(|(other, _)| Some(*other) != lock.map(|(id, _)| *id));
        let manager = managers().get(id).or_else(|| managers().get("npm"))?;
        Some(Self { facts, dir, package, manager, lockfile: lock.map(|(_, path)| path.clone()), is_disputed })
    }

    /// The folder of the lockfile, where all is installed.
    fn root(&self) -> &str {
        self.lockfile.as_deref().map_or(self.dir, |path| path.rsplit_once('/').map_or("", |(folder, _)| folder))
    }

    /// `packageManager`, when it names a version of this manager.
    fn named_version(&self) -> Option<&str> {
        // In a workspace the package above all says it.
        let above = || self.facts.packages.get(self.root()).and_then(|package| package.manager.as_ref());
        let (text, _) = self.package.manager.as_ref().or_else(above)?;
        let (name, version) = text.split_once('@')?;
        let version = version.split('+').next().unwrap_or(version);
        // It goes into a command.
        let is_version = version.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '.' | '-'));
        (name == self.manager.id && is_version).then_some(version)
    }

    /// The manager's version is an old one that takes other words.
    fn is_old(&self) -> bool {
        let Some(until) = self.manager.old_until else { return false };
        let new_settings = below(self.root(), &format!(".{}rc.yml", self.manager.id));
        match self.named_version().and_then(major_of) {
            Some(major) => major < until,
            None => self.facts.has_file(&new_settings) != Some(true),
        }
    }

    /// What brings the manager where only the runtime is; `None` where it comes with the runtime.
    pub fn bring(&self) -> Option<String> {
        // Old ones come with the images of the runtime.
        let command = self.manager.bring.filter(|_| !self.is_old())?;
        let version = self.named_version().or(self.manager.version).unwrap_or_default();
        Some(command.replace("{version}", version))
    }

    /// The version to bring, where package.json names none.
    pub fn unnamed_version(&self) -> Option<&'static str> {
        self.manager.version.filter(|_| self.named_version().is_none())
    }

    /// What installs exactly what the lockfile says; `kept` with downloads in a folder of the checkout.
    pub fn install(&self, kept: bool) -> Command {
        let old = self.manager.old_clean_install.filter(|_| self.is_old());
        let words = old.unwrap_or(self.manager.clean_install);
        let words = if self.lockfile.is_some() { words.to_owned() } else { format!("{} install", self.manager.id) };
        let text = match self.keeping().filter(|_| kept) {
            Some(Keeping::Option(option)) => format!("{words} {option} {}", self.manager.kept_in),
            Some(Keeping::Variable(variable)) => format!("{variable} {words}"),
            None => words,
        };
        Command { text, dir: self.root().to_owned() }
    }

    /// How it is told where to keep its downloads.
    fn keeping(&self) -> Option<Keeping> {
        self.lockfile.as_ref()?;
        let option = if self.is_old() { self.manager.old_kept_option } else { self.manager.kept_option };
        option.map(Keeping::Option).or(self.manager.kept_variable.map(Keeping::Variable))
    }

    /// The folder of downloads that [`Packages::install`] keeps, and what it hangs on.
    pub fn kept(&self) -> Option<Kept> {
        let lockfile = self.lockfile.clone()?;
        let keeping = self.keeping();
        let folder = below(self.root(), self.manager.kept_in);
        keeping.map(|_| Kept { folder, key_files: vec![lockfile], word: self.manager.id })
    }

    fn script(&self, name: &str, arguments: &str) -> Command {
        let run = format!("{} run {}", self.manager.id, in_shell(name));
        let text = match (arguments, self.manager.options_after_name) {
            ("", _) => run,
            // Only behind `--` are options those of the script.
            (arguments, true) => format!("{run} -- {arguments}"),
            (arguments, false) => format!("{run} {arguments}"),
        };
        Command { text, dir: self.dir.to_owned() }
    }

    /// The scripts that look at the sources, and those that would need a person or a browser.
    pub fn tests(&self) -> (Vec<Command>, Vec<String>) {
        const LOOKING: [&str; 5] = ["lint", "typecheck", "type-check", "check", "test"];
        const HELD: [&str; 7] = ["--watch", "ng test", "ng e2e", "playwright", "cypress", "karma", "--open"];
        let (mut tests, mut left_out) = (Vec::new(), Vec::new());
        for script in LOOKING.iter().filter_map(|name| self.package.script(name)) {
            let is_empty = script.command.contains("no test specified") || script.command.trim().is_empty();
            if is_empty {
                continue;
            }
            if HELD.iter().any(|word| script.command.contains(word)) {
                left_out.push(script.name.clone());
            } else {
                tests.push(self.script(&script.name, ""));
            }
        }
        (tests, left_out)
    }

    /// What builds the site: the command, the folder it writes from the root, and the script that is taken. `arguments` go to the
    /// generator.
    pub fn build(&self, site: Option<&Recognised>, format: &'static dyn crate::formats::Format, arguments: &str) -> Built {
        let built = built_by_scripts(self.facts, self.dir, (format.run(), &format.data().customs));
        let fits = |id: &str| site.is_none_or(|site| site.generator.id == id);
        let own: Vec<_> = built.iter().filter(|(_, id, _)| fits(id)).collect();
        let best = own.iter().find(|(name, ..)| name == "build").or_else(|| own.first());
        if let Some((name, _, output)) = best {
            return Built { command: self.script(name, arguments), output: Some(output.clone()), is_script: true };
        }
        if self.package.script("build").is_some() {
            return Built { command: self.script("build", ""), output: None, is_script: true };
        }
        let Some(command) = site.and_then(|site| site.generator.commands.first()) else {
            return Built { command: self.script("build", ""), output: None, is_script: false };
        };
        let word = self.manager.exec.first().copied().unwrap_or("exec");
        let run = match self.manager.id {
            "npm" => format!("npx {command}"),
            "bun" => format!("bunx {command}"),
            id => format!("{id} {word} {command}"),
        };
        let text = if arguments.is_empty() { run } else { format!("{run} {arguments}") };
        Built { command: Command { text, dir: self.dir.to_owned() }, output: None, is_script: true }
    }
}

/// How a manager is told where to keep its downloads.
enum Keeping {
    /// By this option, before the folder.
    Option(&'static str),
    /// By this variable, which names its usual folder.
    Variable(&'static str),
}

/// How a site is built.
#[derive(Debug)]
pub(super) struct Built {
    /// The command.
    pub command: Command,
    /// The folder that it writes, from the root, when that is known.
    pub output: Option<String>,
    /// The command is there to be run.
    pub is_script: bool,
}
