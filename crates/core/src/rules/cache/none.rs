//! Packages that are downloaded anew by every run.

use crate::case::{Case, at};
use crate::effects::{Effect, UsedAction};
use crate::facts::lockfiles;
use crate::finding::{Findings, Severity};
use crate::model::Work;
use crate::pen::{self, Ask};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "cache.none",
    severity: Severity::Advice,
    title: "Packages are downloaded anew by every run",
    why: "The step that sets up the runtime can keep the manager's downloads from run to run. For a site with the usual packages \
          that saves some ten to sixty seconds each time.",
    needs: &[Need::Files],
    bad: &[r"
== files
package-lock.json
== steps
      - uses: actions/checkout@v5
      - uses: «actions/setup-node@v4»
        with:
          node-version: 22
      - run: ‹npm ci›
"],
    good: &[
        r"
== files
package-lock.json
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v4
        with: {node-version: 22, cache: npm}
      - run: npm ci
",
        r#"
== files
package-lock.json
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v4
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
        let caches =
            case.effects.of_job(job).any(|(_, effect)| matches!(effect.effect, Effect::RestoreCache { .. } | Effect::Unknown(_)));
        if caches {
            continue;
        }
        let install = case.effects.of_job(job).find_map(|(step, effect)| match &effect.effect {
            Effect::Install { manager, dir: Some(dir), .. } if dir.is_empty() => Some((step, effect, manager)),
            _ => None,
        });
        let Some((step, install, manager)) = install else { continue };
        let set_up =
            case.effects.of_job(job).filter(|(number, _)| *number < step).find_map(|(number, effect)| match &effect.effect {
                Effect::SetUp { tool, cache: None, .. } if tool == "node" => Some((number, effect)),
                _ => None,
            });
        let Some((number, set_up)) = set_up else { continue };
        let has_lockfile = lockfiles(case.facts, "").iter().any(|(id, _)| id == manager);
        // A manager that package.json names is cached without being asked to.
        let named = case.facts.packages.get("").is_some_and(|package| package.manager.is_some());
        let Work::Uses { action, inputs, .. } = &of_job.steps[number].work else { continue };
        let too_old = UsedAction::of(&action.value)
            .is_some_and(|used| used.action().is_some_and(|known| known.is_too_old_for("cache", used.version)));
        if !has_lockfile || named || inputs.open || too_old {
            continue;
        }
        let finding = out.add(set_up.at, format!("every run downloads all packages anew: {manager}'s downloads are not cached"));
        finding.witness(at(install.at), "they are installed here");
        let beside = inputs.entries.first().map(|(_, value)| value);
        finding.mend(pen::write(case, &Ask::CacheDownloads { manager, beside }));
    }
}
