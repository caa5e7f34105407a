//! What a site generator does when a script runs it.

use super::run::{Call, Run, path_of};
use super::{Effect, Folder, join};
use crate::facts::{Origin, fits_package, needs_server, output_suffix, path_of_address, served_under, site_output};
use crate::knowledge::{self, Generator};
use crate::shell::Word;

impl Run<'_, '_> {
    /// The generator that a command runs, and how many words name it; the longest match counts. Where several frameworks share a
    /// command, the packages of the folder decide.
    pub fn matching_generator(&self, name: &str, known: &[&str], dir: &Folder) -> Option<(&'static Generator, usize)> {
        let fits = |(index, word): (usize, &str)| if index == 0 { word == name } else { known.get(index) == Some(&word) };
        let matches = |command: &str| command.split(' ').enumerate().all(fits).then(|| command.split(' ').count());
        let dir = dir.as_deref().filter(|_| self.scene.own_root);
        let all = knowledge::generators().commands_beginning_as(name).iter();
        all.filter_map(|(command, generator)| Some((*generator, matches(command)?)))
            .filter(|(generator, _)| fits_package(self.scene.facts, generator, dir))
            .max_by_key(|(_, used)| *used)
    }

    pub fn generator(&mut self, generator: &'static Generator, used: usize, call: &Call<'_>) {
        let options = Options { words: &call.words[used..], generator };
        let first = options.arguments().next();
        let other = first.is_some_and(|word| generator.other_words.contains(&word.text.as_str()));
        let stays = call.words.iter().any(|word| generator.not_with.iter().any(|option| word.text.starts_with(option)));
        if other || stays || call.words.iter().any(|word| matches!(word.text.as_str(), "--help" | "--version")) {
            self.add(Effect::Nothing, call.at);
            return;
        }
        let (output, origin) = self.built_folder(&options, call);
        self.out.spoken.extend(options.names_of_folders().map(|word| word.text.clone()));
        for also in generator.output_also {
            self.add(Effect::Write { path: join(&call.dir, also) }, call.at);
        }
        let root = root_of(&options, call).filter(|_| self.scene.own_root);
        let server = root.as_deref().and_then(|dir| needs_server(self.scene.facts, generator, dir));
        let base = self.base(&options, root.as_deref());
        let set = |name: &&str| self.scene.variable(name).is_some() || self.assigned.iter().any(|text| text.starts_with(name));
        let readdressed = !matches!(options.value(generator.base_options), Given::Absent)
            || generator.address_variables.iter().any(set)
            || call.words[used..].iter().any(|word| word.text.contains("://") || word.text.starts_with("--config"));
        self.add(
            Effect::Build {
                generator: generator.id.to_owned(),
                dir: call.dir.clone(),
                output,
                origin,
                base,
                server,
                readdressed,
            },
            call.at,
        );
    }

    /// The path that the pages expect to be served under: the command's option, the configuration, or the generator's own.
    fn base(&self, options: &Options<'_>, dir: Option<&str>) -> Option<(String, Origin)> {
        if options.generator.address_variables.iter().any(|name| self.scene.variable(name).is_some()) {
            return None;
        }
        if let Some(given) = self.base_of_variable(options.generator, dir) {
            return given;
        }
        match options.value(options.generator.base_options) {
            Given::Known(word) => return Some((word.to_owned(), Origin::Catalog)),
            Given::Unknown => return None,
            Given::Absent => {}
        }
        let only_with = &options.generator.base_only_with;
        if !only_with.is_empty() && !options.words.iter().any(|word| only_with.contains(&word.text.as_str())) {
            return None;
        }
        served_under(self.scene.facts, options.generator, dir?)
    }

    /// What a variable says that the generator reads by itself; the inner `None` when its value is not known.
    #[allow(clippy::option_option, reason = "not set, set and not known, and known are three things")]
    fn base_of_variable(&self, generator: &Generator, dir: Option<&str>) -> Option<Option<(String, Origin)>> {
        let name = generator.base_variable.as_ref()?;
        let start = format!("{name}=");
        if self.assigned.iter().any(|text| text.starts_with(&start)) || !self.scene.announced.is_empty() {
            return Some(None);
        }
        if let Some(text) = self.scene.variable(name) {
            return Some(text.known().map(|value| (path_of_address(value).to_owned(), Origin::At(text.at))));
        }
        let set = self.scene.facts.env_values.iter().rfind(|one| one.name == *name && Some(one.dir.as_str()) == dir)?;
        Some(Some((path_of_address(&set.value).to_owned(), Origin::At(set.at))))
    }

    fn built_folder(&self, options: &Options<'_>, call: &Call<'_>) -> (Folder, Origin) {
        let generator = options.generator;
        let written = Origin::At(call.at);
        let root = root_of(options, call);
        if generator.arguments == Some("source-output") {
            // Without a known root the second word is no folder either.
            let output = root.as_ref().and_then(|_| options.arguments().nth(1)).and_then(|word| path_of(&call.dir, word));
            // Some put each format into a folder of its own.
            let inside = match options.value(generator.folder_of_format) {
                Given::Known(format) => join(&output, format),
                Given::Unknown => None,
                Given::Absent => output,
            };
            return (inside, written);
        }
        let suffix = || match (&root, self.scene.own_root) {
            (Some(dir), true) => output_suffix(self.scene.facts, generator, dir),
            _ => generator.output_suffix.is_none().then(String::new),
        };
        match options.value(generator.output_options) {
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
}

/// The folder that everything else is relative to.
fn root_of(options: &Options<'_>, call: &Call<'_>) -> Folder {
    let generator = options.generator;
    let mut root = call.dir.clone();
    match options.value(generator.root_options) {
        Given::Known(word) => root = join(&root, word),
        Given::Unknown => root = None,
        Given::Absent => {}
    }
    if !matches!(options.value(generator.root_option_unknown), Given::Absent) {
        root = None;
    }
    match options.value(generator.config_options) {
        // Only a configuration of a usual name is read.
        Given::Known(word) => root = configured(generator, word).and_then(|folder| join(&root, folder)),
        Given::Unknown => root = None,
        Given::Absent => {}
    }
    match (generator.arguments, options.arguments().next()) {
        (_, None) | (Some("ignored" | "source-output"), _) => root,
        (Some("root"), Some(word)) => path_of(&root, word),
        (_, Some(_)) => None,
    }
}

/// The folder of a configuration file that a command names, when it has one of the generator's usual names.
fn configured<'w>(generator: &Generator, path: &'w str) -> Option<&'w str> {
    let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
    generator.configs.contains(&name).then_some(folder)
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
    fn value(&self, names: &[&str]) -> Given<'w> {
        for (index, word) in self.words.iter().enumerate() {
            for name in names {
                if word.text == *name {
                    return self.words.get(index + 1).map_or(Given::Absent, given);
                }
                let joined = word.text.strip_prefix(name).and_then(|rest| rest.strip_prefix('='));
                if let Some(value) = joined {
                    return if word.dynamic { Given::Unknown } else { Given::Known(value) };
                }
            }
        }
        Given::Absent
    }

    /// Words that may name folders inside the built one: all but those that name its format.
    fn names_of_folders(&self) -> impl Iterator<Item = &'w Word> {
        let formats = |index: usize| index.checked_sub(1).is_some_and(|before| self.is_format(&self.words[before]));
        self.words.iter().enumerate().filter(move |(index, _)| !formats(*index)).map(|(_, word)| word)
    }

    fn is_format(&self, word: &Word) -> bool {
        self.generator.format_options.contains(&word.text.as_str())
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
                &generator.folder_of_format,
                &generator.config_options,
                &generator.value_options,
            ];
            // No folder stands behind `--token`, whatever program takes it.
            let credential =
                word.text.starts_with("--") && !word.text.contains('=') && knowledge::credentials().names_one(&word.text);
            credential || lists.iter().any(|names| names.contains(&word.text.as_str()))
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
