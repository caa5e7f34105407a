//! Commands that put a site online.

use super::image::Options;
use super::run::{Call, Run, Written, program_name};
use super::sorted::Sorted;
use super::{Effect, NeededGrant, Prepared, UploadPath, WantedCredential, join};
use crate::facts::config::{Found, Setting, Value};
use crate::knowledge::{self, PublisherCommand};
use crate::shell::Word;
use crate::text::Place;

/// The words of a command that the catalog knows, sorted.
fn sort<'w>(command: &PublisherCommand, words: &'w [Word]) -> Sorted<'w> {
    let lists = [
        &command.folder_options,
        &command.branch_options,
        &command.place_options,
        &command.value_options,
        &command.credential_options,
    ];
    Sorted::of(words, |option| lists.iter().any(|list| list.contains(&option)))
}

/// The publisher that a command is, and how many of its words name it.
pub(super) fn matching(words: &[&str]) -> Option<(&'static PublisherCommand, usize)> {
    let is = |number: usize, word: &str| words.get(number).is_some_and(|own| *own == word || program_name(own) == word);
    knowledge::commands().publisher(program_name(words.first()?), is)
}

fn is_live(sorted: &Sorted<'_>, publisher: &PublisherCommand) -> bool {
    let targets = sorted.value(&["--target"]).and_then(|(target, _)| target) == Some("production");
    publisher.live_options.is_empty() || sorted.has(publisher.live_options) || targets
}

impl Run<'_, '_> {
    pub(super) fn publisher(
        &mut self,
        publisher: &'static PublisherCommand,
        used: usize,
        call: &Call<'_>,
        written: &Written<'_>,
    ) {
        let sorted = sort(publisher, &call.words[used..]);
        let first = sorted.arguments.first().map_or("", |word| word.text.as_str());
        if publisher.prebuilt.as_ref().is_some_and(|prebuilt| knowledge::starts_with(&call.named(), prebuilt.by).is_some()) {
            self.out.prepared.push(Prepared { by: publisher, live: is_live(&sorted, publisher), at: call.at });
        }
        if publisher.other_words.contains(&first) || sorted.has(publisher.dry_options) {
            self.add(Effect::Nothing, call.at);
            return;
        }
        self.looks_for_server(publisher, &sorted, call);
        self.runs_image(publisher, call);
        if publisher.clones_afresh && !sorted.has(&["-r", "--repo"]) && !self.perhaps {
            self.out.afresh.push(call.at);
        }
        if publisher.prebuilt.as_ref().is_some_and(|prebuilt| sorted.has(&[&prebuilt.option])) {
            self.out.prebuilt.push(Prepared { by: publisher, live: is_live(&sorted, publisher), at: call.at });
        }
        let known = publisher.unless_file.iter().any(|file| self.scene.facts.has_file(file) != Some(false));
        let may_be_signed_in = publisher.hosted_only && !self.scene.hosted;
        if !sorted.has(publisher.credential_options) && !known && !may_be_signed_in {
            let name = publisher.words.first().cloned().unwrap_or_default();
            self.out.wants.extend(publisher.credentials.iter().map(|group| WantedCredential {
                variables: group.iter().map(|word| (*word).to_owned()).collect(),
                inputs: publisher.credential_options.iter().map(|word| (*word).to_owned()).collect(),
                publisher: name.to_owned(),
                read_at: None,
                at: call.at,
            }));
        }
        let folder = sorted.value(publisher.folder_options).or_else(|| {
            publisher.folder_argument.and_then(|index| sorted.arguments.get(index)).map(|word| (word.known(), Some(*word)))
        });
        let place_argument = publisher.place_argument.and_then(|index| sorted.arguments.get(index)).copied();
        // `aws s3 sync s3://bucket dist` brings files rather than publishing them.
        if is_far(folder.and_then(|(text, _)| text).unwrap_or_default()) {
            let into = place_argument.map_or(Some(String::new()), |word| join(&call.dir, &word.text));
            self.add(Effect::Write { path: into }, call.at);
            return;
        }
        let live = is_live(&sorted, publisher);
        let branch = match sorted.value(publisher.branch_options) {
            Some((text, _)) => text.map(str::to_owned),
            None => publisher.branch_default.map(str::to_owned),
        };
        let named = sorted.value(publisher.place_options).map(|(text, word)| match word {
            Some(word) => self.scene.steady(&word.text),
            None => text.and_then(|text| self.scene.steady(text)),
        });
        let place = match (named, place_argument) {
            (Some(named), _) => named,
            (None, Some(word)) => self.scene.steady(&word.text).map(|text| text.trim_end_matches('/').to_owned()),
            (None, None) => {
                publisher.place.map(str::to_owned).or_else(|| branch.as_ref().map(|branch| format!("branch {branch}")))
            }
        };
        if publisher.branch_default.is_some() && live {
            self.out.grants.push(NeededGrant::to_push("to push the site to its branch", call.at));
        }
        let folder = folder.map(|(text, word)| match word {
            Some(word) => self.published(word, call, written),
            None => UploadPath {
                folder: text.and_then(|text| join(&call.dir, text)),
                at: call.at,
                written: text.unwrap_or_default().to_owned(),
                glob: false,
            },
        });
        self.add(
            Effect::Publish {
                target: publisher.target.clone(),
                folder,
                artifact: None,
                branch,
                place: place.filter(|_| live),
                creates_branch: publisher.branch_default.is_some(),
                environment: None,
                needs_hand_on: false,
                inside: Some(String::new()),
                laid: None,
                serving: None,
            },
            call.at,
        );
    }

    /// The image that is to run there.
    fn runs_image(&mut self, publisher: &PublisherCommand, call: &Call<'_>) {
        let options = Options::of(call.words, publisher.image_options);
        if let Some(image) = options.values(publisher.image_options).next() {
            let name = self.name_of_image(image);
            self.add(Effect::RunImage { name }, call.at);
        }
    }

    /// The place that is named must stand in the project file of the generator that publishes itself.
    fn looks_for_server(&mut self, publisher: &PublisherCommand, sorted: &Sorted<'_>, call: &Call<'_>) {
        let (Some(servers), true) = (&publisher.servers, self.scene.own_root && !self.perhaps) else { return };
        let named = match &servers.option {
            Some(option) => sorted.value(&[option]).and_then(|(name, _)| name),
            None => sorted.arguments.first().and_then(|word| word.known()),
        };
        let Some(name) = named.filter(|name| !name.contains("://") && !name.is_empty()) else { return };
        let here = |path: &str| {
            let (folder, file) = path.rsplit_once('/').unwrap_or(("", path));
            call.dir.as_deref() == Some(folder) && servers.files.iter().any(|end| file.ends_with(end))
        };
        let facts = self.scene.facts;
        let mut files = facts.configs.iter().filter(|(path, _)| here(path));
        let (Some((_, (file, setting))), None) = (files.next(), files.next()) else { return };
        let Found::Here(Setting { value: Value::Map { entries, open: false }, span }) = setting.find(servers.setting) else {
            return;
        };
        if entries.iter().all(|(known, ..)| known != name) {
            let known = entries.iter().map(|(known, ..)| known.clone()).collect();
            let file = Place { file: *file, span: *span };
            self.out.absent_servers.push(super::AbsentServer { name: name.to_owned(), known, file, at: call.at });
        }
    }

    /// A word that names what is published.
    pub(super) fn published(&self, word: &Word, call: &Call<'_>, written: &Written<'_>) -> UploadPath {
        let at = match written {
            Written::In(text) => text.place(word.range.clone()),
            Written::By(_) => call.at,
        };
        let folder = if word.dynamic { join(&call.dir, &word.text) } else { super::run::path_of(&call.dir, word) };
        UploadPath { folder, at, written: word.text.clone(), glob: word.glob }
    }
}

/// Another machine, or a store.
fn is_far(path: &str) -> bool {
    path.contains("://") || path.split('/').next().is_some_and(|first| first.contains(':'))
}
