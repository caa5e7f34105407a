//! What can be typed.

use std::ffi::OsString;
use std::path::PathBuf;

use clap::builder::PossibleValuesParser;
use clap::error::ErrorKind;
use clap::parser::ValueSource;
use clap::{Args as _, CommandFactory, FromArgMatches, Parser, Subcommand, ValueEnum};
use dulk_core::finding::Severity;
use dulk_core::knowledge::{Date, hosts};

/// Tells, before the push, whether the CI pipeline files of this repository will build the site and publish it.
///
/// Without a command it runs `check`. It reads only this machine's disk, runs nothing of the repository, and sends nothing anywhere.
#[derive(Debug, Parser)]
#[command(name = "dulk", version, about, max_term_width = 100, after_help = EXAMPLES)]
pub struct Args {
    /// What to do.
    #[command(subcommand)]
    pub command: Option<Command>,
    /// For `check` without its name.
    #[command(flatten)]
    pub check: CheckOptions,
    /// For every command.
    #[command(flatten)]
    pub everywhere: Everywhere,
}

/// The options that every command takes.
#[derive(Debug, clap::Args)]
pub struct Everywhere {
    /// The day to judge end dates by, as 2026-11-25, instead of today's.
    #[arg(long, global = true, value_name = "DATE", value_parser = day, hide_short_help = true)]
    pub today: Option<Date>,
    /// Colours in the output.
    #[arg(long, value_enum, default_value_t = Color::Auto, global = true, value_name = "WHEN")]
    pub color: Color,
}

/// Reads what was typed.
///
/// # Errors
/// Help and the version, and what is wrong with the call.
pub fn parse() -> Result<Args, clap::Error> {
    let words: Vec<OsString> = std::env::args_os().collect();
    if let Some(args) = check_alone(&words) {
        return Ok(args);
    }
    let mut command = Args::command();
    let matches = command.try_get_matches_from_mut(words)?;
    // What is not global is for `check` without its name, and would be lost before another one.
    let lost = CheckOptions::augment_args(clap::Command::new("check"))
        .get_arguments()
        .find(|option| matches.value_source(option.get_id().as_str()) == Some(ValueSource::CommandLine))
        .and_then(|option| option.get_long().map(str::to_owned));
    match (matches.subcommand_name(), lost) {
        (Some(name), Some(option)) => {
            let said = format!("the option --{option} stands before the command; write dulk {name} --{option} …");
            Err(command.error(ErrorKind::ArgumentConflict, said))
        }
        _ => Args::from_arg_matches(&matches),
    }
}

/// Reads the command that runs before every push, `dulk` or `dulk check …`, without making all the others ready, which takes a twentieth of a
/// small check. Nothing when the words are another command, ask for help, or are wrong: then all of them have their say.
fn check_alone(words: &[OsString]) -> Option<Args> {
    let (_, words) = words.split_first()?;
    if words.first().is_some_and(|word| word != "check") {
        return None;
    }
    let command = clap::Command::new("check").disable_help_flag(true);
    let command = Everywhere::augment_args(CheckArgs::augment_args(command));
    let matches = command.try_get_matches_from(words).ok()?;
    let check = CheckArgs::from_arg_matches(&matches).ok()?;
    let everywhere = Everywhere::from_arg_matches(&matches).ok()?;
    Some(Args { check: check.options.clone(), command: Some(Command::Check(check)), everywhere })
}

fn day(text: &str) -> Result<Date, String> {
    Date::parse(text).ok_or_else(|| "a day is written as 2026-11-25".to_owned())
}

impl Args {
    /// The day to judge by.
    pub fn day(&self) -> Date {
        self.everywhere
            .today
            .or_else(|| Date::parse(&jiff::Timestamp::now().strftime("%Y-%m-%d").to_string()))
            .unwrap_or_default()
    }
}

const EXAMPLES: &str = "Examples:
  dulk                                   check the repository around this folder
  dulk check .github/workflows/site.yml  check one file
  dulk check --fail-on warning           end with 1 on warnings too
  dulk check --format json               for other programs
  dulk when                              what starts on which event, as a grid
  dulk when push:main                    one event, with the lines that decide
  dulk trail                             the way of the site, from its sources to its address
  dulk mend                              the certain fixes as a diff; --write applies them
  dulk guard on                          look at every push before it is made
  dulk why branch.absent                 what a rule is about
  dulk facts                             what Dulk knows of this repository
  dulk draft                             a pipeline for a repository that has none; --write puts it in place
  dulk demo                              the whole tour, in a temporary folder

Exit status: 0 nothing found, 1 something found, 2 the call or dulk.toml is wrong.";

/// The commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Tell what is wrong in the pipeline files of this repository
    Check(CheckArgs),
    /// Show which jobs run, for each kind of event: a grid; with an EVENT, that one in detail
    When(WhenOptions),
    /// Show the way of the site: jobs in their order, and the folder from hand to hand, to its address
    Trail(TrailOptions),
    /// Write all of it into one page, or one comment, for a colleague or a pull request
    Report(ReportOptions),
    /// Show the certain fixes as a diff; with --write, apply them
    Mend(MendOptions),
    /// The git pre-push hook: look at every push before it is made
    Guard {
        #[command(subcommand)]
        action: GuardAction,
    },
    /// Explain a rule, with a wrong and a right example; without RULE, list all rules
    Why {
        /// A rule such as branch.absent, or a family such as branch
        #[arg(value_name = "RULE")]
        rule: Option<String>,
    },
    /// Print completions for a shell
    Completions {
        /// The shell
        shell: clap_complete::Shell,
    },
    /// Write the manual pages into a folder
    Manual {
        /// The folder; it is made when it is not there
        #[arg(value_name = "DIR")]
        dir: PathBuf,
    },
    /// Tell what Dulk knows of this repository, and from where; and what it could not know
    Facts(FactsOptions),
    /// Write a right pipeline for this repository: the file goes to standard output, or with --write to its place
    Draft(DraftOptions),
    /// Serve an editor: the Language Server Protocol over standard input and output
    Serve {
        /// Taken as it is, since editors give it: there is no other way
        #[arg(long, hide = true)]
        stdio: bool,
    },
    /// Show the whole tour on a demo repository that ships inside the program
    Demo {
        /// Lay the demo out in this new folder and keep it
        #[arg(long, value_name = "FOLDER")]
        keep: Option<PathBuf>,
        /// Show what a forge tells that is asked, by a stand-in on this machine
        #[arg(long)]
        ask: bool,
        /// Show a repository on its way from no pipeline to a right one
        #[arg(long, conflicts_with_all = ["ask", "keep"])]
        draft: bool,
    },
}

/// What follows `check`.
#[derive(Clone, Debug, clap::Args)]
pub struct CheckArgs {
    /// How it is done.
    #[command(flatten)]
    pub options: CheckOptions,
    /// Files or folders to check; without any, all pipeline files of the repository
    pub paths: Vec<PathBuf>,
}

/// The options of `check`.
#[derive(Clone, Debug, clap::Args)]
pub struct CheckOptions {
    /// The form of the output
    #[arg(long, value_enum, default_value_t = CheckFormat::Text)]
    pub format: CheckFormat,
    /// End with 1 when something of this weight or more is found
    #[arg(long, value_enum, default_value_t = Threshold::Error, value_name = "WEIGHT")]
    pub fail_on: Threshold,
    /// Write to this file instead, whole or not at all
    #[arg(long, value_name = "FILE")]
    pub output: Option<PathBuf>,
    /// Only what stands on lines that changed since this commit, branch or tag
    #[arg(long, value_name = "REV")]
    pub since: Option<String>,
}

/// The options of `when`.
#[derive(Clone, Debug, clap::Args)]
pub struct WhenOptions {
    /// push:BRANCH, tag:TAG, pull:BRANCH, fork:BRANCH, hand:BRANCH, clock or release
    #[arg(value_name = "EVENT")]
    pub events: Vec<String>,
    /// The files that change, for filters by path
    #[arg(long, value_name = "PATH", num_args = 1..)]
    pub changed: Vec<PathBuf>,
    /// The form of the output
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// What to do with the hook.
#[derive(Clone, Debug, Subcommand)]
pub enum GuardAction {
    /// Put the hook in place; one that is there is kept and still run
    On {
        /// Also where it would be others' too: in a hook that git tracks, or in a folder of hooks for more repositories
        #[arg(long)]
        shared: bool,
        /// Stop a push that cannot be looked at, too: the program is gone, not installed, or fails
        #[arg(long)]
        strict: bool,
    },
    /// Take the hook away, and put back the one that was there
    Off,
    /// Tell whether the hook is in place
    Status,
    /// What the hook runs: reads git's lines on standard input
    #[command(hide = true)]
    Check {
        /// The remote's name and address, as git gives them
        remote: Vec<String>,
    },
}

/// The options of `trail`.
#[derive(Clone, Debug, clap::Args)]
pub struct TrailOptions {
    /// The form of the output
    #[arg(long, value_enum, default_value_t = TrailFormat::Text)]
    pub format: TrailFormat,
    /// Write to this file instead, whole or not at all
    #[arg(long, value_name = "FILE")]
    pub output: Option<PathBuf>,
}

/// Forms of the way.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum TrailFormat {
    /// For people
    Text,
    /// For programs
    Json,
    /// A drawing that stands alone in a page
    Svg,
}

/// The options of `report`.
#[derive(Clone, Debug, clap::Args)]
pub struct ReportOptions {
    /// The form of the report
    #[arg(long, value_enum, default_value_t = ReportFormat::Html)]
    pub format: ReportFormat,
    /// Write to this file, whole or not at all; - for standard output [default: dulk-report.html or dulk-report.md]
    #[arg(long, value_name = "FILE")]
    pub output: Option<PathBuf>,
}

/// Forms of a report.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum ReportFormat {
    /// One page that stands alone, for a browser
    Html,
    /// One text of the length of a comment, for a pull request
    Markdown,
}

impl ReportFormat {
    /// The file that it is written to when none is named.
    pub fn usual_file(self) -> &'static str {
        match self {
            Self::Html => "dulk-report.html",
            Self::Markdown => "dulk-report.md",
        }
    }
}

/// The options of `mend`.
#[derive(Clone, Debug, clap::Args)]
pub struct MendOptions {
    /// Apply the fixes; each file is replaced whole, or not at all
    #[arg(long)]
    pub write: bool,
    /// Only the fixes of this rule; may be given several times
    #[arg(long, value_name = "RULE")]
    pub only: Vec<String>,
    /// Files or folders; without any, all pipeline files of the repository
    #[arg(value_name = "PATH")]
    pub paths: Vec<PathBuf>,
}

/// The options of `facts`.
#[derive(Clone, Debug, clap::Args)]
pub struct FactsOptions {
    /// The form of the output
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
    /// Add what is not known to dulk.toml, as commented lines; with --ask, put what was learnt there
    #[arg(long)]
    pub write: bool,
    /// What is asked of the forge
    #[command(flatten)]
    pub asking: AskOptions,
}

/// The options of `facts` that go to the forge.
#[derive(Clone, Debug, clap::Args)]
pub struct AskOptions {
    /// Ask the forge what no file shows: names of secrets and variables, environments, the token's rights, pages
    #[arg(long)]
    pub ask: bool,
    /// The forge's address, where the remote does not tell it
    #[arg(long, value_name = "URL", requires = "ask")]
    pub forge: Option<String>,
    /// The environment variable that holds a token for the forge; it is never shown or kept
    #[arg(long, value_name = "NAME", requires = "ask")]
    pub token_variable: Option<String>,
    /// How long to wait for one answer, in seconds
    #[arg(long, value_name = "SECONDS", requires = "ask", default_value_t = 10, value_parser = clap::value_parser!(u64).range(1..=600))]
    pub patience: u64,
}

/// The options of `draft`.
#[derive(Clone, Debug, clap::Args)]
pub struct DraftOptions {
    /// A format, such as workflow or gitlab, or the path of the file; without it, what the repository gives away
    #[arg(long = "for", value_name = "FORMAT")]
    pub format: Option<String>,
    /// A host; without it, what the repository gives away
    #[arg(long = "to", value_name = "HOST", value_parser = PossibleValuesParser::new(hosts().host.iter().map(|host| host.id)))]
    pub host: Option<String>,
    /// Put the file where it belongs; never over one that is there
    #[arg(long)]
    pub write: bool,
}

/// Forms of a check's output.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum CheckFormat {
    /// For people
    Text,
    /// For programs; a stable contract
    Json,
    /// SARIF 2.1.0, the open standard for results of analyses
    Sarif,
    /// JUnit XML
    Junit,
}

/// Forms of output.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// For people
    Text,
    /// For programs; a stable contract
    Json,
}

/// Weights that end the program with 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Threshold {
    /// It will not run, will fail, or publishes the wrong thing
    Error,
    /// Risky, fragile or wasteful
    Warning,
    /// A good habit
    Advice,
}

impl Threshold {
    /// As a severity.
    pub fn severity(self) -> Severity {
        match self {
            Self::Error => Severity::Error,
            Self::Warning => Severity::Warning,
            Self::Advice => Severity::Advice,
        }
    }
}

/// When to use colours.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Color {
    /// On a terminal, unless NO_COLOR is set
    Auto,
    /// Always
    Always,
    /// Never
    Never,
}
