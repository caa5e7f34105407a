//! A proposal that goes online before anybody has agreed to it.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::rehearsal::{Answer, OccasionKind};
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
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let live = case.project.live_places();
    for published in case.publishes() {
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
