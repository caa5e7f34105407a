//! The events that are played: as they are typed, and those that matter for a repository.

use crate::case::Project;
use crate::facts::Facts;
use crate::model::{Event, Filter, FilterOf, FilterSide, Pattern, Pipeline, Trigger};

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
        }
    }
}

/// One event.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Occasion {
    /// Its kind.
    pub kind: OccasionKind,
    /// The branch or tag; of a pull request, the branch it goes into. Unknown only where nothing says which it is.
    pub name: Option<String>,
    /// The changed files, when they are known.
    pub changed: Option<Vec<String>>,
    /// The branch that a pull request comes from, when it is known.
    pub head: Option<String>,
}

impl Occasion {
    /// With a name.
    pub fn new(kind: OccasionKind, name: Option<&str>) -> Self {
        Self { kind, name: name.map(str::to_owned), changed: None, head: None }
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
        let name = self.name.as_deref().unwrap_or("a branch");
        match self.kind {
            OccasionKind::Push => format!("a push to {name}"),
            OccasionKind::Tag => format!("the tag {name}"),
            OccasionKind::Pull => format!("a pull request into {name}"),
            OccasionKind::Fork => format!("a pull request into {name} from a fork"),
            OccasionKind::Hand => format!("a start by hand on {name}"),
            OccasionKind::Clock => "the clock".into(),
            OccasionKind::Release => "a published release".into(),
            OccasionKind::After => "the end of another pipeline".into(),
        }
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

/// The events that matter for a repository: those that some pipeline names, and pushes to the branches that its filters tell apart.
pub fn columns(project: &Project<'_>) -> Vec<Occasion> {
    let default = project.facts.git.default_branch.known().map(String::as_str);
    let triggers: Vec<&Trigger> = project.prepared.iter().flat_map(|prepared| &prepared.pipeline.triggers).collect();
    let has = |wanted: &[Event]| triggers.iter().any(|trigger| wanted.contains(&trigger.event));
    let mut found: Vec<Occasion> = Vec::new();
    if has(&[Event::Push]) {
        found.extend(pushes(project, &triggers, default));
        found.extend(tags(project, &triggers).into_iter().map(|tag| Occasion::new(OccasionKind::Tag, Some(&tag))));
    }
    if has(&[Event::Proposal, Event::PrivilegedProposal]) {
        found.push(Occasion::new(OccasionKind::Pull, default));
        found.push(Occasion::new(OccasionKind::Fork, default));
    }
    if has(&[Event::Hand]) {
        found.push(Occasion::new(OccasionKind::Hand, default));
    }
    if has(&[Event::Clock]) {
        found.push(Occasion::new(OccasionKind::Clock, default));
    }
    if has(&[Event::Release]) {
        let tag = project.facts.git.tags.known().and_then(|tags| tags.last()).map(String::as_str);
        found.push(Occasion::new(OccasionKind::Release, Some(tag.unwrap_or("v1.0.0"))));
    }
    found
}

/// Every event that a pipeline listens to, with branches where its filters name them and without where they do not. Nothing when it
/// listens to something that cannot be played.
pub fn possible(pipeline: &Pipeline) -> Option<Vec<Occasion>> {
    let mut found = Vec::new();
    for trigger in &pipeline.triggers {
        let kinds: &[OccasionKind] = match trigger.event {
            Event::Push => &[OccasionKind::Push],
            Event::Proposal | Event::PrivilegedProposal => &[OccasionKind::Pull, OccasionKind::Fork],
            Event::Hand => &[OccasionKind::Hand],
            Event::Clock => &[OccasionKind::Clock],
            Event::Release => &[OccasionKind::Release],
            Event::AfterPipeline => &[OccasionKind::After],
            Event::Called | Event::Other(_) | Event::Unknown(_) => return None,
        };
        let names = names_of(trigger, FilterOf::Branches);
        for kind in kinds {
            match &names {
                Some(names) => found.extend(names.iter().map(|name| Occasion::new(*kind, Some(name)))),
                None => found.push(Occasion::new(*kind, None)),
            }
        }
        if trigger.event == Event::Push {
            match names_of(trigger, FilterOf::Tags) {
                Some(names) => found.extend(names.iter().map(|name| Occasion::new(OccasionKind::Tag, Some(name)))),
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

/// Branches that are looked at one by one; a repository may have thousands.
const BRANCHES_TRIED: usize = 60;

/// Stands for a branch that nothing names.
pub const OTHER_BRANCH: &str = "any-other-branch";

/// More branches than this make no grid that a person reads.
const BRANCH_LIMIT: usize = 4;

fn pushes(project: &Project<'_>, triggers: &[&Trigger], default: Option<&str>) -> Vec<Occasion> {
    let known = project.facts.git.branches.known().map(Vec::as_slice).unwrap_or_default();
    let mut candidates: Vec<String> = default.map(str::to_owned).into_iter().collect();
    let named = triggers.iter().flat_map(|trigger| filters(trigger, FilterOf::Branches)).flat_map(|filter| &filter.patterns);
    let named: Vec<String> = named.filter_map(|pattern| pattern.literal().map(str::to_owned)).collect();
    let existing_first = named.iter().filter(|name| known.contains(name)).chain(known).chain(&named);
    candidates.extend(existing_first.take(BRANCHES_TRIED).cloned());
    if default.is_some() {
        candidates.push(OTHER_BRANCH.into());
    }
    let mut seen: Vec<Vec<super::Answer>> = Vec::new();
    let mut found = Vec::new();
    for name in candidates {
        let occasion = Occasion::new(OccasionKind::Push, Some(&name));
        // Branches that start the same jobs need one column.
        let print: Vec<super::Answer> = project
            .rehearse(&occasion)
            .iter()
            .flat_map(|rehearsal| std::iter::once(rehearsal.starts.answer).chain(rehearsal.jobs.iter().map(|job| job.answer)))
            .collect();
        if found.len() < BRANCH_LIMIT && !seen.contains(&print) {
            seen.push(print);
            found.push(occasion);
        }
    }
    found
}

fn filters(trigger: &Trigger, of: FilterOf) -> impl Iterator<Item = &Filter> {
    trigger.filters.iter().filter(move |filter| filter.of == of)
}

/// One tag for each pattern in use: one that exists, or one that is made after the pattern.
fn tags(project: &Project<'_>, triggers: &[&Trigger]) -> Vec<String> {
    let known = project.facts.git.tags.known().map(Vec::as_slice).unwrap_or_default();
    let mut found: Vec<String> = Vec::new();
    for trigger in triggers.iter().filter(|trigger| trigger.event == Event::Push) {
        let patterns = filters(trigger, FilterOf::Tags).filter(|filter| filter.side == FilterSide::Include);
        for pattern in patterns.flat_map(|filter| &filter.patterns).filter(|pattern| !pattern.text.value.starts_with('!')) {
            let existing = known.iter().rev().find(|tag| super::pattern_fits(pattern, tag) == Some(true));
            if let Some(tag) = existing.cloned().or_else(|| example(pattern))
                && !found.contains(&tag)
                && found.len() < BRANCH_LIMIT
            {
                found.push(tag);
            }
        }
        if trigger.filters.is_empty() && found.is_empty() {
            found.push(known.last().cloned().unwrap_or_else(|| "v1.0.0".into()));
        }
    }
    found
}

/// A tag that a pattern fits.
fn example(pattern: &Pattern) -> Option<String> {
    let text = pattern.text.known()?;
    let tried = ["v1.2.3", "1.2.3", "v1", "v1.2", "release-1", "release/1"].map(str::to_owned);
    let filled = text.replace("[0-9]+", "1").replace("**", "1").replace('*', "1");
    tried.into_iter().chain([filled]).find(|tag| super::pattern_fits(pattern, tag) == Some(true))
}
