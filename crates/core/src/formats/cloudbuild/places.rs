//! Where `cloudbuild.yaml` lies, and under which other names.

use crate::carrier::Tree;
use crate::formats::Claim;
use crate::text::file_name;

/// The paths that are read when a trigger says nothing else.
pub(super) const NAMES: [&str; 3] = ["cloudbuild.yaml", "cloudbuild.yml", "cloudbuild.json"];

/// What a path is. A trigger may name another file in whatever folder, which stands in no file: one of such a name is looked into, and none
/// is said to be misplaced.
pub(super) fn claim(path: &str) -> Claim {
    if NAMES.contains(&path) {
        return Claim::Reads;
    }
    let name = file_name(path);
    let stem = [".yaml", ".yml", ".json"].iter().find_map(|end| name.strip_suffix(end));
    match stem.map(|stem| stem.to_ascii_lowercase().replace(['-', '_', '.'], "")) {
        Some(stem) if stem.contains("cloudbuild") => Claim::Perhaps,
        _ => Claim::No,
    }
}

/// Whether a tree looks like one: steps that are run in images.
pub(super) fn fits(tree: &Tree) -> bool {
    let Some(steps) = tree.documents.first().and_then(|root| tree.value(*root, "steps")) else { return false };
    let keys = ["args", "entrypoint", "script", "waitFor", "dir", "secretEnv"];
    let is_step = |step: &crate::carrier::NodeId| {
        tree.get(*step, "name").is_some() && keys.iter().any(|key| tree.get(*step, key).is_some())
    };
    tree.items(steps).iter().any(is_step)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_root_is_read_and_other_names_are_looked_into() {
        assert!(NAMES.iter().all(|path| claim(path) == Claim::Reads));
        for path in ["ci/cloudbuild.yaml", "cloudbuild-preview.yml", "deploy/cloud-build.json", "site.cloudbuild.yaml"] {
            assert_eq!(claim(path), Claim::Perhaps, "{path}");
        }
        assert_eq!(claim("docs/build.yaml"), Claim::No);
    }

    #[test]
    fn what_it_holds_tells_it_from_others() {
        let fits = |text: &str| fits(&crate::carrier::parse(text));
        assert!(fits("steps:\n- name: node:24\n  args: [ci]\n") && fits("{\"steps\": [{\"name\": \"a\", \"script\": \"b\"}]}"));
        assert!(!fits("steps:\n- name: Build\n  run: make\n") && !fits("steps: none\n") && !fits(""));
    }
}
