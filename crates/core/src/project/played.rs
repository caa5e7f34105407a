//! Events played against pipelines that start each other.

use super::Project;
use super::universe::Universe;
use crate::model::Event;
use crate::rehearsal::{self, Answer, Occasion, OccasionKind, Rehearsal, Verdict};

/// What came out for one group: every event of its universe, with a rehearsal of each of its pipelines.
pub(super) struct Played {
    pub of: Vec<(Occasion, Vec<Rehearsal>)>,
    pub names_only: bool,
}

/// Chains of pipelines that start each other are followed this far.
const CHAIN: usize = 3;

impl Project<'_> {
    pub(super) fn play_group(&self, members: &[usize]) -> Played {
        let Universe { occasions, names_only } = Universe::of(self, members);
        let of = occasions.into_iter().map(|occasion| {
            let played = self.rehearse_all(members, &occasion);
            (occasion, played)
        });
        Played { of: of.collect(), names_only }
    }

    /// Plays an event against one pipeline by itself.
    pub fn rehearse_one(&self, index: usize, occasion: &Occasion) -> Rehearsal {
        rehearsal::rehearse(&self.prepared[index].pipeline, occasion, self.facts)
    }

    /// Plays an event against all pipelines, those that others start or call included.
    pub fn rehearse(&self, occasion: &Occasion) -> Vec<Rehearsal> {
        let all: Vec<usize> = (0..self.prepared.len()).collect();
        self.rehearse_all(&all, occasion)
    }

    /// The same for some, which must hold all that start them.
    fn rehearse_all(&self, members: &[usize], occasion: &Occasion) -> Vec<Rehearsal> {
        let mut played: Vec<Rehearsal> = members.iter().map(|index| self.rehearse_one(*index, occasion)).collect();
        if members.len() == 1 {
            return played;
        }
        for _ in 0..CHAIN {
            let mut changed = false;
            for (place, index) in members.iter().enumerate() {
                if played[place].starts.answer == Answer::Yes {
                    continue;
                }
                let follows = self.follows(*index, members, &played);
                let Some((starts, trigger)) = follows.filter(|(starts, _)| starts.answer > played[place].starts.answer) else {
                    continue;
                };
                let inner = if trigger.is_some() { self.after(occasion) } else { occasion.clone() };
                played[place] = rehearsal::play(&self.prepared[*index].pipeline, &inner, self.facts, starts, trigger);
                changed = true;
            }
            if !changed {
                break;
            }
        }
        played
    }

    /// What a pipeline that follows another one sees: it runs on the default branch.
    fn after(&self, occasion: &Occasion) -> Occasion {
        let default = self.facts.git.default_branch.known().cloned();
        Occasion { kind: OccasionKind::After, name: default, changed: None, ..occasion.clone() }
    }

    /// Whether a pipeline starts because another one ran or calls it; with the trigger that says so, when it is one.
    fn follows(&self, index: usize, members: &[usize], played: &[Rehearsal]) -> Option<(Verdict, Option<usize>)> {
        let pipeline = &self.prepared[index].pipeline;
        let of = |other: usize| members.binary_search(&other).ok().map(|place| &played[place]);
        let mut best: Option<(Verdict, Option<usize>)> = None;
        let mut offer = |verdict: Verdict, trigger| {
            if best.as_ref().is_none_or(|(known, _)| verdict.answer > known.answer) {
                best = Some((verdict, trigger));
            }
        };
        for (number, others) in self.index.follows(index) {
            let trigger = &pipeline.triggers[*number];
            for other in others {
                let Some(outcome) = of(*other).filter(|outcome| outcome.starts.answer > Answer::No) else { continue };
                let answer = if trigger.filters.is_empty() { outcome.starts.answer } else { Answer::Unsure };
                offer(Verdict::new(answer, format!("it follows {}", self.title(*other)), Some(trigger.at)), Some(*number));
            }
        }
        if pipeline.triggers.iter().any(|trigger| trigger.event == Event::Called) {
            for (other, job) in self.index.callers(index) {
                let Some(verdict) = of(*other).and_then(|outcome| outcome.jobs.get(*job)) else { continue };
                if verdict.answer > Answer::No {
                    let id = &self.prepared[*other].pipeline.jobs[*job].id;
                    let because = format!("`{}` of {} calls it", id.value, self.path(*other));
                    offer(Verdict::new(verdict.answer, because, Some(id.at)), None);
                }
            }
        }
        best
    }
}
