//! An environment that takes nothing from the branch that starts the job.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, listed};
use crate::rehearsal::Answer;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.refused",
    severity: Severity::Error,
    title: "An environment refuses the branch that starts the job",
    why: "An environment can say which branches and tags may deploy to it. A job that names it and starts from another one is \
          stopped before its first step, and the run is red.",
    needs: &[],
    bad: &[
        r#"
== git
main default
staging
== dulk.toml
[forge.environments.production]
branches = [‹"main"›]
== pipeline
on:
  push:
    branches: [main, staging]
jobs:
  build:
    environment: «production»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
        r#"
== git
main default
live
== dulk.toml
[forge.environments.production]
branches = [‹"live"›]
== gitlab
lint:
  script:
    - npm run lint
publish:
  stage: deploy
  environment: «production»
  script:
    - npx gh-pages -d dist
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
    ],
    good: &[
        r#"
== git
main default
staging
== dulk.toml
[forge.environments.production]
branches = ["main"]
== pipeline
on:
  push:
    branches: [main, staging]
jobs:
  build:
    if: github.ref_name == 'main'
    environment: production
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
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
  pull_request:
jobs:
  build:
    environment: staging
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
        r#"
== git
main default
live
== dulk.toml
[forge.environments.production]
branches = ["live"]
== gitlab
lint:
  script:
    - npm run lint
publish:
  stage: deploy
  environment: production
  script:
    - npx gh-pages -d dist
  rules:
    - if: $CI_COMMIT_BRANCH == "live"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        let Some(environment) = &job.environment else { continue };
        let refused: Vec<String> = case
            .played()
            .filter(|(occasion, rehearsal)| {
                let exists = occasion
                    .name
                    .as_ref()
                    .is_none_or(|name| case.facts.git.branches.known().is_none_or(|branches| branches.contains(name)));
                let by_environment = rehearsal
                    .jobs
                    .get(index)
                    .is_some_and(|verdict| verdict.answer == Answer::No && verdict.at == Some(environment.at));
                rehearsal.starts.answer == Answer::Yes && by_environment && (exists || occasion.branch().is_none())
            })
            .map(|(occasion, _)| occasion.told())
            .collect();
        if refused.is_empty() {
            continue;
        }
        let declared = environment.known().and_then(|name| case.facts.settings.forge.environments.get(name));
        let Some(declared) = declared.and_then(|declared| declared.branches.as_ref()) else { continue };
        let names: Vec<&str> = declared.iter().map(|named| named.name.as_str()).collect();
        let Some(first) = declared.first() else { continue };
        out.add(
            environment.inner(),
            format!("`{}` is refused on {}: the environment takes nothing from there", job.id.value, listed(&refused)),
        )
        .witness(at(first.at), format!("it takes {} only", listed(&names)))
        .mend(Mend::by_hand(format!(
            "let `{}` run on {} only, or let the environment take the branch",
            job.id.value,
            listed(&names)
        )));
    }
}
