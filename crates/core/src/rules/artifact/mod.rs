//! From built folder to artifact to published folder.

use crate::rules::family;

family![
    misnamed,
    wrong_folder,
    never_made,
    absent_folder,
    nested,
    whole_repository,
    stale,
    clash,
    mixed_generations,
    hidden_files,
    may_be_empty,
    unused,
    outside,
    left_out,
    expires,
    contains_secret,
];
