//! An artifact that is taken under a name nobody gave it.

use std::collections::HashSet;

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, listed};
use crate::knowledge::{Among, Meant, near};
use crate::rules::{Rule, order::may_hand_on};

pub const RULE: Rule = Rule {
    id: "artifact.misnamed",
    severity: Severity::Error,
    title: "An artifact is taken under a name nobody gave it",
    why: "What one job hands on is found by its exact name. Under another name there is nothing: the job that should publish the \
          site fails.",
    needs: &[],
    bad: &[r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: ‹timetable›, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: «timetables», path: dist}
"],
    good: &[
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v4
        with: {path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: artifact}
",
        // One of the names is only known when it runs.
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: 'site-${{ github.sha }}', path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: site}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // A caller's jobs hand on into the same run.
    if !case.pipeline.stands_alone() || (0..case.pipeline.jobs.len()).any(|job| may_hand_on(case, job)) {
        return;
    }
    let uploads: Vec<_> = case
        .all_effects()
        .filter_map(|(_, _, effect)| match &effect.effect {
            Effect::Upload { name, .. } => Some((name, effect.at)),
            _ => None,
        })
        .collect();
    if uploads.is_empty() || uploads.iter().any(|(name, _)| name.known().is_none()) {
        return;
    }
    let names: Vec<&str> = uploads.iter().filter_map(|(name, _)| name.known()).collect();
    let handed_on: HashSet<&str> = names.iter().copied().collect();
    for (job, _, effect) in case.all_effects() {
        let Some((name, false)) = effect.effect.takes() else { continue };
        let Some(wanted) = name.known().filter(|wanted| !handed_on.contains(wanted)) else { continue };
        let place = name.given.as_ref().map_or(effect.at, |text| text.inner());
        let finding =
            out.add(place, format!("`{}` fails here: no job hands on an artifact named `{wanted}`", case.job_name(job)));
        let meant = near(wanted, names.iter().copied(), Among::Whole).or_else(|| Meant::only_of(&names));
        let upload = uploads.iter().find(|(name, _)| meant.as_ref().is_none_or(|meant| name.known() == Some(&meant.word)));
        if let Some((upload, step)) = upload {
            let here = upload.given.as_ref().map_or(*step, |text| text.inner());
            finding.witness(at(here), format!("handed on is {}", listed(&names)));
        }
        finding.mend(match (meant, &name.given) {
            (Some(meant), Some(_)) => Mend::name(&meant, place),
            (Some(meant), None) => Mend::by_hand(format!("hand it on as `{wanted}` instead of `{}`", meant.word)),
            (None, _) => Mend::by_hand("write the name of the artifact that is meant"),
        });
    }
}
