//! A time that cannot be read, or never comes.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rehearsal::{ClockWrong, check_clock};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.dead-clock",
    severity: Severity::Error,
    title: "The clock time is no time, or never comes",
    why: "A clock time has five fields: minute, hour, day of the month, month, day of the week, in UTC. One that cannot be read \
          makes the forge refuse the file; one like the 31st of February is accepted and never due.",
    needs: &[],
    bad: &[r"
== pipeline
on:
  schedule:
    - cron: '«0 4 * *»'
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
    - cron: '0 4 * * MON-FRI'
    - cron: '*/20 5,17 1-7 * *'
    - cron: '0 0 29 2 *'
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
    if !case.pipeline.customs.wrong_time.is_refused() {
        return;
    }
    for time in case.pipeline.triggers.iter().flat_map(|trigger| &trigger.times) {
        let Some(written) = time.known() else { continue };
        match check_clock(written) {
            Ok(_) => {}
            Err(ClockWrong::Unreadable(reason)) => {
                out.add(time.inner(), format!("`{written}` is no clock time, so the forge refuses this file"))
                    .witness(WitnessSource::Catalog, reason)
                    .mend(Mend::by_hand("write five fields, such as 0 4 * * * for every day at 04:00 UTC"));
            }
            Err(ClockWrong::Never) => {
                out.add(time.inner(), format!("`{written}` never comes: no month has that day"))
                    .witness(WitnessSource::Catalog, "the fields are minute, hour, day of the month, month, day of the week")
                    .mend(Mend::by_hand("write a day that the month has, such as 28"));
            }
        }
    }
}
