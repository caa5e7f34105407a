//! Which generator builds a site, where to, and under which path it is served.

use super::config::{Found, Setting};
use super::{Facts, Origin};
use crate::knowledge::{Generator, SettingIs, generators, hostings, managers, names};
use crate::text::{FileId, Place, Sources, file_name};

/// The folder that a generator writes, when its command does not say.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Site {
    /// Relative to the folder that the generator runs in.
    pub output: String,
    /// Where that is known from.
    pub origin: Origin,
}

/// A generator that a folder is made with.
#[derive(Clone, Debug)]
pub struct Recognised {
    /// The generator.
    pub generator: &'static Generator,
    /// The folder, "" at the root.
    pub dir: String,
    /// What gave it away.
    pub origin: Origin,
}

/// The configuration of a generator in a folder: `Ok(None)` when it surely has none, `Err` when it is there and cannot be read.
fn config<'f>(facts: &'f Facts, generator: &Generator, dir: &str) -> Result<Option<&'f (FileId, Setting)>, ()> {
    let files = facts.files.known().ok_or(())?;
    let path_of = |name: &&str| if dir.is_empty() { (*name).to_owned() } else { format!("{dir}/{name}") };
    // Names below `docs/` only tell that the generator is used there.
    let own = generator.configs.iter().filter(|name| !name.starts_with("docs/") && !name.starts_with("doc/"));
    match own.map(path_of).find(|path| files.has(path)) {
        Some(path) => facts.configs.get(&path).map(Some).ok_or(()),
        None => Ok(None),
    }
}

/// The first configuration of a generator that can be read, seen from a folder that it is run in; also one that it keeps below `docs/`.
pub fn config_near<'f>(facts: &'f Facts, generator: &Generator, dir: &str) -> Option<&'f (FileId, Setting)> {
    let path_of = |name: &&str| if dir.is_empty() { (*name).to_owned() } else { format!("{dir}/{name}") };
    generator.configs.iter().find_map(|name| facts.configs.get(&path_of(name)))
}

fn is(setting: Option<&Setting>, wanted: &SettingIs) -> Option<bool> {
    match setting.map(|setting| setting.find(wanted.setting)) {
        None | Some(Found::Absent) => Some(false),
        Some(Found::Here(found)) => Some(found.text() == Some(wanted.value)),
        Some(Found::Unknown) => None,
    }
}

/// Whether the packages of a folder leave it open that a command is this generator's.
pub fn fits_package(facts: &Facts, generator: &Generator, dir: Option<&str>) -> bool {
    if generator.only_with.is_empty() && generator.not_with_packages.is_empty() {
        return true;
    }
    let package = dir.and_then(|dir| facts.package_for(dir)).map(|(_, package)| package);
    let has = |names: &[&str]| package.is_some_and(|package| names.iter().any(|name| package.dependency(name).is_some()));
    (generator.only_with.is_empty() || has(generator.only_with)) && !has(generator.not_with_packages)
}

/// The folder inside the built folder that the site is in; "" for none, `None` when it is not known.
pub fn output_suffix(facts: &Facts, generator: &Generator, dir: &str) -> Option<String> {
    let Some(suffix) = &generator.output_suffix else { return Some(String::new()) };
    let (_, setting) = config(facts, generator, dir).ok()??;
    match setting.find(suffix.setting) {
        Found::Here(found) => Some(suffix.values.get(found.text()?).copied().unwrap_or_default().to_owned()),
        _ => None,
    }
}

/// The built folder of a generator that runs in `dir`, after its configuration there or its default. `None` when it is not known.
pub fn site_output(facts: &Facts, generator: &Generator, dir: &str) -> Option<Site> {
    if let Some(named) = &facts.settings.site.output
        && dir.is_empty()
    {
        return Some(Site { output: named.name.clone(), origin: Origin::At(named.at) });
    }
    let reads_settings =
        !(generator.output_settings.is_empty() && generator.output_when.is_empty() && generator.root_settings.is_empty());
    let config = match config(facts, generator, dir) {
        Ok(config) => config,
        Err(()) if reads_settings => return None,
        Err(()) => None,
    };
    let setting = config.map(|(_, setting)| setting);
    for root in generator.root_settings {
        if setting.is_some_and(|setting| setting.find(root) != Found::Absent) {
            return None;
        }
    }
    if let Some((file, setting)) = config {
        for name in generator.output_settings {
            match setting.find(name) {
                Found::Absent => {}
                Found::Unknown => return None,
                Found::Here(found) => {
                    let output = with_suffix(found.text()?, &output_suffix(facts, generator, dir)?);
                    return Some(Site { output, origin: Origin::At(Place { file: *file, span: found.span }) });
                }
            }
        }
    }
    default_output(facts, generator, dir, config)
}

fn default_output(facts: &Facts, generator: &Generator, dir: &str, config: Option<&(FileId, Setting)>) -> Option<Site> {
    for when in generator.output_when {
        let Some((file, setting)) = config else { break };
        match setting.find(when.setting) {
            Found::Unknown => return None,
            Found::Here(found) if found.text() == Some(when.value) => {
                return Some(Site {
                    output: when.output.to_owned(),
                    origin: Origin::At(Place { file: *file, span: found.span }),
                });
            }
            _ => {}
        }
    }
    if let Some((_, package)) = facts.package_for(dir) {
        for (name, output) in &generator.output_with_package {
            if let Some(at) = package.dependency(name) {
                return Some(Site { output: (*output).to_owned(), origin: Origin::At(at) });
            }
        }
    }
    generator.output.map(|output| Site { output: output.to_owned(), origin: Origin::Catalog })
}

fn with_suffix(output: &str, suffix: &str) -> String {
    if suffix.is_empty() { output.to_owned() } else { format!("{}/{suffix}", output.trim_end_matches('/')) }
}

/// The path under which the site is served, as the generator's configuration says. `None` when it does not say, or it is not known.
pub fn base_path(facts: &Facts, generator: &Generator, dir: &str) -> Option<(String, Origin)> {
    let (file, setting) = config(facts, generator, dir).ok()??;
    generator.base_settings.iter().find_map(|name| match setting.find(name) {
        Found::Here(found) => Some((found.text()?.to_owned(), Origin::At(Place { file: *file, span: found.span }))),
        _ => None,
    })
}

/// The path that the pages of a folder expect to be served under; nothing when the configuration cannot be read, or the generator
/// has no fixed one.
pub fn served_under(facts: &Facts, generator: &Generator, dir: &str) -> Option<(String, Origin)> {
    // Without a default only a path that is given counts.
    let usual = generator.base_default;
    if generator.base_from_homepage {
        let package = facts.packages.get(dir)?;
        return Some(match &package.homepage {
            Some((address, at)) => (path_of_address(address).to_owned(), Origin::At(*at)),
            None => (usual?.to_owned(), Origin::Catalog),
        });
    }
    let Some((file, setting)) = config(facts, generator, dir).ok()? else { return Some((usual?.to_owned(), Origin::Catalog)) };
    let links_by_path = |name: &&str| match setting.find(name) {
        Found::Absent => true,
        Found::Here(found) => found.value == super::config::Value::Bool(false),
        Found::Unknown => false,
    };
    if !generator.relative_settings.iter().all(links_by_path) {
        return None;
    }
    for name in generator.base_settings {
        match setting.find(name) {
            Found::Absent => {}
            Found::Unknown => return None,
            Found::Here(found) => {
                return Some((path_of_address(found.text()?).to_owned(), Origin::At(Place { file: *file, span: found.span })));
            }
        }
    }
    // The configuration itself is known whole, and does not say: the place where it would.
    Some((usual?.to_owned(), Origin::Silent(Place { file: *file, span: setting.span })))
}

/// `/timetable` of `https://tarnsay.example/timetable`; a path stays as it is.
pub fn path_of_address(address: &str) -> &str {
    match address.split_once("://") {
        Some((_, rest)) => rest.find('/').map_or("/", |index| &rest[index..]),
        None => address,
    }
}

/// Whether the generator makes a server there rather than a folder of files; `None` when it is not known.
pub fn needs_server(facts: &Facts, generator: &Generator, dir: &str) -> Option<bool> {
    let setting = || config(facts, generator, dir).ok().map(|found| found.map(|(_, setting)| setting));
    match (&generator.server_when, &generator.server_unless) {
        (Some(wanted), _) => is(setting()?, wanted),
        (None, Some(wanted)) => is(setting()?, wanted).map(|exports| !exports),
        (None, None) => Some(false),
    }
}

/// The generators that the repository's folders give away, the root first.
pub fn recognised(facts: &Facts, sources: &Sources) -> Vec<Recognised> {
    let mut dirs: Vec<&str> = facts.packages.keys().map(String::as_str).collect();
    if !dirs.contains(&"") {
        dirs.insert(0, "");
    }
    let mut found = Vec::new();
    for dir in dirs {
        for generator in generators().generator {
            if let Some(origin) = gives_away(facts, sources, generator, dir) {
                found.push(Recognised { generator, dir: dir.to_owned(), origin });
            }
        }
    }
    found
}

fn gives_away(facts: &Facts, sources: &Sources, generator: &Generator, dir: &str) -> Option<Origin> {
    if let Some(package) = facts.packages.get(dir)
        && let Some(at) = generator.packages.iter().find_map(|name| package.dependency(name))
    {
        return fits_package(facts, generator, Some(dir)).then_some(Origin::At(at));
    }
    let files = facts.files.known()?;
    let here = |name: &str| if dir.is_empty() { name.to_owned() } else { format!("{dir}/{name}") };
    let telling = generator.configs.iter().filter(|_| generator.telling).chain(generator.telling_configs);
    if telling.into_iter().any(|name| files.has(&here(name))) {
        return Some(Origin::Files);
    }
    if !dir.is_empty() {
        return None;
    }
    if generator.telling_suffixes.iter().any(|end| files.iter().any(|path| path.ends_with(end) && !path.contains('/'))) {
        return Some(Origin::Files);
    }
    let in_text = |(path, file): (&String, &FileId)| names_it(generator, path, &sources.get(*file).text).then_some(*file);
    let file = facts.texts.iter().find_map(in_text)?;
    Some(Origin::At(Place { file, span: crate::text::Span::default() }))
}

/// Whether a Gemfile, a list of Python requirements or a project file names the generator.
fn names_it(generator: &Generator, path: &str, text: &str) -> bool {
    let name = file_name(path);
    let words = || {
        text.lines()
            .filter(|line| !line.trim_start().starts_with('#'))
            .flat_map(|line| line.split(|c: char| !(c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.'))))
    };
    if name == "Gemfile" {
        return generator.gems.iter().any(|gem| words().any(|word| word == *gem));
    }
    if name == "pyproject.toml" || (name.starts_with("requirements") && name.ends_with(".txt")) {
        return generator.python.iter().any(|wanted| words().any(|word| word.eq_ignore_ascii_case(wanted)));
    }
    name.ends_with(".csproj") && generator.csproj_sdk.as_ref().is_some_and(|sdk| text.contains(sdk))
}

/// Names of the files that facts come from, beside package.json; for whoever reads the disk.
pub fn config_names() -> impl Iterator<Item = &'static str> {
    let generators = generators().generator.iter().flat_map(|generator| generator.configs.iter().copied());
    let hosts = hostings().hosting.iter().filter(|hosting| !hosting.empty).map(|hosting| hosting.file);
    let runtimes = hostings().runtime_file.iter().map(|file| file.file);
    let others = names().lists.site_files.iter().copied();
    generators.chain(hosts).chain(runtimes).chain(others)
}

/// The package manager of a folder, by the lockfiles there or above: more than one is itself a fact.
pub fn lockfiles(facts: &Facts, dir: &str) -> Vec<(&'static str, String)> {
    let Some(files) = facts.files.known() else { return Vec::new() };
    let mut dir = dir;
    loop {
        let found: Vec<_> = managers()
            .manager
            .iter()
            .flat_map(|manager| manager.lockfiles.iter().map(move |file| (manager.id, file)))
            .map(|(id, file)| (id, if dir.is_empty() { (*file).to_owned() } else { format!("{dir}/{file}") }))
            .filter(|(_, path)| files.has(path))
            .collect();
        if !found.is_empty() || dir.is_empty() {
            return found;
        }
        dir = dir.rsplit_once('/').map_or("", |(above, _)| above);
    }
}
