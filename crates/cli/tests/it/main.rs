//! The built program, driven on files in temporary folders.

mod bad_input;
mod buddy;
mod check;
mod cloud;
mod cloudbuild;
mod demo;
mod everywhere;
mod gitlab;
mod guard;
mod healthy;
mod hostile;
mod house;
mod jenkins;
mod mend;
mod settings;
mod source_tree;
mod travis;
mod when;
