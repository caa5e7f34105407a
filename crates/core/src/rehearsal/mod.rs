//! An event played against pipelines: what starts, which jobs run, and what decided.
//!
//! Every answer is yes, no or unsure; unsure names what is only known when it runs. Jobs that run are taken to succeed.

mod clock;
mod cond;
mod evaluate;
mod fill;
mod job;
mod look;
mod occasion;
mod trigger;
mod value;

pub use clock::{ClockTime, ClockWrong, check_clock, clock_words, least_by_minutes, least_gap, next_times, read_clock};
pub use evaluate::{Equality, evaluate, regex_fits};
pub(crate) use job::all_hold;
pub use job::value_of;
pub use occasion::{Followed, OTHER_BRANCH, OTHER_TAG, Occasion, OccasionKind, parse_occasion, possible};
pub use trigger::{filter_verdict, pattern_fits};
pub use value::Value;

use std::borrow::Cow;

use crate::facts::Facts;
use crate::knowledge::{Table, Word};
use crate::model::{Event, Pipeline, Trigger};
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
    pub because: Cow<'static, str>,
    /// The place that decided, when there is one.
    pub at: Option<Place>,
}

impl Verdict {
    /// With a reason and maybe a place.
    pub fn new(answer: Answer, because: impl Into<Cow<'static, str>>, at: Option<Place>) -> Self {
        Self { answer, because: because.into(), at }
    }

    /// What it says of a job.
    pub fn of_job(&self) -> &'static str {
        match self.answer {
            Answer::Yes => "runs",
            Answer::Unsure if self.is_by_hand() => "runs by hand",
            Answer::Unsure => "may run",
            Answer::No => "does not run",
        }
    }

    /// Whether it waits for a person who starts it.
    pub fn is_by_hand(&self) -> bool {
        self.answer == Answer::Unsure && self.because == job::BY_HAND
    }
}

/// One event played against one pipeline.
#[derive(Clone, Debug)]
pub struct Rehearsal {
    /// The event, as this pipeline sees it.
    pub on: Occasion,
    /// Whether it starts.
    pub starts: Verdict,
    /// The trigger that starts it, by its number.
    pub trigger: Option<usize>,
    /// Whether each job runs.
    pub jobs: Vec<Verdict>,
    /// The forge refuses it, because a job needs one that is not in it.
    pub refused: Option<Refused>,
    /// Whether each step of each job runs, when its job does.
    pub steps: Vec<Vec<Answer>>,
}

/// A job with a need that is not in the run.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Refused {
    /// The job's number.
    pub job: usize,
    /// The number of the need in it.
    pub need: usize,
}

impl Rehearsal {
    /// Whether a step runs.
    pub fn step(&self, job: usize, step: usize) -> Answer {
        let own = self.steps.get(job).and_then(|steps| steps.get(step)).copied().unwrap_or(Answer::Unsure);
        self.jobs.get(job).map_or(Answer::Unsure, |verdict| verdict.answer).min(own)
    }
}

/// Plays an event against one pipeline by itself.
pub fn rehearse(pipeline: &Pipeline, occasion: &Occasion, facts: &Facts) -> Rehearsal {
    let (starts, trigger) = trigger::starts(pipeline, occasion, facts);
    play(pipeline, occasion, facts, starts, trigger)
}

/// The same where it is already known whether it starts, and by which trigger.
pub(crate) fn play(
    pipeline: &Pipeline,
    occasion: &Occasion,
    facts: &Facts,
    starts: Verdict,
    trigger: Option<usize>,
) -> Rehearsal {
    let (jobs, steps) = job::jobs(pipeline, occasion, facts, &starts, trigger);
    let on = occasion.clone();
    let refused = if starts.answer == Answer::Yes { job::refused(pipeline, occasion, facts) } else { None };
    if let Some(Refused { job, need }) = refused {
        let (id, need) = (&pipeline.jobs[job].id.value, &pipeline.jobs[job].needs[need]);
        let because = format!("the forge refuses it: `{id}` needs `{}`, which is not in it", need.value);
        let stays = Verdict::new(Answer::No, because, Some(need.at));
        let jobs = vec![stays.clone(); jobs.len()];
        return Rehearsal { on, starts: stays, trigger, jobs, refused, steps };
    }
    let counts = || jobs.iter().zip(&pipeline.jobs).filter(|(_, job)| !job.when.goes_along).map(|(verdict, _)| verdict);
    let none_runs = !jobs.is_empty() && counts().all(|job| job.answer == Answer::No);
    if pipeline.customs.starts_with_jobs && starts.answer > Answer::No && none_runs && !pipeline.partial {
        let at = jobs.iter().find_map(|job| job.at);
        let stays = Verdict::new(Answer::No, "none of its jobs is for this", at);
        // Jobs that only go along stay behind with the others.
        let jobs = jobs.into_iter().map(|job| if job.answer == Answer::No { job } else { stays.clone() }).collect();
        return Rehearsal { on, starts: stays, trigger, jobs, refused, steps };
    }
    // A job that someone has to start is there all the same.
    let sure = counts().any(|job| job.answer == Answer::Yes || job.is_by_hand());
    let unsure = counts().find(|job| job.answer == Answer::Unsure).cloned();
    if let (true, Answer::Yes, Some(job), false) = (pipeline.customs.starts_with_jobs, starts.answer, unsure, sure) {
        let starts = Verdict::new(Answer::Unsure, job.because.clone(), job.at);
        return Rehearsal { on, starts, trigger, jobs, refused, steps };
    }
    Rehearsal { on, starts, trigger, jobs, refused, steps }
}

/// What stands for a dotted path in a run of an event, as the catalog writes it: `refs/heads/{branch}`.
pub(crate) fn stands_for(pipeline: &Pipeline, kind: OccasionKind, path: &[&str]) -> Option<&'static str> {
    let key = path.join(".");
    let values = run_values(pipeline, kind, None);
    values.into_iter().flatten().find(|(known, _)| known.eq_ignore_ascii_case(&key)).map(|(_, value)| *value)
}

/// The values that a run of a pipeline knows of itself, by its format and the event. Those of the first map hold where both have one.
fn run_values(pipeline: &Pipeline, kind: OccasionKind, trigger: Option<&Trigger>) -> Vec<&'static Table<Word>> {
    let privileged = trigger.is_some_and(|trigger| trigger.event == Event::PrivilegedProposal).then_some("privileged");
    let words = privileged.into_iter().chain([kind.word()]);
    words.filter_map(|word| pipeline.run().run.get(word)).collect()
}

#[cfg(test)]
mod tests;
