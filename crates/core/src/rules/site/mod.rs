//! The site itself: scripts, lockfile, configuration.

use crate::rules::family;

family![absent_script, absent_lockfile, unreadable];
