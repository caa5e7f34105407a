//! What is cached, under which key.

use crate::rules::family;

family![absent_lockfile];
