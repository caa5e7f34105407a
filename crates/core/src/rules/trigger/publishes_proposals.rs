//! A proposal that goes online before anybody has agreed to it.

use crate::case::{Case, Published, at};
use crate::finding::{Findings, Mend, Severity};
use crate::project::ReadIn;
use crate::rehearsal::{Answer, Occasion, OccasionKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.publishes-proposals",
    severity: Severity::Error,
    title: "A pull request publishes to the real site",
    why: "The same step that publishes the default branch also runs for every pull request: work that nobody has agreed to \
          replaces the site, or the publish is refused and the pull request stays red.",
    needs: &[],
    bad: &[
        r"
== git
main default
== pipeline
on:
  push:
    branches: [main]
  ‹pull_request›:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: «npx gh-pages -d public»
",
        r"
== git
main default
== gitlab
«‹pages›»:
  script:
    - make
  artifacts: {paths: [public]}
  rules:
    - when: on_success
",
        r"
== git
main default
== .travis.yml
‹language›: generic
script: make
after_success: «npx surge dist timetable.tarnsay.example»
",
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
    - ‹"refs/pull/*"›
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
== pipeline
on:
  push:
    branches: [main]
  pull_request:
jobs:
  build:
    if: github.event_name == 'push'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
== pipeline
on:
  push:
    branches: [main]
  pull_request:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ls
      - if: github.ref == 'refs/heads/main'
        run: npx gh-pages -d public
",
        r"
== git
main default
== gitlab
pages:
  script:
    - make
  artifacts: {paths: [public]}
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
",
        r#"
== git
main default
== .travis.yml
language: generic
script: make
after_success: test "$TRAVIS_PULL_REQUEST" = false && npx surge dist timetable.tarnsay.example
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    by_name_of_branch(case, out);
    let live = case.project.live_places();
    for published in case.published() {
        let Some(place) = published.place.filter(|place| live.contains(*place)) else { continue };
        let proposal = case.played().find(|(occasion, rehearsal)| {
            matches!(occasion.kind, OccasionKind::Pull | OccasionKind::Fork)
                && case.happens(&published, rehearsal) == Answer::Yes
                && rehearsal.trigger.is_some()
        });
        let Some((occasion, rehearsal)) = proposal else { continue };
        let Some(trigger) = rehearsal.trigger.and_then(|index| case.pipeline.triggers.get(index)) else { continue };
        let default = case.facts.git.default_branch.known().map_or("the default branch", String::as_str);
        let message =
            format!("{} publishes to {place}, where {default} is published, before anybody has agreed to it", occasion.told());
        let id = case.job_name(published.job);
        out.add(published.effect.at, message)
            .witness(at(trigger.name.at), format!("this starts `{id}` for pull requests too"))
            .mend(Mend::by_hand(format!("let this step run on a push to {default} only")));
    }
}

/// A pipeline that follows another one and asks for the branch alone: a stranger may call a branch like the default one.
/// Source: the format's page "Events that trigger workflows", `workflow_run`.
fn by_name_of_branch(case: &Case<'_>, out: &mut Findings) {
    let Some(default) = case.facts.git.default_branch.known() else { return };
    let stranger = Occasion { head: Some(default.clone()), ..Occasion::new(OccasionKind::Fork, Some(default)) };
    let Some((played, trigger)) = case.as_follower(&stranger) else { return };
    let live = case.project.live_places();
    let publishes = case.publishes();
    // What comes with any other branch is told of already.
    let by_any = case.played().any(|(occasion, rehearsal)| {
        occasion.kind == OccasionKind::Fork && publishes.iter().any(|published| case.happens(published, rehearsal) == Answer::Yes)
    });
    let happens = |published: &&Published<'_>| case.happens(published, &played) == Answer::Yes;
    let placed = publishes.iter().filter(|published| published.place.is_some_and(|place| live.contains(place)));
    let Some(published) = placed.into_iter().find(happens).filter(|_| !by_any) else { return };
    let message = format!("a stranger's pull request whose branch is called {default} is published like a push to {default}");
    let of_branch = trigger.filters.first().map_or(trigger.name.at, |filter| filter.key.at);
    let condition = case.pipeline.jobs[published.job].condition().map_or(of_branch, |condition| condition.text.inner());
    let finding = out.add(published.effect.at, message);
    if !takes_their_files(case) {
        finding.severity(Severity::Warning);
    }
    finding.witness(at(condition), "the branch is asked for here, and in a fork anybody may give it that name").mend(
        Mend::by_hand(match &case.pipeline.customs.followed_push {
            Some(condition) => format!("ask for the event as well: {condition}"),
            None => "ask for the event as well".to_owned(),
        }),
    );
}

/// Whether the jobs take the commit or the artifacts of the run that is followed.
fn takes_their_files(case: &Case<'_>) -> bool {
    let theirs = &case.pipeline.run().values.of_followed;
    case.reads.iter().any(|read| {
        let written = case.sources.slice(read.at);
        read.within != ReadIn::Condition && theirs.iter().any(|path| written.eq_ignore_ascii_case(path))
    })
}
