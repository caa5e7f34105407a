//! What does not fit in `buddy.yml`.

use super::read;
use crate::carrier::Tree;
use crate::form::{FormIssue, FormIssueKind, Scope};
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::formats::{Reading, Texts, read_as_meant};
use crate::knowledge::{Among, near};
use crate::model::{Language, Pipeline};
use crate::text::FileId;

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let of_tree = |tree: &Tree, pipelines: &Vec<Pipeline>| issues(tree, main.file, pipelines.first());
    let (pipelines, form) = read_as_meant(main, |tree| read::read(tree, texts), of_tree);
    Reading { pipelines, form }
}

/// The keys whose values are words of the format, each with its list.
const OF_WORDS: [&str; 8] =
    ["on", "trigger_mode", "type", "ref_type", "trigger_time", "input_type", "shell", "trigger_condition"];

/// Words that are slips of those that a key takes. A word that is like none of them may be newer than the list.
fn slips(keys: &Keys<'_>) -> Vec<FormIssue> {
    let one = |key: &&str| {
        let text = keys.text(key)?;
        let word = text.known()?.to_ascii_uppercase();
        let publishers = super::data().publisher.iter().map(|publisher| publisher.name).filter(|_| *key == "type");
        let builds = ["builds", "gates", "harmless"].iter().filter(|_| *key == "type").flat_map(|list| super::data().list(list));
        let listed = super::data().list(&format!("words-of-{key}")).iter().chain(builds).copied();
        let known: Vec<&str> = listed.chain(publishers).collect();
        if known.contains(&word.as_str()) {
            return None;
        }
        let instead = near(&word, known.iter().copied(), Among::Closed)?;
        let (found, wanted) = (format!("the word `{}`", text.value), format!("a word such as {}", instead.word));
        let kind = FormIssueKind::WrongShape { key: (*key).to_owned(), found, wanted, instead: Some(instead) };
        Some(FormIssue { at: text.inner(), kind })
    };
    OF_WORDS.iter().filter_map(one).collect()
}

fn issues(tree: &Tree, file: FileId, first: Option<&Pipeline>) -> Vec<FormIssue> {
    let Some(first) = first else { return Vec::new() };
    let (grammar, scope) = (&super::data().grammar, Scope::new(first));
    let strict = first.customs.wrong_key.is_refused();
    let of_one = |node| crate::form::walk(tree, Some(node), file, grammar, "pipeline", strict, &scope);
    let mut found: Vec<FormIssue> = super::pipelines(tree).into_iter().flat_map(of_one).collect();
    let nodes = Nodes { tree, file, language: Language::Variables };
    for pipeline in super::pipelines(tree).into_iter().map(|node| Keys::of(nodes, node)) {
        let inner = ["actions", "events"].iter().filter_map(|key| pipeline.get(key)).flat_map(|node| listed(&nodes, node));
        let parts: Vec<Keys<'_>> = inner.map(|node| Keys::of(nodes, node)).collect();
        found.extend(std::iter::once(&pipeline).chain(&parts).flat_map(slips));
    }
    found
}
