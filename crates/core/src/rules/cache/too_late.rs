//! A cache of packages that is brought back after they were installed.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

use super::{holds_packages, restored};

pub const RULE: Rule = Rule {
    id: "cache.too-late",
    severity: Severity::Warning,
    title: "The cache is brought back after the installation",
    why: "A cache saves time when it is there before the packages are installed. Afterwards it saves nothing, and may lay old \
          files over new ones.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/checkout@v5
      - run: ‹npm ci›
      - uses: «actions/cache@v4»
        with: {path: ~/.npm, key: x}
"],
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
    for cache in restored(case).into_iter().filter(|cache| holds_packages(cache.paths)) {
        let installs = |(step, effect): &(usize, &crate::effects::EffectAt)| {
            matches!(effect.effect, Effect::Install { .. }) && *step != cache.step
        };
        let mut before = case.effects.of_job(cache.job).filter(|(step, _)| *step < cache.step).filter(installs);
        let after = case.effects.of_job(cache.job).filter(|(step, _)| *step > cache.step).any(|pair| installs(&pair));
        if let (Some((_, install)), false) = (before.next(), after) {
            out.add(cache.at.at, "this cache comes after the packages are installed, and saves nothing")
                .witness(at(install.at), "they are installed here")
                .mend(Mend::by_hand("move the cache before the installation"));
        }
    }
}
