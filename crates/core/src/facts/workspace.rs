//! The packages of a repository that work together, and which of them a filter means.

use globset::GlobBuilder;

use super::Facts;
use super::config::{Found, Setting, Value};
use super::packages::Package;

/// What a filter means.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Members<'f> {
    /// The packages in these folders.
    These(Vec<&'f str>),
    /// Surely none.
    None,
    /// It is not known.
    Unknown,
}

impl Facts {
    /// The folders of all packages that work together, the root's own left out; nothing when that is not known.
    pub fn members(&self) -> Option<Vec<&str>> {
        let patterns = self.member_patterns()?;
        let matches = |pattern: &str, dir: &str| -> Option<bool> {
            let pattern = pattern.trim_start_matches("./").trim_end_matches('/');
            let glob = GlobBuilder::new(pattern).literal_separator(true).build().ok()?;
            Some(glob.compile_matcher().is_match(dir))
        };
        let mut found = Vec::new();
        for dir in self.packages.keys().map(String::as_str).filter(|dir| !dir.is_empty()) {
            let mut is_member = false;
            for pattern in &patterns {
                match pattern.strip_prefix('!') {
                    Some(pattern) => is_member &= !matches(pattern, dir)?,
                    None => is_member |= matches(pattern, dir)?,
                }
            }
            if is_member {
                found.push(dir);
            }
        }
        let is_package = |path: &&str| path.ends_with("/package.json") && !path.contains("node_modules/");
        let is_read = |path: &str| path.rsplit_once('/').is_some_and(|(dir, _)| self.packages.contains_key(dir));
        self.files.known()?.iter().filter(is_package).all(is_read).then_some(found)
    }

    /// The patterns of the folders: of the root's package.json, or of the file that another manager keeps for it.
    fn member_patterns(&self) -> Option<Vec<String>> {
        let own = self.packages.get("")?;
        if !own.workspaces.is_empty() {
            return Some(own.workspaces.iter().map(|(pattern, _)| pattern.clone()).collect());
        }
        let (_, setting) = self.configs.get("pnpm-workspace.yaml")?;
        match setting.find("packages") {
            Found::Here(Setting { value: Value::List(items), .. }) => {
                items.iter().map(|item| item.text().map(str::to_owned)).collect()
            }
            _ => None,
        }
    }

    /// The packages that a filter means, written in a folder: a package's name, or the path of its folder.
    pub fn member(&self, dir: &str, filter: &str) -> Members<'_> {
        if filter.is_empty() || filter.contains(['*', '{', '}', '[', ']', '!', '^', '$']) || filter.contains("...") {
            return Members::Unknown;
        }
        let path = crate::effects::join(&Some(dir.to_owned()), filter);
        let by_path = path.and_then(|path| self.packages.get_key_value(&path)).map(|(dir, _)| dir.as_str());
        if let Some(dir) = by_path {
            return Members::These(vec![dir]);
        }
        let is_name = |package: &Package, unscoped: bool| {
            let name = package.name.as_ref().map_or("", |(name, _)| name.as_str());
            name == filter || unscoped && name.starts_with('@') && name.rsplit('/').next() == Some(filter)
        };
        for unscoped in [false, true] {
            let found: Vec<&str> =
                self.packages.iter().filter(|(_, package)| is_name(package, unscoped)).map(|(dir, _)| dir.as_str()).collect();
            match found.as_slice() {
                [] => {}
                [one] => return Members::These(vec![one]),
                _ => return Members::Unknown,
            }
        }
        if filter.starts_with(['.', '/']) || self.members().is_none() { Members::Unknown } else { Members::None }
    }
}
