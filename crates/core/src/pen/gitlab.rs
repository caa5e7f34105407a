//! The pen of `.gitlab-ci.yml`.

use super::Ask;
use crate::case::Case;
use crate::finding::Mend;

pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
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
        Ask::KeyOfLockfile => "name the lockfile under `cache: key: files`".to_owned(),
        Ask::KeyWithSystem => "put $CI_RUNNER_EXECUTABLE_ARCH into the key".to_owned(),
        Ask::KeyWithAxis { axis } => format!("put ${axis} into the key"),
        Ask::CacheFallback { .. } => {
            "name the lockfile under `cache: key: files`, or use $CI_COMMIT_REF_SLUG, which stays the same for a branch"
                .to_owned()
        }
        Ask::SaveCache => "let one job save it: policy: pull-push, which is what happens without `policy`".to_owned(),
    })
}
