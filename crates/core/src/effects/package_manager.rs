//! `npm`, `pnpm`, `yarn` and `bun`: installs, scripts of package.json, programs of packages.

use super::run::{Call, Run, Written};
use super::{Effect, Folder, Unmatched, join};
use crate::facts::{Members, Reach};
use crate::knowledge::{Among, Manager, managers, near};
use crate::model::Text;
use crate::shell::Word;

/// A manager's words sorted by what they are.
struct Sorted<'w> {
    /// Words that are no options, up to `--`.
    plain: Vec<(usize, &'w str)>,
    options: Vec<&'w str>,
    /// The folder that an option names; the inner `None` when it is not known.
    directory: Option<Option<&'w str>>,
    /// The packages that options name; the inner `None` when it is not known.
    filters: Vec<Option<&'w str>>,
}

impl Sorted<'_> {
    fn has(&self, names: &[&str]) -> bool {
        self.options.iter().any(|option| names.iter().any(|name| name == option))
    }
}

fn sort<'w>(manager: &Manager, words: &'w [Word]) -> Sorted<'w> {
    let mut sorted = Sorted { plain: Vec::new(), options: Vec::new(), directory: None, filters: Vec::new() };
    let mut index = 0;
    while index < words.len() {
        let word = &words[index];
        if word.text == "--" {
            break;
        }
        if !word.text.starts_with('-') {
            sorted.plain.push((index, word.known().unwrap_or_default()));
            // What follows a script's or a program's name mostly belongs to it.
            if sorted.plain.len() >= 2 && !manager.options_after_name {
                break;
            }
            index += 1;
            continue;
        }
        let (name, joined) = word.text.split_once('=').map_or((word.text.as_str(), None), |(name, value)| (name, Some(value)));
        let is = |list: &[&str]| list.contains(&name);
        let takes_value = joined.is_none() && is(manager.value_options);
        let value = if takes_value { words.get(index + 1).and_then(Word::known) } else { joined.filter(|_| !word.dynamic) };
        if is(manager.directory_options) {
            sorted.directory = Some(value);
        }
        if is(manager.filter_options) {
            sorted.filters.push(value);
        }
        sorted.options.push(name);
        index += 1 + usize::from(takes_value);
    }
    sorted
}

impl Run<'_, '_> {
    pub(super) fn package_manager(&mut self, manager: &'static Manager, call: &Call<'_>, written: &Written<'_>) {
        let words = &call.words[1..];
        let sorted = sort(manager, words);
        let base = match sorted.directory {
            Some(Some(named)) => join(&call.dir, named),
            Some(None) => None,
            None => call.dir.clone(),
        };
        let word = sorted.plain.first().map_or("", |(_, word)| *word);
        let is = |list: &[&str]| list.contains(&word);
        if sorted.plain.is_empty() && sorted.options.iter().any(|option| matches!(*option, "--version" | "-v" | "--help" | "-h"))
        {
            self.add(Effect::Nothing, call.at);
        } else if is(manager.filter_options) {
            // `yarn workspace NAME build`: the rest is as if it stood in that folder.
            let Some((index, name)) = sorted.plain.get(1) else { return self.add(Effect::Nothing, call.at) };
            let rest = Call { words: &words[*index..], dir: base.clone(), at: call.at, source: call.source };
            for dir in self.members_of(manager, &base, &[Some(*name)], call) {
                self.package_manager(manager, &Call { dir: Some(dir), ..rest.clone() }, written);
            }
        } else if is(manager.all_options) {
            self.in_all(manager, words, &base, call, written);
        } else {
            // Whatever packages are meant, an installation is that of the whole repository.
            let installs = is(manager.frozen) || is(manager.install);
            let (dirs, all) = match () {
                () if installs => (vec![base], false),
                () if sorted.has(manager.root_options) => (vec![base.map(|_| String::new())], false),
                () if !sorted.filters.is_empty() => {
                    let found = self.members_of(manager, &base, &sorted.filters, call);
                    (found.into_iter().map(Some).collect(), false)
                }
                () if sorted.has(manager.all_options) => (self.all_members(call).into_iter().map(Some).collect(), true),
                () => (vec![base], false),
            };
            for dir in dirs {
                if !all || self.has_script(&dir, &sorted) {
                    self.works_in(manager, &sorted, words, dir, call, written);
                }
            }
        }
    }

    /// `yarn workspaces run build`, `yarn workspaces foreach --all run build`.
    fn in_all(&mut self, manager: &'static Manager, words: &[Word], base: &Folder, call: &Call<'_>, written: &Written<'_>) {
        const PLAIN: [&str; 7] =
            ["--all", "--parallel", "--topological", "--topological-dev", "--verbose", "--interlaced", "--jobs"];
        let Some(run) = words.iter().position(|word| manager.run.contains(&word.text.as_str())).filter(|index| *index > 0) else {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        };
        let short =
            |text: &str| text.starts_with('-') && !text.starts_with("--") && text[1..].chars().all(|c| "Aptvi".contains(c));
        let options = words[1..run].iter().filter(|word| word.text != "foreach");
        if !options.clone().all(|word| PLAIN.contains(&word.text.as_str()) || short(&word.text)) {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        }
        let rest = Call { words: &words[run - 1..], dir: base.clone(), at: call.at, source: call.source };
        let sorted = sort(manager, &rest.words[1..]);
        for dir in self.all_members(call) {
            if self.has_script(&Some(dir.clone()), &sorted) {
                self.package_manager(manager, &Call { dir: Some(dir), ..rest.clone() }, written);
            }
        }
    }

    /// The folders of the packages that filters mean.
    fn members_of(&mut self, manager: &Manager, base: &Folder, filters: &[Option<&str>], call: &Call<'_>) -> Vec<String> {
        let mut found = Vec::new();
        for filter in filters {
            let facts = self.scene.facts;
            let members = match (filter, base.as_deref()) {
                (Some(filter), Some(dir)) if self.scene.own_root => facts.member(dir, filter),
                _ => Members::Unknown,
            };
            match members {
                Members::These(dirs) => found.extend(dirs.into_iter().map(str::to_owned)),
                Members::None => self.out.unmatched.push(Unmatched {
                    filter: filter.unwrap_or_default().to_owned(),
                    manager: manager.id.to_owned(),
                    fails: !manager.unmatched_is_fine,
                    at: call.at,
                }),
                Members::Unknown => self.add(Effect::Unknown(Reach::Anything), call.at),
            }
        }
        found
    }

    fn all_members(&mut self, call: &Call<'_>) -> Vec<String> {
        match self.scene.facts.members().filter(|_| self.scene.own_root) {
            Some(dirs) => dirs.into_iter().map(str::to_owned).collect(),
            None => {
                self.add(Effect::Unknown(Reach::Anything), call.at);
                Vec::new()
            }
        }
    }

    /// Of all packages only those work that have the script.
    fn has_script(&self, dir: &Folder, sorted: &Sorted<'_>) -> bool {
        let package = dir.as_deref().and_then(|dir| self.scene.facts.packages.get(dir));
        package.is_some_and(|package| sorted.plain.iter().any(|(_, word)| package.script(word).is_some()))
    }

    fn works_in(
        &mut self,
        manager: &'static Manager,
        sorted: &Sorted<'_>,
        words: &[Word],
        dir: Folder,
        call: &Call<'_>,
        written: &Written<'_>,
    ) {
        let word = sorted.plain.first().map_or("", |(_, word)| *word);
        let is = |list: &[&str]| list.contains(&word);
        let has_option = |name: &str| words.iter().any(|given| given.text == name);
        if is(manager.frozen) || is(manager.install) {
            if has_option("-g") || has_option("--global") {
                self.add(Effect::Nothing, call.at);
                return;
            }
            let frozen = is(manager.frozen) || manager.frozen_options.iter().any(|option| has_option(option));
            let without_dev = self.leaves_dev_out(manager, words);
            self.add(Effect::Install { manager: manager.id.to_owned(), frozen, without_dev, dir }, call.at);
        } else if is(manager.run) {
            match sorted.plain.get(1) {
                Some((index, name)) => self.run_script(manager, name, &words[index + 1..], dir, call),
                None => self.add(Effect::Nothing, call.at),
            }
        } else if is(manager.script_words) {
            let index = sorted.plain[0].0;
            let name = if matches!(word, "t" | "tst") { "test" } else { word };
            self.run_script(manager, name, &words[index + 1..], dir, call);
        } else if is(manager.exec) {
            let rest = &words[sorted.plain[0].0 + 1..];
            let rest = rest.split_at(rest.iter().take_while(|word| word.text.starts_with('-')).count()).1;
            self.command(&Call { words: rest, dir, at: call.at, source: call.source }, written);
        } else if manager.bare_words_run && !word.is_empty() && !is(manager.other_words) {
            self.bare_word(manager, word, &words[sorted.plain[0].0..], dir, call, written);
        } else if is(manager.other_words) {
            self.add(Effect::Nothing, call.at);
        } else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
        }
    }

    /// An option says so, or the variable that the manager heeds.
    fn leaves_dev_out(&self, manager: &Manager, words: &[Word]) -> bool {
        let has = |list: &[&str]| list.iter().any(|option| words.iter().any(|word| word.text == *option));
        let by_variable = manager.heeds_node_env && self.scene.variable("NODE_ENV").and_then(Text::known) == Some("production");
        (by_variable || has(manager.production_options)) && !has(manager.development_options)
    }

    /// `yarn build`: a script of that name, or else a program of a package.
    fn bare_word(
        &mut self,
        manager: &'static Manager,
        word: &str,
        words: &[Word],
        dir: Folder,
        call: &Call<'_>,
        written: &Written<'_>,
    ) {
        let facts = self.scene.facts;
        let is_script =
            dir.as_deref().and_then(|dir| facts.package_for(dir)).is_some_and(|(_, package)| package.script(word).is_some());
        if is_script || managers().is_common_script(word) {
            self.run_script(manager, word, &words[1..], dir, call);
        } else {
            self.command(&Call { words, dir, at: call.at, source: call.source }, written);
        }
    }

    fn run_script(&mut self, manager: &Manager, name: &str, rest: &[Word], dir: Folder, call: &Call<'_>) {
        let (Some(from), true, false) = (dir.as_deref(), self.scene.own_root, name.is_empty()) else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
            return;
        };
        let lenient = call.words.iter().any(|word| manager.lenient_options.contains(&word.text.as_str()))
            || (manager.bins && !managers().is_common_script(name));
        let run = Effect::RunScript { manager: manager.id.to_owned(), name: name.to_owned(), dir: dir.clone(), lenient };
        self.add(run, call.at);
        let facts = self.scene.facts;
        let Some((package_dir, package)) = facts.package_for(from) else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
            return;
        };
        let Some(script) = package.script(name) else {
            // Some managers run a file as well.
            let file = call.words.iter().find(|word| word.known() == Some(name));
            if let Some((path, program)) = file.and_then(|word| self.own_program(&dir, word)) {
                self.program(&path, program, rest, call);
                return;
            }
            // What is missing is told once. Until that is mended, what it makes is what the script that is meant would make.
            let names = package.scripts.iter().flatten().map(|script| script.name.as_str());
            let meant = near(name, names, Among::Whole).filter(|meant| meant.sure && !lenient);
            match meant.and_then(|meant| package.script(&meant.word)) {
                Some(meant) => self.follow(package_dir, &meant.name, &meant.command, call.at, false),
                None => self.add(Effect::Unknown(Reach::Anything), call.at),
            }
            return;
        };
        for prefix in ["pre", "", "post"] {
            let around = !prefix.is_empty();
            let full = [prefix, name].concat();
            let Some(found) = (if around { package.script(&full) } else { Some(script) }) else { continue };
            let command =
                if around { found.command.clone() } else { found.command.clone() + &arguments(manager, rest, call.source) };
            self.follow(package_dir, &full, &command, call.at, around && !manager.pre_and_post);
        }
    }
}

/// What is handed to a script, as it is written; the `--` before it, and options before that, are the manager's.
fn arguments(manager: &Manager, rest: &[Word], source: &str) -> String {
    let split = rest.iter().position(|word| word.text == "--");
    let (before, after) = split.map_or((rest, &rest[rest.len()..]), |index| (&rest[..index], &rest[index + 1..]));
    let is_value = |index: usize| {
        index
            .checked_sub(1)
            .and_then(|index| before.get(index))
            .is_some_and(|option| manager.value_options.contains(&option.text.as_str()))
    };
    let is_managers = |index: usize, word: &Word| manager.options_after_name && (word.text.starts_with('-') || is_value(index));
    let passed = before.iter().enumerate().filter(|(index, word)| !is_managers(*index, word)).map(|(_, word)| word);
    passed.chain(after).filter_map(|word| source.get(word.range.clone())).fold(String::new(), |line, word| line + " " + word)
}
