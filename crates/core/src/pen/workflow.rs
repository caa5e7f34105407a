//! The pen of workflow files and composite actions.

use super::{Ask, indentation, line_after};
use crate::case::Case;
use crate::finding::{Edit, Mend};
use crate::model::{Text, Work};
use crate::text::{Place, Span};

pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
        Ask::WaitFor { job, other } => return wait_for(case, *job, *other),
        Ask::Submodules { job, step } => return submodules(case, *job, *step),
        Ask::NarrowVariable { name, .. } => format!("move {name} to the `env` of that step"),
        Ask::GiveVariable { name, .. } => format!("give {name} to this step under `env`, from a variable of the repository"),
        Ask::FetchInto { folder } => format!("fetch it into `{folder}`, with path: {folder}"),
        Ask::HandOn { folder, job: holder } => format!("upload {folder} as an artifact in `{}`", job(holder)),
        Ask::FetchFrom { job: taker, from } => {
            format!("hand the folder on in `{}`, and download it in `{}`", job(from), job(taker))
        }
        Ask::OwnProposalsOnly => "let this step run only for pull requests from this repository: if: \
                                  github.event.pull_request.head.repo.fork == false"
            .to_owned(),
        Ask::LockPerBranch => "add the branch to the group, as in ${{ github.workflow }}-${{ github.ref }}".to_owned(),
        Ask::KeyOfLockfile => "put the lockfile's hash into the key, as in ${{ hashFiles('package-lock.json') }}".to_owned(),
        Ask::KeyWithSystem => "put ${{ runner.os }} into the key".to_owned(),
        Ask::KeyWithAxis { axis } => format!("put ${{{{ matrix.{axis} }}}} into the key"),
        Ask::CacheFallback { key } => return fallback(case, key),
        Ask::SaveCache => "let one job save it too, with the same path and key".to_owned(),
    })
}

/// Makes a job wait for another: the least edit that fits how it is written.
fn wait_for(case: &Case<'_>, job: usize, other: usize) -> Mend {
    let (waiting, name) = (&case.pipeline.jobs[job], case.job_name(other));
    let title = format!("let `{}` wait: add {name} to its needs", waiting.id.value);
    if waiting.needs_unknown || case.pipeline.upstream(other).contains(&job) {
        return Mend::by_hand(title);
    }
    let source = case.sources.get(waiting.body.file);
    let Some(at) = waiting.needs_at else {
        let start = waiting.body.span.start;
        let Some(indent) = indentation(source, start) else { return Mend::by_hand(title) };
        return Mend::certain(title, [insert(waiting.body, start, format!("needs: {name}{indent}"))]);
    };
    let written = source.slice(at.span);
    if let Some(list) = written.strip_suffix(']') {
        let comma = if list.trim_end().ends_with(['[', ',']) { "" } else { ", " };
        return Mend::certain(title, [insert(at, at.span.end - 1, format!("{comma}{name}"))]);
    }
    match waiting.needs.as_slice() {
        [only] if written == only.value => Mend::certain(title, [Edit::replace(at, format!("[{written}, {name}]"))]),
        _ => Mend::by_hand(title),
    }
}

fn insert(at: Place, offset: u32, text: String) -> Edit {
    Edit::replace(Place { file: at.file, span: Span { start: offset, end: offset } }, text)
}

/// Adds the beginning of a key as what will do as well.
fn fallback(case: &Case<'_>, key: &Text) -> Mend {
    let beginning = key.value.split("${{").next().unwrap_or_default();
    match line_after(case, key, &format!("restore-keys: {beginning}")) {
        Some(edit) if !beginning.is_empty() => Mend::certain(format!("add restore-keys: {beginning}"), [edit]),
        _ => Mend::by_hand("add restore-keys with the beginning of the key, or put the lockfile's hash into it"),
    }
}

/// Asks the checkout of a step for submodules.
fn submodules(case: &Case<'_>, job: usize, step: usize) -> Mend {
    let title = "add submodules: true to the checkout";
    let Work::Uses { action, inputs } = &case.pipeline.jobs[job].steps[step].work else {
        return Mend::by_hand(title);
    };
    let source = case.sources.get(action.at.file);
    let line = source.line_at(action.at.span.start);
    let edit = match inputs.entries.first() {
        Some((_, value)) => line_after(case, value, "submodules: true"),
        None if line.trim_end().ends_with(source.slice(action.at.span)) => {
            let dash = line.trim_start().starts_with("- ");
            let indent = line.len() - line.trim_start().len() + if dash { 2 } else { 0 };
            let pad = " ".repeat(indent);
            let mut end = action.at;
            end.span.start = end.span.end;
            Some(Edit::replace(end, format!("\n{pad}with:\n{pad}  submodules: true")))
        }
        None => None,
    };
    match edit {
        Some(edit) => Mend::certain(title, [edit]),
        None => Mend::by_hand(title),
    }
}
