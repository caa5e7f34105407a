//! What starts the pipeline.

use crate::rules::family;

family![unknown_event];
