//! What steps share: the files that lie in their folder, and the machine with its tools and its environment. They are two circles: in
//! some formats each step runs in an image of its own and finds the files of those before it.

use super::{Step, Text};
use crate::text::Place;

/// The files that the steps of a job find when the first of them begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Workspace {
    /// None: nothing is there but what the steps bring.
    Fresh,
    /// Those of earlier runs may be there, or it is not known.
    Kept,
    /// Those that earlier runs of the same pipeline have left, and no others.
    Left,
    /// Those that another job of the run leaves behind, by its number.
    Of(usize),
}

impl Workspace {
    /// The job whose files it goes on with.
    pub fn of(self) -> Option<usize> {
        match self {
            Self::Of(job) => Some(job),
            Self::Fresh | Self::Kept | Self::Left => None,
        }
    }
}

/// What steps run on: the tools that are installed there, and nothing of the files.
#[derive(Clone, Debug, Default)]
pub struct Machine {
    /// The labels by which it is asked for.
    pub runners: Vec<Text>,
    /// The image that the steps run in.
    pub image: Option<Text>,
    /// Where it is asked for, where that is said.
    pub at: Option<Place>,
    /// The path at which the files of the job stand in it, where that is written.
    pub files_at: Option<Text>,
}

/// Which steps of its job must have ended before a step begins.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Waits {
    /// All that are written before it.
    #[default]
    ForAll,
    /// Those that the step before it waits for: it begins while that one still runs; where this is said.
    Beside(Place),
    /// Those of these numbers, and those that they wait for.
    For {
        /// The numbers of steps, each lower than its own.
        steps: Vec<usize>,
        /// Where this is said.
        at: Place,
    },
}

impl Waits {
    /// Where it is said that a step does not wait for all before it.
    pub fn at(&self) -> Option<Place> {
        match self {
            Self::ForAll => None,
            Self::Beside(at) | Self::For { at, .. } => Some(*at),
        }
    }
}

/// Which steps of a job have surely ended when another one begins.
#[derive(Clone, Debug)]
pub struct StepOrder {
    /// By step, a bit for each that ended before it; nothing where they run one after the other.
    ended: Option<Vec<Vec<u64>>>,
}

impl StepOrder {
    /// The order of steps as they are written.
    pub fn of(steps: &[Step]) -> Self {
        if steps.iter().all(|step| step.waits == Waits::ForAll) {
            return Self { ended: None };
        }
        let mut ended: Vec<Vec<u64>> = Vec::with_capacity(steps.len());
        for (number, step) in steps.iter().enumerate() {
            let mut own = vec![0_u64; steps.len().div_ceil(64)];
            match &step.waits {
                Waits::ForAll => (0..number).for_each(|other| own[other / 64] |= 1 << (other % 64)),
                Waits::Beside(_) => {
                    if let Some(before) = number.checked_sub(1).and_then(|before| ended.get(before)) {
                        own.clone_from(before);
                    }
                }
                Waits::For { steps: named, .. } => {
                    for other in named.iter().filter(|other| **other < number) {
                        own[other / 64] |= 1 << (other % 64);
                        own.iter_mut().zip(&ended[*other]).for_each(|(bits, theirs)| *bits |= theirs);
                    }
                }
            }
            ended.push(own);
        }
        Self { ended: Some(ended) }
    }

    /// Whether a step has surely ended when another one begins.
    pub fn is_before(&self, step: usize, other: usize) -> bool {
        match &self.ended {
            None => step < other,
            Some(ended) => {
                ended.get(other).is_some_and(|bits| bits.get(step / 64).is_some_and(|part| part >> (step % 64) & 1 == 1))
            }
        }
    }

    /// Whether two steps may run at the same time.
    pub fn are_beside(&self, step: usize, other: usize) -> bool {
        step != other && !self.is_before(step, other) && !self.is_before(other, step)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::{Work, whole_file};
    use crate::text::FileId;

    fn order(waits: &[Waits]) -> StepOrder {
        let at = whole_file(FileId(0));
        let steps: Vec<Step> = waits.iter().map(|one| Step { waits: one.clone(), ..Step::new(at, Work::Nothing) }).collect();
        StepOrder::of(&steps)
    }

    #[test]
    fn steps_wait_for_what_they_name_and_for_what_that_waits_for() {
        let at = whole_file(FileId(0));
        let of = |steps: &[usize]| Waits::For { steps: steps.to_vec(), at };
        let order = order(&[Waits::ForAll, of(&[0]), of(&[0]), of(&[1]), Waits::ForAll, Waits::Beside(at)]);
        assert!(order.is_before(0, 3) && order.is_before(1, 3) && order.are_beside(2, 3) && order.are_beside(1, 2));
        assert!(order.is_before(2, 4) && order.are_beside(4, 5) && order.is_before(3, 5));
        assert!(!order.is_before(3, 1) && !order.is_before(9, 3) && !order.is_before(0, 9));
    }

    #[test]
    fn without_a_word_steps_run_one_after_the_other() {
        let order = order(&[Waits::ForAll, Waits::ForAll]);
        assert!(order.is_before(0, 1) && !order.is_before(1, 0) && !order.are_beside(0, 1));
    }
}
