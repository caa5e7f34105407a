//! A block that grants more than any step uses.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::model::{Grant, GrantKind, Level};
use crate::rules::Rule;

use super::{level_of, needs_of};

pub const RULE: Rule = Rule {
    id: "permission.too-wide",
    severity: Severity::Warning,
    title: "The token may do more than any step needs",
    why: "Every step of a job, and every package that it installs, can use the job's token. What it may do without need is what \
          somebody who gets hold of it can do.",
    needs: &[],
    bad: &[r"
== pipeline
on: push
«permissions»:
  contents: write
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/checkout@v5›
      - run: npx eslint .
"],
    good: &[
        r"
== pipeline
on: push
permissions:
  contents: read
  pages: write
  id-token: write
concurrency: pages
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: site}
  publish:
    needs: build
    runs-on: ubuntu-latest
    environment: github-pages
    steps:
      - uses: actions/deploy-pages@v4
",
        // Something that is not understood may need anything.
        r"
== pipeline
on: push
permissions: {contents: write}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: ferry/tools@v1
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.scope.is_empty() {
        return;
    }
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        if let Some(grant) = &job.permissions {
            judge(case, grant, &[index], out);
        }
    }
    if let Some(grant) = &case.pipeline.permissions {
        let jobs: Vec<usize> =
            (0..case.pipeline.jobs.len()).filter(|job| case.pipeline.jobs[*job].permissions.is_none()).collect();
        if !jobs.is_empty() {
            judge(case, grant, &jobs, out);
        }
    }
}

fn judge(case: &Case<'_>, grant: &Grant, jobs: &[usize], out: &mut Findings) {
    let mut needed = std::collections::BTreeMap::new();
    let mut perhaps: Vec<&str> = Vec::new();
    for job in jobs {
        let Some(own) = needs_of(case, *job) else { return };
        perhaps.extend(own.perhaps);
        for (scope, level) in own.surely {
            let known = needed.entry(scope.to_owned()).or_insert(level);
            *known = (*known).max(level);
        }
    }
    let unused: Vec<String> = match &grant.kind {
        GrantKind::All(Level::Write) => vec!["every scope".into()],
        GrantKind::Scopes(scopes) => scopes
            .iter()
            .filter(|(scope, level)| {
                let known = case.pipeline.customs.scope(&scope.value).is_some();
                let open = perhaps.contains(&scope.value.as_str());
                level.value == "write" && known && !open && needed.get(&scope.value) != Some(&Level::Write)
            })
            .map(|(scope, _)| scope.value.clone())
            .collect(),
        _ => return,
    };
    if unused.is_empty() {
        return;
    }
    let lines: Vec<String> = needed
        .iter()
        .filter(|(scope, _)| level_of(&grant.kind, scope).is_some_and(|level| level > Level::None))
        .map(|(scope, level)| format!("{scope}: {}", level.word()))
        .collect();
    let smallest = if lines.is_empty() { "{}".to_owned() } else { listed(&lines) };
    let finding = out.add(grant.key, format!("the token may write to {}, and no step here needs that", listed(&unused)));
    let first = jobs.iter().flat_map(|job| &case.effects.jobs[*job]).flat_map(|step| &step.grants).next();
    match first {
        Some(grant) => finding.witness(at(grant.at), format!("the steps need {smallest} and no more")),
        None => finding.witness(WitnessSource::Catalog, "the steps need nothing of the token"),
    };
    perhaps.retain(|scope| !needed.contains_key(*scope));
    perhaps.sort_unstable();
    perhaps.dedup();
    let beside = if perhaps.is_empty() {
        String::new()
    } else {
        format!(
            ", and of {} what a command here may need beside",
            listed(&perhaps.iter().map(|scope| (*scope).to_owned()).collect::<Vec<_>>())
        )
    };
    finding.mend(Mend::by_hand(format!("grant {smallest} only{beside}")));
}
