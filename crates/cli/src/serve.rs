//! `dulk serve`.

use std::io::BufReader;

use dulk_core::knowledge::Date;
use dulk_serve::{Ended, serve};

use crate::Outcome;

/// Serves an editor over standard input and output until it goes. One that goes without good-bye leaves 1 behind, as the protocol says.
pub fn run(today: Date) -> Outcome {
    match serve(BufReader::new(std::io::stdin()), std::io::stdout(), today) {
        Ended::Well => Outcome::Clean,
        Ended::Lost => Outcome::Found,
    }
}
