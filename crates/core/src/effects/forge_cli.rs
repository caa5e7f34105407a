//! The forge's own command line.

use super::run::{Call, Run};
use super::sorted::Sorted;
use super::{Effect, NeededGrant, WantedCredential, join, own_token};
use crate::facts::Reach;
use crate::knowledge::{self, ForgeCli, ForgeCommand};
use crate::model::Level;

impl Run<'_, '_> {
    pub(super) fn forge_cli(&mut self, cli: &'static ForgeCli, call: &Call<'_>) {
        let words = &call.words[1..];
        let first = words.first().map_or("", |word| word.text.as_str());
        if first.is_empty() || cli.without_token.contains(&first) {
            self.add(Effect::Nothing, call.at);
            return;
        }
        let known = call.known();
        let found = knowledge::commands().forge_command(&known[1..]);
        let sorted = Sorted::of(words, |option| {
            let of_command = found.is_some_and(|command| command.writes_option.contains(&option));
            of_command || cli.elsewhere_options.contains(&option)
        });
        if !cli.signs_in.contains(&first) {
            self.out.wants.push(WantedCredential {
                variables: cli.tokens.iter().map(|word| (*word).to_owned()).collect(),
                inputs: Vec::new(),
                publisher: cli.name.to_owned(),
                read_at: None,
                at: call.at,
            });
        }
        let Some(command) = found else {
            self.add(Effect::Unknown(Reach::Anything), call.at);
            return;
        };
        let effect = match (command.writes_option.is_empty(), sorted.value(command.writes_option)) {
            (true, _) => Effect::Nothing,
            (false, None) => Effect::Write { path: call.dir.clone() },
            (false, Some((folder, _))) => Effect::Write { path: folder.and_then(|folder| join(&call.dir, folder)) },
        };
        self.add(effect, call.at);
        if !self.perhaps && !sorted.has(cli.elsewhere_options) && self.has_own_token(cli) {
            self.out.grants.extend(grants(command, call));
        }
    }

    /// The first of the variables that it takes a token from holds the job's own.
    fn has_own_token(&self, cli: &ForgeCli) -> bool {
        let given = cli.tokens.iter().find_map(|name| self.scene.variable(name));
        given.is_some_and(|text| own_token(text) == Some(true))
    }
}

fn grants<'c>(command: &'c ForgeCommand, call: &Call<'c>) -> impl Iterator<Item = NeededGrant> + use<'c> {
    let at = call.at;
    command.needs.iter().filter_map(move |(scope, level)| {
        Some(NeededGrant {
            scope: scope.to_owned(),
            or: command.or.iter().map(|word| (*word).to_owned()).collect(),
            level: Level::of(level)?,
            why: command.why.to_owned(),
            visible_anyway: command.visible_anyway,
            by_git: false,
            at,
        })
    })
}
