//! What a pipeline for a repository has to do, in no format's words.

use super::tools::Tooling;
use super::{Refused, in_shell};
use crate::facts::{Facts, Recognised, needs_server, reads_history, recognised};
use crate::knowledge::{Generator, SiteHost};
use crate::shown::harmless;
use crate::text::Sources;

/// A command of a shell.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Command {
    /// The command.
    pub text: String,
    /// The folder to run it in, from the root.
    pub dir: String,
}

impl Command {
    /// One at the root.
    pub fn at_root(text: impl Into<String>) -> Self {
        Self { text: text.into(), dir: String::new() }
    }

    /// As one line that changes its folder by itself, and nobody else's.
    pub fn in_own_folder(&self) -> String {
        if self.dir.is_empty() { self.text.clone() } else { format!("(cd {} && {})", in_shell(&self.dir), self.text) }
    }
}

/// Downloads that are kept from one run to the next.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Kept {
    /// The folder that [`Plan::install_keeping`] fills, from the root.
    pub folder: String,
    /// The files that say what is downloaded, from the root.
    pub key_files: Vec<String>,
    /// The manager.
    pub word: &'static str,
}

/// What a pipeline has to do.
#[derive(Debug)]
pub struct Plan<'f> {
    pub(super) facts: &'f Facts,
    /// The host.
    pub host: &'static SiteHost,
    /// What the site is made with.
    pub generator: Option<&'static Generator>,
    /// The folder of the site's sources, "" at the root.
    pub dir: String,
    /// The branch that goes live.
    pub branch: String,
    /// There are repositories inside this one.
    pub submodules: bool,
    /// The generator reads dates from git's history.
    pub history: bool,
    /// The runtime first, then what else the build needs; the first has an image.
    pub tools: Vec<Tooling>,
    /// Commands that bring the package manager where only the runtime is.
    pub bring: Vec<Command>,
    /// The package manager, where it is one that has to be brought: its name, and its version where package.json names none.
    pub manager: Option<(&'static str, Option<&'static str>)>,
    /// What installs the packages.
    pub install: Vec<Command>,
    /// The same, with downloads in the folder of `kept`.
    pub install_keeping: Vec<Command>,
    /// The downloads.
    pub kept: Option<Kept>,
    /// What looks at the sources before the build.
    pub tests: Vec<Command>,
    /// What builds the site.
    pub build: Vec<Command>,
    /// The built folder, from the root.
    pub output: String,
    /// The host's own file is in the repository.
    pub has_host_file: bool,
    /// What is not known and has to be looked at, as sentences.
    pub asks: Vec<String>,
}

impl<'f> Plan<'f> {
    /// What the facts of a repository make of it.
    ///
    /// # Errors
    /// When the repository makes something that no host of files serves.
    pub fn of(facts: &'f Facts, sources: &Sources, host: &'static SiteHost) -> Result<Self, Refused> {
        let all = recognised(facts, sources);
        let site = main_site(&all);
        let dir = site.map_or_else(|| lone_package(facts), |site| site.dir.clone());
        if let Some(site) = site
            && needs_server(facts, site.generator, &site.dir) == Some(true)
        {
            return Err(Refused(format!(
                "{} makes a server here, and no folder of files that a host could serve: let it make static pages first{}",
                site.generator.id,
                site.generator
                    .server_unless
                    .as_ref()
                    .map_or(String::new(), |set| format!(" ({} = {:?})", set.setting, set.value))
            )));
        }
        let mut plan = Self {
            facts,
            host,
            generator: site.map(|site| site.generator),
            branch: String::new(),
            submodules: facts.git.submodules.known().is_some_and(|all| !all.is_empty()),
            history: site.is_some_and(|site| reads_history(facts, site.generator, &site.dir).is_some()),
            tools: Vec::new(),
            bring: Vec::new(),
            manager: None,
            install: Vec::new(),
            install_keeping: Vec::new(),
            kept: None,
            tests: Vec::new(),
            build: Vec::new(),
            output: String::new(),
            has_host_file: host.takes_file.is_some_and(|file| facts.has_file(file) == Some(true)),
            asks: Vec::new(),
            dir,
        };
        plan.choose_branch();
        plan.choose_tools(site);
        plan.choose_work(site);
        if plan.host.needs_package && !facts.packages.contains_key(&plan.dir) {
            return Err(Refused(format!(
                "{} builds the site itself, out of a package.json, and there is none here",
                plan.host.name
            )));
        }
        plan.tell_of_others(&all, site);
        plan.refuse_odd_names()?;
        Ok(plan)
    }

    /// A line break in a name would be one in the file, and what nobody sees would be hidden there.
    fn refuse_odd_names(&self) -> Result<(), Refused> {
        let commands = [&self.install, &self.install_keeping, &self.tests, &self.build].into_iter().flatten();
        let keys = self.kept.iter().flat_map(|kept| &kept.key_files);
        let names =
            commands.flat_map(|command| [&command.text, &command.dir]).chain(keys).chain([&self.output, &self.branch, &self.dir]);
        match names.into_iter().find(|name| harmless(name) != **name) {
            Some(name) => Err(Refused(format!(
                "{name:?} holds a control character or one that nobody sees, and no file is drafted with it"
            ))),
            None => Ok(()),
        }
    }

    /// What the pipeline does, as the beginning of a sentence.
    pub fn title(&self) -> String {
        let with = self.generator.map_or(String::new(), |generator| format!(" with {}", generator.id));
        let is_built = self.generator.is_some() || !self.install.is_empty();
        let (verb, it) = if is_built { ("Builds the site", "it") } else { ("Gathers the site's files", "them") };
        format!("{verb}{with} and puts {it} on {}", self.host.name)
    }

    /// The toolchain that publishing needs, as the repository wants it.
    pub fn publishing_tool(&self) -> Option<Tooling> {
        let id = self.host.tool?;
        self.tools.iter().find(|known| known.tool.id == id).cloned().or_else(|| Tooling::of(self.facts, id, &self.dir))
    }

    /// The image for publishing.
    pub fn publishing_image(&self) -> String {
        self.publishing_tool().and_then(|tool| tool.image()).unwrap_or_default()
    }

    /// Lines that build; where there are none, one that shows that the folder is there.
    pub fn or_look(&self, lines: Vec<String>) -> Vec<String> {
        if lines.is_empty() { vec![format!("ls {}", in_shell(&self.output))] } else { lines }
    }

    /// The image for building, where every tool comes by an image or a download.
    pub fn image(&self) -> String {
        self.tools.first().and_then(Tooling::image).unwrap_or_default()
    }

    /// What brings the repositories inside this one, where the checkout itself does not.
    pub fn fetch_submodules(&self) -> Option<Command> {
        self.submodules.then(|| Command::at_root("git submodule update --init --recursive"))
    }

    /// Commands that bring what the image lacks.
    pub fn fetch(&self, sudo: bool) -> Vec<Command> {
        self.tools.iter().flat_map(|tool| tool.fetch(sudo)).map(Command::at_root).collect()
    }

    /// What builds, with everything before it: brings, installs, tests, builds. `keeping` keeps downloads in the checkout.
    pub fn work(&self, keeping: bool) -> impl Iterator<Item = &Command> {
        let install = if keeping { &self.install_keeping } else { &self.install };
        self.bring.iter().chain(install).chain(&self.tests).chain(&self.build)
    }

    fn choose_branch(&mut self) {
        let git = &self.facts.git;
        if let Some(branch) = git.default_branch.known() {
            self.branch.clone_from(branch);
            return;
        }
        let branches = git.branches.known().map(Vec::as_slice).unwrap_or_default();
        let usual = ["main", "master", "trunk"].into_iter().find(|name| branches.iter().any(|known| known == name));
        let branch = match (branches, usual, git.current_branch.known()) {
            ([one], ..) => one.clone(),
            (_, Some(usual), _) => usual.to_owned(),
            (_, None, Some(current)) => current.clone(),
            _ => "main".to_owned(),
        };
        self.asks.push(format!("Which branch goes live is not told by git here; {branch} is written."));
        self.branch = branch;
    }

    fn choose_tools(&mut self, site: Option<&Recognised>) {
        let has_packages = self.facts.packages.contains_key(&self.dir);
        let own = site.and_then(|site| site.generator.toolchain);
        let mut ids: Vec<&str> = Vec::new();
        if has_packages && (own.is_none() || !self.is_bare_package()) {
            ids.push("node");
        }
        ids.extend(own);
        let tools = |ids: &[&str]| ids.iter().filter_map(|id| Tooling::of(self.facts, id, &self.dir)).collect::<Vec<_>>();
        let mut tools = tools(&ids);
        // What comes with an image stands first; two of those need a word.
        let images: Vec<&str> = tools.iter().filter(|one| one.tool.image.is_some()).map(|one| one.tool.id).collect();
        if images.len() > 1 && own != Some("trunk") {
            tools.retain(|one| one.tool.id != "node");
            self.asks.push("There is a package.json beside the site; what it brings is not installed here.".to_owned());
        }
        tools.sort_by_key(|one| one.tool.image.is_none());
        if tools.first().is_none_or(|first| first.tool.image.is_none()) {
            tools.splice(0..0, Tooling::of(self.facts, "shell", ""));
        }
        for one in tools.iter().filter(|one| one.is_guessed()) {
            self.asks.push(format!(
                "Nothing here says which version of {} the site is made with; {} is written.",
                one.tool.id, one.version
            ));
        }
        self.tools = tools;
    }

    /// A package.json without a lockfile and without packages brings nothing.
    fn is_bare_package(&self) -> bool {
        self.facts.packages.get(&self.dir).is_some_and(|package| package.dependencies.is_empty())
    }

    pub(super) fn has_tool(&self, id: &str) -> bool {
        self.tools.iter().any(|one| one.tool.id == id)
    }

    fn tell_of_others(&mut self, all: &[Recognised], site: Option<&Recognised>) {
        let Some(site) = site else {
            if self.facts.packages.is_empty() && self.output == "dist" {
                self.asks.push("Nothing here tells what makes the site.".into());
            }
            return;
        };
        let others: Vec<String> = all
            .iter()
            .filter(|other| (other.generator.id, &other.dir) != (site.generator.id, &site.dir))
            .map(|other| match other.dir.as_str() {
                "" => other.generator.id.to_owned(),
                dir => format!("{} in {dir}", other.generator.id),
            })
            .collect();
        if !others.is_empty() {
            self.asks.push(format!(
                "There is more that makes pages ({}); it is not built here.",
                crate::finding::listed_short(&others)
            ));
        }
    }
}

/// A path below a folder.
pub(super) fn below(dir: &str, path: &str) -> String {
    if dir.is_empty() { path.to_owned() } else { format!("{dir}/{path}") }
}

/// The generator that makes the site, where more than one is at hand: what shows components or an interface is not it, and a bundler is not
/// where something else runs it.
fn main_site(all: &[Recognised]) -> Option<&Recognised> {
    const ASIDE: [&str; 2] = ["storybook", "typedoc"];
    const BUNDLERS: [&str; 4] = ["vite", "webpack", "rspack", "parcel"];
    let rank = |one: &&Recognised| {
        let id = one.generator.id;
        (ASIDE.contains(&id), !one.dir.is_empty(), BUNDLERS.contains(&id), one.dir.matches('/').count())
    };
    all.iter().min_by_key(rank)
}

/// The folder of the only package.json that builds something.
fn lone_package(facts: &Facts) -> String {
    let builds = |dir: &&String| facts.packages.get(*dir).is_some_and(|package| package.script("build").is_some());
    let mut all = facts.packages.keys().filter(builds);
    match (all.next(), all.next()) {
        (Some(one), None) if !facts.packages.contains_key("") => one.clone(),
        _ => String::new(),
    }
}
