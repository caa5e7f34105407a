//! A pipeline that waits for another one which does not exist.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::{self, Among, Meant};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.absent-upstream",
    severity: Severity::Error,
    title: "The pipeline follows one that does not exist",
    why: "A pipeline that starts after another names it by its title, letter for letter. When no file of the repository has that \
          title, it never starts; renaming the first one is enough.",
    needs: &[],
    bad: &[r"
== .github/workflows/build.yml
name: Build the site
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
== pipeline
name: Publish
on:
  workflow_run:
    workflows: ['«Build site»']
    types: [completed]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[
        r"
== .github/workflows/build.yml
name: Build
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
== .github/workflows/test.yml
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
== pipeline
on:
  workflow_run:
    workflows: [Build, .github/workflows/test.yml]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        // A file that cannot be read may have the title.
        r"
== .github/workflows/build.yml
name: Build
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Build]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let project = case.project;
    if case.pipeline.triggers.iter().all(|trigger| trigger.after.is_empty()) {
        return;
    }
    if project.prepared.iter().any(|prepared| !prepared.whole) {
        return;
    }
    let format = case.pipeline.format.id();
    let others = (0..project.prepared.len()).filter(|other| project.prepared[*other].pipeline.format.id() == format);
    let titles: Vec<&str> = others.filter(|other| *other != case.index).map(|other| project.title(other)).collect();
    for name in case.pipeline.triggers.iter().flat_map(|trigger| &trigger.after) {
        let Some(written) = name.known().filter(|written| !titles.contains(written) && *written != project.title(case.index))
        else {
            continue;
        };
        let by_file = (0..project.prepared.len()).find(|other| project.path(*other).rsplit('/').next() == Some(written));
        let meant = by_file.map(|other| Meant::surely(project.title(other)));
        let meant = meant.or_else(|| knowledge::near(written, titles.iter().copied(), Among::Whole));
        let finding = out.add(name.inner(), format!("no pipeline here is called `{written}`, so its end starts nothing"));
        finding.witness(
            WitnessSource::Files,
            match titles.len() {
                0 => "there is no other pipeline file here".to_owned(),
                1 => format!("the only other pipeline here is called {}", titles[0]),
                _ => format!("the others are called {}", listed_short(&titles)),
            },
        );
        let only = if titles.len() == 1 { titles.first().copied() } else { None };
        finding.mend(match (meant, only) {
            (Some(meant), _) => Mend::name(&meant, name.inner()),
            (None, Some(only)) => Mend::likely(format!("write {only}"), [Edit::replace(name.inner(), only)]),
            _ => Mend::by_hand("write the title of the pipeline that it should follow"),
        });
    }
}
