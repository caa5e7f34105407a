//! A clock that ticks more often than the forge looks at it.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rehearsal::{least_by_minutes, least_gap, read_clock};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.hasty-clock",
    severity: Severity::Warning,
    title: "The clock asks for more runs than the forge gives",
    why: "The forge starts pipelines by the clock no more often than every few minutes. A time that comes round faster is cut \
          down to that, and each run costs minutes all the same.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  schedule:
    - cron: '«* * * * *»'
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[r"
== pipeline
on:
  schedule:
    - cron: '*/5 * * * *'
    - cron: '0 * * * *'
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
    let least = case.pipeline.customs.least_minutes;
    for time in case.pipeline.triggers.iter().flat_map(|trigger| &trigger.times) {
        let Some(written) = time.known().filter(|written| least_by_minutes(written).is_none_or(|gap| gap < least)) else {
            continue;
        };
        let Some(gap) = read_clock(written).ok().and_then(|time| least_gap(&time)) else { continue };
        if gap < least {
            let every = if gap == 1 { "every minute".to_owned() } else { format!("every {gap} minutes") };
            out.add(time.inner(), format!("this clock ticks {every}, and the forge runs it every {least} minutes at most"))
                .witness(WitnessSource::Catalog, format!("{least} minutes is the shortest time between two runs by the clock"))
                .mend(Mend::by_hand("write a slower clock, such as */15 * * * * or 0 4 * * *"));
        }
    }
}
