//! Events played against pipelines that start each other.

use std::collections::HashMap;
use std::collections::hash_map::Entry;
use std::sync::{Arc, Mutex, PoisonError};

use super::universe::Universe;
use super::{Outcomes, Project};
use crate::model::{Event, FilterOf, Trigger};
use crate::rehearsal::{self, Answer, Followed, Occasion, OccasionKind, Rehearsal, Verdict, possible};

/// What came out for one group: every event of its universe, with a rehearsal of each of its pipelines.
pub(super) struct Played {
    pub of: Vec<(Occasion, Vec<Arc<Rehearsal>>)>,
    pub names_only: bool,
}

/// What events come to in one pipeline that starts others, so that it is played once for all of them.
#[derive(Default)]
pub(super) struct InTurn(Mutex<HashMap<Occasion, Arc<Rehearsal>>>);

impl InTurn {
    fn get(&self, occasion: &Occasion) -> Option<Arc<Rehearsal>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).get(occasion).cloned()
    }

    fn keep(&self, occasion: &Occasion, played: &Arc<Rehearsal>) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).insert(occasion.clone(), played.clone());
    }
}

/// A pipeline that more than this start is nobody's, and what comes of it is not played one by one.
const STARTER_LIMIT: usize = 60;
/// More events are no honest filter.
const OCCASION_LIMIT: usize = 200;
/// Chains of pipelines that start each other are followed this far.
const CHAIN: usize = 3;

impl Project<'_> {
    pub(super) fn play_group(&self, members: &[usize]) -> Played {
        let Universe { occasions, names_only } = Universe::of(self, members);
        let of = occasions.into_iter().map(|occasion| {
            let played = self.rehearse_all(members, &occasion).into_iter().map(Arc::new).collect();
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
                let others = |other: usize| members.binary_search(&other).ok().map(|place| &played[place]);
                let known = played[place].starts.answer;
                let Some(brought_about) = self.brought_about(*index, known, others, occasion) else { continue };
                played[place] = brought_about;
                changed = true;
            }
            if !changed {
                break;
            }
        }
        played
    }

    /// A pipeline as others bring it about, when that is better known than how it starts by itself.
    fn brought_about<'r>(
        &self,
        index: usize,
        by_itself: Answer,
        others: impl Fn(usize) -> Option<&'r Rehearsal>,
        occasion: &Occasion,
    ) -> Option<Rehearsal> {
        let Following { starts, how } = self.follows(index, others, occasion)?;
        if starts.answer <= by_itself {
            return None;
        }
        let pipeline = &self.prepared[index].pipeline;
        Some(match how {
            How::Follows(trigger, followed) => {
                rehearsal::play(pipeline, &self.after(occasion, followed), self.facts, starts, Some(trigger))
            }
            How::Called(caller, job) => {
                let call = self.prepared[caller].pipeline.jobs[job].call.as_ref();
                let filled = call.and_then(|call| self.with_given(call));
                rehearsal::play(filled.as_ref().unwrap_or(pipeline), occasion, self.facts, starts, None)
            }
        })
    }

    /// What a pipeline that follows another one sees: it runs on the default branch.
    fn after(&self, occasion: &Occasion, followed: Followed) -> Occasion {
        let default = self.facts.git.default_branch.known().cloned();
        Occasion {
            kind: OccasionKind::After,
            name: default,
            changed: None,
            followed: Some(Box::new(followed)),
            ..occasion.clone()
        }
    }

    /// Every event that can start a pipeline by itself or by way of others, branches where filters name them and without where they
    /// do not, with what comes of it there. Nothing where it listens to something that cannot be played, or may be called by nobody
    /// knows whom.
    pub fn possible_outcomes(&self, index: usize) -> Option<&[(Occasion, Arc<Rehearsal>)]> {
        self.known.possible[index].get_or_init(|| self.play_possible(index)).as_deref()
    }

    fn play_possible(&self, index: usize) -> Outcomes {
        let members = self.starters(index)?;
        let mut occasions: Vec<Occasion> = Vec::new();
        for member in &members {
            let pipeline = &self.prepared[*member].pipeline;
            if !pipeline.triggers.iter().enumerate().all(|(number, trigger)| self.knows_starter(*member, number, trigger)) {
                return None;
            }
            for occasion in possible(pipeline, self.facts)? {
                if !occasions.contains(&occasion) {
                    occasions.push(occasion);
                }
            }
        }
        let alone = self.played_alone(index);
        let play = |occasion: Occasion| {
            let known = alone.and_then(|played| played.of.iter().find(|(known, _)| *known == occasion));
            let known = known.and_then(|(_, played)| played.first().cloned());
            let played = known.unwrap_or_else(|| self.with_starters(index, &members, &occasion));
            (occasion, played)
        };
        Some(occasions.into_iter().take(OCCASION_LIMIT).map(play).collect())
    }

    /// What came out for a pipeline that neither starts others nor is started by them.
    fn played_alone(&self, index: usize) -> Option<&Played> {
        let (group, _) = self.known.index.place(index);
        (self.known.index.groups()[group] == [index]).then(|| self.group(group))
    }

    /// Whether all that brings a trigger about stands in this repository.
    fn knows_starter(&self, index: usize, number: usize, trigger: &Trigger) -> bool {
        let followed = self.known.index.follows(index);
        match trigger.event {
            Event::Called => !self.known.index.callers(index).is_empty(),
            Event::AfterPipeline => followed.iter().any(|(trigger, others)| *trigger == number && !others.is_empty()),
            _ => true,
        }
    }

    /// A pipeline with all that start it, near and far, by their numbers; nothing where those are too many to be played.
    fn starters(&self, index: usize) -> Option<Vec<usize>> {
        let mut found = vec![index];
        let mut next = 0;
        while let Some(current) = found.get(next).copied() {
            next += 1;
            for other in self.known.index.starters(current) {
                if !found.contains(&other) {
                    found.push(other);
                }
                if found.len() > STARTER_LIMIT {
                    return None;
                }
            }
        }
        found.sort_unstable();
        Some(found)
    }

    /// Plays an event against one pipeline and all that start it; nothing where those are too many.
    pub fn rehearse_with_starters(&self, index: usize, occasion: &Occasion) -> Option<Arc<Rehearsal>> {
        let members = self.starters(index)?;
        Some(self.with_starters(index, &members, occasion))
    }

    /// What comes of an event for one of a few pipelines that hold all that start it.
    fn with_starters(&self, index: usize, members: &[usize], occasion: &Occasion) -> Arc<Rehearsal> {
        if let Some(played) = self.in_turn(index, occasion, &mut Vec::new()) {
            return played;
        }
        let mut played = self.rehearse_all(members, occasion);
        let place = members.binary_search(&index).unwrap_or_default();
        Arc::new(played.swap_remove(place))
    }

    /// Plays an event against a pipeline after those that start it, each once however many it starts; nothing where they start each
    /// other in a circle. `way` holds those that wait for this answer.
    fn in_turn(&self, index: usize, occasion: &Occasion, way: &mut Vec<usize>) -> Option<Arc<Rehearsal>> {
        if way.contains(&index) {
            return None;
        }
        if let Some(played) = self.known.played_in_turn[index].get(occasion) {
            return Some(played);
        }
        way.push(index);
        let mut others: HashMap<usize, Arc<Rehearsal>> = HashMap::new();
        for other in self.known.index.starters(index) {
            if let Entry::Vacant(place) = others.entry(other) {
                place.insert(self.in_turn(other, occasion, way)?);
            }
        }
        way.pop();
        let by_itself = self.rehearse_one(index, occasion);
        let known = by_itself.starts.answer;
        let better = if known == Answer::Yes || others.is_empty() {
            None
        } else {
            self.brought_about(index, known, |other| others.get(&other).map(Arc::as_ref), occasion)
        };
        let played = Arc::new(better.unwrap_or(by_itself));
        if self.known.index.starts_others(index) {
            self.known.played_in_turn[index].keep(occasion, &played);
        }
        Some(played)
    }

    /// Whether a pipeline starts because another one ran or calls it; with the trigger that says so, when it is one.
    fn follows<'r>(&self, index: usize, of: impl Fn(usize) -> Option<&'r Rehearsal>, occasion: &Occasion) -> Option<Following> {
        let pipeline = &self.prepared[index].pipeline;
        let mut best: Option<Following> = None;
        let mut offer = |starts: Verdict, how| {
            if best.as_ref().is_none_or(|known| starts.answer > known.starts.answer) {
                best = Some(Following { starts, how });
            }
        };
        for (number, others) in self.known.index.follows(index) {
            let trigger = &pipeline.triggers[*number];
            for other in others {
                let Some(outcome) = of(*other).filter(|outcome| outcome.starts.answer > Answer::No) else { continue };
                let followed = run_of(&self.prepared[*other].pipeline.triggers, outcome, occasion, trigger);
                let answer = let_through(trigger, followed.branch.as_deref()).min(outcome.starts.answer);
                let because = format!("it follows {}", self.title(*other));
                offer(Verdict::new(answer, because, Some(trigger.at)), How::Follows(*number, followed));
            }
        }
        if pipeline.triggers.iter().any(|trigger| trigger.event == Event::Called) {
            for (other, job) in self.known.index.callers(index) {
                let Some(verdict) = of(*other).and_then(|outcome| outcome.jobs.get(*job)) else { continue };
                if verdict.answer > Answer::No {
                    let id = &self.prepared[*other].pipeline.jobs[*job].id;
                    let because = format!("`{}` of {} calls it", id.value, self.path(*other));
                    offer(Verdict::new(verdict.answer, because, Some(id.at)), How::Called(*other, *job));
                }
            }
        }
        best
    }
}

/// How a pipeline starts because of another one.
struct Following {
    starts: Verdict,
    how: How,
}

/// The way in which one pipeline brings another one about.
enum How {
    /// By the trigger of this number it follows a run.
    Follows(usize, Followed),
    /// A job of a pipeline calls it, by their numbers.
    Called(usize, usize),
}

/// What a run looks like to the pipeline that follows it.
/// Source: the format's page "Events that trigger workflows", `workflow_run`.
fn run_of(triggers: &[Trigger], outcome: &Rehearsal, occasion: &Occasion, follower: &Trigger) -> Followed {
    let proposal = matches!(occasion.kind, OccasionKind::Pull | OccasionKind::Fork);
    let branch = if proposal { occasion.head.clone() } else { occasion.name.clone() };
    let ended = follower.types.is_empty() || follower.types.iter().any(|kind| kind.value == "completed");
    let end = occasion.followed.as_ref().map_or_else(|| Some("success".to_owned()), |followed| followed.end.clone());
    Followed {
        event: outcome.trigger.and_then(|number| triggers.get(number)).map(|trigger| trigger.name.value.clone()),
        branch,
        fork: occasion.kind == OccasionKind::Fork,
        end: end.filter(|_| ended),
    }
}

/// Whether the branches that a trigger names let a run through.
fn let_through(trigger: &Trigger, branch: Option<&str>) -> Answer {
    let filters = trigger.filters.iter().filter(|filter| filter.of == FilterOf::Branches);
    let verdict = |filter| branch.map_or(Answer::Unsure, |branch| rehearsal::filter_verdict(filter, branch).answer);
    filters.map(verdict).min().unwrap_or(Answer::Yes)
}
