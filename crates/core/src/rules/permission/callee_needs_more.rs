//! A called pipeline that asks for more than its caller may give.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, listed};
use crate::model::{Grant, GrantKind, Level};
use crate::rules::Rule;

use super::level_of;

pub const RULE: Rule = Rule {
    id: "permission.callee-needs-more",
    severity: Severity::Error,
    title: "A called pipeline needs more than its caller grants",
    why: "A called pipeline gets at most what the job that calls it has. When it asks for more, the forge refuses the caller's \
          file before anything runs.",
    needs: &[],
    bad: &[r"
== .github/workflows/publish.yml
on: workflow_call
jobs:
  build:
    ‹permissions›: {pages: write, id-token: write}
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on: push
permissions: {contents: read}
jobs:
  build:
    uses: «./.github/workflows/publish.yml»
"],
    good: &[
        r"
== .github/workflows/publish.yml
on: workflow_call
permissions: {contents: write}
jobs:
  build:
    permissions: {contents: read}
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on: push
permissions: {contents: read}
jobs:
  build:
    uses: ./.github/workflows/publish.yml
",
        r"
== .github/workflows/publish.yml
on: workflow_call
permissions: {contents: write}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx gh-pages -d public -r $ADDRESS
== pipeline
on: push
jobs:
  build:
    uses: ./.github/workflows/publish.yml
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.scope.is_empty() {
        return;
    }
    for job in &case.pipeline.jobs {
        let Some(call) = &job.call else { continue };
        let Some(callee) = case.project.callee(call).map(|index| &case.project.prepared[index].pipeline) else {
            continue;
        };
        if !callee.is_called() {
            continue;
        }
        let Some(grant) = job.permissions.as_ref().or(case.pipeline.permissions.as_ref()) else { continue };
        let asked = callee.jobs.iter().filter_map(|inner| inner.permissions.as_ref().or(callee.permissions.as_ref()));
        for wanted in asked {
            let lacking = lacking(case, grant, wanted);
            if lacking.is_empty() {
                continue;
            }
            let lines: Vec<String> = lacking.iter().map(|(scope, level)| format!("`{scope}: {}`", level.word())).collect();
            let message = format!(
                "`{}` asks for {}, which `{}` does not have, so the forge refuses this file",
                call.target.value,
                listed(&lines),
                job.id.value
            );
            out.add(call.target.inner(), message)
                .witness(at(wanted.key), "the called pipeline asks for it here")
                .mend(Mend::by_hand(format!("grant {} to `{}`", listed(&lines), job.id.value)));
            break;
        }
    }
}

fn lacking<'w>(case: &Case<'_>, grant: &Grant, wanted: &'w Grant) -> Vec<(&'w str, Level)> {
    let scopes: Vec<(&str, Level)> = match &wanted.kind {
        GrantKind::Scopes(scopes) => {
            scopes.iter().filter_map(|(scope, level)| Some((scope.value.as_str(), Level::of(level.known()?)?))).collect()
        }
        GrantKind::All(level) => {
            case.pipeline.customs.scope.iter().filter(|scope| !scope.never_by_default).map(|scope| (scope.id, *level)).collect()
        }
        GrantKind::Unknown => Vec::new(),
    };
    scopes.into_iter().filter(|(scope, level)| level_of(&grant.kind, scope).is_some_and(|given| given < *level)).collect()
}
