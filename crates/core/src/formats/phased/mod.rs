//! What the two build files of one cloud have in common: phases of commands, and an artifact that is taken out of a folder.

mod artifacts;
mod pen;

pub(super) use artifacts::{Handed, cached, handed};
pub(super) use pen::{Words, write};

use super::joined;
use super::keys::Keys;
use crate::effects::Effect;
use crate::model::{ByItself, Shell, Step, Text, Work};
use crate::text::Place;

/// The commands of a list as one script in the shell of those before; nothing where there are none.
pub(super) fn script_step(name: &str, lines: Vec<Text>) -> Option<Step> {
    let script = joined(lines)?;
    let at = script.at;
    Some(Step {
        name: Some(Text::fixed(name, at)),
        same_shell: true,
        ..Step::new(at, Work::Runs { shell: Shell::Posix, script })
    })
}

/// What is there before the first phase: the repository's files, and what earlier builds have left in the cache of a folder.
pub(super) fn beginning(top: &Keys<'_>, at: Place, directory: Option<&Text>) -> Vec<Step> {
    // Submodules come when the project is told so.
    let sources = ByItself::of(Effect::own_sources(None, None), at);
    let mut kept = ByItself::default();
    if let Some(cache) = top.get("cache").map(|node| Keys::of(top.nodes, node)) {
        cached(&cache, &mut kept);
    }
    let mut steps = vec![Step::new(at, Work::ByItself(sources))];
    if !kept.effects.is_empty() {
        steps.push(Step { directory: directory.cloned().map(Box::new), ..Step::new(at, Work::ByItself(kept)) });
    }
    steps
}
