//! A publish that a newer run may stop in the middle.

use crate::case::{Case, at};
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::model::Lock;
use crate::rules::Rule;

use super::made_by_some_event;

pub const RULE: Rule = Rule {
    id: "order.cut-short",
    severity: Severity::Advice,
    title: "A running publish may be stopped in the middle",
    why: "A lock that cancels the run before it is good for tests. A publish that is cut off half-way may leave half of the new \
          site and half of the old one.",
    needs: &[],
    bad: &[
        r"
== git
main default
== pipeline
on: push
concurrency:
  group: publish
  cancel-in-progress: «true»
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: ‹rsync -a public/ pier@tarnsay.example:/www›
",
        r"
== git
main default
== gitlab
live:
  resource_group: live
  interruptible: «true»
  script:
    - ‹rsync -a public/ pier@tarnsay.example:/www›
",
    ],
    good: &[
        r"
== git
main default
== pipeline
on: push
concurrency:
  group: publish
  cancel-in-progress: false
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== pipeline
on: push
concurrency:
  group: test-${{ github.ref }}
  cancel-in-progress: true
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== git
main default
== gitlab
live:
  resource_group: live
  interruptible: false
  script:
    - rsync -a public/ pier@tarnsay.example:/www
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    by_another(case, out);
    let mut spoken = Vec::new();
    for published in made_by_some_event(case) {
        let locks = [case.pipeline.lock.as_ref(), case.pipeline.jobs[published.job].lock.as_ref()];
        for cancels in locks.into_iter().flatten().filter_map(|lock| lock.cancels.as_ref()) {
            if cancels.value != "true" || spoken.contains(&cancels.at) || never_shared(case, published.job) {
                continue;
            }
            spoken.push(cancels.at);
            let finding = out.add(cancels.inner(), "a newer run stops this publish wherever it has got to");
            if published.target.is_filled_bit_by_bit() {
                finding.severity(Severity::Warning);
            }
            finding.witness(at(published.effect.at), "this may be cut off in the middle");
            finding.mend(Mend::likely("write false, so that the newer run waits", [Edit::replace(cancels.inner(), "false")]));
        }
    }
}

/// Each run has a group of its own, so that none stops another.
fn never_shared(case: &Case<'_>, job: usize) -> bool {
    let locks = [case.pipeline.lock.as_ref(), case.pipeline.jobs[job].lock.as_ref()];
    locks.into_iter().flatten().any(|lock| super::wide_lock::is_single(case, &lock.group))
}

/// Another pipeline is in the same group, and ends what goes on in it.
fn by_another(case: &Case<'_>, out: &mut Findings) {
    let plain = |lock: &&Lock| lock.group.known().is_some_and(|group| !group.is_empty());
    for published in made_by_some_event(case) {
        let own = [case.pipeline.lock.as_ref(), case.pipeline.jobs[published.job].lock.as_ref()];
        for lock in own.into_iter().flatten().filter(plain).filter(|lock| !lock.ends_what_goes_on()) {
            let Some(other) = case.project.ends_in_group(&lock.group.value, case.index) else { continue };
            let finding = out.add(
                lock.group.inner(),
                format!("another pipeline ends this publish: it is in the group `{}` too", lock.group.value),
            );
            if published.target.is_filled_bit_by_bit() {
                finding.severity(Severity::Warning);
            }
            finding
                .witness(at(other), "a run of this one ends whatever goes on in the group")
                .mend(Mend::by_hand("give one of the two another group"));
            return;
        }
    }
}
