//! The built program, driven on files in temporary folders.

mod bad_input;
mod check;
mod demo;
mod house;
mod when;
