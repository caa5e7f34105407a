//! Commands that make images, push them, and let them run.

use super::folder::before_stars;
use super::run::{Call, Run};
use super::{Effect, EffectAt, Scene, StepEffects, UploadPath, join, script};
use crate::facts::{Reach, Written};
use crate::knowledge::{self, ImageTool};
use crate::model::Text;
use crate::shell::{Word, variable_reads};
use crate::text::{Place, Span, file_name};

/// What the image of a step does with the words that it is given: by the file that a step before has made it by, or by what the catalog
/// knows of its name.
pub(super) fn effects(scene: &Scene<'_>, image: Option<&Text>, words: &[Text], at: Place) -> StepEffects {
    let unknown =
        || StepEffects { effects: vec![EffectAt::sure(Effect::Unknown(Reach::Anything), at)], ..StepEffects::default() };
    let Some(image) = image else { return unknown() };
    let name = scene.name_in_run(&image.value).unwrap_or_else(|| image.value.clone());
    let file = scene.made.iter().rev().find(|(made, _)| knowledge::usual_image(made) == knowledge::usual_image(&name));
    let first: Vec<String> = match file.map(|(_, file)| scene.facts.dockerfiles.get(file)) {
        Some(Some(file)) => file.program().map(<[String]>::to_vec).unwrap_or_default(),
        Some(None) => return unknown(),
        None => match knowledge::names().program_of_image(&name) {
            Some(program) => Some(program.to_owned()).filter(|program| !program.is_empty()).into_iter().collect(),
            None => return unknown(),
        },
    };
    let place = all_of(words).unwrap_or(image.inner());
    let first = first.iter().map(|word| Text::fixed(program_of(word), place));
    let words: Vec<Text> = first.chain(words.iter().cloned()).collect();
    if words.is_empty() { unknown() } else { script::effects(scene, &Text::of_words(&words, at)) }
}

/// The place of several words in a row.
fn all_of(words: &[Text]) -> Option<Place> {
    let (first, last) = (words.first()?.at, words.last()?.at);
    let span = Span { start: first.span.start, end: last.span.end.max(first.span.end) };
    Some(Place { file: first.file, span })
}

/// What starts an image is often a script of the program's own name.
fn program_of(word: &str) -> &str {
    let name = word.strip_suffix(".sh").or_else(|| word.strip_suffix(".bash"));
    name.map_or(word, |name| file_name(name))
}

/// The names of an image that is made, each with the file that it is made by.
pub(super) fn made(effect: &EffectAt) -> Vec<(String, String)> {
    let Effect::MakeImage { names, file: Some(file), .. } = &effect.effect else { return Vec::new() };
    names.iter().flatten().map(|name| (name.clone(), file.clone())).collect()
}

impl Run<'_, '_> {
    /// `docker build`, `docker push` and their kin; gives whether the command was one of them.
    pub(super) fn images(&mut self, name: &str, call: &Call<'_>) -> bool {
        let tool = &knowledge::commands().image_tool;
        if tool.builders.contains(&name) {
            self.makes_image(tool, (&call.words[1..], true), call);
            return true;
        }
        if !tool.names.contains(&name) {
            return false;
        }
        let known = call.known();
        let words = |list: &[&str]| {
            list.iter()
                .map(|written| written.split(' ').collect::<Vec<_>>())
                .filter(|parts| known[1..].starts_with(parts))
                .map(|parts| parts.len())
                .max()
        };
        if let Some(used) = words(tool.builds) {
            self.makes_image(tool, (&call.words[1 + used..], false), call);
        } else if let Some(used) = words(tool.pushes) {
            let name = call.words[1 + used..].iter().find(|word| !word.text.starts_with('-'));
            let every = call.words.iter().any(|word| matches!(word.text.as_str(), "-a" | "--all-tags"));
            let name = name.and_then(|word| self.name_of_image(&word.text)).filter(|_| !every);
            self.add(Effect::PushImage { name }, call.at);
        } else if let Some(used) = words(tool.tags) {
            let names = call.words.iter().skip(2 + used).map(|word| self.name_of_image(&word.text)).collect();
            self.add(Effect::MakeImage { names, context: None, file: None, takes: Vec::new() }, call.at);
        } else if words(tool.harmless).is_some() {
            self.add(Effect::Nothing, call.at);
        } else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
        }
        true
    }

    /// An image is made, and with `pushes` pushed as well.
    fn makes_image(&mut self, tool: &ImageTool, (words, pushes): (&[Word], bool), call: &Call<'_>) {
        let options = Options::of(words, tool.value_options);
        if options.has(tool.writing_options) {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        }
        let names: Vec<Option<String>> = options.values(tool.name_options).map(|text| self.name_of_image(text)).collect();
        let known = |text: &str| !text.contains(['$', '`']) && !text.contains("://") && text != "-";
        let usual = pushes.then_some(".");
        let named = options.values(tool.context_options).next().or(options.arguments.first().copied()).or(usual);
        let context = named.filter(|text| known(text)).and_then(|text| join(&call.dir, text.trim_start_matches("dir://")));
        let file = match options.values(tool.file_options).next() {
            Some(text) => Some(text).filter(|text| known(text)).and_then(|text| join(&call.dir, text)),
            None => context.as_ref().and_then(|context| join(&Some(context.clone()), "Dockerfile")),
        };
        let takes = self.taken_into(context.as_deref(), file.as_deref());
        self.add(Effect::MakeImage { names: names.clone(), context, file, takes }, call.at);
        if pushes || options.has(tool.pushing_options) {
            names.into_iter().for_each(|name| self.add(Effect::PushImage { name }, call.at));
        }
    }

    /// What a file takes out of the folder that an image is made in.
    fn taken_into(&self, context: Option<&str>, file: Option<&str>) -> Vec<UploadPath> {
        let (Some(context), Some(file), true) = (context, file, self.scene.own_root) else { return Vec::new() };
        let Some(read) = self.scene.facts.dockerfiles.get(file) else { return Vec::new() };
        let path = |taken: &Written| {
            let (fixed, glob) = before_stars(&taken.text);
            let folder = join(&Some(context.to_owned()), fixed.trim_start_matches('/'));
            UploadPath { folder, at: taken.at, written: taken.text.clone(), glob }
        };
        read.takes().map(path).collect()
    }

    /// A name that is the same wherever it stands in one run: the pipeline's own variables are filled in, and what the run knows of itself
    /// stands for itself. Nothing where the script itself makes it.
    pub(super) fn name_of_image(&self, text: &str) -> Option<String> {
        self.scene.name_in_run(text).filter(|name| {
            let made = |read: &str| self.assigned.iter().any(|set| set.split('=').next() == Some(read));
            variable_reads(name, false).iter().all(|(read, _)| !made(read))
        })
    }
}

impl Scene<'_> {
    /// A text in which the pipeline's own variables are filled in, and what the run knows of itself stands in braces; nothing where a
    /// command makes a part of it.
    pub(super) fn name_in_run(&self, text: &str) -> Option<String> {
        if text.contains("$(") || text.contains('`') {
            return None;
        }
        let mut filled = String::new();
        let mut from = 0;
        for (name, range) in variable_reads(text, false) {
            filled.push_str(&text[from..range.start]);
            match self.steady(&format!("${{{name}}}")) {
                Some(value) => filled.push_str(&value),
                None => filled.push_str(&format!("${{{name}}}")),
            }
            from = range.end;
        }
        filled.push_str(&text[from..]);
        Some(filled)
    }
}

/// The words of a command about images; a value may be only known when it runs.
pub(super) struct Options<'w> {
    arguments: Vec<&'w str>,
    named: Vec<(&'w str, Option<&'w str>)>,
}

impl<'w> Options<'w> {
    /// Sorts words; `with_value` are the options of which the next word is the value.
    pub fn of(words: &'w [Word], with_value: &[&str]) -> Self {
        let mut found = Self { arguments: Vec::new(), named: Vec::new() };
        let mut words = words.iter();
        while let Some(word) = words.next() {
            let text = word.text.as_str();
            match text.split_once('=') {
                _ if !text.starts_with('-') || text == "-" => found.arguments.push(text),
                Some((name, value)) => found.named.push((name, Some(value))),
                None if with_value.contains(&text) => {
                    found.named.push((text, words.next().map(|word| word.text.as_str())));
                }
                None => found.named.push((text, None)),
            }
        }
        found
    }

    fn has(&self, names: &[&str]) -> bool {
        self.named.iter().any(|(name, value)| names.iter().any(|known| known == name) && *value != Some("false"))
    }

    /// The values of all of these options.
    pub fn values<'s>(&'s self, names: &'s [&str]) -> impl Iterator<Item = &'w str> + 's {
        self.named.iter().filter(|(name, _)| names.iter().any(|known| known == name)).filter_map(|(_, value)| *value)
    }
}
