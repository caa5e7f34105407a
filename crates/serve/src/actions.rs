//! What can be done where the cursor stands: mends, acceptances, declarations.

use std::collections::BTreeSet;

use crossbeam_channel::Sender;
use dulk_core::accept;
use dulk_core::facts::{Declared, declared_with};
use dulk_core::finding::Finding;
use dulk_core::mend::{mend_all, plan};
use dulk_core::project::{Project, Read};
use dulk_core::shown::shown;
use dulk_core::text::{FileId, Place, Span, capital};
use lsp_server::ErrorCode;
use lsp_types::{CodeAction, CodeActionKind, CodeActionParams, Command, ExecuteCommandParams, Uri, WorkspaceEdit};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use crate::edits::Edits;
use crate::findings::diagnostic;
use crate::house::SETTINGS;
use crate::server::read;
use crate::session::{Asked, Fault, Session};
use crate::wire;

/// The kind of what mends a whole file.
const MEND_FILE: &str = "source.fixAll.dulk";
/// The command for it, for clients that take edits only with the action itself.
const MEND_FILE_COMMAND: &str = "dulk.mendFile";
/// The command that tells when a job runs.
pub const WHEN_COMMAND: &str = "dulk.when";

/// The kinds of actions that there are.
pub const KINDS: [&str; 2] = ["quickfix", MEND_FILE];
/// The commands that there are.
pub const COMMANDS: [&str; 2] = [MEND_FILE_COMMAND, WHEN_COMMAND];

/// What an action that is completed later is known by.
#[derive(Serialize, Deserialize)]
struct Later {
    uri: Uri,
}

/// A job of a file.
#[derive(Deserialize)]
struct JobOf {
    uri: Uri,
    job: String,
}

/// The actions for a range.
pub fn actions(asked: &Asked<'_>, params: CodeActionParams) -> Option<Value> {
    let (project, file) = asked.project()?;
    let source = project.sources.get(file);
    let span = asked.client().encoding.span(source, params.range);
    let wants = |kind: &str| match &params.context.only {
        Some(kinds) => kinds.iter().any(|wanted| kind == wanted.as_str() || kind.starts_with(&format!("{}.", wanted.as_str()))),
        None => true,
    };
    let mut actions: Vec<CodeAction> = Vec::new();
    if wants("quickfix") {
        let here: Vec<&Finding> = asked.house.findings().filter(|one| meets(one.at, file, span)).collect();
        actions.extend(here.iter().filter_map(|finding| mend(asked, &project, finding)));
        actions.extend(declarations(asked, &project, Place { file, span }));
        actions.extend(here.iter().filter_map(|finding| acceptance(asked, &project, finding)));
    }
    if wants(MEND_FILE) {
        actions.extend(mend_file(asked, file, &params.text_document.uri));
    }
    if asked.client().takes_actions {
        return Some(json!(actions));
    }
    // A client of old takes commands alone.
    Some(json!(actions.into_iter().filter_map(|action| action.command).collect::<Vec<_>>()))
}

/// Whether a place and a span of a file touch each other.
fn meets(at: Place, file: FileId, span: Span) -> bool {
    at.file == file && at.span.start <= span.end && span.start <= at.span.end
}

fn quick(title: String, edit: WorkspaceEdit) -> CodeAction {
    CodeAction { title, kind: Some(CodeActionKind::QUICKFIX), edit: Some(edit), ..CodeAction::default() }
}

/// The mend of a finding, where it is more than words.
fn mend(asked: &Asked<'_>, project: &Project<'_>, finding: &Finding) -> Option<CodeAction> {
    let mut edits = Edits::default();
    for edit in &finding.mend.edits {
        edits.replace(asked.session, project.sources.get(edit.at.file), edit.at.span, &edit.text);
    }
    let edit = edits.finish(asked.session, asked.house)?;
    let title = capital(&shown(&finding.mend.title));
    Some(CodeAction {
        is_preferred: Some(finding.mend.certain),
        diagnostics: Some(vec![diagnostic(asked.session, asked.house, project.sources, finding)]),
        ..quick(title, edit)
    })
}

/// The comment that accepts a finding, or the entry of dulk.toml where no comment can stand.
fn acceptance(asked: &Asked<'_>, project: &Project<'_>, finding: &Finding) -> Option<CodeAction> {
    let source = project.sources.get(finding.at.file);
    // A file that is no pipeline, such as package.json, says nothing to us in a comment.
    let format = project.in_file(finding.at.file).map(|first| project.prepared[first].pipeline.format);
    let mut edits = Edits::default();
    let title = match format.and_then(|format| accept::comment_for(format, source, finding)) {
        Some((offset, text)) => {
            edits.replace(asked.session, source, Span::new(offset, offset), &text);
            format!("Accept {} here: say why in the comment", finding.rule)
        }
        None => {
            let entry = accept::entry_for(source, finding);
            settings_edit(asked, project, &mut edits, |text| {
                let gap = if text.is_empty() || text.ends_with("\n\n") { "" } else { "\n" };
                let end = if text.is_empty() || text.ends_with('\n') { "" } else { "\n" };
                Some((text.len()..text.len(), format!("{end}{gap}{entry}")))
            })?;
            format!("Accept {} here: say why in dulk.toml", finding.rule)
        }
    };
    Some(CodeAction {
        diagnostics: Some(vec![diagnostic(asked.session, asked.house, project.sources, finding)]),
        ..quick(title, edits.finish(asked.session, asked.house)?)
    })
}

/// An edit of dulk.toml, which is made where there is none.
fn settings_edit(
    asked: &Asked<'_>,
    project: &Project<'_>,
    edits: &mut Edits,
    edit: impl Fn(&str) -> Option<(std::ops::Range<usize>, String)>,
) -> Option<()> {
    match project.sources.find(SETTINGS) {
        Some(file) => {
            let source = project.sources.get(file);
            let (range, text) = edit(&source.text)?;
            edits.replace(asked.session, source, Span::new(range.start, range.end), &text);
        }
        None => edits.make(SETTINGS, &edit("")?.1),
    }
    Some(())
}

/// For what reads a name that dulk.toml does not declare: to declare it.
fn declarations(asked: &Asked<'_>, project: &Project<'_>, place: Place) -> Vec<CodeAction> {
    let forge = &project.facts.settings.forge;
    let mut actions = Vec::new();
    for index in (0..project.prepared.len()).filter(|index| project.prepared[*index].pipeline.file == place.file) {
        let case = project.case(index);
        for read in case.reads.iter().filter(|read| meets(read.at, place.file, place.span)) {
            let kinds: &[(Declared, Read, &str)] = match read.read {
                Read::Secret => &[(Declared::Secrets, Read::Secret, "secret")],
                Read::ForgeVariable => &[(Declared::Variables, Read::ForgeVariable, "variable")],
                Read::Unheld => {
                    &[(Declared::Secrets, Read::Secret, "secret"), (Declared::Variables, Read::ForgeVariable, "variable")]
                }
                _ => continue,
            };
            let environment =
                read.job.and_then(|job| case.pipeline.jobs[job].environment.as_ref()).map(|name| name.value.as_str());
            if forge.holds(&read.name, environment) {
                continue;
            }
            for (declared, kind, word) in kinds {
                // A first list says that there are no others, so that it names all that are read.
                let others = if declared.of(forge).is_none() { project.names_read(&[*kind]) } else { BTreeSet::new() };
                let names: Vec<String> =
                    others.into_iter().chain([read.name.clone()]).collect::<BTreeSet<_>>().into_iter().collect();
                let mut edits = Edits::default();
                if settings_edit(asked, project, &mut edits, |text| declared_with(text, *declared, &names)).is_none() {
                    continue;
                }
                let Some(edit) = edits.finish(asked.session, asked.house) else { continue };
                let (noun, verb) = if names.len() == 1 { (word.to_string(), "exists") } else { (format!("{word}s"), "exist") };
                let title = format!("Say in dulk.toml that the {noun} {} {verb}", dulk_core::finding::listed(&names));
                let action = quick(title, edit);
                if !actions.contains(&action) {
                    actions.push(action);
                }
            }
        }
    }
    actions
}

/// All that is certain in a file, where that is more than nothing.
fn mend_file(asked: &Asked<'_>, file: FileId, uri: &Uri) -> Option<CodeAction> {
    let snapshot = asked.house.snapshot()?;
    let findings: Vec<Finding> = asked.house.findings().cloned().collect();
    let own = (0..findings.len()).filter(|index| findings[*index].at.file == file);
    let count: usize = plan(&findings, snapshot.sources(), own).iter().map(|mend| mend.findings.len()).sum();
    if count == 0 {
        return None;
    }
    let title = format!("Mend all that is certain in this file ({count})");
    let later = json!(Later { uri: uri.clone() });
    let resolves = asked.client().resolves_edits;
    let command = Command { title: title.clone(), command: MEND_FILE_COMMAND.to_owned(), arguments: Some(vec![later.clone()]) };
    Some(CodeAction {
        title,
        kind: Some(CodeActionKind::from(MEND_FILE)),
        command: (!resolves).then_some(command),
        data: resolves.then_some(later),
        ..CodeAction::default()
    })
}

/// The texts with all that is certain in a file mended, as `dulk mend` would.
fn mended(session: &Session, later: &Later) -> Option<WorkspaceEdit> {
    let asked = session.asked(&later.uri)?;
    let snapshot = asked.house.snapshot()?;
    let file = snapshot.sources().find(&asked.path)?;
    let findings: Vec<Finding> = asked.house.findings().cloned().collect();
    let wanted = |finding: &Finding| finding.at.file == file;
    let mended = mend_all(findings, snapshot.sources(), &wanted, &|sources| snapshot.findings_with(sources));
    Edits::between(session, snapshot.sources(), &mended.sources).finish(session, asked.house)
}

/// Completes an action that somebody has chosen.
pub fn resolve(session: &Session, mut action: CodeAction) -> Value {
    let later = action.data.as_ref().and_then(|data| Later::deserialize(data).ok());
    if let Some(later) = later {
        action.edit = mended(session, &later);
    }
    json!(action)
}

/// Does what a command says.
///
/// # Errors
/// For a command that nobody here knows, and for one without its arguments.
pub fn execute(session: &Session, params: ExecuteCommandParams, say: &Sender<Value>) -> Result<Value, Fault> {
    let argument = params.arguments.into_iter().next().unwrap_or_default();
    let message = match params.command.as_str() {
        MEND_FILE_COMMAND => mended(session, &read(argument)?)
            .map(|edit| wire::request("dulk-mend", "workspace/applyEdit", json!({"label": "dulk mend", "edit": edit}))),
        WHEN_COMMAND => when(session, &read(argument)?)
            .map(|text| wire::notification("window/showMessage", json!({"type": 3, "message": text}))),
        other => return Err(Fault::new(ErrorCode::InvalidParams, format!("there is no command {other}"))),
    };
    if let Some(message) = message {
        // A writer that is gone means a client that is gone.
        let _ = say.send(message);
    }
    Ok(Value::Null)
}

/// What becomes of a job on every event.
fn when(session: &Session, wanted: &JobOf) -> Option<String> {
    let asked = session.asked(&wanted.uri)?;
    let (project, file) = asked.project()?;
    let (runs, events) = dulk_core::cursor::told_events(&project, file, &wanted.job)?;
    Some(format!("{} {}.\n{}", shown(&wanted.job), shown(&runs.told()), events.join("\n")))
}
