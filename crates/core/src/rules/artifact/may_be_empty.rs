//! A hand-over that is green when there is nothing to hand on.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.may-be-empty",
    severity: Severity::Warning,
    title: "An empty hand-over is passed over",
    why: "When nothing matches, this step is told to go on without a word. The job that publishes then fails far away from the \
          cause, or puts nothing online.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ./make
      - uses: actions/upload-artifact@v4
        with:
          name: site
          path: dist
          if-no-files-found: «ignore»
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/download-artifact@v5›
        with: {name: site}
"],
    good: &[
        r"
== steps
      - uses: actions/upload-artifact@v4
        with: {name: report, path: report, if-no-files-found: ignore}
",
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist, if-no-files-found: error}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: site}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (_, _, effect) in case.all_effects() {
        let Effect::Upload { name, passes_over_nothing: Some(ignore), .. } = &effect.effect else { continue };
        let taken = case.all_effects().find(|(_, _, other)| {
            other
                .effect
                .takes()
                .is_some_and(|(wanted, elsewhere)| !elsewhere && wanted.known().is_some() && wanted.known() == name.known())
        });
        if let Some((other, _, taken)) = taken {
            out.add(
                ignore.inner(),
                format!("when nothing is built, this is green all the same, and `{}` finds nothing", case.job_name(other)),
            )
            .witness(at(taken.at), "it is taken here")
            .mend(Mend::likely("write error", [Edit::replace(ignore.inner(), "error")]));
        }
    }
}
