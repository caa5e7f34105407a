//! What the words of git do.

use super::run::{Call, Run};
use super::sorted::Sorted;
use super::{Effect, EffectAt, Folder, NeededGrant, UploadPath, WorkTree, is_inside, join, own_token};
use crate::facts::Reach;
use crate::knowledge;
use crate::model::Target;
use crate::shell::Word;
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
            _ => self.add(Effect::Unknown(Reach::Anything), call.at),
        }
    }

    /// The words behind one of git's own, sorted.
    fn behind<'c>(call: &Call<'c>, word: &str, with_value: &[&str]) -> Sorted<'c> {
        let after = call.words.iter().position(|one| one.text == word).map_or(call.words.len(), |index| index + 1);
        Sorted::of(&call.words[after..], |option| with_value.contains(&option))
    }

    /// `git init` makes a folder a repository of its own.
    fn git_init(&mut self, call: &Call<'_>, dir: &Folder) {
        let words =
            Self::behind(call, "init", &["-b", "--initial-branch", "--template", "--object-format", "--separate-git-dir"]);
        let at = match words.arguments.first() {
            _ if words.has(&["--separate-git-dir"]) => None,
            Some(word) => word.known().and_then(|word| join(dir, word)),
            None => dir.clone(),
        };
        self.out.trees.extend(at.map(|dir| WorkTree { dir, branch: None, fresh: true }));
        self.add(Effect::Nothing, call.at);
    }

    /// `git push` writes with the credential that the checkout left, unless an address or a key of its own is named.
    fn git_push(&mut self, call: &Call<'_>, elsewhere: bool, dir: &Folder) {
        let words = Self::behind(call, "push", &[]);
        let (remote, refs) = (words.arguments.first().copied(), words.arguments.get(1).copied());
        // An address that holds the job's own token uses that, and so does the remote that the sources came from.
        let customs = self.scene.customs;
        let by_own_token =
            |word: &Word| customs.reads_variables && customs.own_tokens.iter().any(|name| word.text.contains(name));
        let remote_is_plain = remote.is_none_or(|remote| remote.known() == Some("origin") || by_own_token(remote));
        let tree = self.tree_at(dir);
        let current = !elsewhere
            && tree.is_none()
            && refs.is_none_or(|refs| refs.known() == Some("HEAD"))
            && words.arguments.iter().all(|word| word.known().is_some_and(|word| !word.is_empty()));
        let branch = refs.and_then(pushed_to);
        let lands_on = branch.clone().or_else(|| tree.as_ref().and_then(|tree| tree.branch.clone()));
        self.add(Effect::Push { branch, current }, call.at);
        let removes = refs.is_some_and(|refs| refs.text.starts_with(':')) || words.has(&["--delete", "-d", "--dry-run", "-n"]);
        if let Some(branch) = lands_on.filter(|branch| !removes && self.is_looked_at(branch)) {
            let folder = tree.filter(|tree| tree.fresh).map(|tree| whole_folder(&tree.dir, call.at));
            self.goes_to_branch(branch, folder, remote, call.at);
        }
        if remote_is_plain && !elsewhere && !self.perhaps {
            self.out.grants.push(NeededGrant::to_push("to push commits", call.at));
        }
        // An address that holds the job's own token pushes with that, whatever else git has.
        if !self.perhaps && remote.is_some_and(|remote| self.is_own_address(remote) && self.holds_own_token(remote)) {
            let needed = NeededGrant { by_git: false, ..NeededGrant::to_push("to push commits", call.at) };
            self.out.grants.push(needed);
        }
    }

    /// `git subtree push --prefix dist origin pages` pushes one folder.
    fn git_subtree(&mut self, call: &Call<'_>, dir: &Folder) {
        let words = Self::behind(call, "subtree", &["--prefix", "-P"]);
        let arguments = known_of(&words.arguments);
        let ["push", rest @ ..] = arguments.as_slice() else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
            return;
        };
        if words.arguments.get(1).is_some_and(|remote| remote.known() == Some("origin")) && !self.perhaps {
            self.out.grants.push(NeededGrant::to_push("to push commits", call.at));
        }
        let branch = rest.get(1).filter(|branch| !branch.is_empty()).map(|branch| (*branch).to_owned());
        self.add(Effect::Push { branch: branch.clone(), current: false }, call.at);
        if let Some(branch) = branch.filter(|branch| self.is_looked_at(branch)) {
            let prefix = words.value(&["--prefix", "-P"]).and_then(|(prefix, _)| prefix);
            let folder = prefix.and_then(|prefix| join(dir, prefix)).map(|folder| whole_folder(&folder, call.at));
            self.goes_to_branch(branch, folder, words.arguments.get(1).copied(), call.at);
        }
    }

    /// `git worktree add public pages` lays a branch into a folder.
    fn git_worktree(&mut self, call: &Call<'_>, dir: &Folder) {
        let words = Self::behind(call, "worktree", &["-b", "-B"]);
        let arguments = known_of(&words.arguments);
        if let ["add", path, rest @ ..] = arguments.as_slice() {
            let named = words.value(&["-b", "-B"]).map(|(branch, _)| branch.unwrap_or_default());
            let branch = named.or(rest.first().copied()).filter(|branch| !branch.is_empty());
            let branch = branch.map(|branch| branch.strip_prefix("origin/").unwrap_or(branch).to_owned());
            let tree = join(dir, path).filter(|_| !path.is_empty()).map(|dir| WorkTree { dir, branch, fresh: false });
            self.out.trees.extend(tree);
        }
        // The folder holds what the branch holds, which nobody knows here.
        self.add(Effect::Unknown(Reach::Anything), call.at);
    }

    /// The working tree that a folder lies in, when it is not that of the sources.
    fn tree_at(&self, dir: &Folder) -> Option<WorkTree> {
        let dir = dir.as_deref()?;
        let trees = self.scene.trees.iter().chain(&self.out.trees);
        let around = trees.filter(|tree| is_inside(dir, &tree.dir));
        around.max_by_key(|tree| tree.dir.len()).cloned()
    }

    /// Whether an address names this repository: by its name, or by what the run knows of it.
    fn is_own_address(&self, address: &Word) -> bool {
        let own = self.scene.facts.git.remote.known().map(|remote| format!("{}/{}", remote.owner, remote.name));
        let by_name = own.is_some_and(|own| {
            let rest = address.text.find(&own).map(|index| &address.text[index + own.len()..]);
            rest.is_some_and(|rest| rest.is_empty() || rest.starts_with(".git") || rest == "/")
        });
        let names = &self.scene.run.values.own_repository;
        by_name || names.iter().any(|name| address.text.contains(name)) || address.text.contains("GITHUB_REPOSITORY")
    }

    /// Whether the job's own token stands in an address.
    fn holds_own_token(&self, address: &Word) -> bool {
        let inside = |name: &str| self.scene.variable(name).is_some_and(|text| own_token(text) == Some(true));
        let written = ["github.token", "secrets.GITHUB_TOKEN"].iter().any(|name| address.text.contains(name));
        written || crate::shell::variable_reads(&address.text, false).into_iter().any(|(name, _)| inside(name))
    }

    /// Whether the forge's pages are taken from a branch.
    fn is_looked_at(&self, branch: &str) -> bool {
        match &self.scene.facts.settings.forge.pages {
            Some(pages) => pages.name.strip_prefix("branch:") == Some(branch),
            None => knowledge::names().lists.pages_branches.contains(&branch),
        }
    }

    /// `remote` is the word that says to which repository.
    fn goes_to_branch(&mut self, branch: String, folder: Option<UploadPath>, remote: Option<&Word>, at: Place) {
        let place = match remote.map(|word| word.text.as_str()) {
            None | Some("origin") => Some(format!("branch {branch}")),
            Some(_) if remote.is_some_and(|remote| self.is_own_address(remote)) => Some(format!("branch {branch}")),
            Some(other) => self.scene.steady(other).map(|other| format!("branch {branch} of {other}")),
        };
        let publish = Effect::Publish {
            target: Target::Branch,
            folder,
            artifact: None,
            branch: Some(branch),
            place,
            creates_branch: true,
            environment: None,
            needs_hand_on: false,
            inside: Some(String::new()),
            laid: None,
            serving: None,
        };
        self.add(publish, at);
    }
}

/// The words as far as they are known now; the rest are "".
fn known_of<'w>(words: &[&'w Word]) -> Vec<&'w str> {
    words.iter().map(|word| word.known().unwrap_or_default()).collect()
}

/// The branch that `from:to`, or a branch's name alone, pushes to. `git push origin $(…):branch` says so all the same.
fn pushed_to(refs: &Word) -> Option<String> {
    let target = match refs.text.rsplit_once(':') {
        Some((_, target)) => target,
        None => refs.known()?,
    };
    let known = !refs.dynamic || !target.contains(['$', ')', '`']);
    (known && !target.is_empty() && target != "HEAD").then(|| target.to_owned())
}

fn whole_folder(folder: &str, at: Place) -> UploadPath {
    UploadPath { folder: Some(folder.to_owned()), at, written: folder.to_owned(), glob: false }
}
