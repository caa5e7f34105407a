//! The events that rules look at: all that can start a group of pipelines, as far as the group can tell them apart.
//!
//! Nothing here is chosen for people: the grid of `when` makes its columns from this list, and never the other way round.

use std::collections::HashSet;

use super::Project;
use crate::expression::{Expr, ExprKind, Operator};
use crate::model::{Condition, Event, Filter, FilterOf, FilterSide, Job, Pattern, Pipeline, Trigger};
use crate::rehearsal::{OTHER_BRANCH, OTHER_TAG, Occasion, OccasionKind, pattern_fits, stands_for};

/// Existing branches that are looked at one by one where patterns may tell them apart; a repository may have thousands.
const BRANCHES_TRIED: usize = 60;
/// Names times jobs of a group: more is no honest repository.
const PLAYS: usize = 50_000;

/// The events of one group.
pub(super) struct Universe {
    pub occasions: Vec<Occasion>,
    /// Nothing but whole names tells branches apart, so that a branch which is not named behaves as any other.
    pub names_only: bool,
}

impl Universe {
    pub fn of(project: &Project<'_>, members: &[usize]) -> Self {
        let pipelines: Vec<&Pipeline> = members.iter().map(|index| &project.prepared[*index].pipeline).collect();
        let triggers: Vec<&Trigger> = pipelines.iter().flat_map(|pipeline| &pipeline.triggers).collect();
        // What is not known to start it may well be what starts most.
        let unknown = pipelines.iter().any(|pipeline| pipeline.unknown_starts().is_some());
        let usual = |wanted: &[Event]| unknown && wanted.contains(&Event::Push);
        let has = |wanted: &[Event]| usual(wanted) || triggers.iter().any(|trigger| wanted.contains(&trigger.event));
        let names = Names::of(project, &pipelines, &triggers);
        let default = project.facts.git.default_branch.known().map(String::as_str);
        let mut occasions: Vec<Occasion> = Vec::new();
        if has(&[Event::Push]) {
            occasions.extend(names.branches.iter().map(|name| Occasion::new(OccasionKind::Push, Some(name))));
            occasions.extend(names.tags.iter().map(|name| Occasion::new(OccasionKind::Tag, Some(name))));
        }
        if has(&[Event::Proposal, Event::PrivilegedProposal]) {
            let other = names.proposed_into.iter().map(String::as_str).filter(|name| Some(*name) != default).map(Some);
            for into in std::iter::once(default).chain(other) {
                occasions.push(Occasion::new(OccasionKind::Pull, into));
                occasions.push(Occasion::new(OccasionKind::Fork, into));
            }
        }
        if has(&[Event::Hand]) {
            occasions.push(Occasion::new(OccasionKind::Hand, default));
            let asks = |trigger: &&Trigger| trigger.event == Event::Hand && !trigger.inputs.is_empty();
            if triggers.iter().any(asks) || pipelines.iter().any(|pipeline| pipeline.customs.reads_variables) {
                occasions.push(Occasion::filled_in(default));
            }
        }
        if has(&[Event::Clock]) {
            occasions.push(Occasion::new(OccasionKind::Clock, default));
        }
        if has(&[Event::Release]) {
            let tag = project.facts.git.tags.known().and_then(|tags| tags.last()).map(String::as_str);
            occasions.push(Occasion::new(OccasionKind::Release, Some(tag.unwrap_or(USUAL_TAG))));
        }
        Self { occasions, names_only: names.names_only }
    }
}

/// A tag as most people write them.
const USUAL_TAG: &str = "v1.0.0";

/// The names that tell events apart.
struct Names {
    /// The default branch first, then those that are named, then those that exist, and one that stands for all others.
    branches: Vec<String>,
    tags: Vec<String>,
    /// Branches that the filters of proposals name.
    proposed_into: Vec<String>,
    names_only: bool,
}

impl Names {
    fn of(project: &Project<'_>, pipelines: &[&Pipeline], triggers: &[&Trigger]) -> Self {
        let mut spoken = Spoken::default();
        for pipeline in pipelines {
            conditions(pipeline).for_each(|condition| spoken.listen(condition, pipeline));
        }
        let jobs: usize = pipelines.iter().map(|pipeline| pipeline.jobs.len()).sum();
        let limit = BRANCHES_TRIED.max(PLAYS / jobs.max(1));
        let filters = |wanted: FilterOf| {
            let all = triggers.iter().flat_map(|trigger| &trigger.filters);
            all.filter(move |filter| filter.of == wanted)
        };
        let of_branches: Vec<&Pattern> = filters(FilterOf::Branches).flat_map(|filter| &filter.patterns).collect();
        let environments = pipelines.iter().flat_map(|pipeline| &pipeline.jobs).any(|job| job.environment.is_some());
        let names_only = of_branches.iter().all(|pattern| pattern.literal().is_some()) && !spoken.patterns && !environments;
        let git = &project.facts.git;
        let existing = git.branches.known().map(Vec::as_slice).unwrap_or_default();
        let mut branches = Distinct::default();
        branches.extend(git.default_branch.known().cloned());
        branches.extend(of_branches.iter().filter_map(|pattern| pattern.literal()).map(str::to_owned).chain(spoken.branches));
        branches.list.truncate(limit);
        if !names_only {
            branches.extend(existing.iter().take(BRANCHES_TRIED).cloned());
        } else {
            // One of those that exist tells more to a person than the one that stands for all others.
            branches.extend(existing.iter().find(|name| !branches.has(name)).cloned());
        }
        branches.extend([OTHER_BRANCH.to_owned()]);
        let proposals = |trigger: &&&Trigger| matches!(trigger.event, Event::Proposal | Event::PrivilegedProposal);
        let into =
            triggers.iter().filter(proposals).filter_map(|trigger| trigger.filter(FilterOf::Branches, FilterSide::Include));
        let mut proposed_into = Distinct::default();
        proposed_into.extend(into.flat_map(|filter| &filter.patterns).filter_map(|pattern| pattern.literal()).map(str::to_owned));
        proposed_into.list.truncate(limit);
        let mut tags = Distinct::default();
        let known = git.tags.known().map(Vec::as_slice).unwrap_or_default();
        let includes = |filter: &&Filter| filter.side == FilterSide::Include;
        for pattern in filters(FilterOf::Tags).filter(includes).flat_map(|filter| &filter.patterns).take(limit) {
            let existing = known.iter().rev().find(|tag| pattern_fits(pattern, tag) == Some(true));
            // Where names are said of branches and tags at once, that of a branch is meant for it.
            let of_branch = |name: &String| git.branches.known().is_some_and(|known| known.contains(name));
            tags.extend(existing.cloned().or_else(|| example(pattern).filter(|name| !of_branch(name))));
        }
        tags.extend(spoken.tags);
        tags.extend([known.last().cloned().unwrap_or_else(|| USUAL_TAG.into()), OTHER_TAG.to_owned()]);
        tags.list.truncate(limit);
        Self { branches: branches.list, tags: tags.list, proposed_into: proposed_into.list, names_only }
    }
}

/// Names in the order in which they come, each once.
#[derive(Default)]
struct Distinct {
    list: Vec<String>,
    seen: HashSet<String>,
}

impl Distinct {
    /// Up to so many are gone through, which is quicker than a table of them.
    const FEW: usize = 16;

    fn has(&self, name: &str) -> bool {
        if self.list.len() <= Self::FEW { self.list.iter().any(|known| known == name) } else { self.seen.contains(name) }
    }

    fn extend(&mut self, names: impl IntoIterator<Item = String>) {
        for name in names {
            if self.has(&name) {
                continue;
            }
            if self.list.len() == Self::FEW {
                self.seen.extend(self.list.iter().cloned());
            }
            if self.list.len() >= Self::FEW {
                self.seen.insert(name.clone());
            }
            self.list.push(name);
        }
    }
}

/// A tag that a pattern fits.
fn example(pattern: &Pattern) -> Option<String> {
    let text = pattern.text.known()?;
    let tried = ["v1.2.3", "1.2.3", "v1", "v1.2", "release-1", "release/1"].map(str::to_owned);
    let filled = text.replace("[0-9]+", "1").replace("**", "1").replace('*', "1");
    tried.into_iter().chain([filled]).find(|tag| !pattern.is_exception() && pattern_fits(pattern, tag) == Some(true))
}

/// Every condition that decides of the run, a job or a step.
fn conditions(pipeline: &Pipeline) -> impl Iterator<Item = &Condition> {
    pipeline.conditions().chain(pipeline.jobs.iter().flat_map(Job::all_conditions))
}

/// What conditions say of branches and tags.
#[derive(Default)]
struct Spoken {
    branches: Vec<String>,
    tags: Vec<String>,
    /// Something else than equality looks at names.
    patterns: bool,
}

impl Spoken {
    fn listen(&mut self, condition: &Condition, pipeline: &Pipeline) {
        let Some(expression) = condition.expression() else {
            self.patterns = true;
            return;
        };
        expression.walk(&mut |part| match &part.kind {
            ExprKind::Binary(Operator::Equal | Operator::NotEqual, left, right) => {
                self.compared(left, right, pipeline);
                self.compared(right, left, pipeline);
            }
            ExprKind::Matches(..) => self.patterns = true,
            ExprKind::Call(_, arguments) => self.patterns |= !arguments.is_empty(),
            _ => {}
        });
    }

    /// A name that is held against what the run knows of its own branch or tag.
    fn compared(&mut self, looked_at: &Expr, with: &Expr, pipeline: &Pipeline) {
        let (Some(path), ExprKind::Text(text)) = (looked_at.path(), &with.kind) else { return };
        let words: Vec<&str> = path.iter().map(|(word, _)| *word).collect();
        let named = |kind: OccasionKind, hole: &str| {
            let written = stands_for(pipeline, kind, &words)?;
            let (before, after) = written.split_once(hole)?;
            Some(text.strip_prefix(before)?.strip_suffix(after)?.to_owned()).filter(|name| !name.is_empty())
        };
        self.branches.extend(named(OccasionKind::Push, "{branch}"));
        self.tags.extend(named(OccasionKind::Tag, "{tag}"));
    }
}
