//! Paths inside the workspace.

use super::Folder;

/// A path as it is written, from a folder: `.` and `..` worked out, slashes at the end dropped. `None` when it is not known, or
/// leads out of the workspace.
pub fn join(dir: &Folder, path: &str) -> Folder {
    let path = path.trim();
    if let Some(rest) = from_workspace(path) {
        return normal(rest);
    }
    if path.starts_with(['/', '~']) || path.contains(['$', '\\']) {
        return None;
    }
    match dir.as_ref()?.as_str() {
        "" => normal(path),
        dir => normal(&[dir, "/", path].concat()),
    }
}

/// The folder that a pattern of paths looks in, and whether it is one; a plain path is itself.
pub(super) fn before_stars(path: &str) -> (&str, bool) {
    match path.find(['*', '?', '[']) {
        Some(index) => (path[..index].rsplit_once('/').map_or("", |(folder, _)| folder), true),
        None => (path, false),
    }
}

/// Whether a path is a folder itself or lies in it.
pub fn is_inside(path: &str, folder: &str) -> bool {
    folder.is_empty() || path == folder || path.strip_prefix(folder).is_some_and(|rest| rest.starts_with('/'))
}

/// What follows the workspace's own folder, where a path names it.
fn from_workspace(path: &str) -> Option<&str> {
    if !path.starts_with(['$', '/']) {
        return None;
    }
    let rest = crate::knowledge::workspace_names().iter().find_map(|name| path.strip_prefix(name))?;
    (rest.is_empty() || rest.starts_with('/')).then(|| rest.trim_start_matches('/')).filter(|rest| !rest.contains('$'))
}

/// No honest path is longer, in bytes; a script that goes deeper and deeper would make them grow without end.
const PATH_LIMIT: usize = 1_000;

/// Works out `.` and `..`; `None` when it leads out of the workspace.
pub fn normal(path: &str) -> Folder {
    if path.len() > PATH_LIMIT {
        return None;
    }
    // Most paths are written as plainly as can be.
    if path.split('/').all(|part| !matches!(part, "" | "." | "..")) {
        return Some(path.to_owned());
    }
    let mut parts: Vec<&str> = Vec::new();
    for part in path.split('/') {
        match part {
            "" | "." => {}
            ".." => {
                parts.pop()?;
            }
            name => parts.push(name),
        }
    }
    Some(parts.join("/"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_are_worked_out_from_the_root() {
        let dir = Some("apps/web".to_owned());
        for (path, expected) in [
            ("dist", Some("apps/web/dist")),
            ("./dist/", Some("apps/web/dist")),
            ("../../out", Some("out")),
            ("../../../out", None),
            ("/tmp/x", None),
            ("~/x", None),
            ("$DIR/x", None),
            ("${{ github.workspace }}/dist", Some("dist")),
            ("$GITHUB_WORKSPACE", Some("")),
            ("a/${{ matrix.x }}", None),
        ] {
            assert_eq!(join(&dir, path).as_deref(), expected, "{path}");
        }
    }
}
