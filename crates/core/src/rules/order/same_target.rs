//! Two publishes that overwrite each other.

use crate::case::{Case, Published};
use crate::effects::holds_read;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::project::PlacedPublish;
use crate::rehearsal::Answer;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.same-target",
    severity: Severity::Error,
    title: "Two publishes go to one place on one event",
    why: "Staging and production, or an old and a new pipeline, that publish to the same place on the same event overwrite each \
          other. Whichever ends last is what visitors see.",
    needs: &[],
    bad: &[
        r"
== git
main default
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ‹npx gh-pages -d one›
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: «npx gh-pages -d two»
",
        r"
== git
main default
== gitlab
a:
  script:
    - ‹rsync -a one/ pier@tarnsay.example:/www›
b:
  script:
    - «rsync -a two/ pier@tarnsay.example:/www»
",
        r#"
== git
main default
== dulk.toml
[forge]
secrets = []
variables = ["LIVE_HOST"]
== gitlab
first:
  script:
    - ‹rsync -a one/ pier@$LIVE_HOST:/www›
second:
  script:
    - «rsync -a two/ "pier@${LIVE_HOST}:/www"»
"#,
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "make"
    - action: ‹"Send"›
      type: "SFTP"
      local_path: "dist"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
- pipeline: "Winter"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "make"
    - action: «"Send"»
      type: "SFTP"
      local_path: "dist"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
    ],
    good: &[
        r"
== git
main default
== jobs
  build:
    if: github.ref_name == 'main'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d one
  publish:
    if: github.ref_name != 'main'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d two
",
        r"
== git
main default
== pipeline
on: push
concurrency: publish
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ssh-add key && rsync -a one/ pier@tarnsay.example:/www/one
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: ssh-add key && rsync -a two/ pier@tarnsay.example:/www/two
",
        r"
== git
main default
== gitlab
a:
  resource_group: one
  script:
    - ssh-add key && rsync -a one/ pier@tarnsay.example:/www/one
b:
  resource_group: two
  script:
    - ssh-add key && rsync -a two/ pier@tarnsay.example:/www/two
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for published in case.published() {
        let Some(place) = published.place.filter(|place| *place != published.target.word() || published.is_forge_pages()) else {
            continue;
        };
        let Some((other, at, event)) = earlier(case, &published, place) else { continue };
        let id = case.job_name(published.job);
        out.add(published.effect.at, format!("on {event}, `{id}` and {other} both publish to {place}: the last one wins"))
            .witness(WitnessSource::At(at), format!("{other} publishes there too"))
            .mend(Mend::by_hand("let only one of them run on that event, or give each a place of its own"));
    }
}

/// A publish to the same place on the same event that comes before this one in the order of files and jobs.
fn earlier(case: &Case<'_>, published: &Published<'_>, place: &str) -> Option<(String, crate::text::Place, String)> {
    let others = case.project.placed().get(place).filter(|others| others.len() > 1)?;
    // They stand in the order of files and jobs.
    let before = others.partition_point(|other| (other.pipeline, other.job) < (case.index, published.job));
    let rivals = || others[..before].iter().filter(|other| !other.branching && apart(case, published, other, place));
    for (occasion, outcome) in case.played() {
        if case.happens(published, outcome) != Answer::Yes {
            continue;
        }
        let found = rivals().find(|other| {
            let Some(rehearsal) = case.project.outcome(other.pipeline, occasion) else { return false };
            rehearsal.step(other.job, other.step).min(rehearsal.starts.answer) == Answer::Yes
        });
        if let Some(other) = found {
            let id = &case.project.prepared[other.pipeline].pipeline.jobs[other.job].id.value;
            let name = if other.pipeline == case.index {
                format!("`{id}`")
            } else {
                format!("`{id}` of {}", case.project.path(other.pipeline))
            };
            return Some((name, other.at, occasion.told()));
        }
    }
    None
}

/// Neither is made after the other on purpose, nor are they of different environments.
fn apart(case: &Case<'_>, published: &Published<'_>, other: &PlacedPublish, place: &str) -> bool {
    let same = other.pipeline == case.index;
    let ordered =
        same && (case.pipeline.waits_for(published.job, other.job) || case.pipeline.waits_for(other.job, published.job));
    // A secret of one environment is another one's in the next.
    let other_job = &case.project.prepared[other.pipeline].pipeline.jobs[other.job];
    let environments =
        holds_read(place) && (case.pipeline.jobs[published.job].environment.is_some() || other_job.environment.is_some());
    !ordered && !environments
}
