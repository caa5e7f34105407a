//! How a site is made: what is installed, what looks at the sources, what builds, and the folder that this writes.

use super::base::{self, Base};
use super::in_shell;
use super::packages::Packages;
use super::plan::{Command, Kept, Plan, below};
use crate::facts::{Recognised, site_output};
use crate::formats;

impl Plan<'_> {
    pub(super) fn choose_work(&mut self, site: Option<&Recognised>) {
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
            Base::Fits | Base::Asked(_) | Base::Unknown(_) => (String::new(), String::new()),
        };
        let name = self.generator.map_or("the generator", |generator| generator.id);
        match &base {
            Base::Asked(path) => {
                self.asks
                    .push(format!("The host serves the site below {path}, and the configuration of {name} does not say so."));
            }
            Base::Unknown(path) => {
                self.asks.push(format!("The host serves the site below {path}; see that the configuration of {name} says so."));
            }
            Base::Fits | Base::Option(_) | Base::Variable(_) => {}
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
                let folder = if self.dir.is_empty() { ".".to_owned() } else { in_shell(&format!("./{}", self.dir)) };
                (format!("pip install {folder}"), true, Some(project))
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
