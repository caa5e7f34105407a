//! Two runs that may publish at the same time.

use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::Rule;

use super::made_by_some_event;

pub const RULE: Rule = Rule {
    id: "order.races",
    severity: Severity::Advice,
    title: "Two runs may publish at the same time",
    why: "Two pushes shortly after each other start two runs side by side, and the older one may be the last to publish. A lock \
          lets one run publish at a time.",
    needs: &[],
    bad: &[
        r"
== git
main default
== jobs
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: «rsync -a --delete public/ pier@tarnsay.example:/www»
",
        r"
== git
main default
== gitlab
live:
  script:
    - make
    - «rsync -a --delete public/ pier@tarnsay.example:/www»
",
    ],
    good: &[
        r"
== git
main default
== pipeline
on: push
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== jobs
  publish:
    concurrency: {group: publish}
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== gitlab
live:
  resource_group: live
  script:
    - make
    - rsync -a --delete public/ pier@tarnsay.example:/www
",
        // The forge itself lets no older run overwrite its pages.
        r"
== git
main default
== gitlab
pages:
  script:
    - make
  artifacts: {paths: [public]}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // Whoever calls this pipeline may hold the lock.
    if case.pipeline.lock.is_some() || case.pipeline.is_called() || case.pipeline.customs.locks_by_setting {
        return;
    }
    let pushed = |published: &crate::case::Published<'_>| {
        case.played()
            .any(|(occasion, rehearsal)| occasion.kind == OccasionKind::Push && case.happens(published, rehearsal) > Answer::No)
    };
    let serialised = |published: &crate::case::Published<'_>| published.is_forge_pages() && case.pipeline.customs.pages_in_order;
    let Some(published) = made_by_some_event(case)
        .into_iter()
        .find(|published| case.pipeline.jobs[published.job].lock.is_none() && !serialised(published) && pushed(published))
    else {
        return;
    };
    let finding = out.add(published.effect.at, "two runs may publish at the same time, and the older one may end last");
    if published.target.is_filled_bit_by_bit() {
        finding.severity(Severity::Warning);
    }
    finding.witness(WitnessSource::Catalog, "runs do not wait for each other unless a lock makes them");
    finding.mend(pen::write(case, &Ask::Lock { job: published.job }));
}
