//! What is handed from job to job on a way.

use std::collections::HashMap;

use super::{Hand, Leg, Parcel, Stop, StopAt};

/// Everything that a job of the way hands on to another one of it.
pub(super) fn parcels(legs: &[Leg]) -> Vec<Parcel> {
    let mut takers = Takers::default();
    for (at, stop) in stops(legs) {
        match &stop.hand {
            Hand::Takes(name) => takers.by_name.entry(name.as_deref()).or_default().push(at),
            Hand::TakesAll => takers.of_all.push(at),
            Hand::Gives { .. } | Hand::None => {}
        }
    }
    let mut found = Vec::new();
    for (from, giver) in stops(legs) {
        let Hand::Gives { name, holds } = &giver.hand else { continue };
        let by_name = takers.by_name.get(&name.as_deref()).into_iter().flatten();
        let earlier = |at: &&StopAt| legs[from.leg].wave < legs[at.leg].wave;
        let mut to: Vec<StopAt> = by_name.chain(takers.of_all.iter().filter(earlier)).copied().collect();
        to.retain(|at| at.leg != from.leg);
        to.sort_by_key(|at| (at.leg, at.stop));
        if !to.is_empty() {
            found.push(Parcel { name: name.clone(), holds: holds.clone(), from, to });
        }
    }
    found
}

/// Stops that take something.
#[derive(Default)]
struct Takers<'l> {
    by_name: HashMap<Option<&'l str>, Vec<StopAt>>,
    of_all: Vec<StopAt>,
}

fn stops(legs: &[Leg]) -> impl Iterator<Item = (StopAt, &Stop)> {
    legs.iter()
        .enumerate()
        .flat_map(|(leg, of_leg)| of_leg.stops.iter().enumerate().map(move |(stop, of_stop)| (StopAt { leg, stop }, of_stop)))
}
