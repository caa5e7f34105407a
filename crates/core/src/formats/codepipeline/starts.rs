//! What starts a pipeline: the branch of its source, or filters of its own; and what starts a build that runs alone.
//!
//! After the pages "Filter triggers on code push or pull requests", "Start a pipeline in CodePipeline" and "Filter webhook events": without
//! filters a push to the branch of the source starts it, as long as changes are detected; with filters they alone decide.

use super::actions::{Action, Definition};
use super::values::Values;
use crate::carrier::NodeId;
use crate::model::{Event, Filter, FilterOf, FilterSide, Pattern, PatternSyntax, Pipeline, StartsFrom, Text, Trigger};
use crate::text::Place;

/// The providers of sources that are repositories, each with the key of its branch and the one by which changes are looked for.
const REPOSITORIES: [(&str, &str, &str); 3] = [
    ("CodeStarSourceConnection", "BranchName", "DetectChanges"),
    ("GitHub", "Branch", "PollForSourceChanges"),
    ("CodeCommit", "BranchName", "PollForSourceChanges"),
];

/// Whether an action brings the files of a repository.
pub(super) fn is_repository(action: &Action) -> bool {
    REPOSITORIES.iter().any(|(provider, ..)| action.is_by(provider))
}

/// The branch that a source takes, with its key.
pub(super) fn branch(values: &Values<'_>, action: &Action) -> Option<(Text, Option<Text>)> {
    let (_, key, _) = REPOSITORIES.iter().find(|(provider, ..)| action.is_by(provider))?;
    let node = action.configuration?;
    let (name, value) = values.nodes.tree.get(node, key)?;
    Some((values.nodes.text(name)?, values.text(value)))
}

/// Puts what starts it into a pipeline.
pub(super) fn read(pipeline: &mut Pipeline, definition: &Definition, values: &Values<'_>) {
    let start = definition.name.as_ref().map_or_else(|| values.nodes.at(definition.node), |name| name.at);
    let triggers = values.list(definition.node, "triggers");
    pipeline.triggers_at = values.key_at(definition.node, "triggers");
    let sources: Vec<&Action> =
        definition.actions().map(|(_, action)| action).filter(|action| action.category == "Source").collect();
    let mut named: Vec<String> = Vec::new();
    for trigger in triggers {
        let Some(git) = values.get(trigger, "gitConfiguration") else { continue };
        named.extend(values.text_at(git, "sourceActionName").map(|name| name.value));
        filtered(pipeline, values, git);
    }
    for source in sources.iter().filter(|source| !named.contains(&source.name.value)) {
        of_source(pipeline, values, source);
    }
    clocks(pipeline, values);
    let quiet = pipeline.triggers.is_empty() && pipeline.unknown_starts().is_none();
    pipeline.undetected = sources.iter().find_map(|source| undetected(values, source)).filter(|_| quiet);
    pipeline.triggers.push(Trigger::plain(Event::Hand, Text::fixed("hand", start)));
    pipeline.triggers_at = pipeline.triggers_at.or_else(|| pipeline.triggers.first().map(|trigger| trigger.at));
}

/// Where a source says that nobody looks for changes of it.
pub(super) fn undetected(values: &Values<'_>, source: &Action) -> Option<Place> {
    let (_, _, detects) = REPOSITORIES.iter().find(|(provider, ..)| source.is_by(provider))?;
    let told = values.text(source.set(values, detects)?)?;
    told.value.eq_ignore_ascii_case("false").then(|| told.inner())
}

/// A push to the branch of a source.
fn of_source(pipeline: &mut Pipeline, values: &Values<'_>, source: &Action) {
    let Some((provider, _, detects)) = REPOSITORIES.iter().find(|(provider, ..)| source.is_by(provider)) else {
        let event = Event::Other("a change of its source".to_owned());
        pipeline.triggers.push(Trigger::plain(event, source.name.clone()));
        return;
    };
    let told = source.set(values, detects);
    let off = undetected(values, source).is_some();
    let Some((key, branch)) = branch(values, source) else { return };
    let event = Text::fixed("push", source.name.at);
    let filter = branch.map(|branch| Filter {
        of: FilterOf::Branches,
        side: FilterSide::Include,
        key,
        patterns: vec![Pattern { text: branch, syntax: PatternSyntax::Exact }],
    });
    if !off && filter.is_some() && told.is_none_or(|node| values.text(node).is_some()) {
        pipeline.triggers.push(Trigger { filters: filter.into_iter().collect(), ..Trigger::plain(Event::Push, event) });
        return;
    }
    // Without looking for changes itself, something else may start it: a webhook, or a rule of the cloud.
    let by_others = off && *provider != "CodeStarSourceConnection";
    if by_others || !off {
        pipeline.starts_from = StartsFrom::Unknown(match off {
            true => "whatever tells it of a change stands in no file here".to_owned(),
            false => "the branch is only known when the template is laid out".to_owned(),
        });
    }
}

/// Filters of pushes and pull requests.
fn filtered(pipeline: &mut Pipeline, values: &Values<'_>, git: NodeId) {
    for (key, event, word) in [("push", Event::Push, "push"), ("pullRequest", Event::Proposal, "pull request")] {
        let Some(list) = values.get(git, key) else { continue };
        for item in values.items(list) {
            let at = values.nodes.at(item);
            let name = Text::fixed(word, values.key_at(git, key).unwrap_or(at));
            let mut filters = Vec::new();
            for (part, of) in [("branches", FilterOf::Branches), ("tags", FilterOf::Tags), ("filePaths", FilterOf::Paths)] {
                let Some(node) = values.get(item, part) else { continue };
                filters.extend(filter(values, node, "includes", of, FilterSide::Include));
                filters.extend(filter(values, node, "excludes", of, FilterSide::Exclude));
            }
            // Nothing but what closes one is no news of it.
            let kinds: Vec<String> =
                values.list(item, "events").into_iter().filter_map(|one| values.text(one)).map(|one| one.value).collect();
            let only_closed = !kinds.is_empty() && kinds.iter().all(|kind| kind == "CLOSED");
            let event = if only_closed { Event::Other("a closed pull request".to_owned()) } else { event.clone() };
            pipeline.triggers.push(Trigger { filters, at, ..Trigger::plain(event, name) });
        }
    }
}

/// `*` stays between slashes, `**` goes over them. Source: the page "Working with glob patterns in syntax", 2026-11.
fn filter(values: &Values<'_>, node: NodeId, side_key: &str, of: FilterOf, side: FilterSide) -> Option<Filter> {
    let (key, list) = values.pair(node, side_key)?;
    let texts: Vec<Text> = values.items(list).into_iter().filter_map(|one| values.text(one)).collect();
    let patterns: Vec<Pattern> = texts.into_iter().map(|text| Pattern { text, syntax: PatternSyntax::Paths }).collect();
    (!patterns.is_empty()).then_some(Filter { of, side, key: values.nodes.text(key)?, patterns })
}

/// Rules of the template that start something by the clock.
fn clocks(pipeline: &mut Pipeline, values: &Values<'_>) {
    for rule in values.of_kind("AWS::Events::Rule") {
        let Some(node) = rule.properties else { continue };
        let pipelines = |target: &NodeId| {
            values.get(*target, "Arn").and_then(|arn| values.referred(arn)).is_some_and(|(one, _)| one.kind == super::read::KIND)
        };
        if !values.list(node, "Targets").iter().any(pipelines) {
            continue;
        }
        match values.text_at(node, "ScheduleExpression") {
            Some(time) => pipeline.triggers.push(Trigger::plain(Event::Clock, Text::fixed("schedule", time.at))),
            None => {
                let event = Event::Other("an event of the cloud".to_owned());
                pipeline.triggers.push(Trigger::plain(event, rule.name.clone()));
            }
        }
    }
}

/// What starts a build that runs alone: groups of filters, of which one must let an event through.
pub(super) fn of_project(pipeline: &mut Pipeline, values: &Values<'_>, properties: NodeId, at: Place) {
    let triggers = values.get(properties, "Triggers");
    let webhook = triggers.filter(|node| values.says(*node, "Webhook", "true"));
    let Some(node) = webhook else {
        pipeline.starts_from = StartsFrom::Unknown("whatever runs this build stands in no file here".to_owned());
        return;
    };
    pipeline.triggers_at = values.key_at(properties, "Triggers");
    let groups = values.list(node, "FilterGroups");
    if groups.is_empty() {
        pipeline.triggers.push(Trigger::plain(Event::Push, Text::fixed("push", at)));
        pipeline.triggers.push(Trigger::plain(Event::Proposal, Text::fixed("pull request", at)));
    }
    for group in groups {
        of_group(pipeline, values, group);
    }
    pipeline.triggers.push(Trigger::plain(Event::Hand, Text::fixed("hand", at)));
}

fn of_group(pipeline: &mut Pipeline, values: &Values<'_>, group: NodeId) {
    let at = values.nodes.at(group);
    let mut events: Vec<Event> = Vec::new();
    let mut filters: Vec<Filter> = Vec::new();
    for item in values.items(group) {
        let (Some(kind), Some(pattern)) = (values.text_at(item, "Type"), values.text_at(item, "Pattern")) else { continue };
        let side = if values.says(item, "ExcludeMatchedPattern", "true") { FilterSide::Exclude } else { FilterSide::Include };
        match kind.value.as_str() {
            "EVENT" => events.extend(pattern.value.split(',').map(str::trim).filter_map(event_of)),
            "HEAD_REF" | "BASE_REF" => filters.push(of_ref(kind, pattern, side)),
            "FILE_PATH" => filters.push(Filter {
                of: FilterOf::Paths,
                side,
                key: kind,
                patterns: vec![Pattern { text: pattern, syntax: PatternSyntax::Regex { any_case: false } }],
            }),
            _ => {}
        }
    }
    events.dedup();
    for event in events {
        let word = if event == Event::Push { "push" } else { "pull request" };
        // The branch of a pull request is that of whoever makes it, but for its base.
        let own = filters.iter().filter(|filter| event == Event::Push || filter.key.value != "HEAD_REF").cloned().collect();
        pipeline.triggers.push(Trigger { filters: own, at, ..Trigger::plain(event, Text::fixed(word, at)) });
    }
}

fn event_of(word: &str) -> Option<Event> {
    match word {
        "PUSH" => Some(Event::Push),
        "PULL_REQUEST_CREATED" | "PULL_REQUEST_UPDATED" | "PULL_REQUEST_REOPENED" => Some(Event::Proposal),
        _ => None,
    }
}

/// `^refs/heads/main$` as a filter of branches, `^refs/tags/.*` as one of tags.
fn of_ref(key: Text, pattern: Text, side: FilterSide) -> Filter {
    let written = pattern.value.as_str();
    let start = usize::from(written.starts_with('^'));
    let rest = &written[start..];
    let (of, skipped) = [("refs/tags/", FilterOf::Tags), ("refs/heads/", FilterOf::Branches)]
        .into_iter()
        .find(|(begin, _)| rest.starts_with(begin))
        .map_or((FilterOf::Branches, 0), |(begin, of)| (of, begin.len()));
    let from = start + skipped;
    let name = written[from..].trim_end_matches('$');
    let plain = written.ends_with('$')
        && !name.is_empty()
        && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"/_-".contains(&byte));
    let place = pattern.place(from..from + name.len());
    let pattern = match plain {
        true => Pattern { text: Text::fixed(name, place), syntax: PatternSyntax::Exact },
        false => {
            let anchored = if skipped > 0 { format!("^{}", &written[from..]) } else { written.to_owned() };
            Pattern { text: Text::fixed(&anchored, pattern.inner()), syntax: PatternSyntax::Regex { any_case: false } }
        }
    };
    Filter { of, side, key, patterns: vec![pattern] }
}
