//! `dulk facts --ask`: what the forge says, and dulk.toml with it.

use std::path::Path;
use std::time::Duration;

use anstyle::Style;
use anyhow::Context;
use dulk_ask::{Change, Learnt, Place, Token, Told};
use dulk_core::facts::SETTINGS_FILE;
use dulk_snapshot::Snapshot;
use serde::Serialize;
use unicode_width::UnicodeWidthStr;

use crate::Outcome;
use crate::args::{AskOptions, FactsOptions, Format};
use crate::facts::settings_text;
use crate::output;
use crate::render::text::shown;
use crate::screen::{Screen, styled};

const BOLD: Style = Style::new().bold();
const DIM: Style = Style::new().dimmed();

/// What was asked, and what came of it.
struct Asked {
    place: Place,
    learnt: Learnt,
    /// dulk.toml with it.
    text: String,
    changes: Vec<Change>,
}

/// Asks, shows what was told, and writes it into dulk.toml where that is wanted.
///
/// # Errors
/// When it is not clear whom to ask, the token is none, nothing can be learnt, or dulk.toml is wrong or cannot be written.
pub fn run(options: &FactsOptions, snapshot: &Snapshot, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let asked = ask(&options.asking, snapshot)?;
    if options.write && !asked.changes.is_empty() {
        output::write(&snapshot.repository().root, Path::new(SETTINGS_FILE), &asked.text)?;
    }
    match options.format {
        Format::Text => show(&asked, options.write, screen),
        Format::Json => screen.data(&serde_json::to_string_pretty(&report(&asked, options.write))?),
    }
    Ok(Outcome::Clean)
}

fn ask(options: &AskOptions, snapshot: &Snapshot) -> anyhow::Result<Asked> {
    let formats: Vec<&str> = snapshot.prepared().iter().map(|one| one.pipeline.format.id()).collect();
    let remote = snapshot.repository().facts.git.remote.known();
    let place = Place::find(remote, options.forge.as_deref(), &formats).map_err(anyhow::Error::msg)?;
    let token = options.token_variable.as_deref().map(token_in).transpose()?;
    let learnt = dulk_ask::ask(&place, token, Duration::from_secs(options.patience)).map_err(|failure| {
        anyhow::anyhow!("{}, asked about {}: {}", place.host(), shown(&repository_of(&place)), shown(&failure.to_string()))
    })?;
    let (text, changes) = dulk_ask::written(&settings_text(snapshot), &learnt).map_err(anyhow::Error::msg)?;
    Ok(Asked { place, learnt, text, changes })
}

/// The token of a variable. Nothing of it is told, whatever is wrong.
fn token_in(variable: &str) -> anyhow::Result<Token> {
    let text = std::env::var(variable).ok().with_context(|| format!("the variable {} is not set", shown(variable)))?;
    Token::new(&text).map_err(|why| anyhow::anyhow!("the variable {} {why}", shown(variable)))
}

fn repository_of(place: &Place) -> String {
    format!("{}/{}", place.remote.owner, place.remote.name)
}

/// A thing that was asked for: its name, and what is told of it.
fn rows(learnt: &Learnt) -> Vec<(String, Told<Value>)> {
    let names = |told: &Told<Vec<String>>| told.clone().map(Value::Names);
    let word = |told: &Told<String>| told.clone().map(Value::Word);
    let mut rows = vec![
        ("default branch".to_owned(), word(&learnt.default_branch)),
        ("secrets".to_owned(), names(&learnt.secrets)),
        ("variables".to_owned(), names(&learnt.variables)),
        ("token without a block".to_owned(), word(&learnt.token)),
        ("pages".to_owned(), learnt.pages.clone().map(|pages| pages.map_or(Value::Nothing, Value::Word))),
    ];
    match &learnt.environments {
        Err(why) => rows.push(("environments".to_owned(), Err(why.clone()))),
        Ok(all) if all.is_empty() => rows.push(("environments".to_owned(), Ok(Value::Nothing))),
        Ok(all) => {
            for (name, one) in all {
                let branches = one.branches.clone().map(|branches| branches.map_or(Value::All, Value::Names));
                rows.push((format!("environment {name}: branches"), branches));
                rows.push((format!("environment {name}: secrets"), names(&one.secrets)));
                rows.push((format!("environment {name}: variables"), names(&one.variables)));
            }
        }
    }
    rows
}

#[derive(Clone, Serialize)]
#[serde(untagged)]
enum Value {
    Word(String),
    Names(Vec<String>),
    /// There is none.
    Nothing,
    /// No rule keeps any out.
    #[serde(serialize_with = "all")]
    All,
}

fn all<S: serde::Serializer>(serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_str("all")
}

impl Value {
    fn words(&self) -> String {
        match self {
            Self::Word(word) => shown(word),
            Self::Names(names) if !names.is_empty() => names.iter().map(|name| shown(name)).collect::<Vec<_>>().join(", "),
            Self::Names(_) | Self::Nothing => "none".to_owned(),
            Self::All => "all".to_owned(),
        }
    }
}

fn show(asked: &Asked, has_written: bool, screen: &mut Screen) {
    let rows = rows(&asked.learnt);
    let told = format!("What the forge at {} says of {}", asked.place.host(), shown(&repository_of(&asked.place)));
    screen.line(&styled(BOLD, &told));
    let width = rows.iter().map(|(name, _)| shown(name).width()).max().unwrap_or(0);
    for (name, value) in &rows {
        let name = shown(name);
        let start = format!("  {name}{}", " ".repeat(width - name.width() + 3));
        match value {
            Ok(value) => screen.hang(&start, &value.words()),
            Err(why) => screen.hang(&start, &styled(DIM, &format!("not known: {}", shown(&why.to_string())))),
        }
    }
    screen.line("");
    if asked.changes.is_empty() {
        screen.line("dulk.toml says all of it already.");
        return;
    }
    screen.line(&styled(BOLD, if has_written { "What dulk.toml says now" } else { "What dulk.toml does not say yet" }));
    for change in &asked.changes {
        let before = change.before.as_deref().map(|before| format!("   it was {}", shown(before))).unwrap_or_default();
        screen.hang("  ", &format!("{} = {}{}", shown(&change.key), shown(&change.now), styled(DIM, &before)));
    }
    if !has_written {
        screen.line("");
        screen.line("The same with --write puts it there: names and rules, and no value of any secret.");
    }
}

#[derive(Serialize)]
struct Report {
    schema: u32,
    forge: String,
    repository: String,
    told: Vec<JsonTold>,
    changes: Vec<JsonChange>,
    written: bool,
}

#[derive(Serialize)]
struct JsonTold {
    name: String,
    known: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<Value>,
    #[serde(skip_serializing_if = "Option::is_none")]
    because: Option<String>,
}

#[derive(Serialize)]
struct JsonChange {
    key: String,
    before: Option<String>,
    now: String,
}

fn report(asked: &Asked, has_written: bool) -> Report {
    let told = |(name, value): (String, Told<Value>)| JsonTold {
        name,
        known: value.is_ok(),
        because: value.as_ref().err().map(ToString::to_string),
        value: value.ok(),
    };
    let change = |change: &Change| JsonChange { key: change.key.clone(), before: change.before.clone(), now: change.now.clone() };
    Report {
        schema: 1,
        forge: asked.place.host().to_owned(),
        repository: repository_of(&asked.place),
        told: rows(&asked.learnt).into_iter().map(told).collect(),
        changes: asked.changes.iter().map(change).collect(),
        written: has_written && !asked.changes.is_empty(),
    }
}
