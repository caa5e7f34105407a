//! SARIF 2.1.0, the open standard for results of analyses.

use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

use dulk_core::finding::{Edit, Finding, Severity, WitnessSource};
use dulk_core::mask::mask;
use dulk_core::rules;
use dulk_core::text::{Place, Sources};
use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};
use serde_json::{Value, json};

use super::source_word;
use crate::checked::Checked;

/// The whole log as JSON text.
///
/// # Errors
/// Never, for values that are made here.
pub fn log(checked: &Checked) -> anyhow::Result<String> {
    let sources = &checked.repository().sources;
    let findings: Vec<&Finding> = checked.files.iter().flat_map(|file| &file.findings).collect();
    let all: Vec<&rules::Rule> = rules::all().collect();
    let index = |id: &str| all.iter().position(|rule| rule.id == id).unwrap_or_default();
    let results: Vec<Value> = findings.iter().map(|finding| result(finding, index(finding.rule), sources)).collect();
    let rules: Vec<Value> = all
        .iter()
        .map(|rule| {
            json!({
                "id": rule.id,
                "shortDescription": { "text": rule.title },
                "fullDescription": { "text": rule.why },
                "help": { "text": format!("{}\n\ndulk why {} shows a wrong and a right example.", rule.why, rule.id) },
                "defaultConfiguration": { "level": level(rule.severity) },
            })
        })
        .collect();
    let log = json!({
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": { "name": "dulk", "version": env!("CARGO_PKG_VERSION"), "rules": rules } },
            "columnKind": "unicodeCodePoints",
            "originalUriBaseIds": { "ROOT": { "description": { "text": "the top of the repository" } } },
            "results": results,
        }],
    });
    Ok(serde_json::to_string_pretty(&log)?)
}

fn level(severity: Severity) -> &'static str {
    match severity {
        Severity::Error => "error",
        Severity::Warning => "warning",
        Severity::Advice => "note",
    }
}

fn result(finding: &Finding, index: usize, sources: &Sources) -> Value {
    let witnesses = finding.witnesses.iter().map(|witness| match witness.source {
        WitnessSource::At(at) => {
            let mut location = location(at, sources);
            location["message"] = json!({ "text": mask(&witness.text) });
            location
        }
        _ => json!({ "message": { "text": format!("{}: {}", source_word(&witness.source), mask(&witness.text)) } }),
    });
    let witnesses: Vec<Value> = witnesses
        .enumerate()
        .map(|(id, mut location)| {
            location["id"] = json!(id);
            location
        })
        .collect();
    let mut result = json!({
        "ruleId": finding.rule,
        "ruleIndex": index,
        "level": level(finding.severity),
        "message": { "text": format!("{}. Do: {}.", mask(&finding.message), mask(&finding.mend.title)) },
        "locations": [location(finding.at, sources)],
        "relatedLocations": witnesses,
        "partialFingerprints": { "dulk/v1": fingerprint(finding, sources) },
    });
    let hidden = finding.mend.edits.iter().any(|edit| mask(&edit.text) != edit.text);
    if !finding.mend.edits.is_empty() && !hidden {
        result["fixes"] = json!([{ "description": { "text": mask(&finding.mend.title) }, "artifactChanges": changes(&finding.mend.edits, sources) }]);
    }
    result
}

fn changes(edits: &[Edit], sources: &Sources) -> Vec<Value> {
    let change = |edit: &Edit| {
        json!({
            "artifactLocation": artifact(edit.at, sources),
            "replacements": [{ "deletedRegion": region(edit.at, sources), "insertedContent": { "text": mask(&edit.text) } }],
        })
    };
    edits.iter().map(change).collect()
}

fn location(at: Place, sources: &Sources) -> Value {
    json!({ "physicalLocation": { "artifactLocation": artifact(at, sources), "region": region(at, sources) } })
}

fn artifact(at: Place, sources: &Sources) -> Value {
    json!({ "uri": address(&sources.get(at.file).path), "uriBaseId": "ROOT" })
}

/// What stands unescaped in the path of a relative address: a colon would make its first part a scheme. Source: RFC 3986, 2.3 and 4.2.
const ADDRESS: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_').remove(b'~').remove(b'/');

fn address(path: &str) -> String {
    utf8_percent_encode(path, ADDRESS).to_string()
}

fn region(at: Place, sources: &Sources) -> Value {
    let range = sources.get(at.file).range(at.span);
    json!({ "startLine": range.start.line, "startColumn": range.start.column, "endLine": range.end.line, "endColumn": range.end.column })
}

/// The same for the same finding, also when lines above it come and go.
fn fingerprint(finding: &Finding, sources: &Sources) -> String {
    let source = sources.get(finding.at.file);
    let mut hasher = DefaultHasher::new();
    (finding.rule, &source.path, source.line_at(finding.at.span.start).trim(), &finding.message).hash(&mut hasher);
    format!("{:016x}", hasher.finish())
}
