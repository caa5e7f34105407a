//! A cache whose key is never the same twice.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

use super::{parts_of, restored};

pub const RULE: Rule = Rule {
    id: "cache.restless-key",
    severity: Severity::Warning,
    title: "A cache is never found again",
    why: "With the commit or the run's number in its key, a cache is saved every time and never found: each run packs it up for \
          nothing. A fallback, the beginning of the key, would find the one before.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: «npm-${{ github.sha }}»
"],
    good: &[
        r"
== steps
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: 'npm-${{ github.sha }}', restore-keys: npm-}
      - uses: actions/cache@v4
        with: {path: x, key: 'x-${{ github.ref }}'}
",
        // Another job of the same run brings it back.
        r"
== jobs
  a:
    runs-on: x
    steps:
      - uses: actions/cache@v4
        with: {path: dist, key: 'site-${{ github.sha }}'}
  b:
    needs: a
    runs-on: x
    steps:
      - uses: actions/cache@v4
        with: {path: dist, key: 'site-${{ github.sha }}'}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let all = restored(case);
    for cache in &all {
        let shared = all.iter().filter(|other| other.key.value == cache.key.value).count() > 1;
        let Some(parts) = parts_of(cache.key).filter(|_| cache.fallback.is_none() && !shared) else { continue };
        let single = parts.iter().any(|part| matches!(part.as_str(), "github.sha" | "github.run_id" | "github.run_number"));
        let only_restores = crate::effects::UsedAction::of(case.sources.slice(cache.at.at))
            .is_some_and(|name| name.name.ends_with("/restore") || name.name.ends_with("/save"));
        if !single || only_restores {
            continue;
        }
        let beginning = cache.key.value.split("${{").next().unwrap_or_default().to_owned();
        let finding =
            out.add(cache.key.inner(), "this cache is saved by every run and found by none: its key is another one each time");
        finding.witness(WitnessSource::Catalog, "the commit and the run's number are never the same twice");
        let title = format!("add restore-keys: {beginning}");
        finding.mend(match crate::pen::line_after(case, cache.key, &format!("restore-keys: {beginning}")) {
            Some(edit) if !beginning.is_empty() => Mend::certain(title, [edit]),
            _ => Mend::by_hand("add restore-keys with the beginning of the key, or put the lockfile's hash into it"),
        });
    }
}
