//! The artifacts of a pipeline by their names.

use std::collections::HashMap;

use crate::case::Case;
use crate::effects::{Effect, EffectAt};

/// What is handed on.
#[derive(Default)]
pub(super) struct Made<'c> {
    /// By name: the job and the step.
    pub by_name: HashMap<&'c str, Vec<(usize, usize, &'c EffectAt)>>,
    /// Jobs that hand something on under a name which is not known.
    pub of_any_name: Vec<usize>,
}

impl<'c> Made<'c> {
    /// Looks through all jobs.
    pub fn of(case: &'c Case<'_>) -> Self {
        let mut made = Self::default();
        for (job, step, effect) in case.all_effects() {
            let Effect::Upload { name, .. } = &effect.effect else { continue };
            match name.known() {
                Some(name) => made.by_name.entry(name).or_default().push((job, step, effect)),
                None if made.of_any_name.last() != Some(&job) => made.of_any_name.push(job),
                None => {}
            }
        }
        // Jobs of two numbers tell all that is asked.
        made.of_any_name.truncate(2);
        made
    }
}
