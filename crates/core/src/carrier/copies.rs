//! What files copy: a line that names an anchor, or takes over a job, stands for all that is written there. A few hundred bytes can stand for
//! more than fits into memory.

use std::cell::Cell;

/// So much may one file copy, in [`weight`]s. No honest file comes near it, and what is read of it fits into memory.
const OF_A_FILE: usize = 100_000;

/// What a value weighs when it is copied: one, and one more for every 32 bytes of its text.
pub fn weight(text: &str) -> usize {
    1 + text.len() / 32
}

/// What may still be copied while a file is read.
#[derive(Debug)]
pub struct Copies {
    allowed: usize,
    taken: Cell<usize>,
}

impl Default for Copies {
    fn default() -> Self {
        Self::allowing(OF_A_FILE)
    }
}

impl Copies {
    /// So much, in [`weight`]s.
    pub fn allowing(allowed: usize) -> Self {
        Self { allowed: allowed.min(OF_A_FILE), taken: Cell::new(0) }
    }

    /// Whether something of this weight may be copied still. When it may not, nothing may any more.
    pub fn take(&self, weight: usize) -> bool {
        self.taken.set(self.taken.get().saturating_add(weight));
        !self.are_spent()
    }

    /// What was asked for.
    pub fn taken(&self) -> usize {
        self.taken.get()
    }

    /// More was asked for than may be copied.
    pub fn are_spent(&self) -> bool {
        self.taken.get() > self.allowed
    }
}
