//! What Dulk says: a contradiction between two places, and what to do about it.

use std::collections::HashMap;

use serde::Serialize;

use crate::knowledge::Meant;
use crate::text::{FileId, Place};

/// How bad it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// A good habit.
    Advice,
    /// Works now, but is risky, fragile or wasteful in a way that bites.
    Warning,
    /// Will not run, will fail, publishes the wrong thing or nothing, or leaks a credential.
    Error,
}

impl Severity {
    /// The word.
    pub fn word(self) -> &'static str {
        match self {
            Self::Advice => "advice",
            Self::Warning => "warning",
            Self::Error => "error",
        }
    }

    /// The severity of a word.
    pub fn of(word: &str) -> Option<Self> {
        [Self::Advice, Self::Warning, Self::Error].into_iter().find(|severity| severity.word() == word)
    }
}

/// One thing that is wrong.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// `family.name`
    pub rule: &'static str,
    /// After the user's settings.
    pub severity: Severity,
    /// What will happen, in plain words.
    pub message: String,
    /// The place that says it.
    pub at: Place,
    /// What speaks against it.
    pub witnesses: Vec<Witness>,
    /// What to do.
    pub mend: Mend,
    /// What stands at its place is a credential, and shown nowhere.
    pub hides: bool,
    /// What it shares with others of its rule and file that have the same cause.
    pub cause: Option<String>,
}

/// The other side of a contradiction.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Witness {
    /// Where it is known from.
    pub source: WitnessSource,
    /// What it says.
    pub text: String,
}

/// Where a witness stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum WitnessSource {
    /// git's branches and tags.
    Git,
    /// The list of the repository's files.
    Files,
    /// A place in a file.
    At(Place),
    /// What is known of the world: a format's or an action's manual.
    Catalog,
}

/// The next thing to do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mend {
    /// In the imperative, as the end of "do …".
    pub title: String,
    /// The edits are surely right.
    pub certain: bool,
    /// Changes to the texts; none when a person has to decide.
    pub edits: Vec<Edit>,
}

/// One change to a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// What is replaced.
    pub at: Place,
    /// By what.
    pub text: String,
}

impl Edit {
    /// Puts a text in the place of another.
    pub fn replace(at: Place, text: impl Into<String>) -> Self {
        Self { at, text: text.into() }
    }
}

impl Mend {
    /// Something that a person has to do.
    pub fn by_hand(title: impl Into<String>) -> Self {
        Self { title: title.into(), certain: false, edits: Vec::new() }
    }

    /// Edits that may be applied without asking.
    pub fn certain(title: impl Into<String>, edits: impl Into<Vec<Edit>>) -> Self {
        Self { title: title.into(), certain: true, edits: edits.into() }
    }

    /// Writes the name that is meant in the place of one that is not there.
    pub fn name(meant: &Meant, place: Place) -> Self {
        Self {
            title: format!("write {}", meant.word),
            certain: meant.sure,
            edits: vec![Edit::replace(place, meant.word.clone())],
        }
    }

    /// Does what another one does as well: by edits only where both have some, and unasked only where both are certain.
    pub fn join(&mut self, other: Self) {
        self.certain &= other.certain;
        if self.edits.is_empty() || other.edits.is_empty() {
            self.edits.clear();
        } else {
            self.edits.extend(other.edits);
        }
    }

    /// Edits that are likely meant, and need a person's word.
    pub fn likely(title: impl Into<String>, edits: impl Into<Vec<Edit>>) -> Self {
        Self { title: title.into(), certain: false, edits: edits.into() }
    }
}

impl Finding {
    /// The part before the point.
    pub fn family(&self) -> &'static str {
        self.rule.split_once('.').map_or(self.rule, |(family, _)| family)
    }

    /// Adds a witness.
    pub fn witness(&mut self, source: WitnessSource, text: impl Into<String>) -> &mut Self {
        self.witnesses.push(Witness { source, text: text.into() });
        self
    }

    /// Says what to do.
    pub fn mend(&mut self, mend: Mend) -> &mut Self {
        self.mend = mend;
        self
    }

    /// What stands at its place is shown nowhere.
    pub fn hide(&mut self) -> &mut Self {
        self.hides = true;
        self
    }

    /// Several findings of this rule with the same words in one file have one cause, and become one.
    pub fn one_cause(&mut self) -> &mut Self {
        self.cause = Some(self.message.clone());
        self
    }

    /// The same, of those with this cause, whatever their words are.
    pub fn caused_by(&mut self, cause: impl Into<String>) -> &mut Self {
        self.cause = Some(cause.into());
        self
    }

    /// Sets another severity than the rule's own, where what is known carries less.
    pub fn severity(&mut self, severity: Severity) -> &mut Self {
        self.severity = severity;
        self
    }
}

/// Collects what one rule says.
#[derive(Debug)]
pub struct Findings {
    rule: &'static str,
    severity: Severity,
    found: Vec<Finding>,
}

impl Findings {
    /// For a rule and its severity.
    pub fn new(rule: &'static str, severity: Severity) -> Self {
        Self { rule, severity, found: Vec::new() }
    }

    /// Adds a finding, to be completed by its witnesses and its mend.
    pub fn add(&mut self, at: Place, message: impl Into<String>) -> &mut Finding {
        let mend = Mend::by_hand(String::new());
        let finding = Finding {
            rule: self.rule,
            severity: self.severity,
            message: message.into(),
            at,
            witnesses: Vec::new(),
            mend,
            hides: false,
            cause: None,
        };
        self.found.push(finding);
        let last = self.found.len() - 1;
        &mut self.found[last]
    }

    /// All of them.
    pub fn into_vec(self) -> Vec<Finding> {
        self.found
    }
}

/// Findings in the order they are read: by file, place, family and rule.
pub fn sort(findings: &mut [Finding]) {
    let key = |finding: &Finding| -> (FileId, u32, &'static str, u32) {
        (finding.at.file, finding.at.span.start, finding.rule, finding.at.span.end)
    };
    findings.sort_by(|a, b| key(a).cmp(&key(b)).then_with(|| a.message.cmp(&b.message)));
}

/// "a", "a and b", "a, b and c".
pub fn listed<T: AsRef<str>>(words: &[T]) -> String {
    match words {
        [] => String::new(),
        [one] => one.as_ref().to_owned(),
        // Nobody reads hundreds of names, and each of hundreds of findings may list them.
        _ if words.len() > 30 => listed_short(words),
        [first @ .., last] => {
            let first: Vec<&str> = first.iter().map(AsRef::as_ref).collect();
            format!("{} and {}", first.join(", "), last.as_ref())
        }
    }
}

/// The same for many words: the first eight, and how many more there are.
pub fn listed_short<T: AsRef<str>>(words: &[T]) -> String {
    const SHOWN: usize = 8;
    if words.len() <= SHOWN + 1 {
        return listed(words);
    }
    let first: Vec<&str> = words[..SHOWN].iter().map(AsRef::as_ref).collect();
    format!("{} and {} more", first.join(", "), words.len() - SHOWN)
}

/// What is said of a place that has the same cause.
pub const HERE_TOO: &str = "and here";

/// Makes one finding of those that have one cause: the first keeps its place, the others become witnesses, and its mend mends them all.
pub fn join_causes(findings: Vec<Finding>) -> Vec<Finding> {
    let mut first: HashMap<(&'static str, FileId, bool, String), usize> = HashMap::new();
    let mut joined: Vec<Finding> = Vec::new();
    for finding in findings {
        let known = finding.cause.clone().map(|cause| (finding.rule, finding.at.file, finding.mend.certain, cause));
        let same = known.as_ref().and_then(|key| first.get(key)).copied();
        match (same, known) {
            (Some(index), _) => joined[index].take_over(finding),
            (None, key) => {
                first.extend(key.map(|key| (key, joined.len())));
                joined.push(finding);
            }
        }
    }
    joined
}

impl Finding {
    fn take_over(&mut self, other: Self) {
        self.witness(WitnessSource::At(other.at), HERE_TOO);
        self.mend.join(other.mend);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn of_hundreds_of_names_a_few_are_told() {
        let names: Vec<String> = (0..300).map(|number| format!("pier{number}")).collect();
        assert_eq!(listed(&names[..3]), "pier0, pier1 and pier2");
        assert_eq!(listed(&names), listed_short(&names));
        assert!(listed(&names).ends_with("pier7 and 292 more"));
    }
}
