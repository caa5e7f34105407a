//! Apps that the service builds and puts online itself: a resource for the app, and one for each of its branches.

use super::jobs::written_out;
use super::read::empty;
use super::values::{Resource, Values, tree_inside};
use crate::carrier::{NodeId, Tree};
use crate::effects::Effect;
use crate::form::{FormIssue, meant_words};
use crate::formats::Texts;
use crate::formats::amplify::{self, App};
use crate::formats::nodes::Nodes;
use crate::model::{
    ByItself, Credential, Event, Filter, FilterOf, FilterSide, Job, Language, Lock, Pattern, PatternSyntax, Pipeline, StartsFrom,
    Step, Text, Trigger, Work, Workspace,
};
use crate::text::FileId;

/// The type of an app.
const KIND: &str = "AWS::Amplify::App";
/// The type of a branch of one.
const BRANCH: &str = "AWS::Amplify::Branch";
/// The file that is read where the app holds no text.
const USUAL: &str = "amplify.yml";

/// The file of the repository that the apps are built by.
pub(super) fn wants(values: &Values<'_>) -> Vec<String> {
    let apps: Vec<&Resource> = values.of_kind(KIND).collect();
    let by_file = apps.iter().any(|app| app.properties.is_some_and(|node| values.get(node, "BuildSpec").is_none()));
    if by_file { vec![USUAL.to_owned()] } else { Vec::new() }
}

/// A pipeline for each app.
pub(super) fn pipelines(values: &Values<'_>, texts: &Texts<'_>, issues: &mut Vec<FormIssue>) -> Vec<Pipeline> {
    values.of_kind(KIND).map(|app| pipeline(values, app, texts, issues)).collect()
}

fn pipeline(values: &Values<'_>, resource: &Resource, texts: &Texts<'_>, issues: &mut Vec<FormIssue>) -> Pipeline {
    let mut pipeline = Pipeline { customs: amplify::customs(), ..empty(values, Some(resource.name.clone())) };
    starts(&mut pipeline, values, resource);
    // Builds of one branch come one after the other. Source: the page "Feature branch deployments", 2026-11.
    pipeline.lock = Some(Lock { at: resource.name.at, group: resource.name.clone(), cancels: None });
    let Some(node) = resource.properties else { return pipeline };
    pipeline.variables = values
        .get(node, "EnvironmentVariables")
        .map(|list| super::projects::variables(values, &values.items(list)).0)
        .unwrap_or_default();
    let root = pipeline.variables.get("AMPLIFY_MONOREPO_APP_ROOT").map(|text| text.value.trim_matches('/').to_owned());
    let (apps, form) = built(values, node, texts, &pipeline);
    issues.extend(form);
    let of_root = |app: &App| match (&root, &app.root) {
        (Some(root), Some(own)) => own.value.trim_matches('/') == root,
        _ => true,
    };
    let mut fitting: Vec<App> = apps.into_iter().filter(of_root).collect();
    let mut job = Job { workspace: Workspace::Fresh, ..Job::empty(resource.name.clone(), resource.name.at) };
    let signs_in = ByItself { credentials: credentials(values, node), ..ByItself::default() };
    job.steps.push(Step::new(resource.name.at, Work::ByItself(signs_in)));
    match (fitting.pop(), fitting.is_empty()) {
        (Some(mut app), true) => {
            let publish = amplify::published(&mut app, format!("amplify {} $AWS_BRANCH", resource.name.value));
            job.steps.append(&mut app.steps);
            job.steps.extend(publish.map(|step| on_platform(step, values, node)));
            pipeline.variables.entries.extend(app.variables.entries);
        }
        // Of several nobody knows which.
        _ => job.steps.push(Step::new(resource.name.at, Work::Unclear)),
    }
    pipeline.jobs.push(job);
    pipeline
}

/// The apps of the build's text: the one in the template, or the file of the repository.
fn built(values: &Values<'_>, node: NodeId, texts: &Texts<'_>, pipeline: &Pipeline) -> (Vec<App>, Vec<FormIssue>) {
    match values.get(node, "BuildSpec") {
        Some(spec) if values.is_plain(spec) && !values.nodes.tree.pairs(spec).is_empty() => {
            read_at(values.nodes.tree, spec, values.nodes.file, pipeline)
        }
        Some(spec) => match values.written(spec) {
            Some(text) => {
                let text = text.filled_in_by(Language::Variables);
                read(&tree_inside(&text, values.nodes.tree), values.nodes.file, pipeline)
            }
            None => (Vec::new(), Vec::new()),
        },
        None => match texts.parts.iter().find(|part| part.source.path == USUAL) {
            Some(part) => read(&part.tree, part.file, pipeline),
            None => (Vec::new(), Vec::new()),
        },
    }
}

/// Reads a text, with words that are surely slips as what is meant.
fn read(tree: &Tree, file: FileId, pipeline: &Pipeline) -> (Vec<App>, Vec<FormIssue>) {
    let Some(root) = tree.documents.first().copied().filter(|_| tree.is_whole()) else { return (Vec::new(), Vec::new()) };
    read_at(tree, root, file, pipeline)
}

fn read_at(tree: &Tree, root: NodeId, file: FileId, pipeline: &Pipeline) -> (Vec<App>, Vec<FormIssue>) {
    let issues = amplify::issues(tree, Some(root), file, pipeline);
    let meant = tree.reworded(&meant_words(&issues, file));
    (amplify::apps(Nodes { tree: &meant, file, language: Language::Variables }, root), issues)
}

/// Where only files are served, as the app says.
fn on_platform(mut step: Step, values: &Values<'_>, node: NodeId) -> Step {
    let platform = values.text_at(node, "Platform");
    if let Work::ByItself(own) = &mut step.work {
        for one in &mut own.effects {
            if let Effect::Publish { serving, .. } = &mut one.effect {
                *serving = platform.as_ref().map(|text| {
                    Box::new(crate::effects::Serving {
                        files_only: text.value == "WEB",
                        at: text.inner(),
                        instead: if text.value == "WEB" { "WEB_COMPUTE" } else { "WEB" },
                    })
                });
            }
        }
    }
    step
}

/// Tokens by which the app reads the repository, where they are written out.
fn credentials(values: &Values<'_>, node: NodeId) -> Vec<Credential> {
    let one = |key: &str| written_out(values, values.pair(node, key)?);
    ["AccessToken", "OauthToken"].into_iter().filter_map(one).collect()
}

/// Pushes to the branches of an app. Source: the pages "AWS::Amplify::Branch" and "AWS::Amplify::App", automatic branches, 2026-11.
fn starts(pipeline: &mut Pipeline, values: &Values<'_>, app: &Resource) {
    let mut patterns = Vec::new();
    let mut places = Vec::new();
    let mut proposals = Vec::new();
    for branch in values.of_kind(BRANCH) {
        let Some(node) = branch.properties else { continue };
        let owner = values.get(node, "AppId").and_then(|node| values.resource(node));
        if owner.is_none_or(|owner| owner.name.value != app.name.value) {
            continue;
        }
        let Some((key, value)) = values.pair(node, "BranchName") else { continue };
        let Some(name) = values.text(value) else { continue };
        places.push(values.nodes.at(key));
        if values.says(node, "EnablePullRequestPreview", "true") {
            proposals.push(Pattern { text: name.clone(), syntax: PatternSyntax::Exact });
        }
        if !values.says(node, "EnableAutoBuild", "false") {
            patterns.push(Pattern { text: name, syntax: PatternSyntax::Exact });
        }
    }
    let automatic = app.properties.and_then(|node| values.get(node, "AutoBranchCreationConfig"));
    if let Some(node) = automatic.filter(|node| values.says(*node, "EnableAutoBranchCreation", "true")) {
        let texts = values.list(node, "AutoBranchCreationPatterns").into_iter().filter_map(|one| values.text(one));
        patterns.extend(texts.map(|text| Pattern { text, syntax: PatternSyntax::Paths }));
    }
    let filter = |patterns: Vec<Pattern>| {
        let at = places.first().copied().or_else(|| patterns.first().map(|pattern| pattern.text.at))?;
        Some(Filter { of: FilterOf::Branches, side: FilterSide::Include, key: Text::fixed("BranchName", at), patterns })
    };
    if patterns.is_empty() && places.is_empty() {
        pipeline.starts_from = StartsFrom::Unknown("the branches that are built stand in no file here".to_owned());
        return;
    }
    pipeline.triggers_at = places.first().copied();
    for (event, word, patterns) in [(Event::Push, "push", patterns), (Event::Proposal, "pull request", proposals)] {
        if patterns.is_empty() {
            continue;
        }
        let name = Text::fixed(word, app.name.at);
        pipeline.triggers.push(Trigger { filters: filter(patterns).into_iter().collect(), ..Trigger::plain(event, name) });
    }
    pipeline.triggers.push(Trigger::plain(Event::Hand, Text::fixed("hand", app.name.at)));
}
