//! The pen of a `Jenkinsfile`.

use crate::case::Case;
use crate::finding::Mend;
use crate::pen::Ask;

/// A mend in the words of the format.
pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
        Ask::KeepMade { .. } => "leave the folder that was built where it is".to_owned(),
        Ask::WaitFor { other, .. } => format!("do it after what `{}` does", job(other)),
        Ask::Submodules { .. } => {
            "let the checkout bring submodules, in the project's settings or with `checkout scmGit(...)`".to_owned()
        }
        Ask::NarrowVariable { name, .. } => format!("set {name} with `withEnv` round the one step that reads it"),
        Ask::GiveVariable { name, .. } | Ask::MoveVariable { name, .. } => {
            format!("put the step inside the block that gives it {name}, or set {name} in the `environment` of its stage")
        }
        Ask::FetchInto { folder } => format!("put `unstash` into `dir('{folder}')`"),
        Ask::HandOn { folder, .. } | Ask::HandOnFrom { folder } => {
            format!("hand it on with `stash name: 'site', includes: '{folder}/**'`")
        }
        Ask::FetchFrom { from, .. } => {
            format!(
                "`stash` the folder in `{}` and `unstash` it here, or let both run in one workspace (`reuseNode true`)",
                job(from)
            )
        }
        Ask::OwnProposalsOnly | Ask::StartWithoutRights => {
            "build only the changes of people you trust, in the project's settings".to_owned()
        }
        Ask::LockPerBranch | Ask::Lock { .. } => "add `disableConcurrentBuilds()` to the `options` of the pipeline".to_owned(),
        Ask::WriteForRunner { line, .. } => {
            format!("put the value into `env` in a `script` block: {line}")
        }
        Ask::CheckOutOfFork { .. } => "check out what started the build".to_owned(),
        Ask::KeyOfLockfile { .. } | Ask::KeyWithSystem | Ask::KeyWithAxis { .. } | Ask::CacheFallback { .. } => {
            "name the kept folder after the lockfile".to_owned()
        }
        Ask::Limit { .. } => "add `timeout(time: 20, unit: 'MINUTES')` to the `options`".to_owned(),
        Ask::WholeHistory => "let the checkout bring the whole history, in the project's settings".to_owned(),
        Ask::MakePages { .. } | Ask::Environment { .. } => "publish the folder with a step of its own".to_owned(),
        Ask::OnlyAfterSuccess => "publish in `post`, `success`".to_owned(),
        Ask::ListStage => "put the stages into their order".to_owned(),
        Ask::GrantReading | Ask::Grant { .. } | Ask::GrantJob { .. } | Ask::OwnGrant { .. } | Ask::OwnToken { .. } => {
            "give the credential of the project that right".to_owned()
        }
        Ask::IdentityToken => "use a credential of the server".to_owned(),
        Ask::PassAsVariable => "set it with `withEnv`, and read it in single quotes of the language, as \"$NAME\"".to_owned(),
        Ask::SecretForCondition => "read it in the command".to_owned(),
        Ask::BecomeCallable | Ask::HandNoSecrets => "write what it does in this file".to_owned(),
        Ask::GiveInput { name } | Ask::ActionInput { name } | Ask::HandSecretOn { name, .. } => format!("give `{name}` a value"),
        Ask::CacheDownloads { manager, .. } => format!("keep the folder of {manager}'s downloads on the agent"),
        Ask::CacheLockfile { .. } => "add the lockfile to git".to_owned(),
        Ask::HiddenFiles { .. } => "name it under `includes`".to_owned(),
        Ask::SaveCache => "let the folder be kept too".to_owned(),
    })
}
