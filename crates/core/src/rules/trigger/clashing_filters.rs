//! A filter and its opposite under one event.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::model::FilterSide;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.clashing-filters",
    severity: Severity::Error,
    title: "An event says both which names it takes and which it leaves out",
    why: "For one event, either a list of what starts it or a list of what does not may be given. With both, the forge refuses \
          the file. Exceptions are written into the first list, after what they are exceptions to, with a `!` before them.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  push:
    ‹branches›: [main]
    «branches-ignore»: [pages]
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
    branches: [main]
    paths-ignore: ['**.md']
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
    branches: [main]
  pull_request:
    branches-ignore: [pages]
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
    if !case.pipeline.customs.both_filters.is_refused() {
        return;
    }
    for trigger in &case.pipeline.triggers {
        for leaves_out in trigger.filters.iter().filter(|filter| filter.side == FilterSide::Exclude) {
            let Some(takes) = trigger.filter(leaves_out.of, FilterSide::Include) else { continue };
            let (one, other) = (&takes.key.value, &leaves_out.key.value);
            let event = &trigger.name.value;
            out.add(leaves_out.key.at, format!("`{event}` has both `{one}` and `{other}`, so the forge refuses this file"))
                .witness(at(takes.key.at), format!("`{one}` stands here, and only one of the two may"))
                .mend(Mend::by_hand(format!(
                    "remove `{other}`, and put its patterns at the end of `{one}` with a ! before each"
                )));
        }
    }
}
