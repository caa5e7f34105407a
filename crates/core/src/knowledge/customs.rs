//! What a format does by itself where a forge runs it.

use std::collections::{BTreeMap, HashMap};

use serde::Deserialize;

/// `customs` of a format or of a host.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Customs {
    /// What a key leads to that the format does not know.
    pub wrong_key: Consequence,
    /// Files that make a folder of the repository an action.
    #[serde(default)]
    pub action_files: Vec<String>,
    /// The events that a site's pipeline is usually started by, in words.
    #[serde(default)]
    pub usual_events: String,
    /// What a key leads to that stands twice.
    #[serde(default)]
    pub repeated_key: Consequence,
    /// What a key is for without which the format does not do.
    #[serde(default)]
    pub purposes: BTreeMap<String, String>,
    /// What a filter leads to under an event that does not take it.
    #[serde(default)]
    pub stray_filter: Consequence,
    /// What a filter leads to together with its opposite.
    #[serde(default)]
    pub both_filters: Consequence,
    /// What a time leads to that is none, in a pipeline's clock.
    #[serde(default)]
    pub wrong_time: Consequence,
    /// What a ready-made action without a version leads to.
    #[serde(default)]
    pub unversioned: Consequence,
    /// Ready-made actions come from where the catalog knows their versions.
    #[serde(default)]
    pub known_actions: bool,
    /// What stops a job that has no limit of its own, in words; empty where a setting of the forge decides.
    #[serde(default)]
    pub usual_limit: String,
    /// How many minutes that is, where it is said.
    #[serde(default)]
    pub usual_minutes: Option<u32>,
    /// A step that waits for a person waits on its job's machine.
    #[serde(default)]
    pub gates_hold_machines: bool,
    /// Nothing stops a job that has no limit of its own.
    #[serde(default)]
    pub unlimited: bool,
    /// Whether two runs may go on at once is a setting of the forge.
    #[serde(default)]
    pub locks_by_setting: bool,
    /// The clock comes no more often than every so many minutes.
    pub least_minutes: i64,
    /// A pipeline starts only when at least one of its jobs runs.
    #[serde(default)]
    pub starts_with_jobs: bool,
    /// Everything that is read is a variable with a bare name; without it, contexts say what a read is.
    #[serde(default)]
    pub reads_variables: bool,
    /// Every step also has variables that are set on the forge.
    #[serde(default)]
    pub variables_of_forge: bool,
    /// A cache is saved anew by every run; without it, once only under each key.
    #[serde(default)]
    pub renews_caches: bool,
    /// A cache holds only what lies in the project's folder.
    #[serde(default)]
    pub caches_stay_inside: bool,
    /// The most files that a cache's key may be made of.
    #[serde(default)]
    pub most_hashed: Option<usize>,
    /// A job that is skipped takes along all that wait for it, near and far, unless they ask how it ended.
    #[serde(default)]
    pub skips_run_down: bool,
    /// The folder that a job hands to the forge's pages, when only a job that says so does.
    #[serde(default)]
    pub pages_folder: Option<String>,
    /// The name of the artifact that the forge's pages are made of.
    #[serde(default)]
    pub pages_artifact: Option<String>,
    /// The forge itself lets no older run overwrite its pages.
    #[serde(default)]
    pub pages_in_order: bool,
    /// A fork's pull request runs in the fork, with the fork's own secrets.
    #[serde(default)]
    pub forks_run_at_home: bool,
    /// The variable that holds the file into which a script writes its outputs.
    #[serde(default)]
    pub output_file: Option<String>,
    /// Beginnings of values that are others in each job, or are handed in.
    #[serde(default)]
    pub differing_values: Vec<String>,
    /// The condition by which a pipeline runs only after the success of the one that it follows.
    #[serde(default)]
    pub followed_success: Option<String>,
    /// The same for one that was started by a push.
    #[serde(default)]
    pub followed_push: Option<String>,
    /// Beginnings of paths whose values are texts, whatever kind they are declared as.
    #[serde(default)]
    pub text_inputs: Vec<String>,
    /// The stages that there are where a file lists none; empty where a stage need not be listed.
    #[serde(default)]
    pub usual_stages: Vec<String>,
    /// Why a publish finds nothing but what git tracks, where it is so, in words.
    #[serde(default)]
    pub only_tracked: String,
    /// Branches of which a push starts nothing unless a filter takes them in by name.
    #[serde(default)]
    pub unbuilt_branches: Vec<String>,
    /// Branches and tags stand in filters by their full names, such as refs/heads/main.
    #[serde(default)]
    pub full_refs: bool,
    /// A run is refused in which a job needs one that its rules leave out.
    #[serde(default)]
    pub refuses_absent_needs: bool,
    /// Two runs for one commit are warned of whatever their jobs do.
    #[serde(default)]
    pub warns_of_doubles: bool,
    /// The machine may be signed in by a role, so that commands need no credential of their own.
    #[serde(default)]
    pub signed_in_by_role: bool,
    /// Variables that say whether all has gone well so far, for what runs after failures too.
    #[serde(default)]
    pub success_variables: Vec<String>,
    /// What a job hands on goes online by what runs it, unless the job itself publishes something.
    #[serde(default)]
    pub hands_out_site: bool,
    /// What starts a pipeline stands in settings outside the file.
    #[serde(default)]
    pub starts_outside: bool,
    /// A setting of the forge may name another path for the pipeline file.
    #[serde(default)]
    pub path_is_a_setting: bool,
    /// Words in a commit's message, or options of the push, that keep the push from starting anything.
    pub skip_words: Vec<String>,
    /// Names of the job's own token.
    pub own_tokens: Vec<String>,
    /// What the job's token may be allowed, by scope; empty where it has no scopes, or none that are known.
    #[serde(default)]
    pub scope: Vec<Scope>,
    /// The token has no scopes: a setting of the repository says whether it may change it.
    #[serde(default)]
    pub token_by_setting: bool,
    /// What a token gets without a block, by the repository's setting.
    #[serde(default)]
    pub default_grant: HashMap<String, Vec<String>>,
    /// Variables that held a token of the run's identity, and are no longer set.
    #[serde(default)]
    pub gone_tokens: Vec<String>,
    /// Variables that the run no longer sets, with those that took their place.
    #[serde(default)]
    pub gone_variables: BTreeMap<String, String>,
    /// What the name of a secret is made of, in words; empty where that is not known.
    #[serde(default)]
    pub secret_names: String,
    /// Beginnings of names that no secret may have.
    #[serde(default)]
    pub reserved_starts: Vec<String>,
    /// Variables that make the runner write every value into the log.
    #[serde(default)]
    pub traces: Vec<String>,
    /// Variables that name a file in which a step sets variables for those after it.
    #[serde(default)]
    pub variable_files: Vec<String>,
    /// Commands that a script writes to its output for the runner, and what has become of them.
    #[serde(default)]
    pub retired_command: Vec<RetiredCommand>,
    /// Versions of runtimes that the machines have, or have had, by the tool.
    #[serde(default)]
    pub runtimes: BTreeMap<String, Vec<String>>,
    /// Safes whose values a file may ask for.
    #[serde(default)]
    pub safe: Vec<Safe>,
    /// Secrets that the forge looks for itself, and that may be there or not.
    #[serde(default)]
    pub switches: Vec<String>,
    /// Package managers that are not on the service's own machines; where those offer runtimes, on those that are asked for one.
    #[serde(default)]
    pub lacks: Vec<String>,
    /// Beginnings of the names of the service's own images.
    #[serde(default)]
    pub own_images: Vec<String>,
    /// The forge's own machines.
    #[serde(default)]
    pub machine: Vec<HostedMachine>,
}

impl Customs {
    /// The scope of a name.
    pub fn scope(&self, id: &str) -> Option<&Scope> {
        self.scope.iter().find(|scope| scope.id == id)
    }

    /// The forge's own machine that a label asks for.
    pub fn machine(&self, label: &str) -> Option<&HostedMachine> {
        self.machine.iter().find(|machine| label.starts_with(machine.starts.as_str()))
    }

    /// Whether a name is one of the job's own token. Names of variables mind upper and lower case, those of secrets do not.
    pub fn is_own_token(&self, name: &str) -> bool {
        self.own_tokens.iter().any(|own| if self.reads_variables { own == name } else { own.eq_ignore_ascii_case(name) })
    }
}

/// What something leads to that does not fit the format.
#[derive(Clone, Copy, Debug, Default, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "kebab-case")]
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
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Scope {
    /// As it is written.
    pub id: String,
    /// It knows no `read`.
    #[serde(default)]
    pub only_write: bool,
    /// It knows no `write`.
    #[serde(default)]
    pub only_read: bool,
    /// Not granted unless a block names it.
    #[serde(default)]
    pub never_by_default: bool,
    /// Whoever may write it can change what others get from the repository.
    #[serde(default)]
    pub changes: bool,
}

/// A kind of the forge's own machines. Each is new for each job.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct HostedMachine {
    /// How its labels begin.
    pub starts: String,
    /// Package managers that are not on it, as far as that is known.
    #[serde(default)]
    pub lacks: Vec<String>,
}

/// A safe whose values a file may ask for under a key of its own.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Safe {
    /// The key.
    pub key: String,
    /// What it holds, in words.
    pub holds: String,
    /// How the paths in it begin; empty where they begin with a word, and name the part after a colon.
    pub path_starts: String,
    /// Parts of whole addresses in it.
    pub addresses: Vec<String>,
}

/// A command to the runner that has been switched off or is about to be.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct RetiredCommand {
    /// As it starts, such as `::set-env`.
    pub start: String,
    /// It fails now.
    #[serde(default)]
    pub fails: bool,
    /// The variable that names the file which takes its place.
    pub file: String,
    /// The line to write there; `NAME` and `VALUE` stand for its parts.
    pub line: String,
}
