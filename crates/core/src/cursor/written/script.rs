//! What may be written in a command.

use super::{Desk, Offer, OfferKind, Offers, names};
use crate::finding::listed_short;
use crate::knowledge;
use crate::text::Span;

/// What may follow in a line of a script, given up to the byte.
pub(super) fn offers(desk: &Desk<'_>, line: &str) -> Offers {
    let command = line.rsplit(['&', '|', ';', '(']).next().unwrap_or(line);
    let command = command.trim_start().trim_start_matches("- ").trim_start();
    let mut words: Vec<&str> = command.split_whitespace().collect();
    let typed = if command.ends_with(char::is_whitespace) { "" } else { words.pop().unwrap_or_default() };
    let instead_of = Span::new(desk.offset - typed.len(), desk.offset);
    let list = match words.as_slice() {
        [] => Vec::new(),
        [manager, "run", ..] | [manager, "run-script", ..] if is_manager(manager) => scripts(desk),
        [manager] if is_manager(manager) => {
            let run = Offer { insert: "run ".to_owned(), ..Offer::new(OfferKind::Word, "run", "runs a script of package.json") };
            std::iter::once(run).collect()
        }
        _ => names::folders(desk),
    };
    Offers { instead_of, list }
}

fn is_manager(word: &str) -> bool {
    knowledge::managers().get(word).is_some()
}

/// The scripts of the package in whose folder the step runs.
fn scripts(desk: &Desk<'_>) -> Vec<Offer> {
    let dir = desk.own_step().and_then(|step| step.directory.as_ref()).and_then(|dir| dir.known()).unwrap_or_default();
    let dir = crate::effects::normal(dir).unwrap_or_default();
    let Some((_, package)) = desk.project.facts.package_for(&dir) else { return Vec::new() };
    let all = package.scripts.iter().flatten();
    all.map(|script| Offer::new(OfferKind::Script, &script.name, crate::shown::shown(&listed_short(&[script.command.as_str()]))))
        .collect()
}
