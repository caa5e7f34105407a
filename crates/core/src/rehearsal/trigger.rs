//! Whether an event starts a pipeline: its triggers and their filters.

use super::{Answer, Occasion, OccasionKind, Verdict};
use crate::facts::Facts;
use crate::finding::listed;
use crate::model::{Event, Filter, FilterOf, FilterSide, Pattern, Pipeline, Trigger};
use crate::pattern::Matcher;

/// Whether it starts, and by which trigger.
pub(super) fn starts(pipeline: &Pipeline, occasion: &Occasion, facts: &Facts) -> (Verdict, Option<usize>) {
    if occasion.is_outside() {
        let verdict = Verdict::new(Answer::Unsure, "something outside may start it", None);
        if pipeline.choices.is_empty() {
            return (verdict, None);
        }
        let chosen = super::job::choose(&pipeline.choices, pipeline, None, occasion, facts);
        return (if chosen.answer == Answer::No { chosen } else { verdict }, None);
    }
    if let Some(why) = pipeline.unknown_starts() {
        // What the file itself says holds, whatever else there is.
        let fitting = pipeline.triggers.iter().enumerate().filter(|(_, trigger)| fits(trigger, occasion.kind));
        let written = fitting.map(|(index, trigger)| (by_trigger(trigger, occasion, pipeline.customs.unbuilt_branches), index));
        if let Some((verdict, index)) = written.into_iter().find(|(verdict, _)| verdict.answer == Answer::Yes) {
            return (verdict, Some(index));
        }
        return (Verdict::new(Answer::Unsure, why.to_owned(), None), None);
    }
    let mut best: Option<(Verdict, usize)> = None;
    for (index, trigger) in pipeline.triggers.iter().enumerate().filter(|(_, trigger)| fits(trigger, occasion.kind)) {
        let verdict = by_trigger(trigger, occasion, pipeline.customs.unbuilt_branches);
        if best.as_ref().is_none_or(|(known, _)| verdict.answer > known.answer) {
            best = Some((verdict, index));
        }
    }
    let Some((verdict, index)) = best else {
        let named: Vec<String> = pipeline.triggers.iter().map(|trigger| trigger.name.value.clone()).collect();
        let because = match named.as_slice() {
            [] => "nothing starts it".to_owned(),
            _ => format!("it is started by {}", listed(&named)),
        };
        return (Verdict::new(Answer::No, because, pipeline.triggers.first().map(|trigger| trigger.name.at)), None);
    };
    if verdict.answer > Answer::No && !pipeline.choices.is_empty() {
        let chosen = super::job::choose(&pipeline.choices, pipeline, None, occasion, facts);
        if chosen.answer < verdict.answer {
            return (chosen, Some(index));
        }
    }
    (verdict, Some(index))
}

fn fits(trigger: &Trigger, kind: OccasionKind) -> bool {
    match trigger.event {
        Event::Push => matches!(kind, OccasionKind::Push | OccasionKind::Tag),
        Event::Proposal | Event::PrivilegedProposal => matches!(kind, OccasionKind::Pull | OccasionKind::Fork),
        Event::Hand => kind == OccasionKind::Hand,
        Event::Clock => kind == OccasionKind::Clock,
        Event::Release => kind == OccasionKind::Release,
        _ => false,
    }
}

fn by_trigger(trigger: &Trigger, occasion: &Occasion, unbuilt: &[&str]) -> Verdict {
    if !trigger.usual {
        let kinds: Vec<&str> = trigger.types.iter().map(|kind| kind.value.as_str()).collect();
        let at = trigger.types.first().map(|kind| kind.at);
        return Verdict::new(Answer::No, format!("it waits for {} only", listed(&kinds)), at);
    }
    let takes_refs = matches!(trigger.event, Event::Push | Event::Proposal | Event::PrivilegedProposal);
    if takes_refs {
        let tag = occasion.kind == OccasionKind::Tag;
        let (own, other) = if tag { (FilterOf::Tags, FilterOf::Branches) } else { (FilterOf::Branches, FilterOf::Tags) };
        let has = |of: FilterOf| trigger.filters.iter().any(|filter| filter.of == of);
        if trigger.event == Event::Push && !has(own) && has(other) {
            let at = trigger.filters.iter().find(|filter| filter.of == other).map(|filter| filter.key.at);
            let because = if tag { "it names branches only" } else { "it names tags only" };
            return Verdict::new(Answer::No, because, at);
        }
        let named = trigger.filters.iter().any(|filter| filter.of == own && filter.side == FilterSide::Include);
        if trigger.event == Event::Push
            && !tag
            && !named
            && occasion.name.as_ref().is_some_and(|name| unbuilt.contains(&name.as_str()))
        {
            let because = "this branch is not built unless the file names it";
            return Verdict::new(Answer::No, because, Some(trigger.name.at));
        }
        for filter in trigger.filters.iter().filter(|filter| filter.of == own) {
            let Some(name) = &occasion.name else { return Verdict::new(Answer::Unsure, "the branch is not known", None) };
            let verdict = filter_verdict(filter, name);
            if verdict.answer != Answer::Yes {
                return verdict;
            }
        }
        // Paths are not looked at for tags.
        if !tag {
            let verdict = by_paths(trigger, occasion);
            if verdict.answer != Answer::Yes {
                return verdict;
            }
        }
    }
    Verdict::new(Answer::Yes, format!("`{}` starts it", trigger.name.value), Some(trigger.name.at))
}

fn by_paths(trigger: &Trigger, occasion: &Occasion) -> Verdict {
    for filter in trigger.filters.iter().filter(|filter| filter.of == FilterOf::Paths) {
        let Some(changed) = &occasion.changed else {
            return Verdict::new(Answer::Unsure, "it depends on the files that change", Some(filter.key.at));
        };
        let verdicts: Vec<Verdict> = changed.iter().map(|path| filter_verdict(filter, path)).collect();
        // One file that is let through is enough.
        let best = verdicts.into_iter().max_by_key(|verdict| verdict.answer);
        match best {
            Some(verdict) if verdict.answer == Answer::Yes => {}
            Some(verdict) => {
                let because = match filter.side {
                    FilterSide::Include => "none of the changed files is among its paths",
                    FilterSide::Exclude => "all changed files are among the paths it leaves out",
                };
                return Verdict::new(verdict.answer, because, Some(filter.key.at));
            }
            None => return Verdict::new(Answer::No, "no file changes", Some(filter.key.at)),
        }
    }
    Verdict::new(Answer::Yes, "", None)
}

/// Whether one pattern fits a name; nothing when it is only known when it runs, or is no pattern.
pub fn pattern_fits(pattern: &Pattern, name: &str) -> Option<bool> {
    Matcher::of(pattern).map(|matcher| matcher.fits(name))
}

/// What a filter says of a name: the last pattern that fits decides.
pub fn filter_verdict(filter: &Filter, name: &str) -> Verdict {
    if filter.patterns.is_empty() {
        return Verdict::new(Answer::Unsure, format!("nothing stands under `{}`", filter.key.value), Some(filter.key.at));
    }
    let mut taken: Option<(bool, &Pattern)> = None;
    let mut unsure: Option<&Pattern> = None;
    for pattern in &filter.patterns {
        let negated = pattern.is_exception();
        if negated && !taken.is_some_and(|(takes, _)| takes) {
            continue;
        }
        match pattern_fits(pattern, name) {
            Some(true) => {
                taken = Some((!negated, pattern));
                unsure = None;
            }
            Some(false) => {}
            None => unsure = Some(pattern),
        }
    }
    if let Some(pattern) = unsure {
        return Verdict::new(Answer::Unsure, "a pattern is only known when it runs", Some(pattern.text.at));
    }
    let fits = taken.is_some_and(|(takes, _)| takes);
    let at = taken.map_or(filter.key.at, |(_, pattern)| pattern.text.inner());
    let key = &filter.key.value;
    match (filter.side, fits) {
        (FilterSide::Include, true) | (FilterSide::Exclude, false) => Verdict::new(Answer::Yes, "", Some(at)),
        (FilterSide::Include, false) => Verdict::new(Answer::No, format!("`{key}` does not take in {name}"), Some(at)),
        (FilterSide::Exclude, true) => Verdict::new(Answer::No, format!("`{key}` leaves {name} out"), Some(at)),
    }
}
