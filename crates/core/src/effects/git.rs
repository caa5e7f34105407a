//! What the words of git do.

use super::run::{Call, Run};
use super::{Effect, NeededGrant};
use crate::knowledge;
use crate::model::Level;

impl Run<'_, '_> {
    pub fn git(&mut self, call: &Call<'_>) {
        let known = call.known();
        let mut words = known[1..].iter();
        let mut elsewhere = false;
        let word = loop {
            match words.next() {
                Some(&("-c" | "-C" | "--git-dir" | "--work-tree")) => {
                    elsewhere = true;
                    words.next();
                }
                Some(option) if option.starts_with('-') && !option.starts_with("--version") => {}
                other => break other.copied().unwrap_or_default(),
            }
        };
        match word {
            "push" => self.git_push(call, elsewhere),
            word if knowledge::commands().git_is_harmless(word) => self.add(Effect::Nothing, call.at),
            _ => self.add(Effect::Unknown, call.at),
        }
    }

    /// `git push` writes with the credential that the checkout left, unless an address or a key of its own is named.
    fn git_push(&mut self, call: &Call<'_>, elsewhere: bool) {
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
        let current =
            !elsewhere && branch.is_none_or(|word| word == "HEAD") && arguments.iter().all(|(_, word)| !word.is_empty());
        let branch = branch
            .map(|word| word.rsplit_once(':').map_or(word, |(_, target)| target))
            .filter(|word| *word != "HEAD")
            .map(str::to_owned);
        self.add(Effect::Push { branch, current }, call.at);
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
}
