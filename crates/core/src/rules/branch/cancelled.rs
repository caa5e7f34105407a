//! A pattern that a later one takes back whole.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Filter, FilterSide, Pattern};
use crate::rehearsal::pattern_fits;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.cancelled",
    severity: Severity::Error,
    title: "A later pattern takes a filter back",
    why: "Patterns are read from first to last, and the last that fits decides. An exception that covers everything before it \
          leaves nothing that could start the pipeline.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  push:
    branches: [«main», '‹!**›']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[
        r"
== pipeline
on:
  push:
    branches: ['**', '!pages', '!release/**', release/1]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== pipeline
on:
  push:
    branches: ['release/**', '!release/**-wip']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let filters = case.pipeline.triggers.iter().flat_map(|trigger| &trigger.filters);
    for filter in filters.filter(|filter| filter.side == FilterSide::Include) {
        let takes: Vec<usize> = (0..filter.patterns.len()).filter(|index| !filter.patterns[*index].is_exception()).collect();
        let exceptions = Exceptions::of(filter);
        let taken_back: Vec<(usize, &Pattern)> =
            takes.iter().filter_map(|index| Some((*index, exceptions.taking_back(*index)?))).collect();
        let all = taken_back.len() == takes.len();
        for (index, by) in taken_back {
            let pattern = &filter.patterns[index];
            let rest = if all { "and nothing is left that could start it" } else { "so it starts nothing" };
            let finding =
                out.add(pattern.text.inner(), format!("`{}` is taken back by `{}`, {rest}", pattern.text.value, by.text.value));
            if !all {
                finding.severity(Severity::Warning);
            }
            finding.witness(at(by.text.inner()), "this stands later and covers it");
            finding.mend(Mend::by_hand(format!(
                "remove one of the two, or move `{}` before `{}`",
                by.text.value, pattern.text.value
            )));
        }
    }
}

/// Among more exceptions than this, none is tried on every name.
const TRIED: usize = 200;

/// The exceptions after which nothing is taken in again.
struct Exceptions<'f> {
    filter: &'f Filter,
    /// By what they take away, as it is written.
    written: HashMap<&'f str, &'f Pattern>,
    /// Those with wildcards.
    wild: Vec<&'f Pattern>,
}

impl<'f> Exceptions<'f> {
    fn of(filter: &'f Filter) -> Self {
        let last = filter.patterns.iter().rposition(|pattern| !pattern.is_exception()).map_or(0, |last| last + 1);
        let mut found = Self { filter, written: HashMap::new(), wild: Vec::new() };
        for pattern in &filter.patterns[last..] {
            found.written.entry(pattern.text.value.trim_start_matches('!')).or_insert(pattern);
            if pattern.text.value.contains(['*', '?', '[', '+']) {
                found.wild.push(pattern);
            }
        }
        found.wild.truncate(TRIED);
        found
    }

    /// The one that covers a pattern.
    fn taking_back(&self, index: usize) -> Option<&'f Pattern> {
        let pattern = &self.filter.patterns[index];
        let written = pattern.text.known()?;
        let same = self.written.get(written).or_else(|| self.written.get("**")).copied();
        let covers = |exception: &&&Pattern| pattern.literal().is_some_and(|name| pattern_fits(exception, name) == Some(true));
        same.or_else(|| self.wild.iter().find(covers).copied())
    }
}
