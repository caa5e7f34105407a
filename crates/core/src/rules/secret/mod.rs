//! Which secrets are read, where, and by whom.

use crate::rules::family;

family![undeclared];
