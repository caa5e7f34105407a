//! Production published without the environment that is declared for it.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rehearsal::Answer;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.absent-environment",
    severity: Severity::Advice,
    title: "The site is published without the environment that is there for it",
    why: "An environment holds the secrets of a publish, says which branches may do it, and keeps a list of what went online \
          when. A job that does not name it has none of that.",
    needs: &[],
    bad: &[
        r#"
== git
main default
== dulk.toml
[forge.environments.production]
branches = [‹"main"›]
== jobs
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: «npx gh-pages -d public»
"#,
        r#"
== git
main default
== dulk.toml
[forge.environments.production]
branches = [‹"main"›]
== gitlab
publish:
  script:
    - «npx gh-pages -d dist»
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
        r"
== pipeline
on: push
permissions: {contents: read, pages: write, id-token: write}
concurrency: pages
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: site}
      - uses: «actions/deploy-pages@v4»
",
    ],
    good: &[
        r"
== pipeline
on: push
permissions: {contents: read, pages: write, id-token: write}
concurrency: pages
jobs:
  publish:
    runs-on: ubuntu-latest
    environment: {name: github-pages}
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: site}
      - uses: actions/deploy-pages@v4
",
        r#"
== git
main default
== dulk.toml
[forge.environments.production]
branches = ["main"]
== pipeline
on:
  push:
    branches: [main]
concurrency: publish
jobs:
  publish:
    environment: production
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
"#,
        r#"
== git
main default
== dulk.toml
[forge.environments.staging]
branches = ["next"]
== jobs
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
"#,
        r#"
== git
main default
== dulk.toml
[forge.environments.production]
branches = ["main"]
== gitlab
publish:
  environment: production
  script:
    - npx gh-pages -d dist
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    cannot_without(case, out);
    let (Some(default), Some(pushed)) = (case.facts.git.default_branch.known(), case.on_default_push()) else { return };
    let mut fitting = case.facts.settings.forge.environments.iter().filter_map(|(name, declared)| {
        let branch = declared.branches.as_ref()?.iter().find(|named| named.name == *default)?;
        Some((name, branch))
    });
    let (Some((name, branch)), None) = (fitting.next(), fitting.next()) else { return };
    for published in case.published() {
        let job = &case.pipeline.jobs[published.job];
        if published.place.is_none() || job.environment.is_some() || case.happens(&published, pushed) != Answer::Yes {
            continue;
        }
        out.add(published.effect.at, format!("`{}` publishes without the environment `{name}`", job.id.value))
            .witness(at(branch.at), format!("`{name}` is there for what {default} publishes"))
            .mend(pen::write(case, &Ask::Environment { job: published.job, name }));
    }
}

/// A publish that the forge takes only from a job with an environment.
fn cannot_without(case: &Case<'_>, out: &mut Findings) {
    for (index, _, effect) in case.all_effects() {
        let Effect::Publish { environment: Some(usual), .. } = &effect.effect else { continue };
        let job = &case.pipeline.jobs[index];
        if job.environment.is_some() || case.pipeline.is_part {
            continue;
        }
        out.add(effect.at, format!("`{}` fails here: it publishes, and belongs to no environment", job.id.value))
            .severity(Severity::Error)
            .witness(WitnessSource::Catalog, "the forge's pages are only taken from a job with an environment")
            .mend(pen::write(case, &Ask::Environment { job: index, name: usual }));
    }
}
