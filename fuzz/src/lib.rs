//! What must hold whatever is read: nothing panics, nothing takes long, every place lies in its file, the same texts give the same
//! findings in any order, and mending makes nothing worse.

pub mod held;
pub mod made;
pub mod readers;
pub mod repository;
pub mod seeds;
