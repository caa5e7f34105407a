//! An artifact that is taken and that no job makes at all.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;
use crate::rules::order::may_hand_on;

pub const RULE: Rule = Rule {
    id: "artifact.never-made",
    severity: Severity::Error,
    title: "An artifact is taken that no job hands on",
    why: "Jobs share no folder: what one builds reaches another only when it is handed on and fetched. Without a hand-over there \
          is nothing to fetch, and the step fails.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: «actions/deploy-pages@v4»
"],
    good: &[
        r"
== pipeline
on: push
permissions: {contents: read, pages: write, id-token: write}
concurrency: pages
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-pages-artifact@v4
        with: {path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    environment: github-pages
    steps:
      - uses: actions/deploy-pages@v4
",
        r"
== pipeline
on: push
permissions: {contents: read, pages: write, id-token: write}
concurrency: pages
jobs:
  build:
    uses: ferry/tools/.github/workflows/build.yml@v1
  publish:
    needs: build
    runs-on: ubuntu-latest
    environment: github-pages
    steps:
      - uses: actions/deploy-pages@v4
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let uploads = case.all_effects().any(|(_, _, effect)| matches!(effect.effect, Effect::Upload { .. }));
    if uploads || !case.pipeline.stands_alone() || (0..case.pipeline.jobs.len()).any(|job| may_hand_on(case, job)) {
        return;
    }
    for (job, _, effect) in case.all_effects() {
        let Some((name, false)) = effect.effect.takes() else { continue };
        let Some(wanted) = name.known() else { continue };
        let place = name.given.as_ref().map_or(effect.at, |text| text.inner());
        let before = case
            .pipeline
            .upstream(job)
            .first()
            .map_or("a job before it".to_owned(), |other| format!("`{}`", case.job_name(*other)));
        out.add(place, format!("`{}` fails here: no job hands on an artifact named `{wanted}`", case.job_name(job)))
            .witness(WitnessSource::Catalog, "jobs share no folder: what one builds has to be handed on")
            .mend(Mend::by_hand(format!("hand the built folder on in {before}, under the name `{wanted}`")));
    }
}
