//! One folder cached twice.

use crate::case::{Case, at};
use crate::effects::{Effect, UploadPath};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
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
    good: &[r#"
== steps
      - uses: actions/setup-node@v5
        with: {cache: npm}
      - uses: actions/cache@v4
        with: {path: .astro, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "npm-${{ hashFiles('package-lock.json') }}"}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case) {
        for (_, effect) in case.effects.of_job(cache.job) {
            let Effect::SetUp { cache: Some(own), .. } = &effect.effect else { continue };
            let stores = own.known().and_then(|manager| knowledge::managers().stores.get(manager));
            let is_store = |path: &&UploadPath| {
                stores.is_some_and(|stores| stores.iter().any(|store| store == path.written.trim_end_matches('/')))
            };
            if let Some(path) = cache.paths.iter().find(is_store) {
                out.add(path.at, format!("`{}` is cached already by the step that sets up the runtime", path.written))
                    .witness(at(own.at), format!("this caches the downloads of {}", own.value))
                    .mend(Mend::by_hand("remove one of the two"));
            }
        }
    }
}
