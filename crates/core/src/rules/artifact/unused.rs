//! A built site that is handed on and never fetched, while another job publishes.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;
use crate::trail::Standing;

pub const RULE: Rule = Rule {
    id: "artifact.unused",
    severity: Severity::Error,
    title: "The built site is handed on, and the publish does not fetch it",
    why: "Each job starts with an empty workspace. What another job handed on is there only after it was fetched; without that, \
          the publish finds no folder, or an old one.",
    needs: &[],
    bad: &[
        r"
== files
index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: ‹site›, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx gh-pages -d «dist»
",
        r"
== files
index.html
== gitlab
build:
  stage: build
  script:
    - npx vite build
  artifacts:
    paths: [‹dist›]
publish:
  stage: deploy
  needs:
    - job: build
      artifacts: false
  script:
    - npx gh-pages -d «dist»
",
    ],
    good: &[
        r"
== files
index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: site, path: dist}
      - run: npx gh-pages -d dist -r $ADDRESS
",
        // People may want to look at it.
        r"
== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
      - run: npx gh-pages -d dist -r $ADDRESS
",
        r"
== files
index.html
== gitlab
build:
  stage: build
  script:
    - npx vite build
  artifacts:
    paths: [dist]
publish:
  stage: deploy
  needs: [build]
  script:
    - npx gh-pages -d dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // By job: what was handed on before it, where it fetches nothing itself.
    let mut before = HashMap::new();
    for handover in case.trail.handovers.iter().filter(|handover| handover.publishes && handover.standing == Standing::Never) {
        if !handover.built.is_empty() || handover.removed.is_some() {
            continue;
        }
        let unfetched = |job: usize| case.effects.of_job(job).all(|(_, effect)| effect.effect.takes().is_none());
        let found = before
            .entry(handover.job)
            .or_insert_with(|| unfetched(handover.job).then(|| handed_on_before(case, handover.job)).flatten());
        let Some(found) = *found else { continue };
        let (name, place, job) = found;
        let folder = &handover.path.written;
        out.add(
            handover.path.at,
            format!(
                "`{folder}` is not there: `{}` never fetches what `{}` handed on",
                case.job_name(handover.job),
                case.job_name(job)
            ),
        )
        .witness(at(place), format!("`{}` hands the site on as `{name}` here", case.job_name(job)))
        .mend(Mend::by_hand(format!("fetch the artifact `{name}` into `{folder}` before this step")));
    }
}

pub(super) fn handed_on_before<'c>(case: &'c Case<'_>, job: usize) -> Option<(&'c str, crate::text::Place, usize)> {
    case.pipeline.upstream(job).into_iter().find_map(|other| {
        case.effects.of_job(other).find_map(|(_, effect)| match &effect.effect {
            Effect::Upload { name, .. } => Some((name.known()?, name.given.as_ref().map_or(effect.at, |text| text.at), other)),
            _ => None,
        })
    })
}
