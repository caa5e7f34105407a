//! What people look at, as values: text, pages and editors draw from the same ones.

mod accepted;
pub mod facts;
mod grid;
mod strip;
mod verdict;
mod way;

#[cfg(test)]
mod tests;

pub use accepted::{Accepted, accepted};
pub use grid::{Cell, CellKind, Grid, GridJob, GridPipeline, grid};
pub use strip::{Mark, strip};
pub use verdict::{Standing, Verdict, verdicts};
pub use way::{Break, End, Hand, Leg, NO_WAY, Need, NeedKind, PERHAPS, Parcel, Stop, StopAt, StopKind, Way, ways};
pub(crate) use way::{stops_of, title, title_at};
