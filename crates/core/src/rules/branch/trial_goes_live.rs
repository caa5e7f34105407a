//! A branch for trying things out is published into the live place.

use crate::case::{Case, Published, at};
use crate::effects::holds_read;
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::project::PlacedPublish;
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.trial-goes-live",
    severity: Severity::Warning,
    title: "A branch for trying out is published over the live site",
    why: "Two branches that publish into one place take turns in it: whoever pushed last is what visitors see. When one of them \
          is there for trying things out, its half-finished pages replace the live ones.",
    needs: &[],
    bad: &[
        r"
== git
main default
develop
== .github/workflows/live.yml
on:
  push: {branches: [main]}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ‹npx surge site tarnsay.example›
        env: {SURGE_TOKEN: '${{ secrets.SURGE }}'}
== .github/workflows/staging.yml
on:
  push: {branches: [develop]}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: «npx surge site tarnsay.example»
        env: {SURGE_TOKEN: '${{ secrets.SURGE }}'}
",
        r#"
== git
main default
develop
== gitlab
live:
  script:
    - ‹aws s3 sync site s3://tarnsay-ferry›
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
staging:
  script:
    - «aws s3 sync site s3://tarnsay-ferry»
  rules:
    - if: $CI_COMMIT_BRANCH == "develop"
"#,
    ],
    good: &[
        r"
== git
main default
develop
== .github/workflows/live.yml
on:
  push: {branches: [main]}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx surge site tarnsay.example
        env: {SURGE_TOKEN: '${{ secrets.SURGE }}'}
== .github/workflows/staging.yml
on:
  push: {branches: [develop]}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx surge site trial.tarnsay.example
        env: {SURGE_TOKEN: '${{ secrets.SURGE }}'}
",
        // Another branch may be one for mending the live site.
        r#"
== git
main default
hotfix
== gitlab
live:
  script:
    - aws s3 sync site s3://tarnsay-ferry
  resource_group: live
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
    - if: $CI_COMMIT_BRANCH == "hotfix"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let live = case.project.live_places();
    let default = case.facts.git.default_branch.known();
    for published in case.published() {
        let Some(place) = published.place.filter(|place| live.contains(*place)) else { continue };
        let trial = case.played().find_map(|(occasion, rehearsal)| {
            let name = occasion.name.as_deref().filter(|name| Some(*name) != default.map(String::as_str))?;
            let is_trial = occasion.kind == OccasionKind::Push && knowledge::names().is_for_trying(name);
            (is_trial && case.happens(&published, rehearsal) == Answer::Yes).then_some(name)
        });
        // What is read for the place may be another one in each environment.
        let own_environment = holds_read(place) && case.pipeline.jobs[published.job].environment.is_some();
        let Some(branch) = trial.filter(|_| !own_environment) else { continue };
        let default = default.map_or("the default branch", String::as_str);
        let finding = out.add(
            published.effect.at,
            format!("a push to {branch} is published to {place}, over what a push to {default} has put there"),
        );
        if let Some(other) = live_one(case, &published, place) {
            finding.witness(at(other.at), "this publishes there too");
        } else {
            finding.witness(at(case.pipeline.jobs[published.job].id.at), "this job runs for both branches");
        }
        finding.mend(Mend::by_hand(format!("give {branch} a place of its own, or publish from {default} only")));
    }
}

/// Another publish to the same place.
fn live_one<'c>(case: &'c Case<'_>, published: &Published<'_>, place: &str) -> Option<&'c PlacedPublish> {
    let others = case.project.placed().get(place)?;
    others.iter().find(|other| (other.pipeline, other.job, other.step) != (case.index, published.job, published.step))
}
