//! Which files beside the pipelines are read for facts: one way for the program and for the examples of the rules.

use std::collections::HashSet;

use super::programs::{is_path, taken_by, with_endings};
use super::{Facts, FileList, Found, config_names, is_page_source, is_settings_file};
use crate::knowledge;
use crate::text::{FileId, SourceFile, Sources, file_name};

/// Packages deeper in the repository are not looked at, and not more than this many.
const PACKAGE_DEPTH: usize = 4;
const PACKAGE_LIMIT: usize = 64;
/// The same of configuration files.
const CONFIG_LIMIT: usize = 256;

/// Where the texts of files come from, by their paths from the repository's root.
pub trait Shelf {
    /// The text of a file.
    ///
    /// # Errors
    /// Why it cannot be read, in plain words.
    fn read(&self, path: &str) -> Result<String, String>;

    /// The texts of several files, in their order.
    fn read_each(&self, paths: &[String]) -> Vec<Result<String, String>> {
        paths.iter().map(|path| self.read(path)).collect()
    }

    /// The first bytes of a file, no more than these, up to the last whole character; nothing where it cannot be read.
    fn begins(&self, path: &str, bytes: usize) -> Option<String> {
        let mut text = self.read(path).ok()?;
        let end = text.floor_char_boundary(bytes);
        text.truncate(end);
        Some(text)
    }

    /// Whether a file is no longer than this many bytes.
    fn is_small(&self, path: &str, limit: u64) -> bool;

    /// The text of a file that is no longer than this many bytes, or why it cannot be read; nothing for a longer one.
    fn read_small(&self, path: &str, limit: u64) -> Option<Result<String, String>> {
        self.is_small(path, limit).then(|| self.read(path))
    }

    /// Whether there is something of this name, whatever it is.
    fn has(&self, path: &str) -> bool;

    /// Whether something is there that a link puts outside the repository, so that nothing in it is read.
    fn leads_out(&self, path: &str) -> bool {
        let _ = path;
        false
    }

    /// The names of what lies directly in a folder.
    fn names_in(&self, folder: &str) -> Vec<String>;

    /// The files that a pattern with `*` and `**` fits, sorted; no more than a person would list.
    fn matching(&self, pattern: &str) -> Vec<String>;
}

/// Reads package.json files, the configuration of generators beside them, and the sources of pages that variables are put into.
/// `list` holds the files that there are; `pipelines` are those and their parts, whose scripts tell which programs are run.
pub fn read_facts(list: &FileList, shelf: &dyn Shelf, pipelines: &[FileId], found: &mut Found, sources: &mut Sources) {
    let pipelines: HashSet<FileId> = pipelines.iter().copied().collect();
    read_companions(list, shelf, makes_images(&pipelines, sources), found, sources);
    read_programs(list, shelf, &pipelines, found, sources);
    read_page_sources(list, shelf, found, sources);
}

/// More programs than this are not read, nor longer ones.
const PROGRAM_LIMIT: usize = 128;
const PROGRAM_BYTES: u64 = 200_000;
/// Texts in which names of programs are looked for: of more no one looks.
const SEED_BYTES: usize = 1 << 22;

/// Reads the programs of the repository that the pipelines and the scripts of its packages name, and what those take along.
fn read_programs(list: &FileList, shelf: &dyn Shelf, pipelines: &HashSet<FileId>, found: &mut Found, sources: &mut Sources) {
    let is_seed = |path: &str| [".yml", ".yaml"].iter().any(|end| path.ends_with(end)) || path.ends_with("package.json");
    let mut left = SEED_BYTES;
    let seeds: Vec<&str> = sources
        .iter()
        .filter(|(file, source)| pipelines.contains(file) || is_seed(&source.path))
        .map(|(_, source)| source.text.as_str())
        .take_while(|text| {
            left = left.saturating_sub(text.len());
            left > 0
        })
        .collect();
    let mut open: Vec<String> = programs_named(&seeds, list);
    if any_holds(&seeds, &["gulp", "grunt"]) {
        let is_near = |path: &&str| knowledge::programs().is_task_file(path) && path.matches('/').count() < PACKAGE_DEPTH;
        open.extend(list.iter().filter(is_near).take(PACKAGE_LIMIT).map(str::to_owned));
    }
    for tool in ["make", "just"] {
        if any_holds(&seeds, &[tool]) {
            open.extend(files_of_tool(tool, list));
        }
    }
    let mut seen: HashSet<String> = open.iter().cloned().collect();
    while let Some(path) = open.pop() {
        if found.programs.len() >= PROGRAM_LIMIT {
            return;
        }
        if !shelf.is_small(&path, PROGRAM_BYTES) {
            continue;
        }
        let file = match sources.find(&path) {
            Some(file) => file,
            None => match shelf.read(&path) {
                Ok(text) => sources.add(SourceFile::new(path.clone(), text)),
                Err(_) => continue,
            },
        };
        found.programs.push(file);
        let text = &sources.get(file).text;
        let mut taken = taken_by(&path, text, &|path| list.has(path));
        if knowledge::programs().language_of(&path).is_some_and(|language| language.is_followed()) {
            taken.extend(programs_named(&[text], list));
        }
        open.extend(taken.into_iter().filter(|path| seen.insert(path.clone())));
    }
}

/// What a text has to do with the programs of a repository that are read: those that it names, and the tools that have files of their own.
/// Of two texts with the same, one can stand for the other without another program being read.
pub fn programs_asked_for(text: &str, list: &FileList) -> Vec<String> {
    let tools =
        ["gulp", "grunt", "make", "just"].into_iter().chain(IMAGE_WORDS).filter(|tool| text.contains(tool)).map(str::to_owned);
    programs_named(&[text], list).into_iter().chain(tools).collect()
}

/// The programs of the repository whose paths, or the ends of them, stand in texts: which folder a script works in is not known yet.
fn programs_named(texts: &[&str], list: &FileList) -> Vec<String> {
    let is_program = |path: &&str| knowledge::programs().language_of(path).is_some() && !path.contains("node_modules/");
    let mut found: Vec<String> = Vec::new();
    // Hundreds of pipelines hold the same words.
    let tokens: HashSet<&str> = texts.iter().flat_map(|text| with_endings(text)).collect();
    for token in tokens.into_iter().filter(|token| is_path(token)) {
        let wanted = token.trim_start_matches(['.', '/']);
        let fits = |path: &&str| *path == wanted || path.strip_suffix(wanted).is_some_and(|before| before.ends_with('/'));
        let paths = list.named(file_name(token));
        found.extend(paths.filter(fits).filter(is_program).map(str::to_owned));
    }
    found.sort_unstable();
    found.dedup();
    found
}

/// The files that a tool takes its targets from, beside the root's those of the folders near it.
fn files_of_tool(tool: &str, list: &FileList) -> Vec<String> {
    let names = knowledge::programs().files_of(tool).iter().copied();
    let is_near = |path: &&str| path.matches('/').count() < PACKAGE_DEPTH;
    list.named_one_of(names).filter(is_near).take(PACKAGE_LIMIT).map(str::to_owned).collect()
}

fn is_project_file(path: &str) -> bool {
    let typescript = path.ends_with(".json") && file_name(path).starts_with("tsconfig");
    (typescript || path.ends_with(".csproj")) && path.matches('/').count() <= PACKAGE_DEPTH && !path.contains("node_modules/")
}

/// More of the page's sources than this are not read, nor longer ones.
const PAGE_SOURCES: usize = 200;
const PAGE_SOURCE_BYTES: u64 = 200_000;

/// Reads the page's own sources, where a generator copies variables into them.
fn read_page_sources(list: &FileList, shelf: &dyn Shelf, found: &mut Found, sources: &mut Sources) {
    let packages: Vec<&str> = found
        .companions
        .iter()
        .map(|file| sources.get(*file))
        .filter(|source| source.path.ends_with("package.json"))
        .map(|source| source.text.as_str())
        .collect();
    if !Facts::puts_variables_into_pages(&packages) {
        return;
    }
    let sources_of_pages = list.iter().filter(|path| is_settings_file(path) || is_page_source(path));
    let small = sources_of_pages.filter_map(|path| Some((path, shelf.read_small(path, PAGE_SOURCE_BYTES)?)));
    for (path, text) in small.take(PAGE_SOURCES) {
        if let Ok(text) = text {
            found.page_sources.push(sources.add(SourceFile::new(path, text)));
        }
    }
}

/// Words of commands that make images.
const IMAGE_WORDS: [&str; 3] = ["docker", "podman", "kaniko"];
/// More such files are not read.
const IMAGE_LIMIT: usize = 64;

/// Whether the pipelines may make images.
fn makes_images(pipelines: &HashSet<FileId>, sources: &Sources) -> bool {
    let own = sources.iter().filter(|(file, _)| pipelines.contains(file));
    any_holds(&own.map(|(_, source)| source.text.as_str()).collect::<Vec<_>>(), &IMAGE_WORDS)
}

/// Whether one of the words stands in one of the texts, of which there may be thousands.
fn any_holds(texts: &[&str], words: &[&str]) -> bool {
    let mut finders = words.iter().map(|word| memchr::memmem::Finder::new(word.as_bytes()));
    finders.any(|finder| texts.iter().any(|text| finder.find(text.as_bytes()).is_some()))
}

/// Reads package.json files and the configuration of generators beside them; where images are made, what those are made by.
fn read_companions(list: &FileList, shelf: &dyn Shelf, images: bool, found: &mut Found, sources: &mut Sources) {
    let is_own = |path: &&str| !path.contains("node_modules/") && path.matches('/').count() <= PACKAGE_DEPTH;
    let mut wanted: Vec<String> = list.named("package.json").filter(is_own).map(str::to_owned).collect();
    wanted.sort_by_key(|path| path.matches('/').count());
    wanted.truncate(PACKAGE_LIMIT);
    let locks: Vec<String> = wanted.iter().map(|path| path.replace("package.json", "package-lock.json")).collect();
    wanted.extend(locks.into_iter().chain(["package-lock.json".to_owned()]).filter(|path| list.has(path)));
    // A generator's configuration may stand where no package.json does.
    let names: Vec<&str> = config_names().collect();
    let is_config = |path: &&str| {
        // Some names hold the folder that they stand in.
        let known = names.contains(&file_name(path)) || names.contains(path);
        known || path.split_once('/').is_some_and(|(_, rest)| names.contains(&rest))
    };
    let named = list.named_one_of(names.iter().map(|name| file_name(name))).filter(is_config);
    let mut configs: Vec<String> = named.filter(is_own).map(str::to_owned).collect();
    let endings = knowledge::generators().project_file_endings();
    let of_project = list.iter().filter(|path| endings.iter().any(|end| path.ends_with(end))).filter(is_own);
    configs.extend(of_project.map(str::to_owned));
    configs.sort_unstable();
    configs.dedup();
    configs.sort_by_key(|path| path.matches('/').count());
    configs.truncate(CONFIG_LIMIT);
    wanted.extend(configs);
    // Names that compilers' project files of templates use; they tell whether a compiler writes a folder.
    wanted.extend(list.iter().filter(|path| is_project_file(path)).take(PACKAGE_LIMIT).map(str::to_owned));
    let of_images = |path: &&str| (super::is_dockerfile(path) || file_name(path) == ".dockerignore") && is_own(path);
    wanted.extend(list.iter().filter(|_| images).filter(of_images).take(IMAGE_LIMIT).map(str::to_owned));
    wanted.sort_unstable();
    wanted.dedup();
    for path in wanted {
        match shelf.read(&path) {
            Ok(text) => found.companions.push(sources.add(SourceFile::new(path, text))),
            Err(reason) => found.unread.push((path, reason)),
        }
    }
}
