//! A pattern that a later one takes back whole.

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
        let taken_back: Vec<(usize, &Pattern)> =
            takes.iter().filter_map(|index| Some((*index, taken_back(filter, *index)?))).collect();
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

/// The later exception that covers a pattern, when nothing after it takes the names in again.
fn taken_back(filter: &Filter, index: usize) -> Option<&Pattern> {
    let pattern = &filter.patterns[index];
    let written = pattern.text.known()?;
    let covers = |exception: &Pattern| {
        let text = exception.text.value.trim_start_matches('!');
        text == written || text == "**" || pattern.literal().is_some_and(|name| pattern_fits(exception, name) == Some(true))
    };
    let later = filter.patterns.get(index + 1..)?;
    let position = later.iter().position(|other| other.is_exception() && covers(other))?;
    let again = later[position + 1..].iter().any(|other| !other.is_exception());
    (!again).then(|| &later[position])
}
