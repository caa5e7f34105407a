//! What commands do with files and folders.

use super::run::{Call, Run, Written, after_option, path_of};
use super::sorted::Sorted;
use super::{CopySource, Effect, Folder, Sweep, UploadPath, join};
use crate::facts::Reach;
use crate::model::Target;
use crate::shell::Word;

impl Run<'_, '_> {
    /// The commands that make, move and remove files; gives whether it was one.
    pub fn files(&mut self, name: &str, call: &Call<'_>, written: &Written<'_>) -> bool {
        let arguments: Vec<&Word> =
            call.words[1..].iter().filter(|word| !word.text.starts_with('-') || word.text == "-").collect();
        let path = |word: &&Word| path_of(&call.dir, word);
        match name {
            "mkdir" | "mkdirp" | "touch" | "tee" => {
                for word in &arguments {
                    let effect = match path(word) {
                        _ if is_outside(&word.text) => Effect::Nothing,
                        path if name.starts_with("mkdir") => Effect::MakeFolder { path },
                        path => Effect::Write { path },
                    };
                    self.add(effect, call.at);
                }
            }
            "install" => self.install(call),
            "lftp" => self.file_client(call),
            "rm" | "rmdir" | "rimraf" | "del-cli" => {
                for word in &arguments {
                    // Some files of a folder: the folder stays.
                    let effect = match path(word) {
                        _ if is_outside(&word.text) => Effect::Nothing,
                        Some(folder) if word.glob && !folder.is_empty() => Effect::Nothing,
                        _ if word.glob => Effect::Remove { path: None },
                        folder => Effect::Remove { path: folder },
                    };
                    self.add(effect, call.at);
                }
            }
            "ln" => {
                let target = arguments.last().filter(|_| arguments.len() > 1);
                self.add(target.map_or(Effect::Unknown(Reach::Anything), |word| Effect::Write { path: path(word) }), call.at);
            }
            "tar" => self.tar(call, written),
            "zip" => self.add(arguments.first().map_or(Effect::Nothing, |word| Effect::Write { path: path(word) }), call.at),
            "unzip" => {
                let into = after_option(call, "-d");
                self.add(into.map_or(Effect::Unknown(Reach::Anything), |word| Effect::Write { path: path(&word) }), call.at);
            }
            "cp" | "mv" | "rsync" | "scp" => {
                let Some((to, from)) = arguments.split_last() else { return true };
                // `host:folder` is another machine.
                let far = |word: &Word| {
                    word.text.split('/').next().is_some_and(|first| first.contains(':')) || word.text.starts_with("rsync://")
                };
                if far(to) {
                    self.copy_to_machine(to, from, call, written);
                    return true;
                }
                let effect = if is_outside(&to.text) {
                    Effect::Nothing
                } else if from.iter().any(|word| far(word)) {
                    Effect::Write { path: path(to) }
                } else {
                    let sources = from.iter().map(|word| copy_source(name, &call.dir, word)).collect();
                    Effect::Copy { from: sources, to: path(to), is_folder: to.text.ends_with('/'), moves: name == "mv" }
                };
                self.add(effect, call.at);
            }
            "curl" if self.sends_packed(call) => {}
            "curl" | "wget" => {
                let known = call.known();
                let saves =
                    name == "wget" || known.iter().any(|word| matches!(*word, "-o" | "-O" | "--output" | "--remote-name"));
                let target = known
                    .iter()
                    .position(|word| matches!(*word, "-o" | "-O" | "--output"))
                    .and_then(|index| call.words.get(index + 1));
                match target {
                    Some(word) if name == "curl" || known.contains(&"-O") => {
                        self.add(Effect::Write { path: path(&word) }, call.at)
                    }
                    _ if saves => self.add(Effect::Write { path: call.dir.clone() }, call.at),
                    _ => self.add(Effect::Nothing, call.at),
                }
            }
            _ => return false,
        }
        true
    }

    /// `install -d FOLDER…` makes folders; otherwise it copies.
    fn install(&mut self, call: &Call<'_>) {
        let words = Sorted::of(&call.words[1..], |option| {
            matches!(
                option,
                "-m" | "--mode" | "-o" | "--owner" | "-g" | "--group" | "-t" | "--target-directory" | "-S" | "--suffix"
            )
        });
        if words.has(&["-d", "--directory"]) {
            for word in &words.arguments {
                self.add(Effect::MakeFolder { path: path_of(&call.dir, word) }, call.at);
            }
            return;
        }
        let named =
            words.value(&["-t", "--target-directory"]).map(|(folder, _)| folder.and_then(|folder| join(&call.dir, folder)));
        let is_folder = named.is_some();
        let (to, from) = match (named, words.arguments.split_last()) {
            (Some(to), _) => (to, words.arguments.as_slice()),
            (None, Some((to, from))) => (path_of(&call.dir, to), from),
            (None, None) => return,
        };
        let from = from.iter().map(|word| copy_source("install", &call.dir, word)).collect();
        self.add(Effect::Copy { from, to, is_folder, moves: false }, call.at);
    }

    /// What `tar` packs into one file: the file, and the one folder that all of it lies in.
    fn packs(&self, call: &Call<'_>, written: &Written<'_>) -> Option<(String, UploadPath)> {
        let mut words = call.words[1..].iter().peekable();
        let (mut file, mut dir, mut from) = (None, None, Vec::new());
        let mut creates = false;
        let bundled = words.peek().is_some_and(|word| !word.text.starts_with('-'));
        let mut first = true;
        while let Some(word) = words.next() {
            let text = word.text.as_str();
            let letters = text.strip_prefix('-').filter(|rest| !rest.starts_with('-'));
            let letters = letters.or_else(|| (first && bundled).then_some(text));
            first = false;
            match (text, text.split_once('=')) {
                ("--create", _) => creates = true,
                ("--directory" | "-C", _) => dir = words.next(),
                ("--file", _) => file = words.next().map(|word| word.text.as_str()),
                (_, Some(("--file", name))) => file = Some(name),
                ("--exclude" | "--transform" | "--exclude-from" | "-X", _) => {
                    words.next();
                }
                _ if letters.is_some() => {
                    let letters = letters.unwrap_or_default();
                    creates |= letters.contains('c');
                    if letters.ends_with('f') {
                        file = words.next().map(|word| word.text.as_str());
                    }
                }
                _ if text.starts_with("--") => {}
                _ => from.push(word),
            }
        }
        let [one] = from.as_slice() else { return None };
        let named = match dir {
            Some(dir) if matches!(one.text.as_str(), "." | "./" | "*") => dir,
            Some(_) => return None,
            None => one,
        };
        creates.then(|| Some((file?.to_owned(), self.published(named, call, written)))).flatten()
    }

    /// `curl --upload-file FILE ADDRESS`, where the file holds a folder that has been packed before.
    fn sends_packed(&mut self, call: &Call<'_>) -> bool {
        let Some(file) = ["-T", "--upload-file"].iter().find_map(|option| after_option(call, option)) else { return false };
        let known = self.out.packed.iter().rev().chain(self.scene.packed.iter().rev());
        let Some(folder) = known.into_iter().find(|(name, _)| *name == file.text).map(|(_, folder)| folder.clone()) else {
            return false;
        };
        // All that git tracks is packed for other ends too.
        if folder.folder.as_deref().is_none_or(str::is_empty) {
            return false;
        }
        let place = call.words.iter().find(|word| word.text.contains("://")).and_then(|word| self.scene.steady(&word.text));
        self.add(Effect::publish_to((Target::FileServer, place), Some(folder), Some(String::new()), None), call.at);
        true
    }

    /// Packs a folder into one file, or unpacks one.
    fn tar(&mut self, call: &Call<'_>, written: &Written<'_>) {
        if let Some(packed) = self.packs(call, written) {
            self.out.packed.push(packed);
        }
        let mode = call.words.get(1).map_or("", |word| word.text.trim_start_matches('-'));
        let unpacks = mode.starts_with('x') || mode.contains('x') || call.known().contains(&"--extract");
        let target =
            if unpacks { after_option(call, "-C") } else { after_option(call, call.words.get(1).map_or("", |word| &word.text)) };
        let effect = match target {
            Some(word) => Effect::Write { path: path_of(&call.dir, word) },
            None if unpacks => Effect::Unknown(Reach::Anything),
            None => Effect::Nothing,
        };
        self.add(effect, call.at);
    }

    /// `rsync dist/ host:folder`: the last word before the machine's is what is published, options and their values aside.
    fn copy_to_machine(&mut self, to: &Word, from: &[&Word], call: &Call<'_>, written: &Written<'_>) {
        let folder = from.last().map(|word| self.published(word, call, written));
        let place = self.scene.steady(&to.text).map(|text| text.trim_end_matches('/').to_owned());
        let dry = call.known().iter().any(|word| matches!(*word, "--dry-run" | "-n"));
        let publish = Effect::Publish {
            target: Target::Shell,
            folder,
            artifact: None,
            branch: None,
            place,
            creates_branch: false,
            environment: None,
            needs_hand_on: false,
            inside: Some(String::new()),
            laid: None,
            serving: None,
        };
        self.add(if dry { Effect::Nothing } else { publish }, call.at);
    }
}

/// What a word of `cp`, `mv` or `rsync` names: a folder, or what lies in it.
fn copy_source(name: &str, dir: &Folder, word: &Word) -> CopySource {
    let text = word.text.as_str();
    let all = text == "*" || text.ends_with("/*");
    if word.glob && !all {
        return CopySource { path: None, contents: true, always_nests: false, sweep: Sweep::None };
    }
    let slash = name == "rsync" && text.ends_with('/');
    let contents = all || text == "." || text.ends_with("/.") || slash;
    let sweep = match name {
        "cp" | "mv" if all => Sweep::Shown,
        "cp" if contents => Sweep::All,
        _ => Sweep::None,
    };
    CopySource { path: path_of(dir, word), contents, always_nests: name == "rsync" && !contents, sweep }
}

/// The home directory and the machine's own folders: nothing there is part of the workspace.
pub(super) fn is_outside(path: &str) -> bool {
    const WORKSPACES: [&str; 6] =
        ["/builds/", "/github/workspace", "/home/runner/work", "/home/travis/build", "/workspace", "/bitbucket"];
    let home = path == "~" || path.starts_with("~/") || path.starts_with("$HOME") || path.starts_with("${HOME}");
    home || (path.starts_with('/') && !WORKSPACES.iter().any(|workspace| path.starts_with(workspace)))
}
