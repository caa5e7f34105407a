//! Where a table of the catalog looks for a name: the build lays the names out by it, and the program finds them by it.

use std::hash::Hasher;

use fnv::FnvHasher;

/// A number for a name that hardly another has. It is the same on the machine that builds and on the one that runs, which other hashes do not
/// promise.
pub fn hash_of(name: &str) -> u32 {
    let mut hasher = FnvHasher::default();
    hasher.write(name.as_bytes());
    let hash = hasher.finish();
    // The upper half of the bits takes part, or names that end alike would stand beside each other.
    (hash ^ (hash >> 32)) as u32
}

/// The slot that a name stands in, of so many: a power of two.
pub fn slot_of(name: &str, slots: usize) -> usize {
    hash_of(name) as usize & (slots - 1)
}
