//! The JSON contract: see docs and product notes; lines and columns from 1, columns in characters, ends exclusive.

use dulk_core::finding::{Edit, Finding, Witness, WitnessSource};
use dulk_core::mask::mask;
use dulk_core::text::{Place, Range, Sources};
use serde::Serialize;

use super::source_word;
use crate::checked::Checked;
use crate::screen::Screen;

#[derive(Serialize)]
struct Report {
    schema: u32,
    tool: Tool,
    findings: Vec<JsonFinding>,
    files: Vec<JsonFile>,
}

#[derive(Serialize)]
struct Tool {
    name: &'static str,
    version: &'static str,
}

#[derive(Serialize)]
struct JsonFinding {
    rule: &'static str,
    family: &'static str,
    severity: &'static str,
    message: String,
    file: String,
    range: Range,
    witnesses: Vec<JsonWitness>,
    mend: JsonMend,
}

#[derive(Serialize)]
struct JsonWitness {
    source: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    range: Option<Range>,
    text: String,
}

#[derive(Serialize)]
struct JsonMend {
    title: String,
    certain: bool,
    edits: Vec<JsonEdit>,
}

#[derive(Serialize)]
struct JsonEdit {
    file: String,
    range: Range,
    text: String,
}

#[derive(Serialize)]
struct JsonFile {
    file: String,
    dialect: &'static str,
}

/// Shows a check as JSON.
///
/// # Errors
/// Only when the values cannot be written as JSON, which is a fault of the program.
pub fn show(checked: &Checked, screen: &mut Screen) -> anyhow::Result<()> {
    let sources = &checked.repository().sources;
    let findings = checked.files.iter().flat_map(|file| &file.findings).map(|finding| json_finding(finding, sources)).collect();
    let file = |pipeline: &dulk_core::formats::PipelineFile| JsonFile {
        file: sources.get(pipeline.file).path.clone(),
        dialect: pipeline.format.id(),
    };
    let files = checked.repository().pipelines.iter().map(file).collect();
    let report = Report { schema: 1, tool: Tool { name: "dulk", version: env!("CARGO_PKG_VERSION") }, findings, files };
    screen.data(&serde_json::to_string_pretty(&report)?);
    Ok(())
}

fn spot(place: Place, sources: &Sources) -> (String, Range) {
    let file = sources.get(place.file);
    (file.path.clone(), file.range(place.span))
}

fn json_finding(finding: &Finding, sources: &Sources) -> JsonFinding {
    let (file, range) = spot(finding.at, sources);
    let mend = &finding.mend;
    // An edit that holds a credential cannot be shown, and hidden it would be a wrong one.
    let hidden = mend.edits.iter().any(|edit| mask(&edit.text) != edit.text);
    let edits: &[Edit] = if hidden { &[] } else { &mend.edits };
    JsonFinding {
        rule: finding.rule,
        family: finding.family(),
        severity: finding.severity.word(),
        message: mask(&finding.message).into_owned(),
        file,
        range,
        witnesses: finding.witnesses.iter().map(|witness| json_witness(witness, sources)).collect(),
        mend: JsonMend {
            title: mask(&mend.title).into_owned(),
            certain: mend.certain && !hidden,
            edits: edits.iter().map(|edit| json_edit(edit, sources)).collect(),
        },
    }
}

fn json_witness(witness: &Witness, sources: &Sources) -> JsonWitness {
    let place = match witness.source {
        WitnessSource::At(place) => Some(spot(place, sources)),
        _ => None,
    };
    let (file, range) = place.unzip();
    JsonWitness { source: source_word(&witness.source), file, range, text: mask(&witness.text).into_owned() }
}

fn json_edit(edit: &Edit, sources: &Sources) -> JsonEdit {
    let (file, range) = spot(edit.at, sources);
    JsonEdit { file, range, text: edit.text.clone() }
}
