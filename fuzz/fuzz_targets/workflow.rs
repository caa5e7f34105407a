#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| dulk_fuzz::readers::workflow(data));
