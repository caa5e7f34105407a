//! An action that is taken from a branch, or from nowhere.

use crate::case::Case;
use crate::effects::UsedAction;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::Action;
use crate::model::Text;
use crate::rules::{Rule, trigger};

pub const RULE: Rule = Rule {
    id: "upkeep.moving",
    severity: Severity::Warning,
    title: "An action is taken from a branch, or without a version",
    why: "A branch moves: what was tested yesterday is not what runs tomorrow, and whoever may push to that branch may run \
          anything in your pipeline, with its token and its secrets. Without any version the forge refuses the file.",
    needs: &[],
    bad: &[r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: «actions/checkout@main»
      - uses: «actions/setup-node»
"],
    good: &[r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: ./.github/actions/build
      - uses: docker://alpine:3.20
      - uses: dtolnay/rust-toolchain@master
      - uses: ferry/timetable-action@8f4b7f84864484a7bf31766abe9204da3cbe65b3
      - uses: ferry/timetable-action@release/v1
"],
    check,
};

/// Names that are branches wherever they are met.
const BRANCHES: [&str; 5] = ["main", "master", "develop", "dev", "trunk"];

fn check(case: &Case<'_>, out: &mut Findings) {
    let calls = case.pipeline.jobs.iter().filter_map(|job| job.call.as_ref()).map(|call| &call.target);
    let steps = case.uses().iter().map(|used| (used.written, used.name, used.version, used.action));
    // A path of this repository without the point before it is told of as that.
    let is_path = |target: &&Text| trigger::absent_callee::without_the_point(case, target).is_some();
    let called = calls.filter(|target| !is_path(target)).filter_map(|target| {
        let used = UsedAction::of(&target.value)?;
        Some((target, used.name, used.version, used.action()))
    });
    for (written, name, version, known) in steps.chain(called) {
        look(case, written, (name, version, known), out);
    }
}

fn look(
    case: &Case<'_>,
    action: &Text,
    (name, version, known): (&str, Option<&str>, Option<&'static Action>),
    out: &mut Findings,
) {
    match version {
        None if case.pipeline.customs.unversioned.is_refused() => {
            out.add(
                action.inner(),
                format!("`{name}` is named without a version, so this file is refused and nothing in it runs"),
            )
            .severity(Severity::Error)
            .one_cause()
            .witness(WitnessSource::Catalog, "an action is written owner/name@version")
            .mend(Mend::by_hand("add @ and the newest version from its page"));
        }
        Some(version) if BRANCHES.contains(&version) => {
            if known.is_some_and(|known| known.moving_is_meant) {
                return;
            }
            // Whoever owns this repository decides there too.
            let owner = case.facts.git.remote.known().map(|remote| format!("{}/", remote.owner.to_ascii_lowercase()));
            let own = owner.is_some_and(|owner| name.to_ascii_lowercase().starts_with(&owner));
            let message = format!("`{name}` is taken from its branch {version}, which may change between two runs");
            let finding = out.add(action.inner(), message);
            finding.one_cause();
            if own {
                finding.severity(Severity::Advice);
            }
            finding
                .witness(WitnessSource::Catalog, format!("{version} names a branch, not a version"))
                .mend(Mend::by_hand("write a version, such as the newest from its page, or a commit id"));
        }
        _ => {}
    }
}
