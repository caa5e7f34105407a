//! The pen of `cloudbuild.yaml`.

use crate::case::Case;
use crate::finding::Mend;
use crate::pen::Ask;

/// A mend in the words of the format.
pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
        Ask::KeepMade { .. } => "leave the folder that was built where it is".to_owned(),
        Ask::WaitFor { other, .. } => format!("do it after what `{}` does", job(other)),
        Ask::Submodules { .. } => "add a step that runs `git submodule update --init --recursive`".to_owned(),
        Ask::NarrowVariable { name, .. } => format!("list {name} under the `env` of the one step that reads it"),
        Ask::GiveVariable { name, .. } | Ask::MoveVariable { name, .. } => {
            format!("list `{name}=…` under the `env` of that step, or {name} under its `secretEnv` where the build fetches it")
        }
        Ask::FetchInto { folder } | Ask::HandOn { folder, .. } | Ask::HandOnFrom { folder } => {
            format!("write `{folder}` in the step that publishes")
        }
        Ask::FetchFrom { .. } => "build it in a step of this file".to_owned(),
        Ask::OwnProposalsOnly | Ask::StartWithoutRights => "let the trigger wait for a comment of an owner".to_owned(),
        Ask::LockPerBranch | Ask::Lock { .. } => {
            "let builds of one trigger wait for each other, in the queue of its pool".to_owned()
        }
        Ask::WriteForRunner { line, .. } => {
            format!("write the value into a file of /workspace, for the steps after this: {line}")
        }
        Ask::CheckOutOfFork { .. } => "check out what started the build".to_owned(),
        Ask::KeyOfLockfile { .. } | Ask::KeyWithSystem | Ask::KeyWithAxis { .. } | Ask::CacheFallback { .. } => {
            "name the stored archive after the lockfile".to_owned()
        }
        Ask::Limit { .. } => "add `timeout: 600s` to the step".to_owned(),
        Ask::WholeHistory => "add a step that runs `git fetch --unshallow`".to_owned(),
        Ask::MakePages { .. } | Ask::Environment { .. } => "publish the folder with a step of its own".to_owned(),
        Ask::OnlyAfterSuccess => "remove `allowFailure` from the steps before it".to_owned(),
        Ask::ListStage => "put the steps into their order".to_owned(),
        Ask::GrantReading | Ask::Grant { .. } | Ask::GrantJob { .. } | Ask::OwnGrant { .. } | Ask::OwnToken { .. } => {
            "let the account of the build do it".to_owned()
        }
        Ask::IdentityToken => "use the account of the build".to_owned(),
        Ask::PassAsVariable => "list it under `env`, and read it in quotes, as \"$$NAME\"".to_owned(),
        Ask::SecretForCondition => "read it in the command".to_owned(),
        Ask::BecomeCallable | Ask::HandNoSecrets => "write what it does in this file".to_owned(),
        Ask::GiveInput { name } | Ask::ActionInput { name } | Ask::HandSecretOn { name, .. } => format!("give `{name}` a value"),
        Ask::CacheDownloads { manager, .. } => format!("keep the folder of {manager}'s downloads in a bucket between builds"),
        Ask::CacheLockfile { .. } => "add the lockfile to git".to_owned(),
        Ask::HiddenFiles { .. } => "name it under `paths`".to_owned(),
        Ask::SaveCache => "let the archive be stored too".to_owned(),
    })
}
