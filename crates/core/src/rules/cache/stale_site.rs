//! A cached site that may go online instead of the new one.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::project::Read;
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.stale-site",
    severity: Severity::Warning,
    title: "The published folder is cached",
    why: "A cache brings back what an earlier run made. When the published folder is in it, pages that were deleted stay online, \
          and when a build is left out the old site is published as new.",
    needs: &[],
    bad: &[
        r"
== files
index.html
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: «dist», key: x}
      - run: ‹npx vite build›
      - run: npx gh-pages -d dist
",
        r"
== files
index.html
== gitlab
pages:
  cache:
    key: site
    paths: [«public»]
  script:
    - ‹npx vite build --outDir public›
  artifacts:
    paths: [public]
",
    ],
    good: &[
        r"
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: .vite, key: x}
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
",
        // Handed from job to job by the cache.
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/cache@v4
        with: {path: dist, key: 'site-${{ github.sha }}'}
      - run: npx vite build
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/cache@v4
        with: {path: dist, key: 'site-${{ github.sha }}'}
      - run: npx gh-pages -d dist -r $ADDRESS
",
        r"
== files
index.html
== gitlab
pages:
  cache:
    key: site
    paths: [.astro]
  script:
    - npx vite build --outDir public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case) {
        let single = cache
            .reads(case)
            .is_none_or(|reads| reads.iter().any(|read| matches!(read.read, Read::Run(fact) if fact.is_new_each_time())));
        if single {
            continue;
        }
        for path in cache.paths {
            let Some(folder) = path.folder.as_deref().filter(|folder| !folder.is_empty()) else { continue };
            let build = case
                .effects
                .of_job(cache.job)
                .find(|(_, effect)| matches!(&effect.effect, Effect::Build { output: Some(output), .. } if output == folder));
            let goes = case.trail.handed_on_by(cache.job).iter().any(|handover| handover.path.folder.as_deref() == Some(folder));
            if let (Some((_, build)), true) = (build, goes) {
                out.add(path.at, format!("`{}` is published, and a cache lays the last run's pages into it", path.written))
                    .witness(at(build.at), "the site is built into it here")
                    .mend(Mend::by_hand("leave the built folder out of the cache"));
            }
        }
    }
}
