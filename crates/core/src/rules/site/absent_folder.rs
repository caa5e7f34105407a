//! A working directory that is not there.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::nearest;
use crate::rules::{Need, Rule};
use crate::text::Place;
use crate::trail::Standing;

pub const RULE: Rule = Rule {
    id: "site.absent-folder",
    severity: Severity::Error,
    title: "A step works in a folder that does not exist",
    why: "A step that is told to work in a folder fails at once when there is none of that name. Git tracks no empty folders, so \
          that one may be there on your machine only.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
site/index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
        working-directory: «stie»
",
        r"
== files
site/index.html
== steps
      - uses: actions/checkout@v5
      - run: |
          «cd stie»
          npm ci
",
        r"
== files
site/index.html
== gitlab
build:
  script:
    - «cd stie»
    - npm ci
",
        r"
== files
apps/quay/index.html
== amplify.yml
version: 1
applications:
  - appRoot: apps/quay
    frontend:
      phases:
        build:
          commands:
            - «cd apps/quay»
            - npm ci
      artifacts:
        baseDirectory: dist
        files: ['**/*']
",
        r"
== files
apps/quay/index.html
== amplify.yml
version: 1
applications:
  - appRoot: «apps/quai»
    frontend:
      phases:
        build:
          commands:
            - npm ci
",
    ],
    good: &[
        // Made before, left when it is not there, or named by what is only known when it runs.
        r"
== files
site/index.html
== gitlab
build:
  script:
    - cd site && cd ..
    - mkdir out && cd out
    - cd ../gone || true
    - if [ -d gone ]; then cd gone; fi
    - cd $QUAY
",
        r"
== files
site/index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: mkdir out
      - run: ls
        working-directory: ./out
      - run: ls
        working-directory: site
",
        r"
== files
site/index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ./make
      - run: ls
        working-directory: made
      - run: ls
        working-directory: /tmp
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    let mut spoken: Vec<Place> = Vec::new();
    for used in case.trail.folders.iter().filter(|used| used.standing == Standing::Never) {
        let directory = case.pipeline.jobs[used.job].steps[used.step].directory.as_deref().map(crate::model::Text::inner);
        let Some(place) = used.at.or(directory) else { continue };
        if !case.has_own_root(used.job, used.step) || spoken.contains(&place) {
            continue;
        }
        spoken.push(place);
        let mut folders: Vec<&str> = files.iter().filter_map(|path| path.rsplit_once('/').map(|(dir, _)| dir)).collect();
        folders.sort_unstable();
        folders.dedup();
        let finding = out.add(place, format!("`{}` fails here: there is no folder `{}`", case.job_name(used.job), used.path));
        finding.witness(
            WitnessSource::Files,
            if folders.is_empty() {
                "git tracks no folders".to_owned()
            } else {
                format!("the folders here are {}", listed_short(&folders))
            },
        );
        finding.mend(match nearest(&used.path, folders.iter().copied()) {
            Some(near) if used.at.is_none() => Mend::likely(format!("write {near}"), [Edit::replace(place, near)]),
            Some(near) => Mend::by_hand(format!("go into {near}")),
            None => Mend::by_hand("write a folder that git tracks, or make it in a step before"),
        });
    }
}
