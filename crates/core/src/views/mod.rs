//! What people look at, as values: text, pages and editors draw from the same ones.

pub mod facts;
mod grid;
mod strip;
mod way;

pub use grid::{Cell, CellKind, Grid, GridJob, GridPipeline, grid};
pub use strip::{Mark, strip};
pub use way::{Leg, Stop, StopKind, Way, ways};
