//! A branch whose name is written with other capitals.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::model::{Filter, FilterOf, FilterSide};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "branch.wrong-case",
    severity: Severity::Error,
    title: "A branch is written with other capitals than it has",
    why: "Filters tell Main from main. The one that exists does not fit, and a push to it starts nothing.",
    needs: &[Need::Branches],
    bad: &[r"
== git
main default
== pipeline
on:
  push:
    branches: [«Main»]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[
        r"
== git
main default
== pipeline
on:
  push:
    branches: [main, Main, 'Release/*']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== git
main default
Main
== pipeline
on:
  push:
    branches: [Main]
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
    let Some(branches) = case.facts.git.branches.known() else { return };
    let filters = case.pipeline.triggers.iter().flat_map(|trigger| &trigger.filters);
    for filter in filters.filter(|filter| filter.of == FilterOf::Branches && filter.side == FilterSide::Include) {
        for pattern in &filter.patterns {
            let Some(meant) = pattern.literal().and_then(|name| other_case(filter, name, branches)) else { continue };
            out.add(
                pattern.text.inner(),
                format!("`{}` is no branch: it is called {meant}, and capitals count", pattern.text.value),
            )
            .witness(WitnessSource::Git, format!("there is {meant}"))
            .mend(Mend::certain(format!("write {meant}"), [Edit::replace(pattern.text.inner(), meant)]));
        }
    }
}

/// The branch that differs in capitals only, when the name itself is none and the filter does not name it anyway.
pub(in crate::rules) fn other_case<'b>(filter: &Filter, name: &str, branches: &'b [String]) -> Option<&'b str> {
    let exists = branches.iter().any(|branch| branch == name);
    let other = branches.iter().find(|branch| branch.eq_ignore_ascii_case(name)).filter(|_| !exists)?;
    let named = filter.patterns.iter().any(|pattern| pattern.literal() == Some(other));
    (!named).then_some(other.as_str())
}
