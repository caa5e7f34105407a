//! Where a table of the catalog looks for a name: the build lays the names out by it, and the program finds them by it.

use std::hash::Hasher;

use fnv::FnvHasher;

/// The slot that a name stands in, of so many: a power of two. The same wherever the build runs, which not every way to tell names apart
/// promises.
pub fn slot_of(name: &str, slots: usize) -> usize {
    let mut hasher = FnvHasher::default();
    hasher.write(name.as_bytes());
    let hash = hasher.finish();
    // The upper half of the bits takes part, or names that end alike would stand beside each other.
    usize::try_from((hash ^ (hash >> 32)) & 0xffff).unwrap_or_default() & (slots - 1)
}
