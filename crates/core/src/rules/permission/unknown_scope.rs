//! A scope that does not exist.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::knowledge::{Among, near};
use crate::model::GrantKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "permission.unknown-scope",
    severity: Severity::Error,
    title: "The permissions name a scope that does not exist",
    why: "The scopes of a token are a fixed list. One that is not on it makes the forge refuse the whole file: nothing runs.",
    needs: &[],
    bad: &[r"
== pipeline
on: push
permissions:
  «content»: read
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[r"
== pipeline
on: push
permissions:
  contents: read
  id-token: write
  pages: write
  attestations: write
  models: read
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: ferry/publish@v2
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.scope.is_empty() {
        return;
    }
    let grants = case.pipeline.permissions.iter().chain(case.pipeline.jobs.iter().filter_map(|job| job.permissions.as_ref()));
    let known: Vec<&str> = case.pipeline.customs.scope.iter().map(|scope| scope.id).collect();
    for grant in grants {
        let GrantKind::Scopes(scopes) = &grant.kind else { continue };
        for (scope, _) in scopes.iter().filter(|(scope, _)| !known.contains(&scope.value.as_str())) {
            // A scope that is newer than this program is no fault.
            let Some(meant) = near(&scope.value, known.iter().copied(), Among::Closed) else { continue };
            let granted = scopes.iter().any(|(other, _)| other.value == meant.word);
            out.add(scope.at, format!("there is no scope `{}`, so the forge refuses this file", scope.value))
                .witness(WitnessSource::Catalog, format!("the scopes are {}", listed(&known)))
                .mend(match granted {
                    true => Mend::by_hand(format!("remove it: `{}` is granted beside it", meant.word)),
                    false => Mend::name(&meant, scope.inner()),
                });
        }
    }
}
