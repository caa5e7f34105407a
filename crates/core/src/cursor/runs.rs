//! When a job runs, in words.

use crate::case::Case;
use crate::finding::listed_short;
use crate::rehearsal::Answer;

/// When a job runs.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Runs {
    /// The events on which it surely does, as what follows "on".
    pub surely: Vec<String>,
    /// Those on which a person starts it.
    pub by_hand: Vec<String>,
    /// Those on which it may.
    pub perhaps: Vec<String>,
    /// So many events can start its pipeline.
    pub events: usize,
    /// It is not known what starts its pipeline.
    pub unknown: bool,
}

/// When a job runs, over all events that can start its pipeline.
pub fn runs(case: &Case<'_>, job: usize) -> Runs {
    let mut found = Runs { unknown: case.pipeline.unknown_starts().is_some(), ..Runs::default() };
    for (occasion, rehearsal) in case.played() {
        let Some(verdict) = rehearsal.jobs.get(job) else { continue };
        found.events += 1;
        let list = match verdict.answer {
            Answer::Yes => &mut found.surely,
            Answer::Unsure if verdict.is_by_hand() => &mut found.by_hand,
            Answer::Unsure => &mut found.perhaps,
            Answer::No => continue,
        };
        let told = occasion.told();
        if !list.contains(&told) {
            list.push(told);
        }
    }
    [&mut found.surely, &mut found.by_hand, &mut found.perhaps].into_iter().for_each(join_forks);
    found
}

/// A pull request and the same from a fork are told as one.
fn join_forks(events: &mut Vec<String>) {
    for index in (0..events.len()).rev() {
        let Some(own) = events[index].strip_suffix(" from a fork").map(str::to_owned) else { continue };
        if let Some(same) = events.iter().position(|event| *event == own) {
            events[same].push_str(", also from a fork");
            events.remove(index);
        }
    }
}

impl Runs {
    /// In one line: "runs on a push to main".
    pub fn told(&self) -> String {
        if self.unknown {
            return "what starts it is not known".to_owned();
        }
        let parts = [("runs on", &self.surely), ("by hand on", &self.by_hand), ("perhaps on", &self.perhaps)];
        let said: Vec<String> = parts
            .into_iter()
            .filter(|(_, events)| !events.is_empty())
            .map(|(how, events)| format!("{how} {}", listed_short(events)))
            .collect();
        if said.is_empty() { "runs on no event".to_owned() } else { said.join("; ") }
    }
}
