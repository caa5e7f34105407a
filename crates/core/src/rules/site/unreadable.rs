//! A file that facts should come from, and that cannot be read.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::model::whole_file;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.unreadable",
    severity: Severity::Advice,
    title: "A file that the pipeline is held against cannot be read",
    why: "Dulk holds the pipeline against package.json and the site's configuration. While one of them cannot be read, faults \
          that it would show stay unseen. Where it is package.json, the pipeline's own install will stop at it too.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"scripts": {"build": «»}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"#,
        r#"
== package.json
{"scripts": {"build": «»}}
== gitlab
build:
  script:
    - npm run build
"#,
    ],
    good: &[
        r#"
== package.json
{"scripts": {"build": "vite build"}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"#,
        r#"
== package.json
{"scripts": {"build": "vite build"}}
== gitlab
build:
  script:
    - npm run build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for broken in case.facts.broken.iter().filter(|broken| is_used(case, &broken.path)) {
        let at = broken.at.unwrap_or_else(|| whole_file(case.pipeline.file));
        out.add(at, format!("{} cannot be read, so nothing is known from it", broken.path))
            .witness(WitnessSource::Catalog, broken.reason.clone())
            .mend(Mend::by_hand(format!("mend {}", broken.path)));
    }
}

/// The root's package.json, or that of a folder in which a step works. Others may be meant to be broken, such as test data.
fn is_used(case: &Case<'_>, path: &str) -> bool {
    let Some(dir) = path.strip_suffix("package.json") else { return false };
    let dir = dir.trim_end_matches('/');
    let mut steps = case.pipeline.jobs.iter().flat_map(|job| &job.steps);
    dir.is_empty()
        || steps
            .any(|step| step.directory.as_ref().is_some_and(|text| crate::effects::normal(&text.value).as_deref() == Some(dir)))
}
