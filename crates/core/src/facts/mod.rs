//! What is known of the repository. Each fact says where it is known from; what is not known stays unknown.

mod companions;
pub mod config;
mod dockerfile;
mod files;
mod history;
mod hosting;
mod packages;
mod page;
mod programs;
mod runtimes;
mod settings;
mod sites;
mod versions;
mod workspace;

use std::collections::BTreeMap;

pub use companions::{Shelf, programs_asked_for, read_facts};
pub(crate) use config::constructs;
pub use dockerfile::{Dockerfile, Stage, Written, is_dockerfile};
pub use files::FileList;
pub use history::reads_history;
pub use hosting::HostingFact;
pub use packages::{Package, Script};
pub use page::{EnvValue, Otherwise, PageVariable, is_page_source, is_settings_file};
pub use programs::{Program, Reach, demanded_by};
pub use runtimes::RuntimeFact;
pub use settings::{
    AcceptSetting, Declared, Environment, Forge, Named, RuleSetting, SETTINGS_FILE, Settings, SettingsError, StartsSetting,
    declared_with, read_settings,
};
pub use sites::{
    Recognised, Site, base_path, config_names, config_near, fits_package, lockfiles, needs_server, output_suffix,
    path_of_address, recognised, served_under, site_output,
};

pub use versions::{least_major, major_of};
pub use workspace::Members;

use crate::text::{FileId, Place, Sources, file_name};

/// Where a fact is known from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Origin {
    /// git's branches, tags and configuration.
    Git,
    /// The list of files that git tracks, or of those on disk where there is no git.
    Files,
    /// A place in a file.
    At(Place),
    /// The catalog.
    Catalog,
    /// The catalog as well: a setting here would say otherwise, and does not.
    Silent(Place),
}

/// Something known, or why it is not.
#[derive(Clone, Debug, PartialEq)]
pub enum Fact<T> {
    /// Known, and from where.
    Known(T, Origin),
    /// Not known, and why.
    Unknown(String),
}

impl<T> Fact<T> {
    /// The value, when it is known.
    pub fn known(&self) -> Option<&T> {
        match self {
            Self::Known(value, _) => Some(value),
            Self::Unknown(_) => None,
        }
    }
}

impl<T> Default for Fact<T> {
    fn default() -> Self {
        Self::Unknown("nothing was looked at".into())
    }
}

/// What git knows.
#[derive(Clone, Debug, Default)]
pub struct GitFacts {
    /// Names of branches, here and on the remote that the pipeline's forge reads, sorted.
    pub branches: Fact<Vec<String>>,
    /// Names of tags, sorted.
    pub tags: Fact<Vec<String>>,
    /// The branch that the forge shows first.
    pub default_branch: Fact<String>,
    /// The branch that is checked out.
    pub current_branch: Fact<String>,
    /// Where it is pushed to.
    pub remote: Fact<Remote>,
    /// Every remote by its name, with its address as far as it names a forge.
    pub remotes: Vec<(String, Option<Remote>)>,
    /// Branches of the other remotes: the remote's name and the branch.
    pub elsewhere: Vec<(String, String)>,
    /// Repositories inside this one: path and address.
    pub submodules: Fact<Vec<(String, String)>>,
}

/// The repository on its forge.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remote {
    /// The host's name.
    pub host: String,
    /// The user or organisation.
    pub owner: String,
    /// The repository's name.
    pub name: String,
}

/// What was found in a repository before anything is made of it.
#[derive(Clone, Debug, Default)]
pub struct Found {
    /// What git knows.
    pub git: GitFacts,
    /// Every file that a checkout brings.
    pub files: Fact<FileList>,
    /// Companions that were read, such as package.json; their paths stand in the sources.
    pub companions: Vec<FileId>,
    /// The page's own sources, and the files that set variables for its build.
    pub page_sources: Vec<FileId>,
    /// Programs that scripts may run, and the files that those take names from.
    pub programs: Vec<FileId>,
    /// Companions that could not be read at all, with the reason.
    pub unread: Vec<(String, String)>,
    /// dulk.toml.
    pub settings: Settings,
}

/// All that is known.
#[derive(Clone, Debug, Default)]
pub struct Facts {
    /// The files that some of it was read from.
    read_from: std::collections::HashSet<FileId>,
    /// What git knows; what dulk.toml declares stands in place of it.
    pub git: GitFacts,
    /// Every file that a checkout brings.
    pub files: Fact<FileList>,
    /// Packages by their folder, the root's is "".
    pub packages: BTreeMap<String, Package>,
    /// Files that are read as lines, such as `.nvmrc` or requirements.txt, by path.
    pub texts: BTreeMap<String, FileId>,
    /// Files that images are made by, by their paths.
    pub dockerfiles: BTreeMap<String, Dockerfile>,
    /// Programs that scripts may run, by path.
    pub programs: BTreeMap<String, Program>,
    /// What hosts are told.
    pub hosting: Vec<HostingFact>,
    /// Versions of runtimes that files ask for.
    pub runtimes: Vec<RuntimeFact>,
    /// The names that package-lock.json holds for the package of a folder.
    pub locked: BTreeMap<String, std::collections::HashSet<String>>,
    /// The page's sources keep addresses behind a `#`, so that the host sees one page only.
    pub hash_routing: bool,
    /// What tracked files set for the build.
    pub env_values: Vec<EnvValue>,
    /// Variables that the page's sources read and no tracked file sets.
    pub page_variables: Vec<PageVariable>,
    /// Configuration files by path.
    pub configs: BTreeMap<String, (FileId, config::Setting)>,
    /// Files that facts should come from and that cannot be read.
    pub broken: Vec<Broken>,
    /// dulk.toml.
    pub settings: Settings,
}

/// A companion that cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Broken {
    /// Where it breaks, when its text could be read at all.
    pub at: Option<Place>,
    /// Its path.
    pub path: String,
    /// In plain words.
    pub reason: String,
}

/// Files that no configuration parser is for.
fn is_lines(path: &str) -> bool {
    let name = file_name(path);
    let runtime = crate::knowledge::hostings().runtime_file.iter().any(|file| file.file == name);
    let host = crate::knowledge::hostings()
        .hosting
        .iter()
        .any(|host| host.file == name && (host.one_line || host.empty || host.fallback_line.is_some()));
    runtime
        || host
        || name == ".dockerignore"
        || ["Gemfile", "pyproject.toml"].contains(&name)
        || [".csproj", ".txt", ".py"].iter().any(|end| name.ends_with(end))
}

impl Facts {
    /// Makes facts of what was found.
    pub fn from_found(found: Found, sources: &Sources) -> Self {
        let read_from = [&found.companions, &found.programs, &found.page_sources].into_iter().flatten().copied().collect();
        let mut facts = Self { git: found.git, files: found.files, settings: found.settings, read_from, ..Self::default() };
        if let Some(named) = &facts.settings.forge.default_branch {
            facts.git.default_branch = Fact::Known(named.name.clone(), Origin::At(named.at));
        }
        for (path, reason) in found.unread {
            facts.broken.push(Broken { at: None, path, reason });
        }
        facts.hash_routing = page::has_hash_routing(&found.page_sources, sources);
        facts.env_values = page::values(&found.page_sources, sources);
        facts.page_variables = page::read(&found.page_sources, sources);
        for file in found.companions {
            facts.take(file, sources);
        }
        facts.programs = programs::read(&found.programs, facts.files.known(), sources);
        facts.hosting = hosting::read(&facts, sources);
        facts.runtimes = runtimes::read(&facts, sources);
        facts
    }

    /// Whether some of it was read from a file: from a program that is named, the configuration of a generator, or the like.
    pub fn is_read_from(&self, file: FileId) -> bool {
        self.read_from.contains(&file)
    }

    fn take(&mut self, file: FileId, sources: &Sources) {
        let source = sources.get(file);
        if let Some(dir) = source.path.strip_suffix("package-lock.json") {
            if let Some(names) = packages::locked_names(&source.text) {
                self.locked.insert(dir.trim_end_matches('/').to_owned(), names);
            }
            return;
        }
        if is_dockerfile(&source.path) {
            self.dockerfiles.insert(source.path.clone(), dockerfile::read(file, &source.text));
            return;
        }
        if is_lines(&source.path) {
            self.texts.insert(source.path.clone(), file);
            return;
        }
        match config::read(&source.path, &source.text) {
            Ok(setting) => {
                let name = file_name(&source.path);
                if name == "package.json" {
                    let dir = source.path.rsplit_once('/').map_or("", |(dir, _)| dir);
                    self.packages.insert(dir.to_owned(), Package::from_setting(file, &setting));
                } else {
                    self.configs.insert(source.path.clone(), (file, setting));
                }
            }
            Err(error) => {
                let at = Place { file, span: error.span };
                self.broken.push(Broken { at: Some(at), path: source.path.clone(), reason: error.reason });
            }
        }
    }

    /// Whether a file is surely there, surely not, or not known.
    pub fn has_file(&self, path: &str) -> Option<bool> {
        self.files.known().map(|files| files.has(path))
    }

    /// The package that a folder belongs to: its own, or that of the nearest folder above it. `None` when there is none, or it
    /// cannot be read.
    pub fn package_for(&self, dir: &str) -> Option<(&str, &Package)> {
        let mut dir = dir;
        loop {
            if let Some((name, package)) = self.packages.get_key_value(dir) {
                return Some((name, package));
            }
            let own = if dir.is_empty() { "package.json".to_owned() } else { format!("{dir}/package.json") };
            if self.broken.iter().any(|broken| broken.path == own) || dir.is_empty() {
                return None;
            }
            dir = dir.rsplit_once('/').map_or("", |(above, _)| above);
        }
    }
}
