//! The pen of definitions; what is to be written into a build file is spelled by the pen of those.

use crate::case::Case;
use crate::finding::Mend;
use crate::formats::phased::{self, Words};
use crate::pen::Ask;

const WORDS: Words = Words {
    base: "base-directory",
    build: "build",
    variables: "`env`, `variables` of the build file",
    secrets: "name the safe that holds it under `env`, `secrets-manager`",
};

pub(super) fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    let job = |job: usize| case.job_name(job);
    Mend::by_hand(match ask {
        Ask::WaitFor { job: waiting, other } => {
            format!("give `{}` a higher run order than `{}`, or put it into a later stage", job(*waiting), job(*other))
        }
        Ask::LockPerBranch | Ask::Lock { .. } => {
            "let runs wait for each other: the execution mode QUEUED of a pipeline, a ConcurrentBuildLimit of 1 of a build"
                .to_owned()
        }
        Ask::FetchInto { folder } | Ask::HandOn { folder, .. } => {
            format!("let the build hand `{folder}` on: `base-directory: {folder}` under `artifacts` of its file")
        }
        Ask::FetchFrom { from, .. } => format!("take the artifact that `{}` hands on", job(*from)),
        Ask::Limit { .. } => "give the project of the build a limit in minutes".to_owned(),
        _ => return phased::write(case, ask, &WORDS),
    })
}
