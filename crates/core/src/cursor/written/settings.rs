//! What may be written in dulk.toml.

use super::{Offer, OfferKind, Offers, names, of_rule};
use crate::project::{Project, Read};
use crate::rules;
use crate::text::{SourceFile, Span};

/// The keys of each table, with what they mean.
const KEYS: [(&str, &[(&str, &str)]); 6] = [
    (
        "forge",
        &[
            ("default-branch", "the branch that the forge shows first"),
            ("secrets", "the names of the secrets that exist"),
            ("variables", "the names of the variables that exist"),
            ("token", "what a job's token may do where the file does not say: \"read\" or \"write\""),
            ("pages", "where the forge's pages come from: \"pipeline\" or \"branch:NAME\""),
        ],
    ),
    ("site", &[("output", "the built folder"), ("base", "the path under which the site is served")]),
    ("rules", &[]),
    ("files", &[("skip", "patterns of pipeline files that are not checked")]),
    (
        "starts",
        &[
            ("file", "the pipeline file"),
            ("push", "patterns of branches of which a push starts it"),
            ("tags", "patterns of tags that start it"),
            ("pulls", "patterns of branches of which pull requests into them start it"),
            ("clock", "the clock starts it"),
        ],
    ),
    (
        "accept",
        &[
            ("rule", "the rule that is accepted"),
            ("file", "the file that the finding stands in"),
            ("line", "the text of the line, where only that is meant"),
            ("job", "the job, where only that is meant"),
            ("because", "why"),
        ],
    ),
];

/// What may be written at a byte of a text of dulk.toml, which may be wrong as long as it is being typed.
pub fn setting_offers(project: &Project<'_>, source: &SourceFile, offset: usize) -> Offers {
    let Some(text) = source.text.get(..offset) else { return Offers::default() };
    let line = text.rsplit('\n').next().unwrap_or_default();
    let table = text.lines().rev().find_map(|line| {
        let name = line.trim().trim_start_matches('[').strip_suffix(']')?;
        line.trim_start().starts_with('[').then(|| name.trim_end_matches(']').trim().to_owned())
    });
    let typed = line.rsplit(|c: char| !(c.is_alphanumeric() || "_-./".contains(c))).next().unwrap_or_default();
    let instead_of = Span::new(offset - typed.len(), offset);
    let key = key_above(text);
    let list = match (line.trim_start().starts_with('['), table.as_deref(), key.as_deref()) {
        (true, ..) => KEYS.iter().map(|(name, _)| Offer::new(OfferKind::Key, *name, "")).collect(),
        (_, Some("rules"), None) => {
            rules::all().map(|rule| Offer { insert: format!("{} = ", rule.id), ..of_rule(rule) }).collect()
        }
        (_, Some("rules"), Some(_)) => {
            ["off", "advice", "warning", "error"].map(|word| Offer::new(OfferKind::Word, word, "")).into()
        }
        (_, Some("accept"), Some("rule")) => rules::all().map(of_rule).collect(),
        (_, Some("accept" | "starts"), Some("file")) => files(project),
        (_, _, Some("secrets")) => read(project, Read::Secret),
        (_, _, Some("variables")) => read(project, Read::ForgeVariable),
        (_, _, Some("token")) => ["read", "write"].map(|word| Offer::new(OfferKind::Word, word, "")).into(),
        (_, _, Some("default-branch" | "branches" | "push" | "pulls")) => names::branches(project),
        (_, Some(table), None) => keys(table),
        _ => Vec::new(),
    };
    Offers { instead_of, list }
}

/// The key whose value a text ends in.
fn key_above(text: &str) -> Option<String> {
    let line = text.rsplit('\n').next().unwrap_or_default();
    if let Some((key, _)) = line.split_once('=') {
        return Some(key.trim().to_owned());
    }
    // An array may go over several lines.
    let (before, _) = text.rsplit_once('[')?;
    let rest = &text[before.len()..];
    let own = before.rsplit('\n').next().unwrap_or_default();
    let (key, _) = own.split_once('=')?;
    (!rest.contains(']')).then(|| key.trim().to_owned())
}

fn keys(table: &str) -> Vec<Offer> {
    let keys = KEYS.iter().find(|(name, _)| *name == table).map(|(_, keys)| *keys).unwrap_or_default();
    keys.iter()
        .map(|(key, meaning)| Offer { insert: format!("{key} = "), ..Offer::new(OfferKind::Key, *key, *meaning) })
        .collect()
}

fn files(project: &Project<'_>) -> Vec<Offer> {
    (0..project.prepared.len()).map(|index| Offer::new(OfferKind::Path, project.path(index), "a pipeline file")).collect()
}

/// The names that the pipelines read.
fn read(project: &Project<'_>, kind: Read) -> Vec<Offer> {
    let names = project.names_read(&[kind, Read::Unheld]);
    names.into_iter().map(|name| Offer::new(OfferKind::Read, name, "a pipeline reads it")).collect()
}
