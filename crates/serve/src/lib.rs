//! The language server: what the check knows, under the cursor of an editor. It speaks the Language Server Protocol 3.17 over a pair of
//! pipes, writes nothing to the disk, runs nothing and opens no connection.
//!
//! What stands at a place and what may be written there is worked out in `dulk_core::cursor`; here it is put into the protocol's words.

mod actions;
mod answers;
mod client;
mod document;
mod edits;
mod findings;
mod house;
mod position;
mod reading;
mod server;
mod session;
mod uri;
mod wire;
mod writing;

use std::io::{BufRead, Write};

use dulk_core::knowledge::Date;

/// How a session ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ended {
    /// The client said that it is over, and then good-bye.
    Well,
    /// It went without a word.
    Lost,
}

/// Serves one client until it goes. `today` is the day to judge end dates by.
pub fn serve(input: impl BufRead + Send + 'static, output: impl Write + Send + 'static, today: Date) -> Ended {
    let (heard, incoming) = crossbeam_channel::unbounded();
    let (say, said) = crossbeam_channel::unbounded();
    // Nobody waits for the reader: it sits in a read that only the client ends.
    std::thread::spawn(move || wire::read_all(input, &heard));
    let writer = std::thread::spawn(move || wire::write_all(output, &said));
    let ended = server::Server::new(incoming, say, today).run();
    // Whatever was said last is written before the process ends.
    let _ = writer.join();
    ended
}
