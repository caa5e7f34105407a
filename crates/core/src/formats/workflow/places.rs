//! Where workflow files lie, and where people put them by mistake.

use crate::formats::{Claim, Spot, is_kept_on_purpose, is_of_others};
use crate::knowledge::{Host, nearest};
use crate::text::file_name;

/// Slips of the ending that forges read.
const NEAR_ENDINGS: [&str; 9] = ["ym", "ymal", "yalm", "yam", "ymll", "yamll", "yaaml", "ylm", "yl"];
/// Endings that programs put behind the right one, and nobody to switch a file off.
const BEHIND: [&str; 2] = ["txt", "text"];
/// Files that make a folder of the repository an action.
const ACTION_FILES: [&str; 2] = ["action.yml", "action.yaml"];

fn hosts() -> &'static [Host] {
    super::data().host
}

/// The folders that forges read.
pub(super) fn spots() -> Vec<Spot> {
    hosts().iter().map(|host| Spot::Folder(host.folder.to_owned())).collect()
}

/// What a path is.
pub(super) fn claim(path: &str) -> Claim {
    if !has_near_ending(path) {
        return Claim::No;
    }
    if is_action(path) {
        return if path.contains("node_modules/") { Claim::No } else { Claim::Part };
    }
    if is_read(path) {
        return Claim::Reads;
    }
    if let Some((wanted, because)) = misplaced(path) {
        return Claim::Slip { wanted, because, moved: false };
    }
    match moved_along(path) {
        Some((wanted, because)) => Claim::Slip { wanted, because, moved: true },
        None => Claim::No,
    }
}

/// Whether a file's name ends as those that forges read, or nearly so.
fn has_near_ending(path: &str) -> bool {
    let name = file_name(path);
    name.rsplit_once('.').is_some_and(|(_, ending)| is_yaml(ending) || NEAR_ENDINGS.contains(&ending) || BEHIND.contains(&ending))
}

/// Whether a file is that of an action.
pub(super) fn is_action(path: &str) -> bool {
    ACTION_FILES.contains(&file_name(path))
}

/// Where a file of this path would be read, and why it is not; nothing for a path that says nothing.
fn misplaced(path: &str) -> Option<(String, String)> {
    let (dir, name) = path.rsplit_once('/').unwrap_or(("", path));
    let (stem, ending) = name.rsplit_once('.')?;
    if !has_near_ending(path) || is_kept_on_purpose(path) {
        return None;
    }
    hosts().iter().find_map(|host| {
        let (top, leaf) = host.folder.split_once('/')?;
        let wanted = |name: &str| format!("{}/{name}", host.folder);
        let read = format!("the forge reads *.yml and *.yaml directly in {}", host.folder);
        if !is_yaml(ending) {
            let inner = stem.rsplit_once('.').map(|(_, inner)| inner);
            if dir == host.folder && BEHIND.contains(&ending) && inner.is_some_and(is_yaml) {
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
            Some((first, rest)) => first == top && rest != leaf && nearest(rest, [leaf]).is_some(),
            None => dir == top || dir == leaf,
        };
        let without_point = dir == host.folder.trim_start_matches('.');
        (slipped || without_point).then(|| (wanted(name), format!("it lies in {dir}; {read}")))
    })
}

/// Where a file below another folder would be read: it moved along with the site, and is read only at the root. Nothing for folders
/// that are kept as examples or come from elsewhere.
fn moved_along(path: &str) -> Option<(String, String)> {
    let reason = |folder: &str| format!("it lies below {folder}; the forge looks at the root of the repository only");
    let (dir, name) = path.rsplit_once('/')?;
    name.rsplit_once('.').filter(|(_, ending)| is_yaml(ending))?;
    let found = hosts().iter().find_map(|host| {
        let folder = dir.strip_suffix(host.folder)?.strip_suffix('/')?;
        Some((format!("{}/{name}", host.folder), reason(folder)))
    });
    found.filter(|_| !is_kept_on_purpose(path) && !is_of_others(path))
}

fn is_yaml(ending: &str) -> bool {
    matches!(ending, "yml" | "yaml")
}

/// Whether forges read a file of this path.
fn is_read(path: &str) -> bool {
    let Some((folder, name)) = path.rsplit_once('/') else { return false };
    (name.ends_with(".yml") || name.ends_with(".yaml")) && hosts().iter().any(|host| host.folder == folder)
}

#[cfg(test)]
mod tests {
    use super::{is_read, misplaced, moved_along};

    #[test]
    fn what_moved_below_a_folder_is_read_nowhere() {
        let moved = "web/.github/workflows/a.yml";
        assert!(moved_along(moved).is_some() && !is_read(moved));
        for path in ["examples/a/.github/workflows/a.yml", "vendor/x/.github/workflows/a.yml"] {
            assert!(moved_along(path).is_none(), "{path}");
        }
        for path in [".github/workflows/a.yml", ".forgejo/workflows/a.yaml"] {
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
