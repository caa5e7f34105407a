//! What the steps of a way need beside the site's files.

use std::collections::HashMap;

use super::{Need, NeedKind};
use crate::case::Case;
use crate::effects::{Effect, StepEffects};

/// What a job and its steps need, each thing once.
pub(super) struct Needs {
    /// Secrets that all its steps are given.
    pub of_job: Vec<Need>,
    by_step: HashMap<usize, Vec<Need>>,
}

impl Needs {
    /// Of one job: caches, secrets, permissions.
    pub fn of(case: &Case<'_>, job: usize) -> Self {
        let mut needs = Self { of_job: Vec::new(), by_step: HashMap::new() };
        for (step, effects) in case.effects.jobs[job].iter().enumerate() {
            let found = caches(effects).into_iter().map(|name| Need { kind: NeedKind::Cache, name });
            found.for_each(|need| needs.add(Some(step), need));
        }
        for read in case.secrets().filter(|read| read.job == Some(job)) {
            needs.add(read.step, Need { kind: NeedKind::Secret, name: read.name.clone() });
        }
        for name in case.credentials_of(job) {
            needs.add(None, Need { kind: NeedKind::Secret, name: name.value.clone() });
        }
        for (step, effects) in case.effects.jobs[job].iter().enumerate() {
            for grant in effects.grants.iter().filter(|grant| !grant.visible_anyway) {
                let name = format!("{}: {}", grant.scope, grant.level.word());
                needs.add(Some(step), Need { kind: NeedKind::Permission, name });
            }
        }
        needs
    }

    /// What one step needs; it is asked for once.
    pub fn take_of_step(&mut self, step: usize) -> Vec<Need> {
        self.by_step.remove(&step).unwrap_or_default()
    }

    fn add(&mut self, step: Option<usize>, need: Need) {
        let own = match step {
            Some(step) => self.by_step.entry(step).or_default(),
            None => &mut self.of_job,
        };
        if !own.contains(&need) {
            own.push(need);
        }
    }
}

/// The words by which people tell a step's caches apart: the manager whose downloads are kept, the key or the files that it is made of, or
/// else what is kept.
fn caches(effects: &StepEffects) -> Vec<String> {
    let listed = |names: Vec<&str>| Some(names.join(", ")).filter(|names| !names.is_empty());
    let of = |effect: &Effect| match effect {
        Effect::SetUp { cache: Some(cache), .. } => Some(cache.value.clone()),
        Effect::RestoreCache { key: Some(key), .. } => Some(key.value.clone()),
        Effect::RestoreCache { hashes, paths, .. } => {
            let files = hashes.iter().flat_map(|hash| hash.patterns.iter().flatten()).map(String::as_str).collect();
            let kept = || listed(paths.iter().map(|path| path.written.as_str()).collect());
            Some(listed(files).or_else(kept).unwrap_or_else(|| "without a name".to_owned()))
        }
        _ => None,
    };
    effects.effects.iter().filter_map(|one| of(&one.effect)).collect()
}
