//! The pen of workflow files and composite actions.

use crate::carrier::yaml::edit::{indentation, insert, line_after, line_before};
use crate::case::Case;
use crate::finding::{Edit, Mend};
use crate::knowledge::{Among, near};
use crate::model::{Grant, Shell, Text, Work};
use crate::pen::{Ask, certain, likely};
use crate::project::{Read, RunFact};

pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
        Ask::HandOnFrom { folder } => {
            return Mend::by_hand(format!("hand `{folder}` itself on, so that what is in it comes to lie at the top"));
        }
        Ask::KeepMade { .. } => "publish the folder as it stands".to_owned(),
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
        Ask::WriteForRunner { shell: Shell::Posix, line, file } => format!("write echo \"{line}\" >> \"${file}\""),
        Ask::WriteForRunner { shell: Shell::PowerShell, line, file } => format!("write \"{line}\" >> $env:{file}"),
        Ask::WriteForRunner { shell: Shell::Cmd, line, file } => format!("write echo {line}>> %{file}%"),
        Ask::WriteForRunner { shell: Shell::Other, line, file } => {
            format!("add the line {line} to the file whose path is in {file}")
        }
        Ask::CheckOutOfFork { beside } => {
            let line = "repository: ${{ github.event.pull_request.head.repo.full_name }}";
            return likely(format!("add {line}, or leave `ref` out"), line_after(case.sources, beside, line));
        }
        Ask::KeyOfLockfile { file: Some(file) } => {
            format!("put the lockfile's hash into the key, as in ${{{{ hashFiles('{file}') }}}}")
        }
        Ask::KeyOfLockfile { file: None } => {
            "put the hash of the file that names the packages into the key, by hashFiles".to_owned()
        }
        Ask::KeyWithSystem => "put ${{ runner.os }} into the key".to_owned(),
        Ask::KeyWithAxis { axis } => format!("put ${{{{ matrix.{axis} }}}} into the key"),
        Ask::Lock { job: locked } => {
            let title = format!("give `{}` a lock that lets one run publish at a time", job(locked));
            return likely(title, line_before(case.sources, case.pipeline.jobs[*locked].body, "concurrency: publish"));
        }
        Ask::Limit { job: endless } => {
            let title = format!("give `{}` a limit, such as timeout-minutes: 10", job(endless));
            return likely(title, line_before(case.sources, case.pipeline.jobs[*endless].body, "timeout-minutes: 10"));
        }
        Ask::OnlyAfterSuccess => "remove always() or !cancelled(), or ask for success() as well".to_owned(),
        Ask::ListStage => "write one that is listed".to_owned(),
        Ask::Environment { job: outside, name } => format!("write `environment: {name}` in `{}`", job(outside)),
        Ask::GrantReading => return grant_reading(case),
        Ask::Grant { lines, grant } => {
            return certain(format!("add {}", lines.join(" and ")), grant_lines(case, grant, lines));
        }
        Ask::OwnGrant { job, lines, wanted } => return own_grant(case, *job, lines, wanted),
        Ask::GrantJob { job: poor, wanted } => {
            format!("give `{}` a permissions block with {wanted}, and contents: read if it checks out", job(poor))
        }
        Ask::OwnToken { scope, level } => {
            format!("write ${{{{ secrets.GITHUB_TOKEN }}}} and grant the job `{scope}: {level}`")
        }
        Ask::IdentityToken => "grant the job `id-token: write`".to_owned(),
        Ask::StartWithoutRights => "start it by pull_request instead, which runs without the repository's rights".to_owned(),
        Ask::PassAsVariable => "give it to the step as a variable under `env`, and read that in quotes, as \"$NAME\"".to_owned(),
        Ask::SecretForCondition => {
            "give the secret to a variable under `env` of the job, and read that here as env.NAME".to_owned()
        }
        Ask::MoveVariable { name, builds: true } => format!("move {name} to the `env` of the step that builds"),
        Ask::MoveVariable { name, builds: false } => format!("move {name} to the `env` of this step"),
        Ask::BecomeCallable => "add `workflow_call:` to its `on`".to_owned(),
        Ask::GiveInput { name } => format!("give `{name}` a value under `with` of this job"),
        Ask::HandSecretOn { name, declared: true } => {
            format!("hand `{name}` on under `secrets` of this job, or write `secrets: inherit`")
        }
        Ask::HandSecretOn { name, declared: false } => {
            format!("declare `{name}` under `workflow_call: secrets` and hand it on, or write `secrets: inherit`")
        }
        Ask::HandNoSecrets => "remove `secrets: inherit`".to_owned(),
        Ask::ActionInput { name } => format!("add `{name}` under `with`"),
        Ask::CacheDownloads { manager, beside } => {
            let line = format!("cache: {manager}");
            return certain(format!("add {line}"), beside.and_then(|value| line_after(case.sources, value, &line)));
        }
        Ask::CacheLockfile { path: Some(path), beside } => {
            let word = "cache-dependency-path";
            let line = format!("{word}: {path}");
            let edit = line_after(case.sources, beside, &line).filter(|_| !is_misspelt_beside(case, beside, word));
            return certain(format!("add {line}"), edit);
        }
        Ask::CacheLockfile { path: None, .. } => "name them in cache-dependency-path".to_owned(),
        Ask::HiddenFiles { path } => {
            let line = "include-hidden-files: true";
            let beside = || Edit::replace(path.at, format!("{}, {line}", case.sources.slice(path.at)));
            return Mend::certain(format!("add {line}"), [line_after(case.sources, path, line).unwrap_or_else(beside)]);
        }
        Ask::CacheFallback { key } => return fallback(case, key),
        Ask::WholeHistory => "give the checkout fetch-depth: 0, which brings the whole history".to_owned(),
        Ask::MakePages { .. } => "publish the folder in a step of its own".to_owned(),
        Ask::SaveCache => "let one job save it too, with the same path and key".to_owned(),
    })
}

/// Makes a job wait for another: the least edit that fits how it is written.
fn wait_for(case: &Case<'_>, job: usize, other: usize) -> Mend {
    let (waiting, name) = (&case.pipeline.jobs[job], case.job_name(other));
    let title = format!("let `{}` wait: add {name} to its needs", waiting.id.value);
    // A need that is no job is perhaps the very one that is meant.
    let absent = waiting.needs.iter().any(|need| case.pipeline.job(&need.value).is_none());
    if absent || waiting.needs_unknown || case.pipeline.waits_for(other, job) {
        return Mend::by_hand(title);
    }
    let Some(at) = waiting.needs_at else {
        return certain(title, line_before(case.sources, waiting.body, &format!("needs: {name}")));
    };
    let written = case.sources.slice(at);
    if let Some(list) = written.strip_suffix(']') {
        let comma = if list.trim_end().ends_with(['[', ',']) { "" } else { ", " };
        return Mend::certain(title, [insert(at, at.span.end - 1, format!("{comma}{name}"))]);
    }
    match waiting.needs.as_slice() {
        [only] if written == only.value => Mend::certain(title, [Edit::replace(at, format!("[{written}, {name}]"))]),
        _ => Mend::by_hand(title),
    }
}

/// Whether an input beside a value is rather a slip of this one than another one.
fn is_misspelt_beside(case: &Case<'_>, value: &Text, word: &str) -> bool {
    let steps = case.pipeline.jobs.iter().flat_map(|job| &job.steps);
    let mut maps = steps.filter_map(|step| match &step.work {
        Work::Uses { inputs, .. } => Some(inputs),
        _ => None,
    });
    let map = maps.find(|inputs| inputs.entries.iter().any(|(_, other)| other.at == value.at));
    map.is_some_and(|inputs| inputs.entries.iter().any(|(name, _)| near(&name.value, [word], Among::Closed).is_some()))
}

/// The smallest block, before what starts the pipeline.
fn grant_reading(case: &Case<'_>) -> Mend {
    let title = "write the smallest block: contents: read";
    let Some(key) = case.pipeline.triggers_at else { return Mend::by_hand(title) };
    Mend::likely(title, [insert(key, key.span.start, "permissions:\n  contents: read\n\n".to_owned())])
}

/// A block of permissions of the job's own, which replaces the file's for it.
fn own_grant(case: &Case<'_>, job: usize, lines: &[String], wanted: &str) -> Mend {
    let title = format!("give `{}` permissions of its own, with {wanted}", case.job_name(job));
    let body = case.pipeline.jobs[job].body;
    let indent = indentation(case.sources.get(body.file), body.span.start).filter(|_| !lines.is_empty());
    let Some(indent) = indent else { return Mend::by_hand(title) };
    let block: String = lines.iter().map(|line| format!("{indent}  {line}")).collect();
    Mend::certain(title, [insert(body, body.span.start, format!("permissions:{block}{indent}"))])
}

/// Adds lines to a block of permissions.
fn grant_lines(case: &Case<'_>, grant: &Grant, lines: &[String]) -> Option<Edit> {
    let written = case.sources.slice(grant.at);
    if let Some(inside) = written.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')) {
        let joined = lines.join(", ");
        if inside.trim().is_empty() {
            return Some(Edit::replace(grant.at, format!("{{{joined}}}")));
        }
        let gap = inside.len() - inside.trim_start().len();
        return Some(insert(grant.at, grant.at.span.start + 1 + u32::try_from(gap).ok()?, format!("{joined}, ")));
    }
    let indent = indentation(case.sources.get(grant.at.file), grant.at.span.start)?;
    Some(insert(grant.at, grant.at.span.start, lines.iter().map(|line| format!("{line}{indent}")).collect()))
}

/// Adds the beginning of a key as what will do as well.
fn fallback(case: &Case<'_>, key: &Text) -> Mend {
    // The system and the like stay: what they tell apart must not be mixed.
    let steady = |range: &std::ops::Range<usize>| {
        let reads = case.reads_of(key);
        let mut inside = reads.iter().filter(|read| read.range == *range).peekable();
        inside.peek().is_some()
            && inside.all(|read| read.plain && matches!(read.read, Read::Axis | Read::Run(RunFact::Os | RunFact::Job)))
    };
    let first = key.holes().into_iter().find(|hole| !steady(&hole.range)).map_or(key.value.len(), |hole| hole.range.start);
    let beginning = key.value.get(..first).unwrap_or_default();
    match line_after(case.sources, key, &format!("restore-keys: {beginning}")) {
        Some(edit) if !beginning.is_empty() => Mend::certain(format!("add restore-keys: {beginning}"), [edit]),
        _ => Mend::by_hand("add restore-keys with the beginning of the key, or put the lockfile's hash into it"),
    }
}

/// Asks the checkout of a step for submodules.
fn submodules(case: &Case<'_>, job: usize, step: usize) -> Mend {
    let title = "add submodules: true to the checkout";
    let Work::Uses { action, inputs, .. } = &case.pipeline.jobs[job].steps[step].work else {
        return Mend::by_hand(title);
    };
    let source = case.sources.get(action.at.file);
    let line = source.line_at(action.at.span.start);
    let edit = match inputs.entries.first() {
        Some((_, value)) => line_after(case.sources, value, "submodules: true"),
        None if line.trim_end().ends_with(source.slice(action.at.span)) => {
            let dash = line.trim_start().starts_with("- ");
            let indent = line.len() - line.trim_start().len() + if dash { 2 } else { 0 };
            let pad = " ".repeat(indent);
            Some(insert(action.at, action.at.span.end, format!("\n{pad}with:\n{pad}  submodules: true")))
        }
        None => None,
    };
    certain(title.to_owned(), edit)
}
