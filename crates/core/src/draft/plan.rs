//! What a pipeline for a repository has to do, in no format's words.

use super::base::{self, Base};
use super::packages::Packages;
use super::tools::Tooling;
use super::{Refused, in_shell};
use crate::facts::{Facts, Recognised, needs_server, reads_history, recognised, site_output};
use crate::formats;
use crate::knowledge::{Generator, SignIn, SiteHost, WantedVariable};
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

/// What puts the built folder online.
#[derive(Debug)]
pub struct Publishing {
    /// The commands, from the root of a checkout.
    pub commands: Vec<String>,
    /// The secrets that they read.
    pub secrets: &'static [WantedVariable],
    /// Names and addresses that a person has to give.
    pub asked: Vec<&'static WantedVariable>,
    /// Those that the commands read.
    pub read: Vec<&'static WantedVariable>,
    /// The variables of secrets that have many lines hold paths of files.
    pub gives_files: bool,
    /// A step before the commands.
    pub sign_in: Option<&'static SignIn>,
}

/// How a format reaches hosts.
#[derive(Debug, Default)]
pub struct Way {
    /// The format, by its id.
    pub format: &'static str,
    /// It can give a secret as a file, whose path the variable holds.
    pub gives_files: bool,
    /// A step by which its run signs in.
    pub sign_in: Option<&'static SignIn>,
}

/// What a pipeline has to do.
#[derive(Debug)]
pub struct Plan<'f> {
    facts: &'f Facts,
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
        plan.choose_tools(site)?;
        plan.choose_work(site);
        if plan.host.needs_package && !facts.packages.contains_key(&plan.dir) {
            return Err(Refused(format!(
                "{} builds the site itself, out of a package.json, and there is none here",
                plan.host.name
            )));
        }
        plan.tell_of_others(&all, site);
        Ok(plan)
    }

    /// What the pipeline does, as the beginning of a sentence.
    pub fn title(&self) -> String {
        let with = self.generator.map_or(String::new(), |generator| format!(" with {}", generator.id));
        let verb =
            if self.generator.is_some() || !self.install.is_empty() { "Builds the site" } else { "Gathers the site's files" };
        format!("{verb}{with} and puts it on {}", self.host.name)
    }

    /// What publishes.
    pub fn publishing(&self, way: &Way) -> Publishing {
        let is_signed_in = way.sign_in.is_some() || self.host.signed_in_by.contains(&way.format);
        let commands = if is_signed_in { self.host.signed_in_commands } else { self.host.commands };
        let read = |one: &&WantedVariable| !is_signed_in || commands.iter().any(|command| command.contains(one.name));
        let secrets = if is_signed_in { &[] } else { self.host.secrets };
        let variables = way.sign_in.map_or(&[][..], |sign_in| sign_in.variables).iter();
        Publishing {
            commands: self.commands(commands, secrets, way.gives_files),
            secrets,
            asked: variables.chain(self.host.variables.iter().filter(read)).collect(),
            read: self.host.variables.iter().filter(read).collect(),
            gives_files: way.gives_files,
            sign_in: way.sign_in,
        }
    }

    /// The commands of the catalog with what is known filled in. A secret of many lines is put into a file first, unless it is one.
    fn commands(&self, commands: &[&str], secrets: &[WantedVariable], gives_files: bool) -> Vec<String> {
        let put = |one: &WantedVariable| {
            [format!("{0}_FILE=\"$(mktemp)\"", one.name), format!("printf '%s\\n' \"${0}\" > \"${0}_FILE\"", one.name)]
        };
        let files = || secrets.iter().filter(|one| one.a_file);
        let fill = |command: &&str| {
            let command = command.replace("{folder}", &in_shell(&self.output)).replace("{branch}", &in_shell(&self.branch));
            files().fold(command, |command, one| {
                let path = if gives_files { format!("${}", one.name) } else { format!("${}_FILE", one.name) };
                command.replace(&format!("{{path:{}}}", one.name), &path)
            })
        };
        files().filter(|_| !gives_files).flat_map(put).chain(commands.iter().map(fill)).collect()
    }

    /// The toolchain that they need, as the repository wants it.
    pub fn publishing_tool(&self) -> Option<Tooling> {
        let id = self.host.tool?;
        self.tools.iter().find(|known| known.tool.id == id).cloned().or_else(|| Tooling::of(self.facts, id, &self.dir))
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

    fn choose_tools(&mut self, site: Option<&Recognised>) -> Result<(), Refused> {
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
        Ok(())
    }

    /// A package.json without a lockfile and without packages brings nothing.
    fn is_bare_package(&self) -> bool {
        self.facts.packages.get(&self.dir).is_some_and(|package| package.dependencies.is_empty())
    }

    fn has_tool(&self, id: &str) -> bool {
        self.tools.iter().any(|one| one.tool.id == id)
    }

    fn choose_work(&mut self, site: Option<&Recognised>) {
        let base = site.map_or(Base::Fits, |site| base::of(self.facts, site.generator, &self.dir, self.host));
        if self.has_tool("node") {
            self.install_packages();
        }
        match self.tools[0].tool.id {
            "python" => self.install_python(site),
            "ruby" => self.install_gems(),
            _ => {}
        }
        let (arguments, variable) = match &base {
            Base::Option(option) => (option.clone(), String::new()),
            Base::Variable(variable) => (String::new(), format!("{variable} ")),
            Base::Fits | Base::Asked(_) => (String::new(), String::new()),
        };
        if let Base::Asked(path) = &base {
            let name = self.generator.map_or("the generator", |generator| generator.id);
            self.asks.push(format!("The host serves the site below {path}, and the configuration of {name} does not say so."));
        }
        let named = self.facts.settings.site.output.as_ref().map(|named| named.name.clone());
        match (site, Packages::of(self.facts, &self.dir)) {
            (Some(site), _) if site.generator.draft_command.is_some() => self.build_by_command(site, &arguments),
            (_, Some(packages)) if self.has_tool("node") => {
                let built = packages.build(site, formats::all()[0], &arguments);
                let output = built.output.or_else(|| {
                    site.and_then(|site| site_output(self.facts, site.generator, &site.dir))
                        .map(|site| below(&self.dir, &site.output))
                });
                if built.is_script {
                    self.build.push(built.command);
                } else {
                    self.asks
                        .push("package.json has no script that builds; what lies in the folder is published as it is.".into());
                }
                self.output = output.unwrap_or_default();
            }
            _ => self.gather_files(),
        }
        if let Some(first) = self.build.first_mut() {
            first.text.insert_str(0, &variable);
        }
        if let Some(named) = named {
            self.output = named;
        }
        if self.output.is_empty() {
            let told = self.facts.hosting.iter().find_map(|fact| fact.folder.as_ref()).map(|(folder, _)| folder.clone());
            let folder = told.unwrap_or_else(|| "dist".to_owned());
            self.asks.push(format!(
                "Which folder the build writes is not known; {folder} is written. dulk.toml can tell it ([site] output)."
            ));
            self.output = below(&self.dir, &folder);
        }
        self.output = self.output.trim_end_matches('/').trim_start_matches("./").to_owned();
    }

    fn install_packages(&mut self) {
        let Some(packages) = Packages::of(self.facts, &self.dir) else { return };
        self.bring.extend(packages.bring().map(Command::at_root));
        self.manager = packages.bring().map(|_| (packages.manager.id, packages.unnamed_version()));
        self.install.push(packages.install(false));
        self.install_keeping.push(packages.install(true));
        self.kept = packages.kept();
        if packages.lockfile.is_none() {
            self.asks.push(format!(
                "There is no lockfile, so that every run may install other versions: run {0} install, commit what it writes, and install \
                 with {1} here.",
                packages.manager.id, packages.manager.clean_install
            ));
        }
        if packages.is_disputed {
            self.asks.push(format!("More than one manager has a lockfile here; {} is taken.", packages.manager.id));
        }
        if let Some((id, Some(version))) = self.manager {
            self.asks.push(format!("package.json names no version of {id} (\"packageManager\"); {version} is written."));
        }
        let (tests, left_out) = packages.tests();
        self.tests = tests;
        if !left_out.is_empty() {
            let names = crate::finding::listed(&left_out);
            self.asks.push(format!("Left out, as it may wait for a browser or a person: the script {names} of package.json."));
        }
    }

    fn install_python(&mut self, site: Option<&Recognised>) {
        let here = |name: &str| Some(below(&self.dir, name)).filter(|path| self.facts.has_file(path) == Some(true));
        let lists = ["requirements.txt", "docs/requirements.txt", "doc/requirements.txt"];
        let (text, kept, key_file) = match (lists.iter().find_map(|name| here(name)), here("pyproject.toml")) {
            (Some(list), _) => (format!("pip install -r {}", in_shell(&list)), true, Some(list)),
            (None, Some(project)) => {
                (format!("pip install {}", if self.dir.is_empty() { "." } else { self.dir.as_str() }), true, Some(project))
            }
            (None, None) => {
                let name = site.and_then(|site| site.generator.python.first().copied()).unwrap_or("");
                let name = if name.is_empty() { site.map_or("", |site| site.generator.id) } else { name };
                self.asks.push(format!(
                    "No requirements.txt names the version of {name}: write one, and install with pip install -r requirements.txt."
                ));
                (format!("pip install {name}"), false, None)
            }
        };
        self.install.push(Command::at_root(text.clone()));
        let keeping = if kept { text.replacen("pip install", "pip install --cache-dir .pip-cache", 1) } else { text };
        self.install_keeping.push(Command::at_root(keeping));
        self.kept = key_file.map(|file| Kept { folder: ".pip-cache".into(), key_files: vec![file], word: "pip" });
    }

    fn install_gems(&mut self) {
        let lock = below(&self.dir, "Gemfile.lock");
        let locked = self.facts.has_file(&lock) == Some(true);
        let at = |text: &str| Command { text: text.to_owned(), dir: self.dir.clone() };
        let install = if locked { "BUNDLE_FROZEN=true bundle install" } else { "bundle install" };
        self.install = vec![at(install)];
        self.install_keeping = vec![at("bundle config set --local path vendor/bundle"), at(install)];
        if !locked {
            self.asks.push("There is no Gemfile.lock, so that every run may install other versions: commit it.".into());
        }
        self.kept = locked.then(|| Kept { folder: below(&self.dir, "vendor/bundle"), key_files: vec![lock], word: "bundler" });
    }

    fn build_by_command(&mut self, site: &Recognised, arguments: &str) {
        let generator = site.generator;
        let config = generator.configs.iter().find(|name| self.facts.has_file(&below(&self.dir, name)) == Some(true));
        let folder = config.map_or("docs", |path| path.rsplit_once('/').map_or(".", |(folder, _)| folder));
        let text = generator.draft_command.unwrap_or_default().replace("{config-folder}", folder);
        let text = if arguments.is_empty() { text } else { format!("{text} {arguments}") };
        self.build.push(Command { text, dir: self.dir.clone() });
        let output = match generator.draft_output {
            Some(output) => Some(output.to_owned()),
            None => site_output(self.facts, generator, &site.dir).map(|site| site.output),
        };
        self.output = output.map(|output| below(&self.dir, &output)).unwrap_or_default();
    }

    /// Without a generator: a folder with a first page goes online as it is, and what lies at the root is copied into one first.
    fn gather_files(&mut self) {
        const GATHERED: &str = "_site";
        let Some(files) = self.facts.files.known() else { return };
        if let Some(folder) =
            ["public", "site", "www", "docs"].into_iter().find(|folder| files.has(&format!("{folder}/index.html")))
        {
            folder.clone_into(&mut self.output);
            return;
        }
        let mut names: Vec<&str> =
            files.iter().filter_map(|path| path.split('/').next()).filter(|name| is_of_site(name)).collect();
        names.dedup();
        if !files.has("index.html") || names.is_empty() {
            return;
        }
        let words: Vec<String> = names.iter().map(|name| in_shell(name)).collect();
        self.build = vec![
            Command::at_root(format!("mkdir -p {GATHERED}")),
            Command::at_root(format!("cp -R {} {GATHERED}/", words.join(" "))),
        ];
        self.asks.push("What goes online is named one by one: what is new at the root has to be added.".into());
        self.output = GATHERED.to_owned();
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
fn below(dir: &str, path: &str) -> String {
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

/// Whether a name at the root is of the site, rather than of the repository.
fn is_of_site(name: &str) -> bool {
    const KEPT_BACK: [&str; 12] = [
        "README",
        "LICENSE",
        "LICENCE",
        "CHANGELOG",
        "CONTRIBUTING",
        "CODEOWNERS",
        "Makefile",
        "Dockerfile",
        "package",
        "dulk",
        "tests",
        "node_modules",
    ];
    let stem = name.split('.').next().unwrap_or(name);
    !name.starts_with('.') && !KEPT_BACK.contains(&stem) && !stem.starts_with("package-lock")
}
