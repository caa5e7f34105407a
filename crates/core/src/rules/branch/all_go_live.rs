//! A filter that takes every branch, and a publish into the one live place.

use crate::case::{Case, at};
use crate::effects::holds_read;
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Event, FilterOf, FilterSide, Pattern, PatternSyntax};
use crate::rehearsal::{Answer, OTHER_BRANCH, OccasionKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.all-go-live",
    severity: Severity::Warning,
    title: "Every branch is published over the live site",
    why: "A star in the filter takes every branch. Each push to any of them is published into the same place, so that unfinished \
          work replaces what visitors see.",
    needs: &[],
    bad: &[
        r"
== git
main default
piers
== pipeline
on:
  push:
    branches: ['«**»']
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ‹npx gh-pages -d site›
== files
site/index.html
",
        r#"
== git
main default
piers
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/«*»"
  actions:
    - action: ‹"Send"›
      type: "SFTP"
      local_path: "site"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
== files
site/index.html
"#,
        r#"
== git
main default
piers
== .travis.yml
language: generic
branches:
  only: [«/.*/»]
script: skip
deploy:
  provider: ‹s3›
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: site
  on: {all_branches: true}
== files
site/index.html
"#,
    ],
    good: &[
        r"
== git
main default
piers
== pipeline
on:
  push:
    branches: ['**']
jobs:
  send:
    runs-on: ubuntu-latest
    concurrency: send
    timeout-minutes: 10
    steps:
      - uses: actions/checkout@v5
      - if: github.ref_name == 'main'
        run: npx surge site timetable.tarnsay.example
        env: {SURGE_TOKEN: '${{ secrets.SURGE }}'}
== files
site/index.html
",
        r#"
== git
main default
piers
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Send"
      type: "SFTP"
      local_path: "site"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
== files
site/index.html
"#,
        r#"
== git
main default
piers
== .travis.yml
language: generic
branches:
  only: [/.*/]
script: skip
deploy:
  provider: s3
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: site
  on: {branch: main}
== files
site/index.html
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let default = case.facts.git.default_branch.known();
    let Some(branches) = case.facts.git.branches.known() else { return };
    let Some(other) = branches.iter().find(|name| Some(*name) != default) else { return };
    let live = case.project.live_places();
    for trigger in case.pipeline.triggers.iter().filter(|trigger| trigger.event == Event::Push) {
        let filter = trigger.filter(FilterOf::Branches, FilterSide::Include);
        let Some(pattern) = filter.and_then(|filter| filter.patterns.iter().find(|pattern| takes_all(pattern))) else { continue };
        for published in case.published() {
            let Some(place) = published.place.filter(|place| live.contains(*place) && !holds_read(place)) else { continue };
            let happens = case.played().any(|(occasion, rehearsal)| {
                occasion.kind == OccasionKind::Push
                    && occasion.name.as_deref() == Some(OTHER_BRANCH)
                    && case.happens(&published, rehearsal) == Answer::Yes
            });
            if happens {
                out.add(pattern.text.inner(), format!("a push to any branch, such as {other}, is published to {place}"))
                    .witness(at(published.effect.at), "this publishes whatever the branch is called")
                    .mend(Mend::by_hand(format!(
                        "name the branch that goes online here, such as {}, or let the publish ask for it",
                        default.map_or("main", String::as_str)
                    )));
                return;
            }
        }
    }
}

/// A pattern that any name fits, as it is written.
fn takes_all(pattern: &Pattern) -> bool {
    let text = pattern.text.value.as_str();
    match pattern.syntax {
        PatternSyntax::Glob => matches!(text, "*" | "**" | "***"),
        PatternSyntax::Regex { .. } => matches!(text, ".*" | "^.*" | "^.*$" | ".+" | "^.+$" | "."),
        PatternSyntax::Exact | PatternSyntax::Paths => false,
    }
}
