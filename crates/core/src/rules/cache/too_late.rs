//! A cache of packages that is brought back after they were installed.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt, UploadPath, join};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;

use super::{Restored, holds_packages, restored};

pub const RULE: Rule = Rule {
    id: "cache.too-late",
    severity: Severity::Warning,
    title: "The cache is brought back after the installation",
    why: "A cache saves time when it is there before the packages are installed. Afterwards it saves nothing, and may lay old \
          files over new ones.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"dependencies": {"next": "16"}}
== steps
      - uses: actions/checkout@v5
      - run: ‹npx next build›
      - uses: «actions/cache@v4»
        with: {path: .next/cache, key: x}
"#,
        r"
== steps
      - uses: actions/checkout@v5
      - run: ‹npm ci›
      - uses: «actions/cache@v4»
        with: {path: ~/.npm, key: x}
",
    ],
    good: &[
        r#"
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
      - uses: actions/cache@v4
        with: {path: .vite, key: y}
"#,
        r"
== steps
      - uses: actions/checkout@v5
      - run: npm ci
      - uses: actions/cache/save@v4
        with: {path: ~/.npm, key: x}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut installs: HashMap<usize, Vec<(usize, &EffectAt)>> = HashMap::new();
    let mut builds: HashMap<usize, Vec<(usize, &EffectAt)>> = HashMap::new();
    for (job, step, effect) in case.all_effects() {
        match &effect.effect {
            Effect::Install { .. } => installs.entry(job).or_default().push((step, effect)),
            Effect::Build { .. } => builds.entry(job).or_default().push((step, effect)),
            _ => {}
        }
    }
    for cache in restored(case) {
        if holds_packages(cache.paths) {
            let installs = installs.get(&cache.job).map_or(&[][..], Vec::as_slice);
            after(&cache, installs, "packages are installed", "installation", out);
        } else {
            let of_job = builds.get(&cache.job).into_iter().flatten().copied();
            let builds: Vec<_> = of_job.filter(|(_, build)| builds_with(&build.effect, cache.paths)).collect();
            after(&cache, &builds, "site is built", "build", out);
        }
    }
}

/// What would use the cache comes only before it.
fn after(cache: &Restored<'_>, users: &[(usize, &EffectAt)], happens: &str, what: &str, out: &mut Findings) {
    let before = users.iter().find(|(step, _)| *step < cache.step);
    let Some((_, use_of_it)) = before.filter(|_| users.last().is_none_or(|(step, _)| *step <= cache.step)) else { return };
    out.add(cache.at.at, format!("this cache comes after the {happens}, and saves nothing"))
        .witness(at(use_of_it.at), "this happens before")
        .mend(Mend::by_hand(format!("move the cache before the {what}")));
}

/// Whether a build keeps one of the cached folders from one time to the next.
fn builds_with(effect: &Effect, paths: &[UploadPath]) -> bool {
    let Effect::Build { generator, dir, .. } = effect else { return false };
    let known = knowledge::generators().get(generator).map_or(&[][..], |known| known.caches);
    known.iter().filter_map(|cache| join(dir, cache)).any(|cache| paths.iter().any(|path| path.folder.as_deref() == Some(&cache)))
}
