//! Which job waits for which, near and far: asked by many rules for many pairs of jobs, and so worked out once.

/// More jobs than these are searched each time: a row of bits for each of them would take more room than the answers are worth.
const LIMIT: usize = 8192;

/// By job, a row with a bit for each job that it waits for.
#[derive(Clone, Debug)]
pub(super) struct Waits {
    /// Words of a row.
    width: usize,
    rows: Vec<u64>,
}

impl Waits {
    /// Of jobs with those that each names in its needs; nothing for more of them than there is room for.
    pub fn of(needs: &[Vec<usize>]) -> Option<Self> {
        if needs.len() > LIMIT {
            return None;
        }
        let width = needs.len().div_ceil(64);
        let mut waits = Self { width, rows: vec![0; width * needs.len()] };
        let mut done = vec![false; needs.len()];
        for job in 0..needs.len() {
            waits.fill(job, needs, &done);
            done[job] = true;
        }
        Some(waits)
    }

    /// Whether a job waits for another one; never for itself, even in a circle.
    pub fn holds(&self, job: usize, other: usize) -> bool {
        self.rows[job * self.width + other / 64] & (1 << (other % 64)) != 0
    }

    /// Walks the needs of a job, and takes over whole rows of jobs that are done.
    fn fill(&mut self, job: usize, needs: &[Vec<usize>], done: &[bool]) {
        let start = job * self.width;
        let mut open = vec![job];
        while let Some(current) = open.pop() {
            for next in needs[current].iter().copied() {
                if self.holds(job, next) {
                    continue;
                }
                self.rows[start + next / 64] |= 1 << (next % 64);
                if done[next] {
                    for word in 0..self.width {
                        self.rows[start + word] |= self.rows[next * self.width + word];
                    }
                } else {
                    open.push(next);
                }
            }
        }
        self.rows[start + job / 64] &= !(1 << (job % 64));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every pair, walked by hand.
    fn walked(needs: &[Vec<usize>], job: usize) -> Vec<usize> {
        let (mut found, mut open) = (Vec::new(), vec![job]);
        while let Some(current) = open.pop() {
            for next in &needs[current] {
                if *next != job && !found.contains(next) {
                    found.push(*next);
                    open.push(*next);
                }
            }
        }
        found.sort_unstable();
        found
    }

    proptest::proptest! {
        /// The rows say what a walk says, in any order of jobs and with circles.
        #[test]
        fn rows_are_walks(needs in proptest::collection::vec(proptest::collection::vec(0usize..90, 0..4), 90)) {
            let waits = Waits::of(&needs).expect("few jobs");
            for job in 0..needs.len() {
                let row: Vec<usize> = (0..needs.len()).filter(|other| waits.holds(job, *other)).collect();
                proptest::prop_assert_eq!(row, walked(&needs, job));
            }
        }
    }
}
