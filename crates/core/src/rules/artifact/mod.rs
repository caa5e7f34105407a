//! From built folder to artifact to published folder.

pub(in crate::rules) mod absent_folder;
pub(in crate::rules) mod clash;
pub(in crate::rules) mod contains_secret;
pub(in crate::rules) mod expires;
pub(in crate::rules) mod hidden_files;
pub(in crate::rules) mod into_itself;
pub(in crate::rules) mod left_out;
pub(in crate::rules) mod left_packed;
pub(in crate::rules) mod lost_folders;
pub(in crate::rules) mod may_be_empty;
pub(in crate::rules) mod misnamed;
pub(in crate::rules) mod mixed_generations;
pub(in crate::rules) mod nested;
pub(in crate::rules) mod never_made;
pub(in crate::rules) mod no_pages_job;
pub(in crate::rules) mod no_slash;
pub(in crate::rules) mod not_in_image;
pub(in crate::rules) mod other_artifact;
pub(in crate::rules) mod outside;
pub(in crate::rules) mod stale;
pub(in crate::rules) mod too_late;
pub(in crate::rules) mod unmade_image;
pub(in crate::rules) mod unused;
pub(in crate::rules) mod whole_repository;
pub(in crate::rules) mod wrong_folder;

use crate::rules::family;

family![
    misnamed,
    wrong_folder,
    never_made,
    absent_folder,
    nested,
    other_artifact,
    whole_repository,
    stale,
    clash,
    mixed_generations,
    hidden_files,
    may_be_empty,
    unused,
    outside,
    left_out,
    left_packed,
    lost_folders,
    expires,
    contains_secret,
    too_late,
    into_itself,
    no_pages_job,
    no_slash,
    not_in_image,
    unmade_image,
];
