//! Reads files into bare YAML events and counts them: the least that anything must do that reads pipelines. `scripts/speed` measures
//! the program against it.

use std::process::ExitCode;

use granit_parser::Parser;

fn main() -> ExitCode {
    let mut events = 0_usize;
    for path in std::env::args_os().skip(1) {
        let Ok(text) = std::fs::read_to_string(&path) else { return ExitCode::FAILURE };
        events += Parser::new_from_str(&text).take_while(Result::is_ok).count();
    }
    if events == 0 { ExitCode::FAILURE } else { ExitCode::SUCCESS }
}
