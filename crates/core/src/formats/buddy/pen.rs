//! The pen of `buddy.yml`.

use crate::case::Case;
use crate::finding::Mend;
use crate::pen::Ask;

pub(super) fn write(_: &Case<'_>, ask: &Ask<'_>) -> Mend {
    Mend::by_hand(match ask {
        Ask::HandOnFrom { folder } => format!("send `{folder}` itself, so that what is in it comes to lie at the top"),
        Ask::KeepMade { .. } => "write `input_type: BUILD_ARTIFACTS`, which sends what the actions before have made".to_owned(),
        Ask::WaitFor { .. } => "put that action before this one, without `run_next_parallel`".to_owned(),
        Ask::Submodules { .. } => "let the pipeline bring submodules, in its settings".to_owned(),
        Ask::NarrowVariable { name, .. } => format!("move {name} to the `variables` of the action that reads it"),
        Ask::GiveVariable { name, .. } | Ask::MoveVariable { name, .. } => {
            format!("set {name} under `variables` of the pipeline or of the action")
        }
        Ask::FetchInto { folder } | Ask::HandOn { folder, .. } => format!("build `{folder}` in an action before"),
        Ask::FetchFrom { .. } => "build it in an action of this pipeline".to_owned(),
        Ask::OwnProposalsOnly | Ask::StartWithoutRights => "take refs/pull/* out of `refs`".to_owned(),
        Ask::LockPerBranch | Ask::Lock { .. } => "write `concurrent_pipeline_runs: false`".to_owned(),
        Ask::WriteForRunner { line, .. } => format!("export the value in the same action: {line}"),
        Ask::CheckOutOfFork { .. } => "check out what the pull request runs on".to_owned(),
        Ask::KeyOfLockfile { .. } | Ask::KeyWithSystem | Ask::KeyWithAxis { .. } | Ask::CacheFallback { .. } => {
            "a cached folder has no key here: it stays from run to run".to_owned()
        }
        Ask::Limit { .. } => "write a `timeout` in seconds into the action".to_owned(),
        Ask::WholeHistory => "remove `clone_depth`".to_owned(),
        Ask::MakePages { .. } | Ask::Environment { .. } => "add an action that sends the folder".to_owned(),
        Ask::OnlyAfterSuccess => "remove `trigger_time`, or write ON_EVERY_EXECUTION".to_owned(),
        Ask::ListStage => "put the actions into their order".to_owned(),
        Ask::GrantReading | Ask::Grant { .. } | Ask::GrantJob { .. } | Ask::OwnGrant { .. } | Ask::OwnToken { .. } => {
            "let it use a key that may do it".to_owned()
        }
        Ask::IdentityToken => "use a key that the workspace holds".to_owned(),
        Ask::PassAsVariable => "read it in quotes, as \"$NAME\"".to_owned(),
        Ask::SecretForCondition => "compare a variable that is not encrypted".to_owned(),
        Ask::BecomeCallable | Ask::HandNoSecrets => "write what it does in this pipeline".to_owned(),
        Ask::GiveInput { name } | Ask::ActionInput { name } | Ask::HandSecretOn { name, .. } => format!("give `{name}` a value"),
        Ask::CacheDownloads { manager, .. } => format!("list the folder of {manager}'s downloads under `cached_dirs`"),
        Ask::CacheLockfile { .. } => "add the lockfile to git".to_owned(),
        Ask::HiddenFiles { .. } => "name it as `local_path`".to_owned(),
        Ask::SaveCache => "remove what keeps the cache from being saved".to_owned(),
    })
}
