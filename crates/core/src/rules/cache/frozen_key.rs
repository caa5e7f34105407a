//! A cache whose key never changes.

use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::project::{Read, RunFact};
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.frozen-key",
    severity: Severity::Warning,
    title: "A cache is never renewed",
    why: "A cache is saved once under its key and never written again. When the key stays the same whatever changes, the first \
          run's files are brought back for ever, and help less every week.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: «npm-packages»
"],
    good: &[
        r#"
== steps
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "${{ runner.os }}-${{ hashFiles('package-lock.json') }}"}
      - id: week
        run: echo "week=$(date +%V)" >> "$GITHUB_OUTPUT"
      - uses: actions/cache@v4
        with: {path: y, key: 'a-${{ steps.week.outputs.week }}'}
      - uses: actions/cache@v4
        with: {path: z, key: 'a-${{ env.VERSION }}'}
"#,
        // What never changes needs no other key: a browser or a tool of one version.
        r"
== steps
      - uses: actions/cache@v4
        with: {path: ~/.cache/tool, key: tool-1.2.3}
",
        // Here every run saves the cache anew.
        r"
== gitlab
site:
  cache:
    key: $CI_COMMIT_REF_SLUG
    paths: [.npm/]
  script:
    - npm ci --cache .npm
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.renews_caches {
        return;
    }
    for cache in restored(case).into_iter().filter(|cache| cache.hashes.is_empty() && cache.saves != Some(false)) {
        let (Some(key), Some(reads)) = (cache.key, cache.reads(case)) else { continue };
        let steady = reads.iter().all(|read| matches!(read.read, Read::Run(RunFact::Os | RunFact::Job)));
        // A version in the name is renewed by hand.
        let versioned =
            key.value.split(|c: char| !c.is_ascii_digit() && c != '.').any(|word| word.contains('.') && word.len() > 2);
        if steady && !versioned && (super::holds_packages(cache.paths) || super::holds_builds(cache.paths)) {
            out.add(key.inner(), "this cache is saved once and never renewed: its key stays the same for ever")
                .witness(WitnessSource::Catalog, "a cache is not written again while one of its key is there")
                .mend(pen::write(case, &Ask::KeyOfLockfile { file: super::lockfile_for(case, cache.paths) }));
        }
    }
}
