//! What does not fit in `.travis.yml`.

use super::{deploy, jobs, read};
use crate::carrier::{NodeId, Tree};
use crate::form::{FormIssue, FormIssueKind};
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::formats::{Reading, Texts, read_as_meant};
use crate::knowledge::Among;
use crate::model::{Language, Pipeline, Text};
use crate::text::FileId;

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let of_tree = |tree: &Tree, pipeline: &Pipeline| issues(tree, main.file, pipeline);
    let (pipeline, mut form) = read_as_meant(main, |tree| read::read(tree, texts), of_tree);
    if main.tree.is_whole() {
        form.extend(conditions(&pipeline));
        form.extend(publishes(&main.tree, main.file));
    }
    Reading { pipelines: vec![pipeline], form }
}

fn issues(tree: &Tree, file: FileId, pipeline: &Pipeline) -> Vec<FormIssue> {
    let grammar = &super::data().grammar;
    let root: Option<NodeId> = tree.documents.first().copied();
    crate::form::walk(
        tree,
        root,
        file,
        grammar,
        "travis",
        pipeline.customs.wrong_key.is_refused(),
        &crate::form::Scope::new(pipeline),
    )
}

/// Publishes that are none: a text in the place of keys, and words for a provider that are slips of one.
fn publishes(tree: &Tree, file: FileId) -> Vec<FormIssue> {
    let nodes = Nodes { tree, file, language: Language::Variables };
    let Some(root) = tree.documents.first().copied() else { return Vec::new() };
    let top = Keys::of(nodes, root);
    let of_jobs = jobs::included(jobs::expansion(&top).as_ref()).into_iter().map(|item| Keys::of(nodes, item));
    let all: Vec<NodeId> = std::iter::once(top.clone()).chain(of_jobs).filter_map(|keys| keys.get("deploy")).collect();
    let mut found: Vec<FormIssue> = Vec::new();
    for item in all.into_iter().flat_map(|node| listed(&nodes, node)).take(PUBLISH_LIMIT) {
        let issue = match nodes.text(item) {
            Some(text) => no_keys(&text),
            None => Keys::of(nodes, item).text("provider").and_then(|provider| slip(&provider)),
        };
        found.extend(issue.filter(|issue| found.iter().all(|known| known.at != issue.at)));
    }
    found
}

/// More publishes than any honest file has.
const PUBLISH_LIMIT: usize = 500;

fn no_keys(text: &Text) -> Option<FormIssue> {
    let off = matches!(text.value.as_str(), "false" | "true" | "skip" | "");
    let (found, wanted) = (
        format!("the word `{}`", text.value.chars().take(40).collect::<String>()),
        "keys with values, `provider` among them".to_owned(),
    );
    let kind = FormIssueKind::WrongShape { key: "deploy".to_owned(), found, wanted, instead: None };
    (!off).then_some(FormIssue { at: text.inner(), kind })
}

fn slip(provider: &Text) -> Option<FormIssue> {
    let word = deploy::provider_word(provider.known()?);
    let known = || super::data().publisher.iter().map(|publisher| publisher.name);
    if known().any(|known| known == word || known.replace('_', "") == word) {
        return None;
    }
    let instead = crate::knowledge::near(&word, known(), Among::Closed)?;
    let (found, wanted) =
        (format!("the word `{}`", provider.value), "the name of a provider, such as pages, s3 or netlify".to_owned());
    let kind = FormIssueKind::WrongShape { key: "provider".to_owned(), found, wanted, instead: Some(instead) };
    Some(FormIssue { at: provider.inner(), kind })
}

/// Conditions that cannot be read, in whichever of the two languages, each told once.
fn conditions(pipeline: &Pipeline) -> Vec<FormIssue> {
    let all = pipeline.conditions().chain(pipeline.jobs.iter().flat_map(|job| job.all_conditions()));
    crate::form::unread_conditions(all)
}
