//! Hand-over and fetch of generations that do not see each other.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge::major;
use crate::model::Text;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.mixed-generations",
    severity: Severity::Error,
    title: "An artifact is handed on and fetched by generations that do not see each other",
    why: "The store of artifacts was replaced: what one generation hands on, another does not find. The fetch fails although the \
          name is right.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/upload-pages-artifact@v2›
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
      - uses: actions/upload-pages-artifact@v3
        with: {path: site}
      - uses: actions/upload-artifact@v4
        with: {path: notes}
  publish:
    needs: build
    runs-on: ubuntu-latest
    environment: github-pages
    steps:
      - uses: actions/deploy-pages@v4
      - uses: actions/download-artifact@v5
",
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@1e31de5234b9f8995739874a8ce0492dc87873e2
        with: {path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut hands: Vec<(&Text, &str, bool)> = Vec::new();
    for (used, known) in case.known_uses() {
        let action = used.written;
        let Some(generation) = &known.generation else { continue };
        let Some(version) = used.version.and_then(major) else { continue };
        let new = version >= generation.new_from;
        if !generation.takes {
            hands.push((action, generation.store, new));
            continue;
        }
        let Some((other, ..)) = hands.iter().find(|(_, store, other)| *store == generation.store && *other != new) else {
            continue;
        };
        if hands.iter().any(|(_, store, other)| *store == generation.store && *other == new) {
            continue;
        }
        out.add(
            action.inner(),
            format!("this does not find what `{}` hands on: they belong to different generations of the store", other.value),
        )
        .witness(at(other.inner()), "it is handed on here")
        .mend(Mend::by_hand("use the newest version of both"));
    }
}
