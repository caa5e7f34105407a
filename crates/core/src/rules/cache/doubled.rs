//! One folder cached twice.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::{Effect, UploadPath};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::model::Text;
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
    let of_job = |job: usize| -> Vec<&Text> {
        let effects = case.effects.of_job(job).map(|(_, effect)| &effect.effect);
        effects
            .filter_map(|effect| match effect {
                Effect::SetUp { cache, .. } => cache.as_deref(),
                _ => None,
            })
            .collect()
    };
    let mut by_job: HashMap<usize, Vec<&Text>> = HashMap::new();
    for cache in restored(case) {
        for own in by_job.entry(cache.job).or_insert_with(|| of_job(cache.job)).iter().copied() {
            let stores = own.known().and_then(|manager| knowledge::managers().stores.get(manager));
            let is_store = |path: &&UploadPath| {
                stores.is_some_and(|stores| stores.iter().any(|store| *store == path.written.trim_end_matches('/')))
            };
            if let Some(path) = cache.paths.iter().find(is_store) {
                out.add(path.at, format!("`{}` is cached already by the step that sets up the runtime", path.written))
                    .witness(at(own.at), format!("this caches the downloads of {}", own.value))
                    .mend(Mend::by_hand("remove one of the two"));
            }
        }
    }
}
