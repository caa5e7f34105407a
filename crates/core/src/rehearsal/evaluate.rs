//! Expressions with what is known of their values: three-valued.
//!
//! After the format's page "Evaluate expressions": values of different kinds are compared as numbers, texts without regard to case; `&&` and
//! `||` give one of their sides.

use crate::expression::{Expr, ExprKind, Operator};

/// A value of an expression.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// Nothing.
    Null,
    /// Yes or no.
    Bool(bool),
    /// A number.
    Number(f64),
    /// A text.
    Text(String),
    /// A text that is only known when it runs, and surely none of these.
    NoneOf(Vec<String>),
    /// Only known when it runs.
    Unknown,
}

impl Value {
    /// Whether it counts as true; nothing when that is not known.
    pub fn truth(&self) -> Option<bool> {
        match self {
            Self::Null => Some(false),
            Self::Bool(value) => Some(*value),
            Self::Number(number) => Some(*number != 0.0 && !number.is_nan()),
            Self::Text(text) => Some(!text.is_empty()),
            Self::NoneOf(_) => Some(true),
            Self::Unknown => None,
        }
    }

    fn number(&self) -> f64 {
        match self {
            Self::Null => 0.0,
            Self::Bool(value) => f64::from(u8::from(*value)),
            Self::Number(number) => *number,
            Self::Text(text) if text.trim().is_empty() => 0.0,
            Self::Text(text) => text.trim().parse().unwrap_or(f64::NAN),
            Self::NoneOf(_) | Self::Unknown => f64::NAN,
        }
    }

    fn text(&self) -> Option<String> {
        match self {
            Self::Null => Some(String::new()),
            Self::Bool(value) => Some(value.to_string()),
            Self::Number(number) => Some(number.to_string()),
            Self::Text(text) => Some(text.clone()),
            Self::NoneOf(_) | Self::Unknown => None,
        }
    }
}

/// Evaluates an expression. `look` gives the value of a dotted path, `call` that of a function which speaks of the run, such as
/// `success`.
pub fn evaluate(expression: &Expr, look: &dyn Fn(&[&str]) -> Value, call: &dyn Fn(&str) -> Option<Value>) -> Value {
    let again = |inner: &Expr| evaluate(inner, look, call);
    match &expression.kind {
        ExprKind::Null => Value::Null,
        ExprKind::Bool(value) => Value::Bool(*value),
        ExprKind::Number(number) => Value::Number(*number),
        ExprKind::Text(text) => Value::Text(text.clone()),
        ExprKind::Name(_) | ExprKind::Property(..) | ExprKind::Index(..) | ExprKind::Filter(_) => match expression.path() {
            Some(path) => look(&path.iter().map(|(word, _)| *word).collect::<Vec<_>>()),
            None => Value::Unknown,
        },
        ExprKind::Call(name, arguments) => call(name).unwrap_or_else(|| {
            let values: Vec<Value> = arguments.iter().map(again).collect();
            function(name, &values)
        }),
        ExprKind::Not(inner) => again(inner).truth().map_or(Value::Unknown, |truth| Value::Bool(!truth)),
        ExprKind::Binary(operator, left, right) => binary(*operator, &again(left), &again(right)),
        ExprKind::Matches(inner, pattern, any_case, negated) => match again(inner) {
            Value::Unknown | Value::NoneOf(_) => Value::Unknown,
            value => {
                let fits = value.text().and_then(|text| regex_fits(pattern, *any_case, &text));
                // Nothing fits no pattern.
                let fits = if value == Value::Null { Some(false) } else { fits };
                fits.map_or(Value::Unknown, |fits| Value::Bool(fits != *negated))
            }
        },
    }
}

/// Whether a regular expression is found in a text; nothing when it is none.
pub(super) fn regex_fits(pattern: &str, any_case: bool, text: &str) -> Option<bool> {
    let regex = regex::RegexBuilder::new(pattern).case_insensitive(any_case).size_limit(1 << 18).build().ok()?;
    Some(regex.is_match(text))
}

fn binary(operator: Operator, left: &Value, right: &Value) -> Value {
    match operator {
        Operator::And => match (left.truth(), right.truth()) {
            (Some(false), _) => left.clone(),
            (Some(true), _) => right.clone(),
            (None, Some(false)) => Value::Bool(false),
            _ => Value::Unknown,
        },
        Operator::Or => match (left.truth(), right.truth()) {
            (Some(true), _) => left.clone(),
            (Some(false), _) => right.clone(),
            (None, Some(true)) => Value::Bool(true),
            _ => Value::Unknown,
        },
        Operator::Equal => equal(left, right).map_or(Value::Unknown, Value::Bool),
        Operator::NotEqual => equal(left, right).map_or(Value::Unknown, |equal| Value::Bool(!equal)),
        Operator::Less | Operator::LessOrEqual | Operator::Greater | Operator::GreaterOrEqual => {
            let texts = matches!((left, right), (Value::Text(_), Value::Text(_)));
            let unknown = |value: &Value| matches!(value, Value::Unknown | Value::NoneOf(_));
            if texts || unknown(left) || unknown(right) {
                return Value::Unknown;
            }
            let (left, right) = (left.number(), right.number());
            Value::Bool(match operator {
                Operator::Less => left < right,
                Operator::LessOrEqual => left <= right,
                Operator::Greater => left > right,
                _ => left >= right,
            })
        }
    }
}

fn equal(left: &Value, right: &Value) -> Option<bool> {
    match (left, right) {
        (Value::NoneOf(not), Value::Text(text)) | (Value::Text(text), Value::NoneOf(not)) if not.contains(text) => Some(false),
        (Value::NoneOf(_), Value::Null) | (Value::Null, Value::NoneOf(_)) => Some(false),
        (Value::Unknown | Value::NoneOf(_), _) | (_, Value::Unknown | Value::NoneOf(_)) => None,
        (Value::Text(left), Value::Text(right)) => Some(left.to_lowercase() == right.to_lowercase()),
        (Value::Null, Value::Null) => Some(true),
        (Value::Bool(left), Value::Bool(right)) => Some(left == right),
        _ => Some(left.number() == right.number()),
    }
}

fn function(name: &str, values: &[Value]) -> Value {
    let texts: Option<Vec<String>> = values.iter().map(Value::text).collect();
    let Some(texts) = texts else { return Value::Unknown };
    let lower: Vec<String> = texts.iter().map(|text| text.to_lowercase()).collect();
    match (name.to_ascii_lowercase().as_str(), lower.as_slice()) {
        ("contains", [text, part]) => Value::Bool(text.contains(part.as_str())),
        ("startswith", [text, part]) => Value::Bool(text.starts_with(part.as_str())),
        ("endswith", [text, part]) => Value::Bool(text.ends_with(part.as_str())),
        ("fromjson", [text]) => match text.as_str() {
            "true" => Value::Bool(true),
            "false" => Value::Bool(false),
            "null" => Value::Null,
            _ => text.parse().map_or(Value::Unknown, Value::Number),
        },
        ("format", _) => {
            let mut out = texts[0].clone();
            for (index, text) in texts.iter().enumerate().skip(1) {
                out = out.replace(&format!("{{{}}}", index - 1), text);
            }
            Value::Text(out)
        }
        _ => Value::Unknown,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn expressions_are_evaluated_as_the_manual_says() {
        let look = |path: &[&str]| match path {
            ["ref"] => Value::Text("refs/heads/Main".into()),
            ["none"] => Value::Null,
            _ => Value::Unknown,
        };
        let call = |name: &str| (name == "always").then_some(Value::Bool(true));
        for (text, expected) in [
            ("ref == 'refs/heads/main'", Some(true)),
            ("startsWith(ref, 'refs/heads/')", Some(true)),
            ("contains(ref, 'tag')", Some(false)),
            ("none == ''", Some(true)),
            ("none == 0", Some(true)),
            ("'true' == true", Some(false)),
            ("other == 'x' && false", Some(false)),
            ("other == 'x' || always()", Some(true)),
            ("other == 'x'", None),
            ("!other", None),
            ("ref && 'yes' || 'no'", Some(true)),
            ("format('{0}-{1}', 'a', 'b') == 'a-b'", Some(true)),
            ("1 < 2 && 2 >= 2", Some(true)),
            ("fromJSON('false')", Some(false)),
        ] {
            let expression = crate::expression::parse(text, 0..text.len()).unwrap_or_else(|error| panic!("{text}: {error:?}"));
            assert_eq!(evaluate(&expression, &look, &call).truth(), expected, "{text}");
        }
    }

    #[test]
    fn variables_are_held_against_patterns() {
        let look = |path: &[&str]| if path == ["TAG"] { Value::Text("v1.2".into()) } else { Value::Null };
        for (text, expected) in [
            ("$TAG =~ /^v[0-9]/", true),
            ("$TAG !~ /^V/", true),
            ("$TAG =~ /^V/i", true),
            ("$NONE =~ /x/", false),
            ("$NONE == null", true),
            ("$TAG && $NONE", false),
        ] {
            let expression = crate::expression::parse_variables(text).unwrap_or_else(|error| panic!("{text}: {error:?}"));
            assert_eq!(evaluate(&expression, &look, &|_| None).truth(), Some(expected), "{text}");
        }
    }
}
