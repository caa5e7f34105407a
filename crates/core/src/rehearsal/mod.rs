//! An event played against pipelines: what starts, which jobs run, and what decided.
//!
//! Every answer is yes, no or unsure; unsure names what is only known when it runs. Jobs that run are taken to succeed.

mod clock;
mod evaluate;
mod job;
mod occasion;
mod trigger;

pub use clock::{ClockTime, ClockWrong, clock_words, least_gap, next_times, read_clock};
pub use evaluate::{Value, evaluate};
pub use occasion::{OTHER_BRANCH, Occasion, OccasionKind, columns, parse_occasion, possible};
pub use trigger::{filter_verdict, pattern_fits};

use crate::case::Project;
use crate::model::{Event, Pipeline};
use crate::text::Place;

/// Yes, no, or only known when it runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Answer {
    /// Surely not.
    No,
    /// Only known when it runs.
    Unsure,
    /// Surely.
    Yes,
}

impl Answer {
    /// The word in JSON output.
    pub fn word(self) -> &'static str {
        match self {
            Self::No => "no",
            Self::Unsure => "unsure",
            Self::Yes => "yes",
        }
    }
}

/// An answer with what decided it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Verdict {
    /// The answer.
    pub answer: Answer,
    /// In plain words, as what follows "because".
    pub because: String,
    /// The place that decided, when there is one.
    pub at: Option<Place>,
}

impl Verdict {
    /// With a reason and maybe a place.
    pub fn new(answer: Answer, because: impl Into<String>, at: Option<Place>) -> Self {
        Self { answer, because: because.into(), at }
    }
}

/// One event played against one pipeline.
#[derive(Clone, Debug)]
pub struct Rehearsal {
    /// Whether it starts.
    pub starts: Verdict,
    /// The trigger that starts it, by its number.
    pub trigger: Option<usize>,
    /// Whether each job runs.
    pub jobs: Vec<Verdict>,
    /// Whether each step of each job runs, when its job does.
    pub steps: Vec<Vec<Answer>>,
}

impl Rehearsal {
    /// Whether a step runs.
    pub fn step(&self, job: usize, step: usize) -> Answer {
        let own = self.steps.get(job).and_then(|steps| steps.get(step)).copied().unwrap_or(Answer::Unsure);
        self.jobs.get(job).map_or(Answer::Unsure, |verdict| verdict.answer).min(own)
    }
}

impl Project<'_> {
    /// Plays an event against one pipeline by itself.
    pub fn rehearse_one(&self, index: usize, occasion: &Occasion) -> Rehearsal {
        let pipeline = &self.prepared[index].pipeline;
        let (starts, trigger) = trigger::starts(pipeline, occasion, self.facts);
        self.play(index, occasion, starts, trigger)
    }

    fn play(&self, index: usize, occasion: &Occasion, starts: Verdict, trigger: Option<usize>) -> Rehearsal {
        let pipeline = &self.prepared[index].pipeline;
        let (jobs, steps) = job::jobs(pipeline, occasion, self.facts, &starts, trigger);
        let none_runs = !jobs.is_empty() && jobs.iter().all(|job| job.answer == Answer::No);
        if pipeline.starts_with_jobs && starts.answer > Answer::No && none_runs {
            let at = jobs.iter().find_map(|job| job.at);
            return Rehearsal { starts: Verdict::new(Answer::No, "none of its jobs is for this", at), trigger, jobs, steps };
        }
        // A job that someone has to start is there all the same.
        let sure = jobs.iter().any(|job| job.answer == Answer::Yes || job.because == job::BY_HAND);
        let unsure = jobs.iter().find(|job| job.answer == Answer::Unsure);
        if let (true, Answer::Yes, Some(job), false) = (pipeline.starts_with_jobs, starts.answer, unsure, sure) {
            let starts = Verdict::new(Answer::Unsure, job.because.clone(), job.at);
            return Rehearsal { starts, trigger, jobs, steps };
        }
        Rehearsal { starts, trigger, jobs, steps }
    }

    /// Plays an event against all pipelines, those that others start or call included.
    pub fn rehearse(&self, occasion: &Occasion) -> Vec<Rehearsal> {
        let mut played: Vec<Rehearsal> = (0..self.prepared.len()).map(|index| self.rehearse_one(index, occasion)).collect();
        // One pipeline may start a second, and that a third.
        for _ in 0..3 {
            let mut changed = false;
            for index in 0..played.len() {
                if played[index].starts.answer == Answer::Yes {
                    continue;
                }
                let follows = self.follows(index, &played);
                let Some((starts, trigger)) = follows.filter(|(starts, _)| starts.answer > played[index].starts.answer) else {
                    continue;
                };
                let inner = if trigger.is_some() { self.after(occasion) } else { occasion.clone() };
                played[index] = self.play(index, &inner, starts, trigger);
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
    fn follows(&self, index: usize, played: &[Rehearsal]) -> Option<(Verdict, Option<usize>)> {
        let pipeline = &self.prepared[index].pipeline;
        let mut best: Option<(Verdict, Option<usize>)> = None;
        let mut offer = |verdict: Verdict, trigger| {
            if best.as_ref().is_none_or(|(known, _)| verdict.answer > known.answer) {
                best = Some((verdict, trigger));
            }
        };
        for (number, trigger) in pipeline.triggers.iter().enumerate().filter(|(_, trigger)| trigger.event == Event::AfterPipeline)
        {
            for name in trigger.after.iter().filter_map(|text| text.known()) {
                let other = (0..played.len()).find(|other| self.title(*other) == name);
                let Some(other) = other.filter(|other| *other != index && played[*other].starts.answer > Answer::No) else {
                    continue;
                };
                let answer = if trigger.filters.is_empty() { played[other].starts.answer } else { Answer::Unsure };
                offer(Verdict::new(answer, format!("it follows {name}"), Some(trigger.at)), Some(number));
            }
        }
        if pipeline.is_called() {
            for (other, rehearsal) in played.iter().enumerate() {
                for (job, verdict) in self.prepared[other].pipeline.jobs.iter().zip(&rehearsal.jobs) {
                    let calls = job.call.as_ref().is_some_and(|call| self.callee(&call.target.value) == Some(index));
                    if calls && verdict.answer > Answer::No {
                        let because = format!("`{}` of {} calls it", job.id.value, self.path(other));
                        offer(Verdict::new(verdict.answer, because, Some(job.id.at)), None);
                    }
                }
            }
        }
        best
    }

    /// The name by which other pipelines wait for one: its title, or else its path.
    pub fn title(&self, index: usize) -> &str {
        let title = self.prepared[index].pipeline.name.as_ref().map(|name| name.value.as_str());
        title.filter(|title| !title.is_empty()).unwrap_or(self.path(index))
    }

    /// The pipeline of this repository that a call names.
    pub fn callee(&self, target: &str) -> Option<usize> {
        self.find(&crate::effects::normal(target.strip_prefix("./")?)?)
    }
}

/// The values that a run of a pipeline knows of itself, by its format and the event.
fn run_values(pipeline: &Pipeline, kind: OccasionKind) -> Option<&'static std::collections::BTreeMap<String, String>> {
    crate::knowledge::run_of(pipeline.dialect).run.get(kind.word())
}

#[cfg(test)]
mod tests;
