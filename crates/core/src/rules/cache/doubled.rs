//! One folder cached twice.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.doubled",
    severity: Severity::Advice,
    title: "The same downloads are cached twice",
    why: "The step that sets up the runtime caches the manager's downloads already. A second cache of the same folder takes the \
          same time again, and fills the store.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/setup-node@v5
        with: {cache: ‹npm›}
      - uses: actions/cache@v4
        with: {path: «~/.npm», key: x}
      - run: npm ci
"],
    good: &[r"
== steps
      - uses: actions/setup-node@v5
        with: {cache: npm}
      - uses: actions/cache@v4
        with: {path: .astro, key: x}
      - uses: actions/cache@v4
        with: {path: node_modules, key: x}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    const STORES: [(&str, &[&str]); 4] = [
        ("npm", &["~/.npm"]),
        ("yarn", &["~/.cache/yarn", "~/.yarn"]),
        ("pnpm", &["~/.pnpm-store", "~/.local/share/pnpm/store"]),
        ("pip", &["~/.cache/pip"]),
    ];
    for cache in restored(case) {
        for (_, effect) in case.effects.of_job(cache.job) {
            let Effect::SetUp { cache: Some(own), .. } = &effect.effect else { continue };
            let stores =
                STORES.iter().find(|(manager, _)| own.known() == Some(manager)).map(|(_, stores)| *stores).unwrap_or_default();
            if let Some(path) = cache.paths.iter().find(|path| stores.contains(&path.written.trim_end_matches('/'))) {
                out.add(path.at, format!("`{}` is cached already by the step that sets up the runtime", path.written))
                    .witness(at(own.at), format!("this caches the downloads of {}", own.value))
                    .mend(Mend::by_hand("remove one of the two"));
            }
        }
    }
}
