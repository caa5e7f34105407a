//! From built folder to artifact to published folder.

use crate::rules::family;

family![misnamed, wrong_folder];
