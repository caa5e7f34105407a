//! package.json as facts.

use super::config::{Found, Setting, Value};
use crate::text::{FileId, Place};

/// A package.json.
#[derive(Clone, Debug)]
pub struct Package {
    /// The file.
    pub file: FileId,
    /// Its own name.
    pub name: Option<(String, Place)>,
    /// Its scripts; `None` when they are written in a way that is not understood.
    pub scripts: Option<Vec<Script>>,
    /// Where the scripts stand, or the whole file.
    pub scripts_at: Place,
    /// Names of all packages it depends on, with their places.
    pub dependencies: Vec<(String, Place)>,
    /// The versions that it asks for, as written, with their places.
    pub ranges: Vec<(String, (String, Place))>,
    /// Those that an installation for production leaves out, with their places.
    pub development: Vec<(String, Place)>,
    /// Those that an installation must find in the lockfile.
    pub installed: Vec<(String, Place)>,
    /// The address it is published under.
    pub homepage: Option<(String, Place)>,
    /// The versions of node that it asks for (`engines.node`).
    pub node: Option<(String, Place)>,
    /// The manager that it asks for, with its version (`packageManager`).
    pub manager: Option<(String, Place)>,
    /// The folders of its workspaces, as patterns.
    pub workspaces: Vec<(String, Place)>,
}

/// One line of `scripts`.
#[derive(Clone, Debug)]
pub struct Script {
    /// Its name.
    pub name: String,
    /// Where the name stands.
    pub at: Place,
    /// The command.
    pub command: String,
}

impl Package {
    /// Reads what is written in the shape that the managers document; anything else is left unknown.
    pub fn from_setting(file: FileId, setting: &Setting) -> Self {
        let place = |span| Place { file, span };
        let (scripts, scripts_at) = match setting.find("scripts") {
            Found::Here(found) => (read_scripts(file, found), found.span),
            Found::Absent if matches!(setting.value, Value::Map { .. }) => (Some(Vec::new()), setting.span),
            _ => (None, setting.span),
        };
        let mut dependencies = Vec::new();
        let mut ranges = Vec::new();
        for key in ["dependencies", "devDependencies", "optionalDependencies", "peerDependencies"] {
            if let Found::Here(found) = setting.find(key) {
                dependencies.extend(found.entries().iter().map(|(name, span, _)| (name.clone(), place(*span))));
                let version = |setting: &Setting| Some((setting.text()?.to_owned(), place(setting.span)));
                ranges.extend(found.entries().iter().filter_map(|(name, _, setting)| Some((name.clone(), version(setting)?))));
            }
        }
        let names = |keys: &[&str]| {
            let mut found_names = Vec::new();
            for key in keys {
                if let Found::Here(found) = setting.find(key) {
                    found_names.extend(found.entries().iter().map(|(name, span, _)| (name.clone(), place(*span))));
                }
            }
            found_names
        };
        let installed = names(&["dependencies", "devDependencies"]);
        let text = |path: &str| match setting.find(path) {
            Found::Here(found) => found.text().map(|text| (text.to_owned(), place(found.span))),
            _ => None,
        };
        let workspaces =
            [setting.find("workspaces.packages"), setting.find("workspaces")].into_iter().find_map(|found| match found {
                Found::Here(Setting { value: Value::List(items), .. }) => {
                    Some(items.iter().filter_map(|item| Some((item.text()?.to_owned(), place(item.span)))).collect())
                }
                _ => None,
            });
        Self {
            file,
            name: text("name"),
            scripts,
            scripts_at: place(scripts_at),
            dependencies,
            ranges,
            development: names(&["devDependencies"]),
            installed,
            homepage: text("homepage"),
            node: text("engines.node"),
            manager: text("packageManager"),
            workspaces: workspaces.unwrap_or_default(),
        }
    }

    /// A script by its name.
    pub fn script(&self, name: &str) -> Option<&Script> {
        self.scripts.as_ref()?.iter().find(|script| script.name == name)
    }

    /// Where a dependency stands that an installation for production leaves out.
    pub fn only_for_development(&self, name: &str) -> Option<Place> {
        let (_, at) = self.development.iter().find(|(known, _)| known == name)?;
        let times = self.dependencies.iter().filter(|(known, _)| known == name).count();
        (times == 1).then_some(*at)
    }

    /// The version of a dependency that it asks for, and where.
    pub fn range(&self, name: &str) -> Option<(&str, Place)> {
        self.ranges.iter().find(|(known, _)| known == name).map(|(_, (range, at))| (range.as_str(), *at))
    }

    /// Where a dependency stands.
    pub fn dependency(&self, name: &str) -> Option<Place> {
        self.dependencies.iter().find(|(known, _)| known == name).map(|(_, at)| *at)
    }
}

/// The packages that package-lock.json holds for its own folder: the names in its first entry. Only that entry is read, as the
/// file may be long. `None` for lockfiles of before npm 7, which have none.
pub(super) fn locked_names(text: &str) -> Option<std::collections::HashSet<String>> {
    let start = text.find("\"packages\"")?;
    let entry = start + text[start..].find("\"\"")?;
    let object = entry + text[entry..].find('{')?;
    let mut values = serde_json::Deserializer::from_str(&text[object..]).into_iter::<serde_json::Value>();
    let own = values.next()?.ok()?;
    let mut names = std::collections::HashSet::new();
    for key in ["dependencies", "devDependencies", "optionalDependencies", "peerDependencies"] {
        names.extend(own.get(key).and_then(|list| list.as_object()).into_iter().flatten().map(|(name, _)| name.clone()));
    }
    Some(names)
}

fn read_scripts(file: FileId, setting: &Setting) -> Option<Vec<Script>> {
    if !matches!(setting.value, Value::Map { .. }) {
        return None;
    }
    let script = |(name, span, command): &(String, crate::text::Span, Setting)| {
        Some(Script { name: name.clone(), at: Place { file, span: *span }, command: command.text()?.to_owned() })
    };
    setting.entries().iter().map(script).collect()
}
