//! What has been accepted, and why.

use crate::project::Project;
use crate::text::Place;

/// A finding that somebody has accepted with a reason.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Accepted {
    /// The rule as it is written.
    pub rule: String,
    /// The reason.
    pub because: String,
    /// The file that it is accepted in, where the acceptance does not stand there.
    pub file: Option<String>,
    /// The acceptance: a comment, or the rule's name in dulk.toml.
    pub at: Place,
}

/// All that is accepted, comments first.
pub fn accepted(project: &Project<'_>) -> Vec<Accepted> {
    let comments = project
        .prepared
        .iter()
        .flat_map(|one| &one.acceptances)
        .filter_map(|one| Some(Accepted { rule: one.rule.clone(), because: one.reason.clone()?, file: None, at: one.at }));
    let settings = project.facts.settings.accept.iter().map(|one| Accepted {
        rule: one.rule.name.clone(),
        because: one.because.name.clone(),
        file: Some(one.path().to_owned()),
        at: one.rule.at,
    });
    comments.chain(settings).collect()
}
