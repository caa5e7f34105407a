//! Two hand-overs under one name.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::model::Text;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "artifact.clash",
    severity: Severity::Error,
    title: "Two hand-overs use one name",
    why: "Within a run, a name can be used once. The second hand-over of the name fails, and with a matrix that is every leg but \
          one.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix:
        ‹node: [20, 22]›
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: «site», path: dist}
"],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix:
        node: [20, 22]
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: 'site-${{ matrix.node }}', path: dist}
      - uses: actions/upload-artifact@v4
        if: matrix.node == 22
        with: {name: site, path: dist}
",
        r"
== jobs
  build:
    if: github.ref == 'refs/heads/x'
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-artifact@v4
        with: {name: site, path: one}
  publish:
    if: github.ref != 'refs/heads/x'
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-artifact@v4
        with: {name: site, path: two}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut seen: HashMap<&str, (usize, Place)> = HashMap::new();
    for (index, step, effect) in case.all_effects() {
        let Effect::Upload { name, exclusive: true, .. } = &effect.effect else { continue };
        let job = &case.pipeline.jobs[index];
        if job.steps[step].when.is_some() || effect.perhaps {
            continue;
        }
        let Some(known) = name.known() else {
            if let Some(given) = &name.given {
                two_legs(case, index, given, out);
            }
            continue;
        };
        let place = name.given.as_ref().map_or(effect.at, |text| text.inner());
        let legs = job.matrix.as_ref().filter(|matrix| matrix.legs.is_some_and(|legs| legs > 1));
        if let Some(matrix) = legs {
            out.add(place, format!("each leg of the matrix hands on `{known}`, and all but the first fail"))
                .witness(at(matrix.at), format!("this makes {} legs", matrix.legs.unwrap_or_default()))
                .mend(Mend::by_hand("put the leg into the name, or let one leg do it by a condition"));
            continue;
        }
        if let Some((other, first)) = seen.get(known) {
            // Jobs with conditions may exclude each other.
            if job.when.cond.is_none() && case.pipeline.jobs[*other].when.cond.is_none() {
                out.add(place, format!("`{known}` is handed on a second time in the same run, and that fails"))
                    .witness(at(*first), "the name is used here first")
                    .mend(Mend::by_hand("give one of the two another name"));
            }
            continue;
        }
        seen.insert(known, (index, place));
    }
}

/// A name that two legs of the matrix have in common.
fn alike_on_legs(case: &Case<'_>, job: usize, given: &Text) -> Option<String> {
    let names = case.on_each_leg(job, given)?;
    names.iter().enumerate().find(|(index, name)| names[..*index].contains(name)).map(|(_, name)| name.clone())
}

fn two_legs(case: &Case<'_>, job: usize, given: &Text, out: &mut Findings) {
    let Some((matrix, name)) = case.pipeline.jobs[job].matrix.as_ref().zip(alike_on_legs(case, job, given)) else { return };
    out.add(given.inner(), format!("more than one leg of the matrix hands on `{name}`, and all but the first fail"))
        .witness(at(matrix.at), "what tells them apart is not in the name")
        .mend(Mend::by_hand("put into the name what tells these legs apart, or let one of them do it by a condition"));
}
