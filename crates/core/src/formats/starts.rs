//! What starts a pipeline whose file does not say so.

use crate::facts::{Named, StartsSetting};
use crate::model::{Event, Filter, FilterOf, FilterSide, Pattern, PatternSyntax, Pipeline, StartsFrom, Text, Trigger};

/// Puts what dulk.toml declares in the place of what is not known. A person may start such a pipeline at any time.
pub(super) fn declare(pipeline: &mut Pipeline, declared: &[StartsSetting]) {
    let (Some(first), Some(_)) = (declared.first(), pipeline.unknown_starts()) else { return };
    // What the file itself says of the clock holds too.
    pipeline.triggers.extend(declared.iter().flat_map(triggers));
    pipeline.triggers.push(Trigger::plain(Event::Hand, Text::fixed("by hand", first.file.at)));
    pipeline.starts_from = StartsFrom::Declared(first.file.at);
}

fn triggers(declared: &StartsSetting) -> Vec<Trigger> {
    let named = |event: Event, word: &str| Trigger::plain(event, Text::fixed(word, declared.file.at));
    let filter = |of: FilterOf, key: &str, patterns: &Option<Vec<Named>>| {
        let patterns = patterns.as_ref()?;
        let place = patterns.first().map_or(declared.file.at, |first| first.at);
        let patterns = patterns.iter().map(pattern).collect();
        Some(Filter { of, side: FilterSide::Include, key: Text::fixed(key, place), patterns })
    };
    let branches = filter(FilterOf::Branches, "push", &declared.push);
    let tags = filter(FilterOf::Tags, "tags", &declared.tags);
    let mut found = Vec::new();
    if branches.is_some() || tags.is_some() {
        let filters = branches.into_iter().chain(tags).collect();
        found.push(Trigger { filters, ..named(Event::Push, "push") });
    }
    let pulls = filter(FilterOf::Branches, "pulls", &declared.pulls);
    found.extend(pulls.map(|pulls| Trigger { filters: vec![pulls], ..named(Event::Proposal, "pulls") }));
    found.extend(declared.clock.then(|| named(Event::Clock, "clock")));
    found
}

/// The text stands between the quotes of the setting.
fn pattern(named: &Named) -> Pattern {
    Pattern { text: Text::fixed(&named.name, named.at), syntax: PatternSyntax::Glob }
}
