//! What is handed from job to job on a way.

use super::{Hand, Leg, Parcel, StopAt};

/// Everything that a job of the way hands on to another one of it.
pub(super) fn parcels(legs: &[Leg]) -> Vec<Parcel> {
    let stops = || {
        legs.iter()
            .enumerate()
            .flat_map(|(leg, of_leg)| of_leg.stops.iter().enumerate().map(move |(stop, of_stop)| (StopAt { leg, stop }, of_stop)))
    };
    let mut found = Vec::new();
    for (from, giver) in stops() {
        let Hand::Gives { name, holds } = &giver.hand else { continue };
        let mut to = Vec::new();
        for (at, taker) in stops().filter(|(at, _)| at.leg != from.leg) {
            let earlier = legs[from.leg].wave < legs[at.leg].wave;
            let takes = match &taker.hand {
                Hand::Takes(wanted) => wanted == name,
                Hand::TakesAll => earlier,
                Hand::Gives { .. } | Hand::None => false,
            };
            if takes {
                to.push(at);
            }
        }
        if to.is_empty() {
            continue;
        }
        found.push(Parcel { name: name.clone(), holds: holds.clone(), from, to });
    }
    found
}
