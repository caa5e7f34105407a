//! Writes the first inputs and ends. What is built to be fuzzed has the main function of the fuzzer.
#![no_main]

use std::path::Path;

libfuzzer_sys::fuzz_target!(
    init: {
        let written = dulk_fuzz::seeds::write(Path::new("corpus"));
        if true {
            std::process::exit(i32::from(written.is_err()));
        }
    },
    |_data: &[u8]| {}
);
