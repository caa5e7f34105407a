//! Branch filters against the branches that exist.

use crate::rules::family;

family![absent];
