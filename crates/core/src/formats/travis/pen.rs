//! The pen of `.travis.yml`.

use crate::case::Case;
use crate::finding::Mend;
use crate::pen::Ask;

pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    Mend::by_hand(match ask {
        Ask::HandOnFrom { folder } => format!("publish `{folder}` itself, so that what is in it comes to lie at the top"),
        // Where it is written, another word is enough; where it is not, the older generation wants to be told.
        Ask::KeepMade { said } => match case.sources.slice(*said) {
            "true" => "write `cleanup: false`, so that what the job has made is still there".to_owned(),
            "false" => "write `skip_cleanup: true`, so that what the job has made is still there".to_owned(),
            _ => "write `skip_cleanup: true` under `deploy`, so that what the job has made is still there".to_owned(),
        },
        Ask::WaitFor { job: waiting, other } => {
            format!(
                "put `{}` into a stage that comes after the one of `{}`, in the order under `stages`",
                job(waiting),
                job(other)
            )
        }
        Ask::Submodules { .. } => "remove `submodules: false` under `git`".to_owned(),
        Ask::NarrowVariable { name, job: reader } => format!("move {name} to the `env` of `{}`", job(reader)),
        Ask::GiveVariable { name, job: builder } => {
            format!("set {name} under `env` of `{}`, or in the repository's settings", job(builder))
        }
        Ask::FetchInto { folder } | Ask::HandOn { folder, .. } => format!("build `{folder}` in the job that publishes it"),
        Ask::FetchFrom { job: taker, .. } => format!("build it in `{}`: each job is a new machine", job(taker)),
        Ask::OwnProposalsOnly => "add `if: fork = false`".to_owned(),
        Ask::LockPerBranch | Ask::Lock { .. } => {
            "let one build run at a time, in the repository's settings under concurrent jobs".to_owned()
        }
        Ask::WriteForRunner { line, .. } => format!("export the value in the same job: {line}"),
        Ask::CheckOutOfFork { .. } => "check out what the pull request runs on".to_owned(),
        Ask::KeyOfLockfile { .. } | Ask::KeyWithSystem | Ask::KeyWithAxis { .. } | Ask::CacheFallback { .. } => {
            "a cache has no key here: it is kept for each branch and kind of job".to_owned()
        }
        Ask::Limit { .. } => "begin the command with `timeout 10m`".to_owned(),
        Ask::WholeHistory => "write `depth: false` under `git`, which brings the whole history".to_owned(),
        Ask::MakePages { .. } => "publish it under `deploy`, with `provider: pages`".to_owned(),
        Ask::OnlyAfterSuccess => "move it to `deploy` or to `after_success`".to_owned(),
        Ask::ListStage => "list it under `stages`, or write one that is listed".to_owned(),
        Ask::Environment { .. } => "name the place under `deploy`".to_owned(),
        Ask::GrantReading | Ask::Grant { .. } | Ask::GrantJob { .. } | Ask::OwnGrant { .. } | Ask::OwnToken { .. } => {
            "use a token that may do it, as a variable of the repository's settings".to_owned()
        }
        Ask::IdentityToken => "use a key that the repository's settings hold".to_owned(),
        Ask::StartWithoutRights => "add `if: type = push`".to_owned(),
        Ask::PassAsVariable => "read it in quotes, as \"$NAME\"".to_owned(),
        Ask::SecretForCondition => "read it in the script: conditions are judged before the job has its variables".to_owned(),
        Ask::MoveVariable { name, builds: true } => format!("move {name} to the `env` of the job that builds"),
        Ask::MoveVariable { name, builds: false } => format!("move {name} to the `env` of this job"),
        Ask::BecomeCallable | Ask::HandNoSecrets => "write what it does in this file".to_owned(),
        Ask::GiveInput { name } | Ask::ActionInput { name } | Ask::HandSecretOn { name, .. } => format!("give `{name}` a value"),
        Ask::CacheDownloads { manager, .. } if matches!(*manager, "npm" | "yarn" | "pip" | "bundler") => {
            format!("write `cache: {manager}`")
        }
        Ask::CacheDownloads { manager, .. } => format!("list the folder of {manager}'s downloads under `cache: directories`"),
        Ask::CacheLockfile { .. } => "add the lockfile to git".to_owned(),
        Ask::HiddenFiles { .. } => "name it under `deploy`".to_owned(),
        Ask::SaveCache => "remove what keeps the cache from being saved".to_owned(),
    })
}
