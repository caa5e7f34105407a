//! How a fix is spelled: a rule says *what* is to be done, and the pen of the pipeline's format gives the words, and the edits where they
//! are sure.

use crate::case::Case;
use crate::finding::{Edit, Mend};
use crate::model::{Grant, Shell, Text};
use crate::text::Place;

/// What is to be done.
#[derive(Clone, Debug)]
pub enum Ask<'a> {
    /// Let a job wait for another one.
    WaitFor {
        /// The job that is to wait.
        job: usize,
        /// The one that comes first.
        other: usize,
    },
    /// Bring submodules with the sources of a job.
    Submodules {
        /// The job.
        job: usize,
        /// The step that brings the sources.
        step: usize,
    },
    /// Give a variable to the one place that reads it, rather than to all.
    NarrowVariable {
        /// Its name.
        name: &'a str,
        /// The job that reads it.
        job: usize,
    },
    /// Give a variable to what builds the page.
    GiveVariable {
        /// Its name.
        name: &'a str,
        /// The job that builds.
        job: usize,
    },
    /// Lay what another job handed on into a folder.
    FetchInto {
        /// The folder.
        folder: &'a str,
    },
    /// Hand a folder on so that what is in it comes to lie at the top.
    HandOnFrom {
        /// The folder.
        folder: &'a str,
    },
    /// Hand a folder on.
    HandOn {
        /// The folder.
        folder: &'a str,
        /// The job that has it.
        job: usize,
    },
    /// Fetch what another job hands on.
    FetchFrom {
        /// The job that fetches.
        job: usize,
        /// The job that hands on.
        from: usize,
    },
    /// Run a job or step for pull requests from this repository only.
    OwnProposalsOnly,
    /// Keep what the job has made when it is published.
    KeepMade {
        /// Where it is said that all which git does not track is taken away.
        said: Place,
    },
    /// Save a cache that is only ever brought back.
    SaveCache,
    /// Keep runs of different branches apart.
    LockPerBranch,
    /// Check out the repository that a pull request comes from.
    CheckOutOfFork {
        /// The branch that is asked for.
        beside: &'a Text,
    },
    /// Write a line into a file that the runner reads.
    WriteForRunner {
        /// The language of the script.
        shell: Shell,
        /// The line.
        line: &'a str,
        /// The variable that names the file.
        file: &'a str,
    },
    /// Make a cache's key of the lockfile.
    KeyOfLockfile {
        /// The one that is there, by its path.
        file: Option<&'a str>,
    },
    /// Put the system's name into a cache's key.
    KeyWithSystem,
    /// Put a key of the matrix into a cache's key.
    KeyWithAxis {
        /// Its name.
        axis: &'a str,
    },
    /// Let one run at a time do what a job does.
    Lock {
        /// The job.
        job: usize,
    },
    /// Run only when all that comes before has succeeded.
    OnlyAfterSuccess,
    /// Name a stage among those that there are.
    ListStage,
    /// Bring git's whole history with the sources.
    WholeHistory,
    /// Let the forge put a job's folder online.
    MakePages {
        /// The job.
        job: usize,
    },
    /// Stop a job that hangs.
    Limit {
        /// The job.
        job: usize,
    },
    /// Let a job belong to an environment.
    Environment {
        /// The job.
        job: usize,
        /// The environment.
        name: &'a str,
    },
    /// Say of the token that it may look and no more.
    GrantReading,
    /// Let the token do what some steps need.
    Grant {
        /// Scopes with their levels.
        lines: &'a [String],
        /// The block that is to have them.
        grant: &'a Grant,
    },
    /// Give a job's token rights of its own, where a block for all jobs does not grant them.
    OwnGrant {
        /// The job.
        job: usize,
        /// All scopes with their levels; empty where they are not known.
        lines: &'a [String],
        /// What is lacking, in words.
        wanted: &'a str,
    },
    /// Let a job's token do more where nothing is said of it yet.
    GrantJob {
        /// The job.
        job: usize,
        /// What it is to have, in words.
        wanted: &'a str,
    },
    /// Use the job's own token.
    OwnToken {
        /// The scope that it needs for that.
        scope: &'a str,
        /// And the level.
        level: &'a str,
    },
    /// Ask for a token of the run's identity.
    IdentityToken,
    /// Start without the repository's rights what strangers propose.
    StartWithoutRights,
    /// Give a script a value as a variable rather than as text of its own.
    PassAsVariable,
    /// Give a secret to a job under a name that conditions can read.
    SecretForCondition,
    /// Give a variable that another step has to the step that reads it.
    MoveVariable {
        /// Its name.
        name: &'a str,
        /// It is what builds the page.
        builds: bool,
    },
    /// Let other pipelines call this one.
    BecomeCallable,
    /// Give the called pipeline a value.
    GiveInput {
        /// Its name.
        name: &'a str,
    },
    /// Give the called pipeline a secret.
    HandSecretOn {
        /// Its name.
        name: &'a str,
        /// The called pipeline says already that it takes it.
        declared: bool,
    },
    /// Hand no secrets on.
    HandNoSecrets,
    /// Give an action an input.
    ActionInput {
        /// Its name.
        name: &'a str,
    },
    /// Cache what a manager downloads, where its runtime is set up.
    CacheDownloads {
        /// The manager.
        manager: &'a str,
        /// An input of the step that sets it up, where it has one.
        beside: Option<&'a Text>,
    },
    /// Tell a cache which lockfile it is made of.
    CacheLockfile {
        /// Its path; nothing when there are several.
        path: Option<&'a str>,
        /// The input that asks for the cache.
        beside: &'a Text,
    },
    /// Hand hidden files on too.
    HiddenFiles {
        /// The path that is handed on.
        path: &'a Text,
    },
    /// Let an older cache do where the key is another one each time.
    CacheFallback {
        /// The key.
        key: &'a Text,
    },
}

/// The mend for what is to be done, in the words of the pipeline's format.
pub fn write(case: &Case<'_>, ask: &Ask<'_>) -> Mend {
    case.pipeline.format.write(case, ask)
}

/// A mend that is offered with its edit where there is one.
pub fn likely(title: String, edit: Option<Edit>) -> Mend {
    match edit {
        Some(edit) => Mend::likely(title, [edit]),
        None => Mend::by_hand(title),
    }
}

/// A mend that is sure where there is an edit.
pub fn certain(title: String, edit: Option<Edit>) -> Mend {
    match edit {
        Some(edit) => Mend::certain(title, [edit]),
        None => Mend::by_hand(title),
    }
}
