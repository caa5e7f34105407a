//! The pen of both build files.

use crate::case::Case;
use crate::finding::Mend;
use crate::pen::Ask;

/// The words in which the two differ.
pub(in crate::formats) struct Words {
    /// The key of the folder that the artifact is taken from.
    pub base: &'static str,
    /// The phase in which the site is built.
    pub build: &'static str,
    /// Where variables are set that a person does not mind being read.
    pub variables: &'static str,
    /// Where secrets are kept.
    pub secrets: &'static str,
}

/// A mend in the words of one of them.
pub(in crate::formats) fn write(case: &Case<'_>, ask: &Ask<'_>, words: &Words) -> Mend {
    let job = |job: &usize| case.job_name(*job);
    let Words { base, build, variables, secrets } = words;
    Mend::by_hand(match ask {
        Ask::KeepMade { .. } => "leave the folder that was built where it is".to_owned(),
        Ask::WaitFor { other, .. } => format!("do it after what `{}` does", job(other)),
        Ask::Submodules { .. } => "let the project bring submodules, in its settings of the source".to_owned(),
        Ask::NarrowVariable { name, .. } => format!("set {name} before the one command that reads it"),
        Ask::GiveVariable { name, .. } | Ask::MoveVariable { name, .. } => format!("set {name} under {variables}, or {secrets}"),
        Ask::FetchInto { folder } | Ask::HandOn { folder, .. } => format!("name `{folder}` in `{base}`, with `files: '**/*'`"),
        Ask::HandOnFrom { folder } => format!("write `{base}: {folder}` and `**/*` under `files`"),
        Ask::FetchFrom { .. } => format!("build it in the phase {build} of this file"),
        Ask::OwnProposalsOnly | Ask::StartWithoutRights => "let only branches of your own start it, in its settings".to_owned(),
        Ask::LockPerBranch | Ask::Lock { .. } => "let one build run at a time, in its settings".to_owned(),
        Ask::WriteForRunner { line, .. } => format!("export the value in the same shell: {line}"),
        Ask::CheckOutOfFork { .. } => "check out what started the build".to_owned(),
        Ask::KeyOfLockfile { .. } | Ask::KeyWithSystem | Ask::KeyWithAxis { .. } | Ask::CacheFallback { .. } => {
            "make the cache's key of the lockfile".to_owned()
        }
        Ask::Limit { .. } => "begin the command with `timeout 10m`".to_owned(),
        Ask::WholeHistory => "bring the whole history, in the settings of the source".to_owned(),
        Ask::MakePages { .. } | Ask::Environment { .. } => "publish the folder with a command of its own".to_owned(),
        Ask::OnlyAfterSuccess => format!("publish in the phase {build}, after the command that builds"),
        Ask::ListStage => "put the phases into their order".to_owned(),
        Ask::GrantReading | Ask::Grant { .. } | Ask::GrantJob { .. } | Ask::OwnGrant { .. } | Ask::OwnToken { .. } => {
            "let the role of the build do it".to_owned()
        }
        Ask::IdentityToken => "use the role of the build".to_owned(),
        Ask::PassAsVariable => "read it in quotes, as \"$NAME\"".to_owned(),
        Ask::SecretForCondition => "read it in the command".to_owned(),
        Ask::BecomeCallable | Ask::HandNoSecrets => "write what it does in this file".to_owned(),
        Ask::GiveInput { name } | Ask::ActionInput { name } | Ask::HandSecretOn { name, .. } => format!("give `{name}` a value"),
        Ask::CacheDownloads { manager, .. } => format!("list the folder of {manager}'s downloads under `cache`, `paths`"),
        Ask::CacheLockfile { .. } => "add the lockfile to git".to_owned(),
        Ask::HiddenFiles { .. } => "name it under `files`".to_owned(),
        Ask::SaveCache => "let the cache be saved too".to_owned(),
    })
}
