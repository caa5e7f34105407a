//! Pipeline files under names that no forge reads.

use crate::form::FormIssueKind;
use crate::knowledge;
use crate::tree::Tree;

/// Slips of the one name that the second format has.
pub const GITLAB_SLIPS: [&str; 5] = [".gitlab-ci.yaml", "gitlab-ci.yml", "gitlab-ci.yaml", ".gitlab.yml", ".gitlab-ci"];
/// Slips of the ending that forges read.
const NEAR_ENDINGS: [&str; 9] = ["ym", "ymal", "yalm", "yam", "ymll", "yamll", "yaaml", "ylm", "yl"];
/// Endings that programs put behind the right one, and nobody to switch a file off.
const BEHIND: [&str; 2] = ["txt", "text"];

/// Where a file of this path would be read, and why it is not; nothing for a path that says nothing.
pub fn misplaced(path: &str) -> Option<(String, String)> {
    if GITLAB_SLIPS.contains(&path) {
        return Some((
            ".gitlab-ci.yml".into(),
            "the forge reads .gitlab-ci.yml at the root, with the point and this ending".into(),
        ));
    }
    let lower = path.to_ascii_lowercase();
    if knowledge::names().lists.kept_on_purpose.iter().any(|word| lower.contains(word.as_str())) {
        return None;
    }
    let (dir, name) = path.rsplit_once('/').unwrap_or(("", path));
    let (stem, ending) = name.rsplit_once('.')?;
    knowledge::workflow().host.iter().find_map(|host| {
        let (top, leaf) = host.folder.split_once('/')?;
        let wanted = |name: &str| format!("{}/{name}", host.folder);
        let read = format!("the forge reads *.yml and *.yaml directly in {}", host.folder);
        if !matches!(ending, "yml" | "yaml") {
            let inner = stem.rsplit_once('.').map(|(_, inner)| inner);
            if dir == host.folder && BEHIND.contains(&ending) && matches!(inner, Some("yml" | "yaml")) {
                return Some((wanted(stem), format!("its name ends with .{ending}; {read}")));
            }
            let near = dir == host.folder && NEAR_ENDINGS.contains(&ending);
            return near.then(|| (wanted(&format!("{stem}.yml")), format!("its name ends with .{ending}; {read}")));
        }
        if let Some(below) = dir.strip_prefix(&format!("{}/", host.folder)) {
            let flat = format!("{}-{name}", below.replace('/', "-"));
            return Some((wanted(&flat), format!("it lies in a folder of its own; {read}")));
        }
        let slipped = match dir.split_once('/') {
            Some((first, rest)) => first == top && rest != leaf && knowledge::nearest(rest, [leaf]).is_some(),
            None => dir == top || dir == leaf,
        };
        let without_point = dir == host.folder.trim_start_matches('.');
        (slipped || without_point).then(|| (wanted(name), format!("it lies in {dir}; {read}")))
    })
}

/// Where a file below another folder would be read: it moved along with the site, and is read only at the root. Nothing for folders
/// that are kept as examples or come from elsewhere.
pub fn moved_along(path: &str) -> Option<(String, String)> {
    let lower = path.to_ascii_lowercase();
    let names = &knowledge::names().lists;
    if [&names.kept_on_purpose, &names.others_folders].iter().any(|list| list.iter().any(|word| lower.contains(word.as_str()))) {
        return None;
    }
    let reason = |folder: &str| format!("it lies below {folder}; the forge looks at the root of the repository only");
    if let Some(folder) = path.strip_suffix("/.gitlab-ci.yml") {
        return Some((".gitlab-ci.yml".into(), reason(folder)));
    }
    let (dir, name) = path.rsplit_once('/')?;
    let ending = name.rsplit_once('.').map(|(_, ending)| ending);
    knowledge::workflow().host.iter().find_map(|host| {
        let folder = dir.strip_suffix(host.folder.as_str())?.strip_suffix('/')?;
        matches!(ending, Some("yml" | "yaml")).then(|| (format!("{}/{name}", host.folder), reason(folder)))
    })
}

/// Whether forges read a file of this path.
pub fn is_read(path: &str) -> bool {
    let ends = |name: &str| name.ends_with(".yml") || name.ends_with(".yaml");
    let directly = |folder: &str| {
        path.strip_prefix(folder).and_then(|rest| rest.strip_prefix('/')).is_some_and(|name| !name.contains('/') && ends(name))
    };
    path == ".gitlab-ci.yml" || knowledge::workflow().host.iter().any(|host| directly(&host.folder))
}

/// Whether a text is a pipeline, whatever its name.
pub fn is_pipeline(tree: &Tree<'_>) -> bool {
    let Some(root) = tree.documents.first() else { return false };
    let jobs = tree.value(*root, "jobs").map(|jobs| tree.pairs(jobs)).unwrap_or_default();
    let is_job = |node| ["runs-on", "uses", "steps"].iter().any(|key| tree.get(node, key).is_some());
    let has_scripts = || tree.pairs(*root).iter().any(|(_, job)| tree.get(*job, "script").is_some());
    let is_second = tree.get(*root, "stages").is_some() || has_scripts();
    is_second && tree.get(*root, "on").is_none() && tree.get(*root, "language").is_none()
        || tree.get(*root, "on").is_some() && jobs.iter().any(|(_, job)| is_job(*job))
}

/// What is wrong with the place of a file, if anything.
pub(super) fn issue(path: &str, tree: &Tree<'_>) -> Option<FormIssueKind> {
    let below = moved_along(path);
    let moved = below.is_some();
    let (wanted, reason) = misplaced(path).or(below).filter(|_| is_pipeline(tree))?;
    Some(FormIssueKind::Misplaced { wanted, reason, moved })
}

#[cfg(test)]
mod tests {
    use super::{is_read, misplaced, moved_along};

    #[test]
    fn what_moved_below_a_folder_is_read_nowhere() {
        for path in ["web/.github/workflows/a.yml", "apps/web/.gitlab-ci.yml"] {
            assert!(moved_along(path).is_some() && !is_read(path), "{path}");
        }
        for path in ["examples/a/.github/workflows/a.yml", "vendor/x/.gitlab-ci.yml", "web/node_modules/x/.gitlab-ci.yml"] {
            assert!(moved_along(path).is_none(), "{path}");
        }
        for path in [".github/workflows/a.yml", ".gitlab-ci.yml"] {
            assert!(moved_along(path).is_none() && is_read(path), "{path}");
        }
    }

    #[test]
    fn only_slips_of_a_place_are_misplaced() {
        for path in [
            ".github/workflow/a.yml",
            ".github/Workflows/a.yml",
            ".github/a.yaml",
            "github/workflows/a.yml",
            "workflows/a.yml",
            ".github/workflows/site/a.yml",
            ".github/workflows/a.ymal",
            ".github/workflows/a.yml.txt",
            ".github/workflows/a.ymll",
        ] {
            assert!(misplaced(path).is_some(), "{path}");
        }
        for path in [
            ".github/workflows/a.yml",
            ".github/ISSUE_TEMPLATE/a.yml",
            ".github/workflows/disabled/a.yml",
            ".github/workflows/a.yml.off",
            ".github/workflows/notes.txt",
            ".github/workflows/a.yml.bak",
            ".gitea/workflows/a.yml",
            "docs/a.yml",
            "a.yml",
            ".github/actions/build/action.yml",
        ] {
            assert!(misplaced(path).is_none(), "{path}");
        }
    }
}
