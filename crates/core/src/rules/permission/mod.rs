//! What a job's token may do.

use crate::rules::family;

family![too_narrow];
