//! A branch that only another remote has.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::model::{FilterOf, FilterSide};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "branch.other-remote",
    severity: Severity::Warning,
    title: "A branch exists only on another remote",
    why: "The forge that reads this file sees the branches of its own repository. A branch that only another remote holds, such \
          as the one this was forked from, starts nothing here.",
    needs: &[Need::Branches],
    bad: &[r"
== git
main default
live far:upstream
== pipeline
on:
  push:
    branches: [main, «live»]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[r"
== git
main default
live
live far:upstream
old far:upstream
== pipeline
on:
  push:
    branches: [main, live]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let git = &case.facts.git;
    let Some(branches) = git.branches.known() else { return };
    let filters = case.pipeline.triggers.iter().flat_map(|trigger| &trigger.filters);
    for filter in filters.filter(|filter| filter.of == FilterOf::Branches && filter.side == FilterSide::Include) {
        for pattern in &filter.patterns {
            let Some(name) = pattern.literal().filter(|name| !branches.iter().any(|branch| branch == name)) else { continue };
            let remotes: Vec<&str> =
                git.elsewhere.iter().filter(|(_, branch)| branch == name).map(|(remote, _)| remote.as_str()).collect();
            if remotes.is_empty() {
                continue;
            }
            out.add(
                pattern.text.inner(),
                format!("{name} exists only on the remote {}, so it starts nothing here", listed(&remotes)),
            )
            .witness(WitnessSource::Git, format!("the repository that runs this file has no branch {name}"))
            .mend(Mend::by_hand(format!("push {name} to the repository that runs this file, or name another branch")));
        }
    }
}
