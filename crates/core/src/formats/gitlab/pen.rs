//! The pen of `.gitlab-ci.yml`.

use crate::carrier::yaml::edit::line_before;
use crate::case::Case;
use crate::finding::Mend;
use crate::pen::{Ask, likely};

pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
        Ask::HandOnFrom { folder } => format!("publish `{folder}` itself, so that what is in it comes to lie at the top"),
        Ask::KeepMade { .. } => "publish the folder as it stands".to_owned(),
        Ask::WaitFor { job: waiting, other } => {
            format!("put `{}` into a later stage than `{}`, or add {} to its needs", job(waiting), job(other), job(other))
        }
        Ask::Submodules { .. } => "set GIT_SUBMODULE_STRATEGY: recursive under `variables`".to_owned(),
        Ask::NarrowVariable { name, job: reader } => format!("move {name} to the `variables` of `{}`", job(reader)),
        Ask::GiveVariable { name, job: builder } => {
            format!("set {name} under `variables` of `{}`, or among the project's CI/CD variables", job(builder))
        }
        Ask::FetchInto { folder } => {
            format!("hand `{folder}` itself on, under `artifacts: paths`: it comes back under its own path")
        }
        Ask::HandOn { folder, job: holder } => format!("list {folder} under `artifacts: paths` of `{}`", job(holder)),
        Ask::FetchFrom { job: taker, from } => {
            format!("list the folder under `artifacts: paths` of `{}`, and let `{}` need it", job(from), job(taker))
        }
        Ask::OwnProposalsOnly => "add a rule that asks for $CI_MERGE_REQUEST_SOURCE_PROJECT_ID == $CI_PROJECT_ID".to_owned(),
        Ask::LockPerBranch => "add the branch to the group, as in site-$CI_COMMIT_REF_SLUG".to_owned(),
        Ask::WriteForRunner { line, file, .. } => format!("add the line {line} to the file whose path is in {file}"),
        Ask::CheckOutOfFork { .. } => "check out what the merge request runs on".to_owned(),
        Ask::KeyOfLockfile { .. } => "name the lockfile under `cache: key: files`".to_owned(),
        Ask::KeyWithSystem => "put $CI_RUNNER_EXECUTABLE_ARCH into the key".to_owned(),
        Ask::KeyWithAxis { axis } => format!("put ${axis} into the key"),
        Ask::CacheFallback { .. } => {
            "name the lockfile under `cache: key: files`, or use $CI_COMMIT_REF_SLUG, which stays the same for a branch"
                .to_owned()
        }
        Ask::Lock { job: locked } => {
            let title = format!("give `{}` a lock that lets one run publish at a time", job(locked));
            return likely(title, line_before(case.sources, case.pipeline.jobs[*locked].body, "resource_group: publish"));
        }
        Ask::Limit { job: endless } => {
            let title = format!("give `{}` a limit, such as timeout: 10 minutes", job(endless));
            return likely(title, line_before(case.sources, case.pipeline.jobs[*endless].body, "timeout: 10 minutes"));
        }
        Ask::WholeHistory => "write GIT_DEPTH: \"0\", which brings the whole history".to_owned(),
        Ask::MakePages { job: holder } => {
            let title = format!("say `pages: true` in `{}`", job(holder));
            return likely(title, line_before(case.sources, case.pipeline.jobs[*holder].body, "pages: true"));
        }
        Ask::OnlyAfterSuccess => "let it run only after success, which is what happens when nothing is said".to_owned(),
        Ask::ListStage => "list it under `stages`, or write one that is listed".to_owned(),
        Ask::Environment { job: outside, name } => format!("write `environment: {name}` in `{}`", job(outside)),
        Ask::GrantReading | Ask::Grant { .. } => "let the job's token do it in the project's settings".to_owned(),
        Ask::GrantJob { .. } | Ask::OwnGrant { .. } => {
            "allow it in the project's settings, under the job token's permissions, or push with a project access token"
                .to_owned()
        }
        Ask::OwnToken { .. } => "read $CI_JOB_TOKEN, and let it push in the project's settings".to_owned(),
        Ask::IdentityToken => "ask for a token under `id_tokens` of the job, and read that".to_owned(),
        Ask::StartWithoutRights => "let it run for merge requests from this project only".to_owned(),
        Ask::PassAsVariable => "set a variable to it under `variables`, and read that in quotes, as \"$NAME\"".to_owned(),
        Ask::SecretForCondition => "read it in the script: conditions are judged before the job has its variables".to_owned(),
        Ask::MoveVariable { name, builds: true } => format!("move {name} to the `variables` of the job that builds"),
        Ask::MoveVariable { name, builds: false } => format!("move {name} to the `variables` of this job"),
        Ask::BecomeCallable => "add `spec: inputs` to it, and include it".to_owned(),
        Ask::GiveInput { name } | Ask::ActionInput { name } => format!("give `{name}` a value under `inputs`"),
        Ask::HandSecretOn { name, .. } => format!("set {name} under `trigger: forward` or `variables` of this job"),
        Ask::HandNoSecrets => "remove `trigger: forward`".to_owned(),
        Ask::CacheDownloads { manager, .. } => {
            format!("add a `cache` with {manager}'s downloads, and the lockfile under `cache: key: files`")
        }
        Ask::CacheLockfile { .. } => "name the lockfile under `cache: key: files`".to_owned(),
        Ask::HiddenFiles { .. } => "list it under `artifacts: paths`".to_owned(),
        Ask::SaveCache => "let one job save it: policy: pull-push, which is what happens without `policy`".to_owned(),
    })
}
