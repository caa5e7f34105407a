//! Where a definition may stand: in any file of YAML or JSON, so that names and first bytes are looked at before anything is read.

use std::sync::LazyLock;

use crate::carrier::Tree;
use crate::formats::{Claim, Programs, is_of_others};
use crate::knowledge::{List, Word};
use crate::text::file_name;

/// A store of files, which is read where it serves a site.
const BUCKET: &str = "AWS::S3::Bucket";

fn kinds() -> List<Word> {
    super::data().list("kinds")
}

/// Whether a path lies among what a site is made of.
fn is_content(path: &str) -> bool {
    let Some((folders, _)) = path.rsplit_once('/') else { return false };
    static FOLDERS: LazyLock<[List<Word>; 2]> =
        LazyLock::new(|| ["content-folders", "definition-folders"].map(|list| super::data().list(list)));
    let within = |list: List<Word>| folders.split('/').any(|folder| list.contains(&folder));
    let [content, definitions] = *FOLDERS;
    within(content) && !within(definitions)
}

/// The programs that make resources. Source: the page "AWS CDK CLI reference", `cdk.json`, 2026-11.
pub(super) const PROGRAMS: Programs = Programs { known_by: "cdk.json", is_code };

/// What a path is.
pub(super) fn claim(path: &str) -> Claim {
    let hidden = || path.starts_with('.') || path.contains("/.");
    let named = is_code(path) || may_be(file_name(path));
    if !named || hidden() || is_content(path) || is_of_others(path) { Claim::No } else { Claim::Perhaps }
}

/// Whether a file of this name may hold a definition as it stands.
fn may_be(name: &str) -> bool {
    let other = || super::data().list("other-files").contains(&name);
    [".yml", ".yaml", ".json", ".template"].iter().any(|end| name.ends_with(end))
        && !name.starts_with("tsconfig")
        && !name.ends_with("lock.json")
        && !other()
}

/// Whether a file may be a program that makes one.
fn is_code(path: &str) -> bool {
    [".ts", ".mts", ".js", ".mjs", ".cjs"].iter().any(|end| path.ends_with(end)) && !path.ends_with(".d.ts")
}

/// Whether the first bytes may be those of a definition.
pub(super) fn begins(head: &str) -> bool {
    if super::code::is_code(head) {
        return true;
    }
    let words = ["AWSTemplateFormatVersion", "Resources", "Parameters", "Transform", "Conditions", "Mappings", "Metadata"];
    let definition = ["\"pipeline\"", "\"roleArn\"", "\"stages\""];
    words.iter().chain(&definition).any(|word| head.contains(word)) || head.starts_with("Description:")
}

/// Whether a text speaks of something that is read.
pub(super) fn mentions(text: &str) -> bool {
    super::code::is_code(text)
        || kinds().iter().any(|kind| text.contains(kind))
        || text.contains("WebsiteConfiguration")
        || text.contains("\"stages\"") && text.contains("\"actionTypeId\"")
}

/// Whether a tree holds something that is read.
pub(super) fn fits(tree: &Tree) -> bool {
    let Some(root) = tree.documents.first().copied() else { return false };
    let resources = tree.value(root, "Resources").map(|node| tree.pairs(node)).unwrap_or_default();
    let kind = |node| tree.value(node, "Type").and_then(|kind| tree.scalar(kind));
    let read = |node| {
        kind(node).is_some_and(|kind| {
            let website = || {
                let properties = tree.value(node, "Properties");
                properties.is_some_and(|properties| tree.get(properties, "WebsiteConfiguration").is_some())
            };
            kinds().contains(&kind) || kind == BUCKET && website()
        })
    };
    let definition = tree.value(root, "pipeline").unwrap_or(root);
    resources.iter().any(|(_, node)| read(*node))
        || tree.get(definition, "stages").is_some() && tree.get(definition, "roleArn").is_some()
}

#[cfg(test)]
mod tests {
    use super::{Claim, begins, claim, fits, mentions};

    #[test]
    fn any_yaml_or_json_may_be_one_but_for_those_that_are_something_else() {
        for path in ["infra/site.yml", "pipeline.json", "deploy/stack.template", "a/b.yaml"] {
            assert_eq!(claim(path), Claim::Perhaps, "{path}");
        }
        for path in ["src/infra/site.yml", "app/deploy/stack.json"] {
            assert_eq!(claim(path), Claim::Perhaps, "{path}");
        }
        for path in [
            "package.json",
            "src/data/piers.json",
            "content/a.yml",
            "web/package-lock.json",
            ".github/workflows/a.yml",
            "node_modules/quay/a.json",
            "quay.css",
        ] {
            assert_eq!(claim(path), Claim::No, "{path}");
        }
    }

    #[test]
    fn what_it_holds_decides() {
        let fits = |text: &str| begins(text) && mentions(text) && fits(&crate::carrier::parse(text));
        assert!(fits("Resources:\n  Quay:\n    Type: AWS::CodePipeline::Pipeline\n"));
        assert!(fits("{\"pipeline\": {\"roleArn\": \"x\", \"stages\": [{\"actions\": [{\"actionTypeId\": {}}]}]}}"));
        assert!(fits("Resources:\n  Quay: {Type: 'AWS::S3::Bucket', Properties: {WebsiteConfiguration: {IndexDocument: a}}}\n"));
        assert!(!fits("Resources:\n  Quay: {Type: 'AWS::S3::Bucket'}\n"));
        assert!(!fits("Resources: [AWS::CodePipeline::Pipeline]\n") && !fits("{\"stages\": []}"));
    }
}
