//! What the words of git do.

use super::run::{Call, Run};
use super::{Effect, EffectAt, Folder, NeededGrant, UploadPath, WorkTree, join};
use crate::knowledge;
use crate::model::Level;
use crate::text::Place;

/// The branch that a second checkout lays into a folder of its own.
pub(super) fn checked_out_beside(effect: &EffectAt) -> Option<WorkTree> {
    let Effect::Checkout { into: Some(into), reference: Some(reference), repository: None, .. } = &effect.effect else {
        return None;
    };
    let branch = reference.known()?.to_owned();
    (!into.is_empty()).then(|| WorkTree { dir: into.clone(), branch: Some(branch), fresh: false })
}

impl Run<'_, '_> {
    pub fn git(&mut self, call: &Call<'_>) {
        let known = call.known();
        let mut words = known[1..].iter();
        let mut elsewhere = false;
        let mut dir = call.dir.clone();
        let word = loop {
            match words.next() {
                Some(&option @ ("-c" | "-C" | "--git-dir" | "--work-tree")) => {
                    elsewhere = true;
                    let value = words.next().copied().unwrap_or_default();
                    dir = match option {
                        "-c" => dir,
                        "-C" => join(&dir, value).filter(|_| !value.is_empty()),
                        _ => None,
                    };
                }
                Some(option) if option.starts_with('-') && !option.starts_with("--version") => {}
                other => break other.copied().unwrap_or_default(),
            }
        };
        match word {
            "push" => self.git_push(call, elsewhere, &dir),
            "subtree" => self.git_subtree(call, &dir),
            "worktree" => self.git_worktree(call, &dir),
            "init" => self.git_init(call, &dir),
            word if knowledge::commands().git_is_harmless(word) => self.add(Effect::Nothing, call.at),
            _ => self.add(Effect::Unknown, call.at),
        }
    }

    /// `git init` makes a folder a repository of its own.
    fn git_init(&mut self, call: &Call<'_>, dir: &Folder) {
        let known = call.known();
        let mut words = known.iter().skip_while(|word| **word != "init").skip(1);
        let mut at = dir.clone();
        while let Some(word) = words.next() {
            match *word {
                "-b" | "--initial-branch" | "--template" | "--object-format" => drop(words.next()),
                "--separate-git-dir" => at = None,
                word if !word.starts_with('-') => at = join(dir, word).filter(|_| !word.is_empty()),
                _ => {}
            }
        }
        self.out.trees.extend(at.map(|dir| WorkTree { dir, branch: None, fresh: true }));
        self.add(Effect::Nothing, call.at);
    }

    /// `git push` writes with the credential that the checkout left, unless an address or a key of its own is named.
    fn git_push(&mut self, call: &Call<'_>, elsewhere: bool, dir: &Folder) {
        let known = call.known();
        let after = known.iter().position(|word| *word == "push").map_or(known.len(), |index| index + 1);
        let arguments: Vec<(usize, &str)> = known
            .iter()
            .enumerate()
            .skip(after)
            .filter(|(_, word)| !word.starts_with('-'))
            .map(|(index, word)| (index, *word))
            .collect();
        // An address that holds the job's own token uses that, and so does the remote that the sources came from.
        let customs = self.scene.customs;
        let by_own_token = |index: usize| {
            let text = call.words.get(index).map_or("", |word| word.text.as_str());
            customs.reads_variables && customs.own_tokens.iter().any(|name| text.contains(name.as_str()))
        };
        let remote_is_plain = arguments.first().is_none_or(|(index, remote)| *remote == "origin" || by_own_token(*index));
        let branch = arguments.get(1).map(|(_, word)| *word).filter(|word| !word.is_empty());
        let tree = self.tree_at(dir);
        let current = !elsewhere
            && tree.is_none()
            && branch.is_none_or(|word| word == "HEAD")
            && arguments.iter().all(|(_, word)| !word.is_empty());
        let branch = branch
            .map(|word| word.rsplit_once(':').map_or(word, |(_, target)| target))
            .filter(|word| *word != "HEAD")
            .map(str::to_owned);
        // `git push origin $(…):branch` says where it goes all the same.
        let written = arguments.get(1).and_then(|(index, _)| call.words.get(*index)).map_or("", |word| word.text.as_str());
        let target = written.rsplit_once(':').map(|(_, target)| target).filter(|target| !target.contains(['$', ')']));
        let branch = branch.filter(|branch| !branch.is_empty()).or_else(|| target.map(str::to_owned));
        let lands_on = branch.clone().or_else(|| tree.as_ref().and_then(|tree| tree.branch.clone()));
        self.add(Effect::Push { branch, current }, call.at);
        let removes =
            written.starts_with(':') || known.iter().any(|word| matches!(*word, "--delete" | "-d" | "--dry-run" | "-n"));
        if let Some(branch) = lands_on.filter(|branch| !removes && self.is_looked_at(branch)) {
            let folder = tree.filter(|tree| tree.fresh).map(|tree| whole_folder(&tree.dir, call.at));
            self.goes_to_branch(branch, folder, arguments.first().map(|(index, _)| *index), call);
        }
        if remote_is_plain && !elsewhere && !self.perhaps {
            let why = "to push commits".to_owned();
            self.out.grants.push(NeededGrant {
                scope: "contents".into(),
                level: Level::Write,
                why,
                visible_anyway: false,
                by_git: true,
                at: call.at,
            });
        }
    }

    /// `git subtree push --prefix dist origin pages` pushes one folder.
    fn git_subtree(&mut self, call: &Call<'_>, dir: &Folder) {
        let known = call.known();
        if !known.contains(&"push") {
            self.add(Effect::Unknown, call.at);
            return;
        }
        let mut prefix = None;
        let mut arguments: Vec<&str> = Vec::new();
        let mut words = known.iter().skip_while(|word| **word != "push").skip(1);
        while let Some(word) = words.next() {
            match word.split_once('=') {
                Some(("--prefix", value)) => prefix = Some(value),
                _ if matches!(*word, "--prefix" | "-P") => prefix = words.next().copied(),
                _ if !word.starts_with('-') => arguments.push(word),
                _ => {}
            }
        }
        let branch = arguments.get(1).filter(|branch| !branch.is_empty()).map(|branch| (*branch).to_owned());
        self.add(Effect::Push { branch: branch.clone(), current: false }, call.at);
        if let Some(branch) = branch.filter(|branch| self.is_looked_at(branch)) {
            let folder = prefix.and_then(|prefix| join(dir, prefix)).map(|folder| whole_folder(&folder, call.at));
            let remote = arguments.first().and_then(|remote| call.words.iter().position(|word| word.text == *remote));
            self.goes_to_branch(branch, folder, remote, call);
        }
    }

    /// `git worktree add public pages` lays a branch into a folder.
    fn git_worktree(&mut self, call: &Call<'_>, dir: &Folder) {
        let known = call.known();
        let mut arguments: Vec<&str> = Vec::new();
        let mut branch = None;
        let mut words = known.iter().skip_while(|word| **word != "worktree").skip(1);
        while let Some(word) = words.next() {
            match *word {
                "-b" | "-B" => branch = words.next().copied(),
                word if !word.starts_with('-') => arguments.push(word),
                _ => {}
            }
        }
        if let ["add", path, rest @ ..] = arguments.as_slice() {
            let branch = branch.or(rest.first().copied()).filter(|branch| !branch.is_empty());
            let branch = branch.map(|branch| branch.strip_prefix("origin/").unwrap_or(branch).to_owned());
            let tree = join(dir, path).filter(|_| !path.is_empty()).map(|dir| WorkTree { dir, branch, fresh: false });
            self.out.trees.extend(tree);
        }
        // The folder holds what the branch holds, which nobody knows here.
        self.add(Effect::Unknown, call.at);
    }

    /// The working tree that a folder lies in, when it is not that of the sources.
    fn tree_at(&self, dir: &Folder) -> Option<WorkTree> {
        let dir = dir.as_deref()?;
        let trees = self.scene.trees.iter().chain(&self.out.trees);
        let inside = |tree: &&WorkTree| {
            dir.strip_prefix(&tree.dir).is_some_and(|rest| rest.is_empty() || rest.starts_with('/') || tree.dir.is_empty())
        };
        let around = trees.filter(inside);
        around.max_by_key(|tree| tree.dir.len()).cloned()
    }

    /// Whether the forge's pages are taken from a branch.
    fn is_looked_at(&self, branch: &str) -> bool {
        match &self.scene.facts.settings.forge.pages {
            Some(pages) => pages.name.strip_prefix("branch:") == Some(branch),
            None => knowledge::names().lists.pages_branches.iter().any(|known| known == branch),
        }
    }

    /// `remote` is the number of the word that says to which repository.
    fn goes_to_branch(&mut self, branch: String, folder: Option<UploadPath>, remote: Option<usize>, call: &Call<'_>) {
        let remote = remote.and_then(|index| call.words.get(index)).map(|word| word.text.as_str());
        let place = match remote {
            None | Some("origin") => Some(format!("branch {branch}")),
            Some(other) => self.scene.steady(other).map(|other| format!("branch {branch} of {other}")),
        };
        let publish = Effect::Publish {
            target: "branch".into(),
            folder,
            artifact: None,
            branch: Some(branch),
            place,
            creates_branch: true,
            environment: None,
            needs_hand_on: false,
        };
        self.add(publish, call.at);
    }
}

fn whole_folder(folder: &str, at: Place) -> UploadPath {
    UploadPath { folder: Some(folder.to_owned()), at, written: folder.to_owned(), glob: false }
}
