//! A lock that holds up what it should not, or nothing at all.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::model::{Event, FilterOf, FilterSide, Lock, Text};
use crate::pen::{self, Ask};
use crate::project::{Read, RunFact};
use crate::rules::Rule;

use super::made_by_some_event;

pub const RULE: Rule = Rule {
    id: "order.wide-lock",
    severity: Severity::Warning,
    title: "A lock is too wide or too narrow",
    why: "Runs with the same group wait for each other or stop each other. A group that is the same for every branch lets one \
          person's push stop another's run; one that is different for every run holds up nothing.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: [‹pull_request›]
concurrency:
  group: «look»
  cancel-in-progress: true
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== git
main default
== gitlab
publish:
  resource_group: «site-$CI_PIPELINE_ID»
  script:
    - npx gh-pages -d dist
",
    ],
    good: &[
        r"
== pipeline
on: [push, pull_request]
concurrency:
  group: ${{ github.workflow }}-${{ github.ref }}
  cancel-in-progress: true
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== pipeline
on:
  push:
    branches: [main]
concurrency:
  group: pages
  cancel-in-progress: true
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== git
main default
== gitlab
publish:
  resource_group: site
  script:
    - npx gh-pages -d dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if let Some(lock) = &case.pipeline.lock {
        too_wide(case, lock, out);
    }
    let published = made_by_some_event(case);
    let Some(first) = published.first() else { return };
    let locks = [case.pipeline.lock.as_ref(), case.pipeline.jobs[first.job].lock.as_ref()];
    let all: Vec<&Lock> = locks.into_iter().flatten().collect();
    if all.iter().any(|lock| !is_single(case, &lock.group)) {
        return;
    }
    for lock in all {
        out.add(lock.group.inner(), "this lock holds up nothing: every run has a group of its own")
            .witness(WitnessSource::Catalog, "the number of the run, or the commit, is never the same twice")
            .mend(Mend::by_hand("name the group after what must not happen twice at once, such as publish"));
    }
}

/// The group is another one for every run or commit.
pub(super) fn is_single(case: &Case<'_>, group: &Text) -> bool {
    case.reads_of(group).iter().any(|read| matches!(read.read, Read::Run(fact) if fact.is_new_each_time()))
}

/// Runs of different branches or pull requests stop each other.
fn too_wide(case: &Case<'_>, lock: &Lock, out: &mut Findings) {
    let cancels = lock.cancels.as_ref().is_some_and(|cancels| cancels.value == "true");
    let varies = case.reads_of(&lock.group).iter().any(|read| read.read != Read::Run(RunFact::Job));
    if !cancels || varies {
        return;
    }
    let many = case.pipeline.triggers.iter().find(|trigger| match trigger.event {
        Event::Proposal | Event::PrivilegedProposal => true,
        Event::Push => {
            let filter = trigger.filter(FilterOf::Branches, FilterSide::Include);
            let only_tags = filter.is_none() && trigger.filter(FilterOf::Tags, FilterSide::Include).is_some();
            !only_tags
                && filter.is_none_or(|filter| {
                    filter.patterns.len() > 1 || filter.patterns.iter().any(|pattern| pattern.literal().is_none())
                })
        }
        _ => false,
    });
    let Some(trigger) = many else { return };
    out.add(lock.group.inner(), "a run for one branch or pull request stops the run for another: all share this group")
        .witness(at(trigger.name.at), format!("`{}` starts runs for many branches", trigger.name.value))
        .mend(pen::write(case, &Ask::LockPerBranch));
}
