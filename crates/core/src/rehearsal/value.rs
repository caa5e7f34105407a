//! What an expression gives, as far as it is known before it runs.

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
    /// One of these texts; which, is only known when it runs.
    OneOf(Vec<String>),
    /// A text that is only known when it runs, and surely none of these.
    NoneOf(Vec<String>),
    /// A text with a number in it that is only known when it runs, between these two.
    Numbered(String, String),
    /// A text with a name in it that is only known when it runs, between these two.
    Framed(String, String),
    /// A text that is the same wherever this is read, as the name of the repository itself.
    Name(String),
    /// A text that is surely another one than that.
    OtherName(String),
    /// A list.
    List(Vec<Value>),
    /// Keys with values of which no more is known.
    Object,
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
            Self::OneOf(texts) => all(texts.iter().map(|text| Some(!text.is_empty()))),
            Self::NoneOf(_)
            | Self::Numbered(..)
            | Self::Framed(..)
            | Self::Name(_)
            | Self::OtherName(_)
            | Self::List(_)
            | Self::Object => Some(true),
            Self::Unknown => None,
        }
    }

    /// As a number, which may be none at all; nothing when that is not known.
    pub(super) fn number(&self) -> Option<f64> {
        match self {
            Self::Null => Some(0.0),
            Self::Bool(value) => Some(f64::from(u8::from(*value))),
            Self::Number(number) => Some(*number),
            Self::Text(text) if text.trim().is_empty() => Some(0.0),
            Self::Text(text) => Some(text.trim().parse().unwrap_or(f64::NAN)),
            Self::Numbered(..) | Self::List(_) | Self::Object => Some(f64::NAN),
            // The name of a repository has a slash in it.
            Self::Name(_) | Self::OtherName(_) => Some(f64::NAN),
            Self::OneOf(_) | Self::NoneOf(_) | Self::Framed(..) | Self::Unknown => None,
        }
    }

    /// As the one text that it surely is.
    pub(super) fn text(&self) -> Option<String> {
        match self {
            Self::Null => Some(String::new()),
            Self::Bool(value) => Some(value.to_string()),
            Self::Number(number) => Some(number.to_string()),
            Self::Text(text) => Some(text.clone()),
            _ => None,
        }
    }

    /// All texts that it may be, in small letters.
    fn texts(&self) -> Option<Vec<String>> {
        match self {
            Self::OneOf(texts) => Some(texts.iter().map(|text| text.to_lowercase()).collect()),
            other => Some(vec![other.text()?.to_lowercase()]),
        }
    }

    /// What a JSON text stands for; nothing when it is none.
    pub(super) fn from_json(text: &str) -> Option<Self> {
        fn of(value: &serde_json::Value) -> Value {
            match value {
                serde_json::Value::Null => Value::Null,
                serde_json::Value::Bool(value) => Value::Bool(*value),
                serde_json::Value::Number(number) => number.as_f64().map_or(Value::Unknown, Value::Number),
                serde_json::Value::String(text) => Value::Text(text.clone()),
                serde_json::Value::Array(items) => Value::List(items.iter().map(of).collect()),
                serde_json::Value::Object(_) => Value::Object,
            }
        }
        serde_json::from_str(text).ok().as_ref().map(of)
    }

    /// Whether two values count as equal; nothing when that is not known.
    pub(super) fn equals(&self, other: &Self) -> Option<bool> {
        match (self, other) {
            (Self::Unknown, _) | (_, Self::Unknown) => None,
            (Self::OneOf(texts), value) | (value, Self::OneOf(texts)) => {
                all(texts.iter().map(|text| Self::Text(text.clone()).equals(value)))
            }
            (Self::NoneOf(not), Self::Text(text)) | (Self::Text(text), Self::NoneOf(not)) => {
                not.iter().any(|one| one.eq_ignore_ascii_case(text)).then_some(false)
            }
            (Self::NoneOf(_), Self::Null) | (Self::Null, Self::NoneOf(_)) => Some(false),
            (Self::NoneOf(_), _) | (_, Self::NoneOf(_)) => None,
            (Self::Numbered(before, after), Self::Text(text)) | (Self::Text(text), Self::Numbered(before, after)) => {
                let inside = text.strip_prefix(before.as_str()).and_then(|rest| rest.strip_suffix(after.as_str()));
                let fits = inside.is_some_and(|inside| !inside.is_empty() && inside.bytes().all(|byte| byte.is_ascii_digit()));
                (!fits).then_some(false)
            }
            (Self::Framed(before, after), Self::Text(text)) | (Self::Text(text), Self::Framed(before, after)) => {
                let (text, before, after) = (text.to_lowercase(), before.to_lowercase(), after.to_lowercase());
                let inside = text.strip_prefix(before.as_str()).and_then(|rest| rest.strip_suffix(after.as_str()));
                inside.is_none_or(str::is_empty).then_some(false)
            }
            (Self::Framed(..), Self::Null) | (Self::Null, Self::Framed(..)) => Some(false),
            (Self::Framed(..), _) | (_, Self::Framed(..)) => None,
            (Self::Name(one), Self::Name(other)) => (one == other).then_some(true),
            (Self::Name(one), Self::OtherName(other)) | (Self::OtherName(other), Self::Name(one)) => {
                (one == other).then_some(false)
            }
            (Self::Name(_) | Self::OtherName(_), Self::Text(_)) | (Self::Text(_), Self::Name(_) | Self::OtherName(_)) => None,
            (Self::OtherName(_), Self::OtherName(_)) | (Self::List(_), Self::List(_)) | (Self::Object, Self::Object) => None,
            (Self::Text(left), Self::Text(right)) => Some(left.to_lowercase() == right.to_lowercase()),
            _ => self.number().zip(other.number()).map(|(left, right)| left == right),
        }
    }

    /// Whether two values are the same text, letter by letter, or both nothing; nothing when that is not known.
    pub(super) fn is_same(&self, other: &Self) -> Option<bool> {
        match (self, other) {
            (Self::Null, Self::Null) => Some(true),
            (Self::Unknown, _) | (_, Self::Unknown) => None,
            (Self::Null, _) | (_, Self::Null) => Some(false),
            (Self::OneOf(texts), value) | (value, Self::OneOf(texts)) => {
                all(texts.iter().map(|text| Self::Text(text.clone()).is_same(value)))
            }
            _ => match (self.text(), other.text()) {
                (Some(left), Some(right)) => Some(left == right),
                _ => self.equals(other),
            },
        }
    }

    /// What all texts that it may be say of something.
    pub(super) fn fits(&self, holds: impl Fn(&str) -> Option<bool>) -> Option<bool> {
        match self {
            Self::OneOf(texts) => all(texts.iter().map(|text| holds(text))),
            other => holds(&other.text()?),
        }
    }

    /// Whether a text, or an item of a list, is in this one.
    pub(super) fn contains(&self, part: &Self) -> Option<bool> {
        match (self, part) {
            (Self::List(items), _) => any(items.iter().map(|item| item.equals(part))),
            (Self::Numbered(before, after), _) => {
                let part = part.text()?.to_lowercase();
                let digits = part.contains(|c: char| c.is_ascii_digit());
                (!digits).then(|| before.contains(&part) || after.contains(&part))
            }
            (Self::Framed(before, after), _) => {
                let part = part.text()?.to_lowercase();
                (before.to_lowercase().contains(&part) || after.to_lowercase().contains(&part)).then_some(true)
            }
            _ => self.compare(part, |text, part| text.contains(part)),
        }
    }

    /// Whether a text begins with another.
    pub(super) fn starts_with(&self, part: &Self) -> Option<bool> {
        match self {
            Self::Numbered(before, _) | Self::Framed(before, _) => {
                let (part, before) = (part.text()?.to_lowercase(), before.to_lowercase());
                let further = part.starts_with(before.as_str()) && part.len() > before.len();
                (!further).then(|| before.starts_with(&part))
            }
            _ => self.compare(part, |text, part| text.starts_with(part)),
        }
    }

    /// Whether a text ends with another.
    pub(super) fn ends_with(&self, part: &Self) -> Option<bool> {
        match self {
            Self::Numbered(_, after) | Self::Framed(_, after) => {
                let (part, after) = (part.text()?.to_lowercase(), after.to_lowercase());
                let further = part.ends_with(after.as_str()) && part.len() > after.len();
                (!further).then(|| after.ends_with(&part))
            }
            _ => self.compare(part, |text, part| text.ends_with(part)),
        }
    }

    fn compare(&self, part: &Self, holds: impl Fn(&str, &str) -> bool) -> Option<bool> {
        let (texts, parts) = (self.texts()?, part.texts()?);
        all(texts.iter().flat_map(|text| parts.iter().map(|part| Some(holds(text, part)))))
    }
}

/// What all answers agree on.
fn all(mut answers: impl Iterator<Item = Option<bool>>) -> Option<bool> {
    let first = answers.next()??;
    answers.all(|answer| answer == Some(first)).then_some(first)
}

/// Whether any is true; nothing when that is not known.
pub(super) fn any(answers: impl Iterator<Item = Option<bool>>) -> Option<bool> {
    let mut unsure = false;
    for answer in answers {
        match answer {
            Some(true) => return Some(true),
            Some(false) => {}
            None => unsure = true,
        }
    }
    if unsure { None } else { Some(false) }
}
