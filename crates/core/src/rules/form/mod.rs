//! Whether the file is read at all, and says what its format knows.

use crate::rules::family;

/// The rule that also speaks of broken files.
pub const UNREADABLE: &str = unreadable::RULE.id;

family![
    unreadable,
    empty,
    misplaced,
    unknown_key,
    missing_key,
    repeated_key,
    exclusive_keys,
    wrong_shape,
    bad_name,
    number_trap,
    yes_no_trap,
    expression,
    quotes,
    unknown_name,
    out_of_place,
    wrong_type,
    fixed_condition,
    absent_parent,
    bare_acceptance,
    idle_acceptance,
];

/// The end of most messages of this family.
pub(in crate::rules) const REFUSED: &str = "so this file is refused and nothing in it runs";
