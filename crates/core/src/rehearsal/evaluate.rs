//! Expressions with what is known of their values: three-valued.
//!
//! After the format's page "Evaluate expressions": values of different kinds are compared as numbers, texts without regard to case; `&&` and
//! `||` give one of their sides.

use super::value::Value;
use crate::expression::{Expr, ExprKind, Operator};

/// How two values are held against each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Equality {
    /// Values of different kinds as numbers, texts without regard to case.
    Loose,
    /// As texts, letter by letter; nothing equals nothing only.
    Strict,
}

/// Evaluates an expression. `look` gives the value of a dotted path, `call` that of a function which speaks of the run, such as
/// `success`.
pub fn evaluate(
    expression: &Expr,
    equality: Equality,
    look: &dyn Fn(&[&str]) -> Value,
    call: &dyn Fn(&str) -> Option<Value>,
) -> Value {
    let again = |inner: &Expr| evaluate(inner, equality, look, call);
    match &expression.kind {
        ExprKind::Null => Value::Null,
        ExprKind::Bool(value) => Value::Bool(*value),
        ExprKind::Number(number) => Value::Number(*number),
        ExprKind::Text(text) => Value::Text(text.clone()),
        ExprKind::Name(_) | ExprKind::Property(..) | ExprKind::Index(..) | ExprKind::Filter(_) => {
            match expression.path_with_stars() {
                Some(path) => look(&path.iter().map(|(word, _)| *word).collect::<Vec<_>>()),
                None => Value::Unknown,
            }
        }
        ExprKind::Call(name, arguments) => call(name).unwrap_or_else(|| {
            let values: Vec<Value> = arguments.iter().map(again).collect();
            function(name, &values)
        }),
        ExprKind::Not(inner) => again(inner).truth().map_or(Value::Unknown, |truth| Value::Bool(!truth)),
        ExprKind::Binary(operator, left, right) => binary(*operator, equality, &again(left), &again(right)),
        ExprKind::Matches(inner, pattern, any_case, negated) => match again(inner) {
            // Nothing fits no pattern.
            Value::Null => Value::Bool(*negated),
            value => {
                let fits = value.fits(|text| regex_fits(pattern, *any_case, text));
                fits.map_or(Value::Unknown, |fits| Value::Bool(fits != *negated))
            }
        },
    }
}

/// Whether a regular expression is found in a text; nothing when it is none.
pub fn regex_fits(pattern: &str, any_case: bool, text: &str) -> Option<bool> {
    let regex = regex::RegexBuilder::new(pattern).case_insensitive(any_case).size_limit(1 << 18).build().ok()?;
    Some(regex.is_match(text))
}

fn binary(operator: Operator, equality: Equality, left: &Value, right: &Value) -> Value {
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
        Operator::Equal | Operator::NotEqual => {
            let equal = match equality {
                Equality::Loose => left.equals(right),
                Equality::Strict => left.is_same(right),
            };
            equal.map_or(Value::Unknown, |equal| Value::Bool(equal == (operator == Operator::Equal)))
        }
        Operator::Less | Operator::LessOrEqual | Operator::Greater | Operator::GreaterOrEqual => {
            let texts = matches!((left, right), (Value::Text(_), Value::Text(_)));
            let numbers = left.number().zip(right.number()).filter(|_| !texts);
            let Some((left, right)) = numbers else { return Value::Unknown };
            Value::Bool(match operator {
                Operator::Less => left < right,
                Operator::LessOrEqual => left <= right,
                Operator::Greater => left > right,
                _ => left >= right,
            })
        }
    }
}

fn function(name: &str, values: &[Value]) -> Value {
    let name = name.to_ascii_lowercase();
    match (name.as_str(), values) {
        ("contains", [whole, part]) => whole.contains(part).map_or(Value::Unknown, Value::Bool),
        ("startswith", [whole, part]) => whole.starts_with(part).map_or(Value::Unknown, Value::Bool),
        ("endswith", [whole, part]) => whole.ends_with(part).map_or(Value::Unknown, Value::Bool),
        ("fromjson", [text]) => text.text().and_then(|text| Value::from_json(&text)).unwrap_or(Value::Unknown),
        // A pattern that stands in a variable.
        ("matches", [Value::Null, _]) => Value::Bool(false),
        ("matches", [whole, pattern]) => held_pattern(whole, pattern).map_or(Value::Unknown, Value::Bool),
        // Set, and not empty.
        ("present", [Value::Null]) => Value::Bool(false),
        ("present", [value]) => value.fits(|text| Some(!text.is_empty())).map_or_else(|| truth_of(value), Value::Bool),
        // Neither empty nor the word for no.
        ("holds", [Value::Null]) => Value::Bool(false),
        ("holds", [value]) => {
            let holds = |text: &str| Some(!text.is_empty() && !text.eq_ignore_ascii_case("false"));
            value.fits(holds).map_or(Value::Unknown, Value::Bool)
        }
        ("concat", parts) => {
            let texts: Option<String> = parts.iter().map(Value::text).collect();
            texts.map_or(Value::Unknown, Value::Text)
        }
        ("format", [form, inserted @ ..]) => formatted(form, inserted).map_or(Value::Unknown, Value::Text),
        _ => Value::Unknown,
    }
}

/// Whether a value counts as true, as a value.
fn truth_of(value: &Value) -> Value {
    value.truth().map_or(Value::Unknown, Value::Bool)
}

/// Whether a text fits a pattern that is itself a value: `/pattern/`, and an `i` behind it where case does not matter.
fn held_pattern(whole: &Value, pattern: &Value) -> Option<bool> {
    let pattern = pattern.text()?;
    let (inside, flags) = pattern.trim().strip_prefix('/')?.rsplit_once('/')?;
    whole.fits(|text| regex_fits(&inside.replace("\\/", "/"), flags.contains('i'), text))
}

/// A text with `{0}`, `{1}` and so on filled in.
fn formatted(form: &Value, inserted: &[Value]) -> Option<String> {
    let mut out = form.text()?;
    for (index, value) in inserted.iter().enumerate() {
        out = out.replace(&format!("{{{index}}}"), &value.text()?);
    }
    Some(out)
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
            assert_eq!(evaluate(&expression, Equality::Loose, &look, &call).truth(), expected, "{text}");
        }
    }

    #[test]
    fn variables_are_held_against_patterns() {
        let look = |path: &[&str]| match path {
            ["TAG"] => Value::Text("v1.2".into()),
            ["PATTERN"] => Value::Text("/^V\\d/i".into()),
            _ => Value::Null,
        };
        for (text, expected) in [
            ("$TAG =~ /^v[0-9]/", true),
            ("$TAG !~ /^V/", true),
            ("$TAG =~ /^V/i", true),
            ("$NONE =~ /x/", false),
            ("$NONE == null", true),
            ("$NONE == \"\"", false),
            ("$TAG == \"V1.2\"", false),
            ("$TAG =~ $PATTERN", true),
            ("$TAG !~ $PATTERN", false),
            ("$NONE =~ $PATTERN", false),
            ("$TAG && $NONE", false),
        ] {
            let expression = crate::expression::parse_variables(text).unwrap_or_else(|error| panic!("{text}: {error:?}"));
            assert_eq!(evaluate(&expression, Equality::Strict, &look, &|_| None).truth(), Some(expected), "{text}");
        }
    }
}
