//! A stranger's proposal that starts a run which may write.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Event, GrantKind, Level};
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::Rule;

use super::level_of;

pub const RULE: Rule = Rule {
    id: "permission.strangers",
    severity: Severity::Warning,
    title: "A stranger's pull request starts a run that may write",
    why: "This event runs with the repository's own token even when the pull request comes from a stranger. A token that may \
          change the code or publish packages is then one mistake away from them.",
    needs: &[],
    bad: &[r"
== git
main default
== pipeline
on: ‹pull_request_target›
«permissions»: write-all
jobs:
  build:
    runs-on: ubuntu-latest
    steps: [{uses: ferry/label@v1}]
"],
    good: &[
        r"
== git
main default
== pipeline
on: pull_request_target
permissions: {contents: read, pull-requests: write}
jobs:
  build:
    runs-on: ubuntu-latest
    steps: [{uses: ferry/label@v1}]
",
        r"
== git
main default
== pipeline
on: pull_request
permissions: {contents: read}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm test
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.scope.is_empty() {
        return;
    }
    let changing = case.pipeline.customs.scope.iter().filter(|scope| scope.changes);
    let fork = case.played().find(|(occasion, _)| occasion.kind == OccasionKind::Fork);
    let Some((_, rehearsal)) = fork else { return };
    let Some(trigger) = rehearsal.trigger.and_then(|index| case.pipeline.triggers.get(index)) else { return };
    if trigger.event != Event::PrivilegedProposal || rehearsal.starts.answer != Answer::Yes {
        return;
    }
    let mut spoken = Vec::new();
    for (job, verdict) in case.pipeline.jobs.iter().zip(&rehearsal.jobs) {
        let Some(grant) = job.permissions.as_ref().or(case.pipeline.permissions.as_ref()) else { continue };
        let writes = matches!(grant.kind, GrantKind::All(Level::Write))
            || changing.clone().any(|scope| level_of(&grant.kind, scope.id) == Some(Level::Write));
        if writes && verdict.answer == Answer::Yes && job.environment.is_none() && !spoken.contains(&grant.key) {
            spoken.push(grant.key);
            out.add(
                grant.key,
                format!("anybody's pull request starts `{}` with a token that may change this repository", job.id.value),
            )
            .witness(
                at(trigger.name.at),
                format!("`{}` runs with the repository's own rights, for strangers too", trigger.name.value),
            )
            .mend(Mend::by_hand("grant only what the job needs, or start it without the repository's rights"));
        }
    }
}
