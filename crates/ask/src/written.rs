//! dulk.toml with what was learnt.

use dulk_core::facts::{SETTINGS_FILE, read_settings};
use dulk_core::text::{FileId, SourceFile};
use toml_edit::{Array, DocumentMut, Item, Table, TableLike, Value};

use crate::Learnt;

/// A key that says something else than before.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// With its tables, such as `forge.token`.
    pub key: String,
    /// What stood there.
    pub before: Option<String>,
    /// What stands there now.
    pub now: String,
}

/// A text of dulk.toml in which everything stands that was learnt, and what became another one by it. All else stays as it is, comments
/// too; what was not learnt is not touched.
///
/// # Errors
/// In plain words, when the text cannot be read.
pub fn written(text: &str, learnt: &Learnt) -> Result<(String, Vec<Change>), String> {
    let unreadable = |_| "dulk.toml cannot be read".to_owned();
    let mut document: DocumentMut = text.parse().map_err(unreadable)?;
    let mut changes = Changes::default();
    let forge = table(document.as_table_mut(), "forge")?;
    changes.text(forge, "forge", "default-branch", learnt.default_branch.as_ref().ok());
    changes.names(forge, "forge", "secrets", learnt.secrets.as_ref().ok());
    changes.names(forge, "forge", "variables", learnt.variables.as_ref().ok());
    changes.text(forge, "forge", "token", learnt.token.as_ref().ok());
    changes.text(forge, "forge", "pages", learnt.pages.as_ref().ok().and_then(Option::as_ref));
    for (name, environment) in learnt.environments.iter().flatten() {
        let branches = environment.branches.as_ref().ok().and_then(Option::as_ref);
        let (secrets, variables) = (environment.secrets.as_ref().ok(), environment.variables.as_ref().ok());
        if branches.is_none() && secrets.is_none() && variables.is_none() {
            continue;
        }
        let environments = table(forge, "environments")?;
        let own = table(environments, name)?;
        let within = format!("forge.environments.{name}");
        changes.names(own, &within, "branches", branches);
        changes.names(own, &within, "secrets", secrets);
        changes.names(own, &within, "variables", variables);
    }
    if changes.0.is_empty() {
        return Ok((text.to_owned(), Vec::new()));
    }
    let mut new = document.to_string();
    if text.contains("\r\n") {
        new = new.replace("\r\n", "\n").replace('\n', "\r\n");
    }
    // Whatever a forge says: what is written is read again.
    read_settings(FileId(0), &SourceFile::new(SETTINGS_FILE, new.clone()))
        .map_err(|error| format!("what was learnt makes no dulk.toml: {}", error.reason))?;
    Ok((new, changes.0))
}

#[derive(Default)]
struct Changes(Vec<Change>);

impl Changes {
    fn text(&mut self, table: &mut dyn TableLike, within: &str, key: &str, learnt: Option<&String>) {
        if let Some(learnt) = learnt {
            let is_same = |before: &Value| before.as_str() == Some(learnt);
            self.set(table, (within, key), Value::from(learnt.as_str()), is_same);
        }
    }

    fn names(&mut self, table: &mut dyn TableLike, within: &str, key: &str, learnt: Option<&Vec<String>>) {
        let Some(learnt) = learnt else { return };
        let is_same = |before: &Value| {
            let mut names: Vec<&str> = before.as_array().into_iter().flatten().filter_map(Value::as_str).collect();
            let mut wanted: Vec<&str> = learnt.iter().map(String::as_str).collect();
            names.sort_unstable();
            wanted.sort_unstable();
            names == wanted
        };
        self.set(table, (within, key), Value::Array(learnt.iter().collect::<Array>()), is_same);
    }

    /// Puts a value in, unless the same stands there, perhaps in another order or with comments.
    fn set(&mut self, table: &mut dyn TableLike, (within, key): (&str, &str), value: Value, is_same: impl Fn(&Value) -> bool) {
        let before = table.get(key).and_then(Item::as_value);
        if before.is_some_and(is_same) {
            return;
        }
        let bare = |value: &Value| {
            let mut bare = value.clone();
            bare.decor_mut().clear();
            bare.to_string()
        };
        let before = before.map(bare);
        self.0.push(Change { key: format!("{within}.{key}"), before, now: bare(&value) });
        // A comment at the end of the line stays.
        let decor = table.get(key).and_then(Item::as_value).map(|before| before.decor().clone());
        let mut value = value;
        if let Some(decor) = decor {
            *value.decor_mut() = decor;
        }
        match table.get_mut(key) {
            Some(item) => *item = Item::Value(value),
            None => {
                table.insert(key, Item::Value(value));
            }
        }
    }
}

/// A table of a name, which is made where there is none.
fn table<'t>(within: &'t mut dyn TableLike, name: &str) -> Result<&'t mut dyn TableLike, String> {
    if !within.contains_key(name) {
        let mut new = Table::new();
        // One that holds nothing but tables has no line of its own.
        new.set_implicit(name == "environments");
        within.insert(name, Item::Table(new));
    }
    within.get_mut(name).and_then(Item::as_table_like_mut).ok_or_else(|| format!("`{name}` in dulk.toml is no table"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Failure, LearntEnvironment};

    fn learnt() -> Learnt {
        let names = |names: &[&str]| names.iter().map(|name| (*name).to_owned()).collect::<Vec<_>>();
        Learnt {
            default_branch: Ok("main".into()),
            secrets: Ok(names(&["QUAY_PASSWORD", "TIDE"])),
            variables: Err(Failure::NotAllowed(None)),
            token: Ok("read".into()),
            pages: Ok(None),
            environments: Ok(vec![
                (
                    "the live one".into(),
                    LearntEnvironment {
                        branches: Ok(Some(names(&["main"]))),
                        secrets: Ok(names(&[])),
                        variables: Err(Failure::NotAllowed(None)),
                    },
                ),
                (
                    "tries".into(),
                    LearntEnvironment {
                        branches: Ok(None),
                        secrets: Err(Failure::NotAllowed(None)),
                        variables: Err(Failure::NotAllowed(None)),
                    },
                ),
            ]),
        }
    }

    #[test]
    fn what_was_learnt_is_written_and_what_was_not_stays_unsaid() {
        let (new, changes) = written("", &learnt()).expect("a text");
        assert_eq!(
            new,
            "[forge]\ndefault-branch = \"main\"\nsecrets = [\"QUAY_PASSWORD\", \"TIDE\"]\ntoken = \"read\"\n\n\
             [forge.environments.\"the live one\"]\nbranches = [\"main\"]\nsecrets = []\n"
        );
        assert_eq!(changes.len(), 5);
        assert_eq!(written(&new, &learnt()).expect("a text"), (new, Vec::new()));
    }

    #[test]
    fn the_rest_of_a_text_stays_as_it_is() {
        let text = "# ours\r\n[rules]\r\n\"cache.none\" = \"off\" # small\r\n\r\n[forge] # the forge\r\n\
                    secrets = [ # two\r\n  \"TIDE\",\r\n  \"QUAY_PASSWORD\",\r\n]\r\ntoken = \"write\" # as it came\r\n";
        let (new, changes) = written(text, &learnt()).expect("a text");
        assert!(new.starts_with(&text[..text.find("token").expect("a key")]), "{new}");
        assert!(new.contains("token = \"read\" # as it came\r\n"), "{new}");
        assert!(!new.replace("\r\n", "").contains('\n'), "{new}");
        let token = changes.iter().find(|change| change.key == "forge.token").expect("a change");
        assert_eq!((token.before.as_deref(), token.now.as_str()), (Some("\"write\""), "\"read\""));
        assert!(changes.iter().all(|change| change.key != "forge.secrets"));
    }
}
