//! What the steps of a pipeline do. Every dialect's steps are reduced to effects, and rules read only those.

mod action;
mod app;
mod by_itself;
mod file_client;
mod files;
mod folder;
mod forge_cli;
mod generator;
mod git;
mod image;
mod package_manager;
mod pipeline;
mod program;
mod publisher;
mod recipes;
mod run;
mod scene;
mod script;
mod sorted;
mod task_runner;
mod writer;

pub use action::{ActionName as UsedAction, own_token};
pub use folder::{is_inside, join, normal};
pub use pipeline::{PipelineEffects, followed_of_each};

use std::cell::Cell;

use thin_vec::ThinVec;

use self::pipeline::FOLLOWED;
use self::scene::{Scene, is_steady};
use crate::expression::Expr;
use crate::facts::{Facts, Origin, Reach};
use crate::knowledge::{self, ActionGrant};
use crate::model::{Outcome, Shell, Step, Target, Text, Work};
use crate::text::{Place, Sources, Span};

/// A folder or file of the workspace: relative to its root, with `/`, the root itself is "". `None` when it is not known.
pub type Folder = Option<String>;

/// One thing that a step does.
#[derive(Clone, Debug)]
pub enum Effect {
    /// Brings this repository's or another's sources.
    Checkout {
        /// Into this folder.
        into: Folder,
        /// This repository, at the commit that started the run or on its default branch.
        own: bool,
        /// The branch, tag or commit that is asked for.
        reference: Option<Box<Text>>,
        /// Another repository.
        repository: Option<Box<Text>>,
        /// Whether submodules come too, as written.
        submodules: Option<Box<Text>>,
        /// How many commits come with it, as written; nothing when it is not said.
        depth: Option<Box<Text>>,
        /// It leaves no credential behind for later commands; nothing when that is not known.
        forgets: Option<bool>,
    },
    /// Makes a runtime or a manager ready.
    SetUp {
        /// Such as `node`.
        tool: String,
        /// As given.
        version: Option<Text>,
        /// The file that the version stands in.
        version_file: Option<Box<Text>>,
        /// The manager whose downloads it caches.
        cache: Option<Box<Text>>,
        /// The lockfiles that the cache's key is made of.
        lockfiles: Option<Box<Text>>,
    },
    /// Installs packages.
    Install {
        /// Such as `npm`.
        manager: String,
        /// Exactly what the lockfile says, or it fails.
        frozen: bool,
        /// What is needed for development only is left out.
        without_dev: bool,
        /// In this folder.
        dir: Folder,
    },
    /// Brings back a cache.
    RestoreCache {
        /// Its key.
        key: Option<Text>,
        /// The files whose contents are part of the key.
        hashes: Vec<HashOf>,
        /// What it holds.
        paths: Vec<UploadPath>,
        /// Beginnings of keys that will do as well.
        fallback: Option<Text>,
        /// It is also saved when its job has run; nothing when that is not known.
        saves: Option<bool>,
        /// Where it says so, when it does.
        saves_at: Option<Place>,
    },
    /// Saves a cache, and brings none back.
    SaveCache {
        /// Its key.
        key: Option<Text>,
        /// What it holds.
        paths: Vec<UploadPath>,
    },
    /// Runs a script of a package; its own effects follow.
    RunScript {
        /// Such as `npm`.
        manager: String,
        /// The script.
        name: String,
        /// In this folder.
        dir: Folder,
        /// A missing script is no failure, or a program of that name may be meant.
        lenient: bool,
    },
    /// Builds a site.
    Build {
        /// Such as `vite`.
        generator: String,
        /// The folder that it runs in.
        dir: Folder,
        /// The folder it writes, from the root.
        output: Folder,
        /// Where that is known from.
        origin: Origin,
        /// The path that the pages expect to be served under, and where that is known from; nothing when it is not known.
        base: Option<(String, Origin)>,
        /// It makes a server rather than a folder of files.
        server: Option<bool>,
        /// The command, or a variable, may give it another address than its configuration.
        readdressed: bool,
    },
    /// Looks at the sources, or tests them.
    Test {
        /// The program.
        tool: String,
    },
    /// Writes files into a folder, or makes it.
    Write {
        /// The folder or file.
        path: Folder,
    },
    /// Works in a folder from here on; where there is none, the command fails.
    Enter {
        /// The folder.
        path: Folder,
    },
    /// Makes a folder with nothing in it, when it is not there yet.
    MakeFolder {
        /// The folder.
        path: Folder,
    },
    /// Removes a folder or file.
    Remove {
        /// The folder or file.
        path: Folder,
    },
    /// Copies or moves.
    Copy {
        /// From here.
        from: Vec<CopySource>,
        /// To here.
        to: Folder,
        /// The target is surely a folder, as with a slash at its end.
        is_folder: bool,
        /// And removes the first.
        moves: bool,
    },
    /// Hands files on to other jobs.
    Upload {
        /// Under this name.
        name: ArtifactName,
        /// What is handed on.
        paths: Vec<UploadPath>,
        /// Everything keeps its path from the workspace's root; otherwise what lies in the folder is handed on.
        keeps_paths: bool,
        /// A second artifact of the name fails.
        exclusive: bool,
        /// What goes online is made of it: the forge's pages, or what the service publishes that the job runs for.
        goes_online: bool,
        /// How it is laid out where it goes, other than it lies here.
        laid: Option<Laid>,
        /// How long it is kept, as written.
        expires: Option<Box<Text>>,
        /// The value that names its files, where hidden ones among them are left out.
        leaves_hidden_out: Option<Box<Text>>,
        /// Where it says that finding nothing is no failure, and not even worth a word.
        passes_over_nothing: Option<Box<Text>>,
    },
    /// Brings files that a job handed on.
    Download {
        /// Of this name; without one, all.
        name: ArtifactName,
        /// Into this folder.
        into: Folder,
        /// From another run, or chosen in a way that is not known.
        elsewhere: bool,
        /// Several are laid into one folder rather than each into its own.
        merges: bool,
    },
    /// Puts a site online.
    Publish {
        /// The kind of place.
        target: Target,
        /// What is published.
        folder: Option<UploadPath>,
        /// The artifact that it takes instead of a folder.
        artifact: Option<Box<ArtifactName>>,
        /// The branch that it is committed to.
        branch: Option<String>,
        /// Where it goes, in words that are the same for the same place; nothing when that is not known, or it is a place of its own.
        place: Option<String>,
        /// It makes the branch when there is none.
        creates_branch: bool,
        /// It fails in a job that belongs to no environment; the usual name of one.
        environment: Option<String>,
        /// The folder only goes online when the job hands it on too.
        needs_hand_on: bool,
        /// The sub-folder of the place that it goes into, "" for the place itself; nothing when it is not known.
        inside: Option<String>,
        /// How it is laid out there, other than it lies here.
        laid: Option<Laid>,
        /// What runs there, where that is said beside the publish.
        serving: Option<Box<Serving>>,
    },
    /// Makes an image of a folder, or gives one that is there another name.
    MakeImage {
        /// Its names; nothing for one that is not known. What the run knows of itself stands in them as `${NAME}`.
        names: Vec<Option<String>>,
        /// The folder that it is made in.
        context: Folder,
        /// The file that it is made by.
        file: Folder,
        /// What that takes out of the folder.
        takes: Vec<UploadPath>,
    },
    /// Pushes an image to where others fetch it from.
    PushImage {
        /// Its name, in the same form.
        name: Option<String>,
    },
    /// Lets an image be fetched and run elsewhere.
    RunImage {
        /// Its name, in the same form.
        name: Option<String>,
    },
    /// Pushes commits.
    Push {
        /// To this branch, when it is known.
        branch: Option<String>,
        /// To the branch that started the run.
        current: bool,
    },
    /// Nothing that matters to folders.
    Nothing,
    /// May have done anything to the workspace.
    Unknown(Reach),
}

/// How files that are handed on are laid out, other than they lie in their folder.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Laid {
    /// Only those right in the folder are taken, and none below it; where this is written.
    TopOnly(Place),
    /// All lie in one folder, whatever folders they were in; where this is written.
    Flat(Place),
    /// They stay in the archive that they come in; where this is written.
    Packed(Place),
}

/// What is said of a place that a site goes to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Serving {
    /// Files are served as they are, and nothing runs.
    pub files_only: bool,
    /// Where this is written.
    pub at: Place,
    /// The word there for the other of the two.
    pub instead: &'static str,
}

/// Files whose contents are part of a cache's key.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HashOf {
    /// Patterns of paths; nothing when they are only known when it runs.
    pub patterns: Option<Vec<String>>,
    /// Where they are named.
    pub at: Place,
    /// What to write for another file, with `FILE` in its place.
    pub spelled: &'static str,
}

/// The name of an artifact.
#[derive(Clone, Debug)]
pub struct ArtifactName {
    /// As given.
    pub given: Option<Text>,
    /// What it is when none is given; without that, no name means all.
    pub default: Option<String>,
}

impl ArtifactName {
    /// The name when it is known now.
    pub fn known(&self) -> Option<&str> {
        match &self.given {
            Some(text) => text.known(),
            None => self.default.as_deref(),
        }
    }
}

/// Whether a place is known by what is read for it rather than by its own name.
pub fn holds_read(place: &str) -> bool {
    place.contains('$')
}

impl Effect {
    /// The sources of this repository, brought into its root by the forge itself.
    pub fn own_sources(submodules: Option<Text>, depth: Option<Text>) -> Self {
        Self::own_checkout(None, submodules, depth)
    }

    /// The same at a branch that is named.
    pub fn own_sources_at(reference: Option<Text>) -> Self {
        Self::own_checkout(reference, None, None)
    }

    fn own_checkout(reference: Option<Text>, submodules: Option<Text>, depth: Option<Text>) -> Self {
        let [reference, submodules, depth] = [reference, submodules, depth].map(|text| text.map(Box::new));
        Self::Checkout { into: Some(String::new()), own: true, reference, repository: None, submodules, depth, forgets: None }
    }

    /// Makes a runtime of a version ready, and nothing else.
    pub fn set_up(tool: &str, version: Option<Text>) -> Self {
        Self::SetUp { tool: tool.to_owned(), version, version_file: None, cache: None, lockfiles: None }
    }

    /// Hands files on to whoever asks for them by the name.
    pub fn hand_on(name: ArtifactName, paths: Vec<UploadPath>, keeps_paths: bool) -> Self {
        Self::Upload {
            name,
            paths,
            keeps_paths,
            exclusive: false,
            goes_online: false,
            laid: None,
            expires: None,
            leaves_hidden_out: None,
            passes_over_nothing: None,
        }
    }

    /// A cache without a key of its own: the forge brings it back before and saves it after.
    pub fn keyless_cache(paths: Vec<UploadPath>) -> Self {
        Self::RestoreCache { key: None, hashes: Vec::new(), paths, fallback: None, saves: Some(true), saves_at: None }
    }

    /// Puts files online in a place, as they lie or as `laid` says; `inside` is the folder of the place that they come into.
    pub fn publish_to(
        (target, place): (Target, Option<String>),
        folder: Option<UploadPath>,
        inside: Option<String>,
        laid: Option<Laid>,
    ) -> Self {
        Self::Publish {
            target,
            folder,
            artifact: None,
            branch: None,
            place,
            creates_branch: true,
            environment: None,
            needs_hand_on: false,
            inside,
            laid,
            serving: None,
        }
    }

    /// Puts a folder online as the forge's pages; with `live` off beside the site, not in its place.
    pub fn publish_pages(folder: UploadPath, live: bool, needs_hand_on: bool) -> Self {
        Self::Publish {
            place: live.then(|| Target::ForgePages.to_string()),
            target: Target::ForgePages,
            folder: Some(folder),
            artifact: None,
            branch: None,
            creates_branch: true,
            environment: None,
            needs_hand_on,
            inside: Some(String::new()),
            laid: None,
            serving: None,
        }
    }

    /// It hands on what goes online from there.
    pub fn goes_online(&self) -> bool {
        matches!(self, Self::Upload { goes_online: true, .. })
    }

    /// The artifact that this takes, and whether it may come from elsewhere than this run.
    pub fn takes(&self) -> Option<(&ArtifactName, bool)> {
        match self {
            Self::Download { name, elsewhere, .. } => Some((name, *elsewhere)),
            Self::Publish { artifact: Some(name), .. } => Some((name, false)),
            _ => None,
        }
    }
}

/// What is copied.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CopySource {
    /// The folder or file.
    pub path: Folder,
    /// What lies in it rather than the folder itself.
    pub contents: bool,
    /// The folder itself goes into the target even when that is not there yet.
    pub always_nests: bool,
    /// Which of the folder's contents a command takes that refuses to copy a folder into itself.
    pub sweep: Sweep,
}

/// Which of a folder's contents are copied by a command that refuses to copy a folder into itself.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Sweep {
    /// It is another command, or names what it takes.
    #[default]
    None,
    /// `*`: all but hidden files and folders.
    Shown,
    /// `.`: all of them.
    All,
}

impl CopySource {
    /// Whether the target itself is among what is copied into it.
    pub fn takes(&self, target: &str) -> bool {
        let Some(path) = self.path.as_deref().filter(|path| is_inside(target, path) && *path != target) else { return false };
        let rest = target[path.len()..].trim_start_matches('/');
        match self.sweep {
            Sweep::None => false,
            Sweep::Shown => !rest.starts_with('.'),
            Sweep::All => true,
        }
    }
}

/// A path that is handed on or published.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct UploadPath {
    /// From the root; `None` when it is not known.
    pub folder: Folder,
    /// As it is written, or where it is missing.
    pub at: Place,
    /// The words as written.
    pub written: String,
    /// It holds `*`, `?` or the like; `folder` is then the part before them.
    pub glob: bool,
}

impl UploadPath {
    /// The words that name the folder, where they stand in the file as the path does; not what is before and after them.
    pub fn folder_at(&self, sources: &Sources) -> Option<Place> {
        let folder = self.folder.as_deref().filter(|folder| !folder.is_empty())?;
        let start = self.written.find(folder).filter(|_| sources.slice(self.at) == self.written)?;
        let start = self.at.span.start + u32::try_from(start).ok()?;
        let end = start + u32::try_from(folder.len()).ok()?;
        Some(Place { file: self.at.file, span: Span { start, end } })
    }

    /// It lies outside of the workspace: in the home directory, or elsewhere on the machine.
    pub fn lies_outside(&self) -> bool {
        files::is_outside(&self.written) || self.written.starts_with("../")
    }

    /// The same where nothing but `./` stands before and `/` after them, so that another folder can be written in their place.
    pub fn exact(&self, sources: &Sources) -> Option<Place> {
        let folder = self.folder.as_deref().filter(|_| !self.glob)?;
        let (before, after) = self.written.split_once(folder)?;
        let alone = before.trim_start_matches("./").is_empty() && after.trim_matches('/').is_empty();
        self.folder_at(sources).filter(|_| alone)
    }
}

/// An effect and where it stands.
#[derive(Clone, Debug)]
pub struct EffectAt {
    /// What is done.
    pub effect: Effect,
    /// Where it is written.
    pub at: Place,
    /// It may also not happen: it stands in a condition, or after another command's failure.
    pub perhaps: bool,
    /// The same, looking only at the script it stands in: its step's own condition is left to the rehearsal.
    pub branching: bool,
    /// Its failure is passed over, as with `|| true`.
    pub forgiven: bool,
    /// The tests before it in its line, as in `[ "$A" = b ] && command`: it happens only where all of them hold.
    pub tests: ThinVec<Expr>,
}

impl EffectAt {
    /// It surely happens when its step runs.
    pub fn sure(effect: Effect, at: Place) -> Self {
        Self { effect, at, perhaps: false, branching: false, forgiven: false, tests: ThinVec::new() }
    }
}

/// What the job's token must be allowed for a step.
#[derive(Clone, Debug)]
pub struct NeededGrant {
    /// The scope.
    pub scope: String,
    /// Scopes that do as well.
    pub or: Vec<String>,
    /// `read` or `write`.
    pub level: crate::model::Level,
    /// As the end of a sentence.
    pub why: String,
    /// A public repository works without.
    pub visible_anyway: bool,
    /// It is git that needs it, with whatever credential git has.
    pub by_git: bool,
    /// The step's name or command, where it is written.
    pub at: Place,
}

/// What a step does, in order.
#[derive(Clone, Debug, Default)]
pub struct StepEffects {
    /// The effects.
    pub effects: Vec<EffectAt>,
    /// What the token must be allowed.
    pub grants: ThinVec<NeededGrant>,
    /// Credentials that a publisher needs and that no input or argument gives.
    pub wants: ThinVec<WantedCredential>,
    /// Folders that are working trees of their own from here on.
    pub trees: ThinVec<WorkTree>,
    /// Variables that its commands set for the steps after it, one for each time that they write into the run's file for that; nothing where
    /// the name is not known.
    pub announced: ThinVec<Option<String>>,
    /// Lines that its commands write into files that set variables for a build.
    pub settings: ThinVec<SettingLine>,
    /// Programs that it surely calls and that not every image brings.
    pub calls: ThinVec<(String, Place)>,
    /// What publishers build to be sent later.
    pub prepared: ThinVec<Prepared>,
    /// Publishes of what was built like that.
    pub prebuilt: ThinVec<Prepared>,
    /// Files that it packs a folder into: the name as it is written, and the folder.
    pub packed: ThinVec<(String, UploadPath)>,
    /// Pushes that are made from a clone of their own.
    pub afresh: ThinVec<Place>,
    /// Filters that fit no package.
    pub unmatched: ThinVec<Unmatched>,
    /// Subcommands that newer versions of their programs have no more.
    pub gone: ThinVec<GoneWords>,
    /// Files of the repository that it surely runs by their paths, without a program before them.
    pub started: ThinVec<(String, Place)>,
    /// Places that a generator is to publish to, and that its project file does not name.
    pub absent_servers: ThinVec<AbsentServer>,
    /// What it would do if it were not switched off.
    pub switched_off: ThinVec<EffectAt>,
    /// The words of its commands, builds and publishes left out: names of folders that they may make inside others.
    pub spoken: ThinVec<String>,
    /// The folder that its script ends in; nothing where it runs none, the inner `None` where it is not known.
    pub ends_in: Option<Folder>,
}

impl StepEffects {
    /// Whether this brings the repository itself to the root of the workspace.
    fn bring_own_root(&self) -> bool {
        let at_root = |effect: &Effect| matches!(effect, Effect::Checkout { into: Some(into), own: true, .. } if into.is_empty());
        self.effects.iter().any(|one| at_root(&one.effect))
    }

    /// Adds what a step of an action does. Its working trees are not followed beyond the action.
    fn take(&mut self, other: Self) {
        let Self {
            effects,
            grants,
            wants,
            trees: _,
            announced,
            settings,
            calls,
            prepared,
            prebuilt,
            packed,
            afresh,
            unmatched,
            gone,
            started,
            absent_servers,
            switched_off,
            spoken,
            ends_in: _,
        } = other;
        self.effects.extend(effects);
        self.grants.extend(grants);
        self.wants.extend(wants);
        self.announced.extend(announced);
        self.settings.extend(settings);
        self.calls.extend(calls);
        self.prepared.extend(prepared);
        self.prebuilt.extend(prebuilt);
        self.packed.extend(packed);
        self.afresh.extend(afresh);
        self.unmatched.extend(unmatched);
        self.gone.extend(gone);
        self.started.extend(started);
        self.absent_servers.extend(absent_servers);
        self.switched_off.extend(switched_off);
        self.spoken.extend(spoken);
    }

    /// Whether a command or action of the step may have done anything at all.
    pub fn may_do_anything(&self) -> bool {
        self.effects.iter().any(|effect| matches!(effect.effect, Effect::Unknown(Reach::Anything)))
    }
}

/// A folder that holds another branch, or a repository of its own: what is pushed from there is what lies in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WorkTree {
    /// The folder.
    pub dir: String,
    /// The branch that stands there, when it is known.
    pub branch: Option<String>,
    /// It began empty: what is in the folder is all there is.
    pub fresh: bool,
}

/// A line such as `VITE_PLACE=quay` that a command writes into a file that sets variables for a build.
#[derive(Clone, Debug)]
pub struct SettingLine {
    /// The variable.
    pub name: String,
    /// The word that holds the line.
    pub at: Place,
}

/// A build by a publisher's own command, or the publish of one.
#[derive(Clone, Debug)]
pub struct Prepared {
    /// The publisher.
    pub by: &'static knowledge::PublisherCommand,
    /// It is for the site that everybody sees.
    pub live: bool,
    /// The command.
    pub at: Place,
}

/// A filter that fits none of the repository's packages.
#[derive(Clone, Debug)]
pub struct Unmatched {
    /// As it is written.
    pub filter: String,
    /// The manager.
    pub manager: String,
    /// It is a failure, rather than nothing to do.
    pub fails: bool,
    /// The command.
    pub at: Place,
}

/// A place that a generator is to publish to, and that its project file does not name.
#[derive(Clone, Debug)]
pub struct AbsentServer {
    /// As it is written.
    pub name: String,
    /// The places that the file names.
    pub known: Vec<String>,
    /// Where they stand.
    pub file: Place,
    /// The command.
    pub at: Place,
}

/// A subcommand that newer versions of its program have no more.
#[derive(Clone, Debug)]
pub struct GoneWords {
    /// What the catalog knows of it.
    pub command: &'static knowledge::GoneCommand,
    /// The folder that it is called in.
    pub dir: Folder,
    /// The command.
    pub at: Place,
}

/// A credential that a publisher takes from a variable.
#[derive(Clone, Debug)]
pub struct WantedCredential {
    /// Variables of which one must be set.
    pub variables: Vec<String>,
    /// Inputs of which one may be given instead.
    pub inputs: Vec<String>,
    /// Who wants it.
    pub publisher: String,
    /// Where the program of the repository reads it that wants it, and ends without it.
    pub read_at: Option<Place>,
    /// The step's name or command, where it is written.
    pub at: Place,
}
/// What the scripts of a package build when they are run by themselves: the script's name, the generator, and its folder from the
/// repository's root. Such scripts read nothing of a pipeline, so that any format does.
pub fn built_by_scripts(
    facts: &Facts,
    dir: &str,
    (run, customs): (&'static knowledge::Run, &'static knowledge::Customs),
) -> Vec<(String, String, String)> {
    let Some(scripts) = facts.packages.get(dir).and_then(|package| package.scripts.as_ref()) else { return Vec::new() };
    let scene = Scene {
        facts,
        directory: None,
        goes_on_in: None,
        variables: &[],
        own_root: true,
        hosted: true,
        unsure: &[],
        announced: &[],
        trees: &[],
        made: &[],
        packed: &[],
        run,
        customs,
        effects_left: &Cell::new(FOLLOWED),
    };
    let mut found = Vec::new();
    for one in scripts {
        for effect in script::of_package_script(&scene, dir, &one.name, &one.command, one.at).effects {
            if let Effect::Build { generator, output: Some(output), .. } = effect.effect {
                found.push((one.name.clone(), generator, output));
            }
        }
    }
    found
}
fn of_step(scene: &Scene<'_>, step: &Step) -> StepEffects {
    let mut out = match &step.work {
        Work::Uses { action, inputs, .. } => action::effects(scene, action, inputs),
        Work::Runs { script, shell: Shell::Posix } => script::effects(scene, script),
        Work::Runs { script, .. } => {
            StepEffects { effects: vec![EffectAt::sure(Effect::Unknown(Reach::Anything), script.at)], ..StepEffects::default() }
        }
        Work::RunsImage { words } => {
            image::effects(scene, step.machine.as_ref().and_then(|own| own.image.as_ref()), words, step.at)
        }
        Work::ByItself(own) => by_itself::effects(scene, own),
        Work::Unclear => {
            StepEffects { effects: vec![EffectAt::sure(Effect::Unknown(Reach::Anything), step.at)], ..StepEffects::default() }
        }
        Work::Gate | Work::Nothing => StepEffects::default(),
    };
    if let Some(program) = &step.program {
        let name = program.value.rsplit('/').next().unwrap_or_default();
        out.calls.insert(0, (name.to_owned(), program.inner()));
    }
    if step.off.is_some() {
        return StepEffects { switched_off: out.effects.into(), ..StepEffects::default() };
    }
    if step.when.is_some() || step.may_fail.is_some() || step.after == Outcome::Failure {
        out.effects.iter_mut().for_each(|effect| effect.perhaps = true);
    }
    // Most steps do one thing, and effects are large.
    out.effects.shrink_to_fit();
    out
}

impl NeededGrant {
    /// What git needs for pushing with the credential that it has.
    fn to_push(why: &str, at: Place) -> Self {
        let (scope, why) = ("contents".to_owned(), why.to_owned());
        Self { scope, or: Vec::new(), level: crate::model::Level::Write, why, visible_anyway: false, by_git: true, at }
    }

    fn new(grant: &ActionGrant, at: Place) -> Option<Self> {
        let level = crate::model::Level::of(grant.level)?;
        Some(Self {
            scope: grant.scope.to_owned(),
            or: Vec::new(),
            level,
            why: grant.why.to_owned(),
            visible_anyway: grant.visible_anyway,
            by_git: false,
            at,
        })
    }
}

#[cfg(test)]
mod tests;
