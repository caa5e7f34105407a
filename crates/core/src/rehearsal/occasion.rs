//! The events that are played.

use crate::facts::Facts;
use crate::model::{Event, FilterOf, FilterSide, Pipeline, Trigger};

/// A kind of event.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum OccasionKind {
    /// Commits are pushed to a branch.
    Push,
    /// A tag is pushed.
    Tag,
    /// A pull request from this repository is opened or changed.
    Pull,
    /// The same from a fork.
    Fork,
    /// Someone starts it by hand.
    Hand,
    /// The clock.
    Clock,
    /// A release is published.
    Release,
    /// Another pipeline has run.
    After,
    /// Something outside the file starts it for a branch: a trigger's address, the forge's interface, another project.
    Outside,
    /// The same for a tag.
    OutsideTag,
    /// The same for a pull request.
    OutsideProposal,
}

impl OccasionKind {
    /// The word before the colon.
    pub fn word(self) -> &'static str {
        match self {
            Self::Push => "push",
            Self::Tag => "tag",
            Self::Pull => "pull",
            Self::Fork => "fork",
            Self::Hand => "hand",
            Self::Clock => "clock",
            Self::Release => "release",
            Self::After => "after",
            Self::Outside => "outside",
            Self::OutsideTag => "outside-tag",
            Self::OutsideProposal => "outside-proposal",
        }
    }
}

/// One event.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Occasion {
    /// Its kind.
    pub kind: OccasionKind,
    /// The branch or tag; of a pull request, the branch it goes into. Unknown only where nothing says which it is.
    pub name: Option<String>,
    /// The changed files, when they are known.
    pub changed: Option<Vec<String>>,
    /// The branch that a pull request comes from, when it is known.
    pub head: Option<String>,
    /// What another pipeline ran on, where this one follows it; before anything follows, how what is followed is to end.
    pub followed: Option<Box<Followed>>,
    /// Whoever starts it by hand gives values of their own in place of the usual ones.
    pub filled_in: bool,
}

/// The run that a pipeline follows.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Followed {
    /// The event that started it, by its name in the format.
    pub event: Option<String>,
    /// The branch or tag that it ran on; of a pull request, the branch that it comes from.
    pub branch: Option<String>,
    /// It is a pull request from a fork.
    pub fork: bool,
    /// How it ended; nothing where it has not ended yet.
    pub end: Option<String>,
}

impl Occasion {
    /// With a name.
    pub fn new(kind: OccasionKind, name: Option<&str>) -> Self {
        Self { kind, name: name.map(str::to_owned), changed: None, head: None, followed: None, filled_in: false }
    }

    /// The same, where the runs that are followed end in this way.
    pub fn ending(self, end: &str) -> Self {
        let followed = Followed { event: None, branch: None, fork: false, end: Some(end.to_owned()) };
        Self { followed: Some(Box::new(followed)), ..self }
    }

    /// A start by hand by someone who gives values of their own.
    pub fn filled_in(name: Option<&str>) -> Self {
        Self { filled_in: true, ..Self::new(OccasionKind::Hand, name) }
    }

    /// As it is typed: `push:main`.
    pub fn written(&self) -> String {
        match (self.kind, &self.name) {
            (OccasionKind::Clock | OccasionKind::Release, _) | (_, None) => self.kind.word().to_owned(),
            (kind, Some(name)) => format!("{}:{name}", kind.word()),
        }
    }

    /// In plain words, as what follows "on".
    pub fn told(&self) -> String {
        let name = match self.name.as_deref() {
            None => "a branch",
            Some(OTHER_BRANCH) => "any other branch",
            Some(OTHER_TAG) => return "any other tag".into(),
            Some(name) => name,
        };
        match self.kind {
            OccasionKind::Push => format!("a push to {name}"),
            OccasionKind::Tag => format!("the tag {name}"),
            OccasionKind::Pull => format!("a pull request into {name}"),
            OccasionKind::Fork => format!("a pull request into {name} from a fork"),
            OccasionKind::Hand if self.filled_in => format!("a start by hand on {name} with other values"),
            OccasionKind::Hand => format!("a start by hand on {name}"),
            OccasionKind::Clock => "the clock".into(),
            OccasionKind::Release => "a published release".into(),
            OccasionKind::After => "the end of another pipeline".into(),
            OccasionKind::Outside | OccasionKind::OutsideTag | OccasionKind::OutsideProposal => "a start from outside".into(),
        }
    }

    /// Nothing in the file says that it happens.
    pub(crate) fn is_outside(&self) -> bool {
        matches!(self.kind, OccasionKind::Outside | OccasionKind::OutsideTag | OccasionKind::OutsideProposal)
    }

    /// The branch that it names, when that is known not to exist.
    pub fn unknown_branch(&self, facts: &Facts) -> Option<&str> {
        let name = self.name.as_deref()?;
        let branches = facts.git.branches.known()?;
        let takes_branch = !matches!(self.kind, OccasionKind::Tag | OccasionKind::Release);
        (takes_branch && !branches.iter().any(|branch| branch == name)).then_some(name)
    }

    /// The branch that the run stands on, when it stands on one.
    pub fn branch(&self) -> Option<&str> {
        let stands = matches!(self.kind, OccasionKind::Push | OccasionKind::Hand | OccasionKind::Clock | OccasionKind::After);
        self.name.as_deref().filter(|_| stands)
    }
}

/// Reads an event as it is typed.
///
/// # Errors
/// What is possible, in one line.
pub fn parse_occasion(text: &str, facts: &Facts) -> Result<Occasion, String> {
    let (word, name) = text.split_once(':').map_or((text, None), |(word, name)| (word, Some(name)));
    let default = facts.git.default_branch.known().map(String::as_str);
    let kinds = [
        (OccasionKind::Push, true),
        (OccasionKind::Tag, true),
        (OccasionKind::Pull, true),
        (OccasionKind::Fork, true),
        (OccasionKind::Hand, true),
        (OccasionKind::Clock, false),
        (OccasionKind::Release, false),
    ];
    let possible = "push:BRANCH, tag:TAG, pull:BRANCH, fork:BRANCH, hand:BRANCH, clock or release";
    let found = kinds.iter().find(|(kind, _)| kind.word() == word);
    let Some((kind, named)) = found else {
        let near = crate::knowledge::nearest(word, kinds.iter().map(|(kind, _)| kind.word()));
        let hint = near.map(|near| format!(" Did you mean {near}?")).unwrap_or_default();
        return Err(format!("`{text}` is no event; an event is written {possible}.{hint}"));
    };
    match (named, name) {
        (true, Some(name)) if !name.is_empty() => Ok(Occasion::new(*kind, Some(name))),
        (true, _) if *kind == OccasionKind::Tag => Err(format!("`{text}` lacks the tag; an event is written {possible}")),
        (true, _) => match default {
            Some(branch) => Ok(Occasion::new(*kind, Some(branch))),
            None => Err(format!("`{text}` lacks the branch; an event is written {possible}")),
        },
        (false, Some(_)) => Err(format!("`{word}` takes nothing after a colon; an event is written {possible}")),
        (false, None) => Ok(Occasion::new(*kind, default)),
    }
}

/// Every event that a pipeline listens to, with branches where its filters name them and without where they do not; what other
/// pipelines bring about is none of them. Nothing when it listens to something that cannot be played.
pub fn possible(pipeline: &Pipeline, facts: &Facts) -> Option<Vec<Occasion>> {
    if pipeline.unknown_starts().is_some() {
        return None;
    }
    let mut found = Vec::new();
    // Where a start may come from outside, the file does not tell every event.
    let outside = [OccasionKind::Outside, OccasionKind::OutsideTag, OccasionKind::OutsideProposal];
    let known = outside.into_iter().filter(|kind| !super::run_values(pipeline, *kind, None).is_empty());
    found.extend(known.map(|kind| Occasion::new(kind, None)));
    for trigger in &pipeline.triggers {
        let kinds: &[OccasionKind] = match trigger.event {
            Event::Push => &[OccasionKind::Push],
            Event::Proposal | Event::PrivilegedProposal => &[OccasionKind::Pull, OccasionKind::Fork],
            Event::Hand => &[OccasionKind::Hand],
            Event::Clock => &[OccasionKind::Clock],
            Event::Release => &[OccasionKind::Release],
            Event::AfterPipeline | Event::Called => &[],
            Event::Other(_) | Event::Unknown(_) => return None,
        };
        let names = names_of(trigger, FilterOf::Branches);
        for kind in kinds {
            match &names {
                Some(names) => found.extend(names.iter().map(|name| Occasion::new(*kind, Some(name)))),
                None if *kind == OccasionKind::Hand => found.push(Occasion::filled_in(None)),
                None => found.push(Occasion::new(*kind, None)),
            }
        }
        if trigger.event == Event::Push {
            match names_of(trigger, FilterOf::Tags) {
                Some(names) => {
                    // Where names are said of branches and tags at once, that of a branch is meant for it.
                    let is_branch =
                        |name: &str| facts.git.branches.known().is_some_and(|known| known.iter().any(|one| one == name));
                    let names = names.iter().filter(|name| !is_branch(name));
                    found.extend(names.map(|name| Occasion::new(OccasionKind::Tag, Some(name))));
                }
                None => found.push(Occasion::new(OccasionKind::Tag, None)),
            }
        }
    }
    Some(found)
}

/// The names that a trigger's filter lets through, when it lists names and nothing else.
fn names_of(trigger: &Trigger, of: FilterOf) -> Option<Vec<String>> {
    let patterns = &trigger.filter(of, FilterSide::Include)?.patterns;
    patterns.iter().map(|pattern| pattern.literal().map(str::to_owned)).collect()
}

/// Stands for a branch that nothing names.
pub const OTHER_BRANCH: &str = "any-other-branch";

/// Stands for a tag that nothing names.
pub const OTHER_TAG: &str = "any-other-tag";
