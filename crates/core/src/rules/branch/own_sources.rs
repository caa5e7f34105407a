//! A site that is committed over the branch that it is built from.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::model::Target;
use crate::rehearsal::{Answer, OccasionKind};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "branch.own-sources",
    severity: Severity::Error,
    title: "The site is committed over its own sources",
    why: "A publish to a branch takes away what is there and puts the built pages in its place. When that is the branch the site is \
          built from, the sources are gone from it, and the next push builds nothing.",
    needs: &[Need::Branches],
    bad: &[
        r"
== git
main default
== pipeline
‹on›:
  push: {branches: [main]}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: «npx gh-pages -d dist -b main»
",
        r#"
== git
main default
== gitlab
‹send›:
  script:
    - npx vite build
    - «npx gh-pages -d dist -b main»
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
        r"
== git
main default
== .travis.yml
‹language›: node_js
script: npx vite build
deploy:
  provider: «pages»
  edge: true
  token: $TARNSAY_TOKEN
  local_dir: dist
  target_branch: main
  on: {branch: main}
",
    ],
    good: &[
        r#"
== git
main
sources default
== pipeline
on:
  push: {branches: [sources]}
jobs:
  send:
    runs-on: ubuntu-latest
    concurrency: send
    timeout-minutes: 10
    permissions: {contents: write}
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
      - run: npx vite build
      - uses: peaceiris/actions-gh-pages@v4
        with:
          github_token: ${{ secrets.GITHUB_TOKEN }}
          publish_dir: dist
          publish_branch: main
== package.json
{"devDependencies": {"vite": "7"}}
== files
package-lock.json
"#,
        r"
== git
main default
== .travis.yml
language: node_js
node_js: '24'
cache: npm
script: npx vite build
deploy:
  provider: pages
  edge: true
  token: $TARNSAY_TOKEN
  local_dir: dist
  on: {branch: main}
== files
package-lock.json
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(branches) = case.facts.git.branches.known() else { return };
    for published in case.published() {
        let Effect::Publish { target: Target::Branch, branch: Some(branch), folder: Some(folder), .. } = &published.effect.effect
        else {
            continue;
        };
        // The same name in another repository is another branch.
        let here = published.place.is_some_and(|place| place == format!("branch {branch}"));
        let whole = folder.folder.as_deref().is_none_or(str::is_empty);
        if !here || whole || !branches.contains(branch) {
            continue;
        }
        let over_itself = case.played().any(|(occasion, rehearsal)| {
            occasion.kind == OccasionKind::Push
                && occasion.name.as_ref() == Some(branch)
                && case.happens(&published, rehearsal) == Answer::Yes
        });
        if over_itself {
            out.add(
                published.effect.at,
                format!("this puts the built pages into {branch}, over the sources that they are made of"),
            )
            .witness(at(case.pipeline.started_at().unwrap_or(published.effect.at)), format!("a push to {branch} starts it"))
            .witness(WitnessSource::Git, format!("{branch} is the branch that holds the sources"))
            .mend(Mend::by_hand("publish to a branch of its own, such as gh-pages"));
        }
    }
}
