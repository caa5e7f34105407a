//! What a plain word means under YAML's core schema (YAML 1.2.2, section 10.3.2).

/// The kind of a plain scalar.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Core {
    /// Empty, `~` or `null`.
    Null,
    /// `true` or `false`.
    Bool(bool),
    /// A whole number, decimal, octal or hexadecimal.
    Integer,
    /// A number with a point or an exponent; `20.10` is one, and means 20.1.
    Float,
    /// Anything else.
    Text,
}

/// Resolves a plain scalar. `yes`, `on` and their kin are words here, as in YAML 1.2.
pub fn resolve_plain(text: &str) -> Core {
    // Most words begin with a letter that no number begins with, and none of these words.
    if text.bytes().next().is_some_and(|first| first.is_ascii_alphabetic() && !b"nNtTfF".contains(&first)) {
        return Core::Text;
    }
    match text {
        "" | "~" | "null" | "Null" | "NULL" => return Core::Null,
        "true" | "True" | "TRUE" => return Core::Bool(true),
        "false" | "False" | "FALSE" => return Core::Bool(false),
        ".inf" | ".Inf" | ".INF" | "+.inf" | "-.inf" | ".nan" | ".NaN" | ".NAN" => return Core::Float,
        _ => {}
    }
    let digits_in = |text: &str, radix: u32| !text.is_empty() && text.chars().all(|c| c.is_digit(radix));
    if let Some(rest) = text.strip_prefix("0x") {
        return if digits_in(rest, 16) { Core::Integer } else { Core::Text };
    }
    if let Some(rest) = text.strip_prefix("0o") {
        return if digits_in(rest, 8) { Core::Integer } else { Core::Text };
    }
    let unsigned = text.strip_prefix(['+', '-']).unwrap_or(text);
    if digits_in(unsigned, 10) {
        return Core::Integer;
    }
    if is_float(unsigned) { Core::Float } else { Core::Text }
}

/// `[0-9]*\.?[0-9]*([eE][-+]?[0-9]+)?` with at least one digit before the exponent.
fn is_float(unsigned: &str) -> bool {
    let (mantissa, exponent) = match unsigned.split_once(['e', 'E']) {
        Some((mantissa, exponent)) => (mantissa, Some(exponent)),
        None => (unsigned, None),
    };
    let exponent_fits = exponent.is_none_or(|exponent| {
        let digits = exponent.strip_prefix(['+', '-']).unwrap_or(exponent);
        !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_digit())
    });
    let (whole, fraction) = mantissa.split_once('.').unwrap_or((mantissa, ""));
    let all_digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    exponent_fits && all_digits(whole) && all_digits(fraction) && !(whole.is_empty() && fraction.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn plain_words_resolve_as_the_core_schema_says() {
        for (text, expected) in [
            ("20.10", Core::Float),
            ("3", Core::Integer),
            ("0o17", Core::Integer),
            ("0x1F", Core::Integer),
            ("1e3", Core::Float),
            ("v1", Core::Text),
            ("1.2.3", Core::Text),
            ("on", Core::Text),
            ("yes", Core::Text),
            ("true", Core::Bool(true)),
            ("~", Core::Null),
            (".", Core::Text),
            ("e5", Core::Text),
            ("-7", Core::Integer),
        ] {
            assert_eq!(resolve_plain(text), expected, "{text}");
        }
    }
}
