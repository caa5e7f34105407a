//! Whether the file is read at all, and says what its format knows.

pub(in crate::rules) mod absent_parent;
pub(in crate::rules) mod absent_reference;
pub(in crate::rules) mod bad_name;
pub(in crate::rules) mod bare_acceptance;
pub(in crate::rules) mod empty;
pub(in crate::rules) mod exclusive_keys;
pub(in crate::rules) mod expression;
pub(in crate::rules) mod fixed_condition;
pub(in crate::rules) mod forbidden;
pub(in crate::rules) mod idle_acceptance;
pub(in crate::rules) mod misplaced;
pub(in crate::rules) mod missing_key;
pub(in crate::rules) mod not_read;
pub(in crate::rules) mod number_trap;
pub(in crate::rules) mod out_of_place;
pub(in crate::rules) mod quotes;
pub(in crate::rules) mod repeated_key;
pub(in crate::rules) mod too_large;
pub(in crate::rules) mod unknown_key;
pub(in crate::rules) mod unknown_name;
pub(in crate::rules) mod unknown_word;
pub(in crate::rules) mod unreadable;
pub(in crate::rules) mod words_in_one;
pub(in crate::rules) mod wrong_shape;
pub(in crate::rules) mod wrong_type;
pub(in crate::rules) mod yes_no_trap;

use crate::case::Case;
use crate::knowledge::Consequence;
use crate::rules::family;

/// The rules that also speak of files which could not be read to their end.
pub const OF_BROKEN_FILES: [&str; 2] = [unreadable::RULE.id, too_large::RULE.id];

family![
    unreadable,
    too_large,
    empty,
    misplaced,
    unknown_key,
    missing_key,
    repeated_key,
    exclusive_keys,
    wrong_shape,
    words_in_one,
    not_read,
    bad_name,
    number_trap,
    yes_no_trap,
    expression,
    quotes,
    unknown_name,
    unknown_word,
    out_of_place,
    wrong_type,
    forbidden,
    fixed_condition,
    absent_parent,
    absent_reference,
    bare_acceptance,
    idle_acceptance,
];

/// The end of most messages of this family.
pub(in crate::rules) const REFUSED: &str = "so this file is refused and nothing in it runs";

/// What a value of a wrong shape, or one that is missing, leads to, as the end of a sentence.
pub(in crate::rules) fn wrong_shape_leads_to(case: &Case<'_>) -> &'static str {
    if case.pipeline.format.grammar().refuses_shapes { REFUSED } else { unknown_key_leads_to(case) }
}

/// What a key leads to that the format does not know, as the end of a sentence.
pub(in crate::rules) fn unknown_key_leads_to(case: &Case<'_>) -> &'static str {
    match case.pipeline.customs.wrong_key {
        Consequence::Refused => REFUSED,
        Consequence::PassedOver | Consequence::Unknown => "so it counts for nothing",
    }
}
