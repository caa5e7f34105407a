//! What a format does by itself where a forge runs it.

use super::{List, Table, Word};

/// `customs` of a format or of a host.
#[derive(Debug, Default)]
pub struct Customs {
    /// What a key leads to that the format does not know.
    pub wrong_key: Consequence,
    /// Files that make a folder of the repository an action.
    pub action_files: List<Word>,
    /// The events that a site's pipeline is usually started by, in words.
    pub usual_events: Word,
    /// What a key leads to that stands twice.
    pub repeated_key: Consequence,
    /// What a key is for without which the format does not do.
    pub purposes: Table<Word>,
    /// What a filter leads to under an event that does not take it.
    pub stray_filter: Consequence,
    /// What a filter leads to together with its opposite.
    pub both_filters: Consequence,
    /// What a time leads to that is none, in a pipeline's clock.
    pub wrong_time: Consequence,
    /// What a ready-made action without a version leads to.
    pub unversioned: Consequence,
    /// Ready-made actions come from where the catalog knows their versions.
    pub known_actions: bool,
    /// What stops a job that has no limit of its own, in words; empty where a setting of the forge decides.
    pub usual_limit: Word,
    /// How many minutes that is, where it is said.
    pub usual_minutes: Option<u32>,
    /// A step that waits for a person waits on its job's machine.
    pub gates_hold_machines: bool,
    /// Nothing stops a job that has no limit of its own.
    pub unlimited: bool,
    /// Whether two runs may go on at once is a setting of the forge.
    pub locks_by_setting: bool,
    /// The clock comes no more often than every so many minutes.
    pub least_minutes: i64,
    /// A pipeline starts only when at least one of its jobs runs.
    pub starts_with_jobs: bool,
    /// Everything that is read is a variable with a bare name; without it, contexts say what a read is.
    pub reads_variables: bool,
    /// Every step also has variables that are set on the forge.
    pub variables_of_forge: bool,
    /// A cache is saved anew by every run; without it, once only under each key.
    pub renews_caches: bool,
    /// A cache holds only what lies in the project's folder.
    pub caches_stay_inside: bool,
    /// The most files that a cache's key may be made of.
    pub most_hashed: Option<usize>,
    /// A job that is skipped takes along all that wait for it, near and far, unless they ask how it ended.
    pub skips_run_down: bool,
    /// The folder that a job hands to the forge's pages, when only a job that says so does.
    pub pages_folder: Option<Word>,
    /// The name of the artifact that the forge's pages are made of.
    pub pages_artifact: Option<Word>,
    /// The forge itself lets no older run overwrite its pages.
    pub pages_in_order: bool,
    /// A fork's pull request runs in the fork, with the fork's own secrets.
    pub forks_run_at_home: bool,
    /// The variable that holds the file into which a script writes its outputs.
    pub output_file: Option<Word>,
    /// Beginnings of values that are others in each job, or are handed in.
    pub differing_values: List<Word>,
    /// The condition by which a pipeline runs only after the success of the one that it follows.
    pub followed_success: Option<Word>,
    /// The same for one that was started by a push.
    pub followed_push: Option<Word>,
    /// Beginnings of paths whose values are texts, whatever kind they are declared as.
    pub text_inputs: List<Word>,
    /// The stages that there are where a file lists none; empty where a stage need not be listed.
    pub usual_stages: List<Word>,
    /// Why a publish finds nothing but what git tracks, where it is so, in words.
    pub only_tracked: Word,
    /// Branches of which a push starts nothing unless a filter takes them in by name.
    pub unbuilt_branches: List<Word>,
    /// Branches and tags stand in filters by their full names, such as refs/heads/main.
    pub full_refs: bool,
    /// A run is refused in which a job needs one that its rules leave out.
    pub refuses_absent_needs: bool,
    /// Two runs for one commit are warned of whatever their jobs do.
    pub warns_of_doubles: bool,
    /// The machine may be signed in by a role, so that commands need no credential of their own.
    pub signed_in_by_role: bool,
    /// Variables that say whether all has gone well so far, for what runs after failures too.
    pub success_variables: List<Word>,
    /// What a job hands on goes online by what runs it, unless the job itself publishes something.
    pub hands_out_site: bool,
    /// What starts a pipeline stands in settings outside the file.
    pub starts_outside: bool,
    /// A setting of the forge may name another path for the pipeline file.
    pub path_is_a_setting: bool,
    /// Words in a commit's message, or options of the push, that keep the push from starting anything.
    pub skip_words: List<Word>,
    /// Names of the job's own token.
    pub own_tokens: List<Word>,
    /// What the job's token may be allowed, by scope; empty where it has no scopes, or none that are known.
    pub scope: List<Scope>,
    /// The token has no scopes: a setting of the repository says whether it may change it.
    pub token_by_setting: bool,
    /// What a token gets without a block, by the repository's setting.
    pub default_grant: Table<List<Word>>,
    /// Variables that held a token of the run's identity, and are no longer set.
    pub gone_tokens: List<Word>,
    /// Variables that the run no longer sets, with those that took their place.
    pub gone_variables: Table<Word>,
    /// What the name of a secret is made of, in words; empty where that is not known.
    pub secret_names: Word,
    /// Beginnings of names that no secret may have.
    pub reserved_starts: List<Word>,
    /// Variables that make the runner write every value into the log.
    pub traces: List<Word>,
    /// Variables that name a file in which a step sets variables for those after it.
    pub variable_files: List<Word>,
    /// Commands that a script writes to its output for the runner, and what has become of them.
    pub retired_command: List<RetiredCommand>,
    /// Versions of runtimes that the machines have, or have had, by the tool.
    pub runtimes: Table<List<Word>>,
    /// Safes whose values a file may ask for.
    pub safe: List<Safe>,
    /// Secrets that the forge looks for itself, and that may be there or not.
    pub switches: List<Word>,
    /// Package managers that are not on the service's own machines; where those offer runtimes, on those that are asked for one.
    pub lacks: List<Word>,
    /// Beginnings of the names of the service's own images.
    pub own_images: List<Word>,
    /// The forge's own machines.
    pub machine: List<HostedMachine>,
}

impl Customs {
    /// The scope of a name.
    pub fn scope(&self, id: &str) -> Option<&Scope> {
        self.scope.iter().find(|scope| scope.id == id)
    }

    /// The forge's own machine that a label asks for.
    pub fn machine(&self, label: &str) -> Option<&HostedMachine> {
        self.machine.iter().find(|machine| label.starts_with(machine.starts))
    }

    /// Whether a name is one of the job's own token. Names of variables mind upper and lower case, those of secrets do not.
    pub fn is_own_token(&self, name: &str) -> bool {
        self.own_tokens.iter().any(|own| if self.reads_variables { *own == name } else { own.eq_ignore_ascii_case(name) })
    }
}

/// What something leads to that does not fit the format.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Consequence {
    /// The file is refused, and nothing in it runs.
    Refused,
    /// It is passed over as if it were not there.
    PassedOver,
    /// Not known: the forge may take it.
    #[default]
    Unknown,
}

impl Consequence {
    /// The documentation says that the file is refused.
    pub fn is_refused(self) -> bool {
        self == Self::Refused
    }
}

/// A permission scope.
#[derive(Debug)]
pub struct Scope {
    /// As it is written.
    pub id: Word,
    /// It knows no `read`.
    pub only_write: bool,
    /// It knows no `write`.
    pub only_read: bool,
    /// Not granted unless a block names it.
    pub never_by_default: bool,
    /// Whoever may write it can change what others get from the repository.
    pub changes: bool,
}

/// A kind of the forge's own machines. Each is new for each job.
#[derive(Debug)]
pub struct HostedMachine {
    /// How its labels begin.
    pub starts: Word,
    /// Package managers that are not on it, as far as that is known.
    pub lacks: List<Word>,
}

/// A safe whose values a file may ask for under a key of its own.
#[derive(Debug)]
pub struct Safe {
    /// The key.
    pub key: Word,
    /// What it holds, in words.
    pub holds: Word,
    /// How the paths in it begin; empty where they begin with a word, and name the part after a colon.
    pub path_starts: Word,
    /// Parts of whole addresses in it.
    pub addresses: List<Word>,
}

/// A command to the runner that has been switched off or is about to be.
#[derive(Debug)]
pub struct RetiredCommand {
    /// As it starts, such as `::set-env`.
    pub start: Word,
    /// It fails now.
    pub fails: bool,
    /// The variable that names the file which takes its place.
    pub file: Word,
    /// The line to write there; `NAME` and `VALUE` stand for its parts.
    pub line: Word,
}
