//! The built program, driven on files in temporary folders.

mod bad_input;
mod buddy;
mod check;
mod clones;
mod cloud;
mod cloudbuild;
mod demo;
mod endings;
mod everywhere;
mod gitlab;
mod guard;
mod healthy;
mod hook_survives;
mod hooks;
mod hostile;
mod house;
mod jenkins;
mod mend;
mod npm;
mod pages;
mod settings;
mod source_tree;
mod travis;
mod when;
