//! The way of the files: each job's workspace as folders with what is known of them, folded over the effects of its steps, and
//! artifacts that carry trees from job to job.

mod tree;

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use tree::below;
pub use tree::{Entry, Gone, Maker, SiteIn, Standing, Tree};

use crate::effects::{Effect, EffectAt, Folder, Laid, PipelineEffects, UploadPath, join};
use crate::facts::{Facts, Origin};
use crate::knowledge;
use crate::model::{Job, Pipeline, Workspace};
use crate::text::Place;

/// What hosts look for in a folder that a visitor asks for.
const FRONT_PAGE: &str = "index.html";
/// So many builds before a folder is handed on are kept with it, the last ones.
const BUILDS_KEPT: usize = 256;

/// A build that surely ran before.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Built {
    /// The generator.
    pub generator: String,
    /// The folder that it writes.
    pub output: String,
    /// Where that is known from.
    pub origin: Origin,
    /// The command.
    pub at: Place,
    /// It is made by a server rather than being a folder of files; nothing when that is not known.
    pub serves: Option<bool>,
}

/// A path that is handed to other jobs or published.
#[derive(Clone, Debug)]
pub struct Handover {
    /// The job.
    pub job: usize,
    /// The step in it.
    pub step: usize,
    /// What is handed over.
    pub path: UploadPath,
    /// How many paths are handed over together.
    pub together: usize,
    /// It goes online rather than to another job.
    pub publishes: bool,
    /// How it is laid out there, other than it lies here.
    pub laid: Option<Laid>,
    /// Everything keeps its path from the root there.
    pub keeps_paths: bool,
    /// Whether it is there.
    pub standing: Standing,
    /// Where the site's root is, seen from it.
    pub site: SiteIn,
    /// The files that git tracks in it, when nothing else can lie there.
    pub only_tracked: Option<Vec<String>>,
    /// All files in it, when they are known.
    pub files: Option<Vec<String>>,
    /// Git tracks something there.
    pub tracked: bool,
    /// A front page right in it.
    pub front_page: Standing,
    /// The command that took it away.
    pub removed: Option<Gone>,
    /// The last builds before it, in this job.
    pub built: Vec<Arc<Built>>,
    /// The last artifact brought before it: the name and the folder.
    pub brought: Option<(String, String)>,
}

/// A folder that a step works in.
#[derive(Clone, Debug)]
pub struct FolderUse {
    /// The job.
    pub job: usize,
    /// The step in it.
    pub step: usize,
    /// From the root.
    pub path: String,
    /// Whether it is there.
    pub standing: Standing,
    /// The command that goes there; nothing where the step begins in it.
    pub at: Option<Place>,
}

/// A copy or move of something that is not there: the command fails.
#[derive(Clone, Debug)]
pub struct MissingSource {
    /// The job.
    pub job: usize,
    /// The step in it.
    pub step: usize,
    /// From the root.
    pub path: String,
    /// The command.
    pub at: Place,
}

/// All that is known of the way of a pipeline's files.
#[derive(Clone, Debug, Default)]
pub struct Trail {
    /// In the order they happen, job by job.
    pub handovers: Vec<Handover>,
    /// The folders that steps start in or go into.
    pub folders: Vec<FolderUse>,
    /// Folders that a host takes because a file of its own says so; the path is the one in that file.
    pub hosted: Vec<Handover>,
    /// What images take out of the folders that they are made in; the path is the one in the file that they are made by.
    pub packed: Vec<Handover>,
    /// Copies of a folder into itself.
    pub circular: Vec<MissingSource>,
    /// Copies of what is surely not there.
    pub missing: Vec<MissingSource>,
}

/// An artifact and what it holds.
struct Artifact<'f> {
    name: Option<String>,
    tree: Tree<'f>,
}

/// What has been handed on so far.
#[derive(Default)]
struct Artifacts<'f> {
    all: Vec<Artifact<'f>>,
    by_name: HashMap<String, Vec<usize>>,
}

impl<'f> Artifacts<'f> {
    fn add(&mut self, artifact: Artifact<'f>) {
        if let Some(name) = &artifact.name {
            self.by_name.entry(name.clone()).or_default().push(self.all.len());
        }
        self.all.push(artifact);
    }

    fn named(&self, name: &str) -> Vec<&Artifact<'f>> {
        self.by_name.get(name).into_iter().flatten().map(|number| &self.all[*number]).collect()
    }
}

impl Trail {
    /// What a job hands on, in the order in which it does.
    pub fn handed_on_by(&self, job: usize) -> &[Handover] {
        let from = self.handovers.partition_point(|handover| handover.job < job);
        let to = self.handovers.partition_point(|handover| handover.job <= job);
        &self.handovers[from..to]
    }

    /// Follows the files through every job, those that others wait for first.
    pub fn of(pipeline: &Pipeline, effects: &PipelineEffects, facts: &Facts) -> Self {
        let (first, made) = Self::follow(pipeline, effects, facts, &HashMap::new());
        // What an earlier run has made may be there when this one begins.
        if made.values().all(Vec::is_empty) { first } else { Self::follow(pipeline, effects, facts, &made).0 }
    }

    /// The same where earlier runs have made some paths, by job; and what each job makes that finds those of earlier runs.
    fn follow(pipeline: &Pipeline, effects: &PipelineEffects, facts: &Facts, earlier: &EarlierRuns) -> (Self, EarlierRuns) {
        let mut trail = Self::default();
        let mut made = EarlierRuns::new();
        let mut artifacts = Artifacts::default();
        let goes_on: HashSet<usize> = pipeline.jobs.iter().filter_map(|job| job.workspace.of()).collect();
        let mut left: HashMap<usize, Left<'_>> = HashMap::new();
        for job in in_order(pipeline) {
            let Left { tree, built, brought } = match pipeline.jobs[job].workspace {
                Workspace::Of(other) => left.get(&other).cloned().unwrap_or_else(Left::unknown),
                Workspace::Left => Left::of_earlier_runs(earlier.get(&job).map_or(&[], Vec::as_slice)),
                Workspace::Fresh | Workspace::Kept => Left::default(),
            };
            let mut walk =
                Walk { facts, tree, built, brought, spoken: variables_of(pipeline, job), elsewhere: !pipeline.stands_alone() };
            let mut last = None;
            // What a step finds that looks at nothing but what git tracks.
            let mut cleaned: Option<Walk<'_>> = None;
            for (step, effect) in effects.of_job(job) {
                if last != Some(step) {
                    trail.start_of_step(pipeline, job, step, &walk);
                    walk.spoken.extend(effects.jobs[job][step].spoken.iter().map(String::as_str));
                    last = Some(step);
                    cleaned = pipeline.jobs[job].steps.get(step).and_then(|step| walk.cleaned(step.cleans?));
                }
                let walk = cleaned.as_mut().unwrap_or(&mut walk);
                trail.enter(job, step, effect, walk);
                trail.hand_over(job, step, effect, walk);
                trail.take_hosted(job, step, effect, walk);
                if let Effect::Upload { name, paths, keeps_paths, .. } = &effect.effect {
                    artifacts.add(Artifact { name: name.known().map(str::to_owned), tree: walk.packed(paths, *keeps_paths) });
                }
                if let Effect::Copy { from, to: Some(to), .. } = &effect.effect
                    && !effect.perhaps
                    && !effect.forgiven
                    && walk.tree.standing(to) == Standing::There
                    && let Some(path) = from.iter().filter(|source| source.takes(to)).find_map(|source| source.path.clone())
                {
                    trail.circular.push(MissingSource { job, step, path, at: effect.at });
                }
                if let Effect::Copy { from, .. } = &effect.effect {
                    let gone = from
                        .iter()
                        .filter_map(|source| source.path.as_deref())
                        .find(|path| walk.tree.standing(path) == Standing::Never);
                    let path = gone.filter(|_| !effect.perhaps && !effect.forgiven).map(str::to_owned);
                    trail.missing.extend(path.map(|path| MissingSource { job, step, path, at: effect.at }));
                }
                walk.take(effect, &artifacts);
            }
            if pipeline.jobs[job].workspace == Workspace::Left {
                made.insert(
                    job,
                    walk.tree
                        .entries()
                        .filter(|(_, entry)| entry.maker != Maker::Installed)
                        .map(|(path, entry)| (path.to_owned(), entry.at))
                        .collect(),
                );
            }
            if goes_on.contains(&job) {
                left.insert(job, Left { tree: walk.tree, built: walk.built, brought: walk.brought });
            }
        }
        trail.handovers.sort_by_key(|handover| (handover.job, handover.step));
        trail.handovers.shrink_to_fit();
        (trail, made)
    }

    fn start_of_step(&mut self, pipeline: &Pipeline, job: usize, step: usize, walk: &Walk<'_>) {
        let Some(directory) = pipeline.jobs[job].steps.get(step).and_then(|step| step.directory.as_ref()) else { return };
        let Some(path) = join(&Some(String::new()), &directory.value).filter(|path| !path.is_empty()) else { return };
        let standing = walk.tree.standing(&path);
        self.folders.push(FolderUse { job, step, path, standing, at: None });
    }

    /// A command that goes into a folder.
    fn enter(&mut self, job: usize, step: usize, effect: &EffectAt, walk: &Walk<'_>) {
        let Effect::Enter { path: Some(path) } = &effect.effect else { return };
        if !effect.perhaps && !effect.forgiven {
            let standing = walk.standing(path);
            self.folders.push(FolderUse { job, step, path: path.clone(), standing, at: Some(effect.at) });
        }
    }

    fn hand_over(&mut self, job: usize, step: usize, effect: &EffectAt, walk: &Walk<'_>) {
        self.pack(job, step, effect, walk);
        let (paths, publishes): (&[UploadPath], bool) = match &effect.effect {
            Effect::Upload { paths, .. } => (paths, false),
            Effect::Publish { folder: Some(folder), .. } => (std::slice::from_ref(folder), true),
            _ => return,
        };
        let (laid, keeps_paths) = match &effect.effect {
            Effect::Upload { laid, keeps_paths, .. } => (*laid, *keeps_paths),
            Effect::Publish { laid, .. } => (*laid, false),
            _ => (None, false),
        };
        let handover = |path| Handover { laid, keeps_paths, ..walk.handover(job, step, path, paths.len(), publishes) };
        self.handovers.extend(paths.iter().map(handover));
    }

    /// What an image is made of: the folder, the file, and what that takes out of the folder.
    fn pack(&mut self, job: usize, step: usize, effect: &EffectAt, walk: &Walk<'_>) {
        let Effect::MakeImage { context, file, takes, .. } = &effect.effect else { return };
        let named = |path: &Folder| {
            let path = path.clone().filter(|path| !path.is_empty())?;
            Some(UploadPath { written: path.clone(), folder: Some(path), at: effect.at, glob: false })
        };
        let paths = named(context).into_iter().chain(named(file)).chain(takes.iter().cloned());
        self.packed.extend(paths.map(|path| walk.handover(job, step, &path, 1, false)));
    }

    /// A publish that names no folder takes the one that stands in the host's file, when that is there.
    fn take_hosted(&mut self, job: usize, step: usize, effect: &EffectAt, walk: &Walk<'_>) {
        let Effect::Publish { folder: None, artifact: None, target, .. } = &effect.effect else { return };
        let mut hosts =
            walk.facts.hosting.iter().filter(|host| host.names_folder_for(target) && walk.tree.is_tracked(&host.path));
        let Some((written, Origin::At(at))) = hosts.find_map(|host| host.folder.as_ref()) else { return };
        let path = UploadPath { folder: join(&Some(String::new()), written), at: *at, written: written.clone(), glob: false };
        self.hosted.push(walk.handover(job, step, &path, 1, true));
    }
}

impl<'f> Walk<'f> {
    /// The same after all that git does not track is taken away; nothing when git's files are not known.
    fn cleaned(&self, at: Place) -> Option<Self> {
        let files = self.facts.files.known()?;
        let tree = self.tree.cleaned(at, files);
        Some(Self { tree, built: self.built.clone(), brought: None, spoken: self.spoken.clone(), ..*self })
    }
}

impl Walk<'_> {
    fn handover(&self, job: usize, step: usize, path: &UploadPath, together: usize, publishes: bool) -> Handover {
        let folder = path.folder.as_deref();
        Handover {
            job,
            step,
            path: path.clone(),
            together,
            publishes,
            laid: None,
            keeps_paths: false,
            standing: folder.map_or(Standing::Perhaps, |folder| self.standing(folder)),
            site: folder.map_or(SiteIn::Unknown, |folder| self.tree.site(folder)),
            only_tracked: folder.filter(|_| !path.glob).and_then(|folder| self.tree.only_tracked(folder)),
            files: folder.filter(|_| !path.glob).and_then(|folder| self.tree.all_files(folder)),
            tracked: folder.is_some_and(|folder| self.tree.is_tracked(folder)),
            front_page: folder.map_or(Standing::Perhaps, |folder| self.tree.standing(&below(folder, FRONT_PAGE))),
            removed: folder.and_then(|folder| self.tree.removed(folder)),
            built: self.built.clone(),
            brought: self.brought.clone(),
        }
    }
}

/// The jobs so that each comes after those that it waits for; in a circle, as they are written.
pub(crate) fn in_order(pipeline: &Pipeline) -> Vec<usize> {
    let count = pipeline.jobs.len();
    let before = |job: &Job| -> Vec<usize> {
        job.needs.iter().filter_map(|need| pipeline.job(&need.value)).chain(job.workspace.of()).collect()
    };
    let needs: Vec<Vec<usize>> = pipeline.jobs.iter().map(before).collect();
    let mut waits: Vec<usize> = needs.iter().map(Vec::len).collect();
    let mut followers = vec![Vec::new(); count];
    for (job, own) in needs.iter().enumerate() {
        own.iter().for_each(|need| followers[*need].push(job));
    }
    let mut ready: std::collections::VecDeque<usize> = (0..count).filter(|job| waits[*job] == 0).collect();
    let mut order = Vec::with_capacity(count);
    while let Some(job) = ready.pop_front() {
        order.push(job);
        for follower in &followers[job] {
            waits[*follower] -= 1;
            if waits[*follower] == 0 {
                ready.push_back(*follower);
            }
        }
    }
    let mut placed = vec![false; count];
    order.iter().for_each(|job| placed[*job] = true);
    order.extend((0..count).filter(|job| !placed[*job]));
    order
}

/// The folder that several paths have in common: an artifact of them begins there.
/// Source: the action's manual, "Upload using Multiple Paths and Exclusions", 2026-11.
fn common_folder(paths: &[UploadPath]) -> Option<String> {
    let folders: Option<Vec<&str>> = paths.iter().filter(|path| !path.glob).map(|path| path.folder.as_deref()).collect();
    let folders = folders.filter(|folders| folders.len() == paths.len())?;
    let (first, others) = folders.split_first()?;
    let holder = first.rsplit_once('/').map_or("", |(above, _)| above);
    let mut common = holder;
    while !others.iter().all(|other| crate::effects::is_inside(other, common) && *other != common) {
        common = common.rsplit_once('/').map_or("", |(above, _)| above);
        if common.is_empty() {
            break;
        }
    }
    Some(common.to_owned())
}

/// The values of the variables that a job's steps see.
fn variables_of(pipeline: &Pipeline, job: usize) -> Vec<&str> {
    let of_job = &pipeline.jobs[job];
    let layers = [&pipeline.variables, &of_job.variables].into_iter().chain(of_job.steps.iter().map(|step| &step.variables));
    layers.flat_map(|layer| &layer.entries).map(|(_, value)| value.value.as_str()).collect()
}

/// What a job leaves behind for one that goes on in its folder.
#[derive(Clone, Default)]
struct Left<'f> {
    tree: Tree<'f>,
    built: Vec<Arc<Built>>,
    brought: Option<(String, String)>,
}

/// The paths that runs of a pipeline make, by job, each with its place.
type EarlierRuns = HashMap<usize, Vec<(String, Place)>>;

impl Left<'_> {
    /// What earlier runs have made may be there, and nothing else.
    fn of_earlier_runs(made: &[(String, Place)]) -> Self {
        let mut left = Self::default();
        made.iter().for_each(|(path, at)| left.tree.make(path, Maker::Restored, *at, false));
        left
    }

    /// Nobody knows what: the other job has not run yet, as far as is written.
    fn unknown() -> Self {
        let mut left = Self::default();
        left.tree.blur();
        left
    }
}

/// The walk through one job.
struct Walk<'f> {
    facts: &'f Facts,
    tree: Tree<'f>,
    built: Vec<Arc<Built>>,
    brought: Option<(String, String)>,
    /// Words that may name folders inside a built one: of commands so far, and values of variables.
    spoken: Vec<&'f str>,
    /// Whoever calls the pipeline may hand artifacts to it.
    elsewhere: bool,
}

impl<'f> Walk<'f> {
    /// Whether a path is there. Inside a built folder nothing is that nobody speaks of: a path among the sources, a configuration, a
    /// command, or the generator's own manual.
    fn standing(&self, path: &str) -> Standing {
        let standing = self.tree.standing(path);
        let Some((generator, rest)) = self.tree.inside_built(path).filter(|_| standing == Standing::Perhaps) else {
            return standing;
        };
        let inner = knowledge::generators().get(generator).map_or(&[][..], |known| known.inner_folders);
        let unknown = inner.is_empty() || rest.split('/').any(|name| self.is_spoken_of(name) || inner.contains(&name));
        if unknown { standing } else { Standing::Never }
    }

    fn is_spoken_of(&self, name: &str) -> bool {
        let in_files = |files: &crate::facts::FileList| files.has_part(name);
        let in_configs =
            || self.facts.configs.values().any(|(_, config)| config.texts().iter().any(|(text, _)| text.contains(name)));
        self.facts.files.known().is_none_or(in_files) || in_configs() || self.spoken.iter().any(|word| word.contains(name))
    }

    /// What an artifact holds: a folder's contents, or with several paths everything under its own path.
    fn packed(&self, paths: &[UploadPath], keeps_paths: bool) -> Tree<'f> {
        let mut packed = Tree::default();
        match paths {
            [only] if !keeps_paths => match &only.folder {
                Some(folder) if !self.is_file(folder) => packed = self.tree.part(folder),
                _ => packed.blur(),
            },
            _ => {
                // Several paths begin at their common folder.
                let common = if keeps_paths { Some(String::new()) } else { common_folder(paths) };
                let Some(common) = common else {
                    packed.blur();
                    return packed;
                };
                for path in paths {
                    match &path.folder {
                        Some(folder) => {
                            let rest = folder[common.len()..].trim_start_matches('/');
                            let part = self.tree.part(folder);
                            if part.is_empty() {
                                packed.make(rest, Maker::Written, path.at, self.tree.standing(folder) == Standing::There);
                            }
                            packed.graft(&part, rest, true);
                        }
                        None => packed.blur(),
                    }
                }
            }
        }
        packed
    }

    fn is_file(&self, path: &str) -> bool {
        self.facts.files.known().is_some_and(|files| files.has(path))
    }

    fn take(&mut self, effect: &'f EffectAt, artifacts: &Artifacts<'f>) {
        let sure = !effect.perhaps;
        match &effect.effect {
            Effect::Checkout { into: Some(into), own: true, .. } => match self.facts.files.known() {
                Some(files) if sure => self.tree.mount(into, files),
                _ => self.write(&Some(into.clone()), Maker::Written, effect),
            },
            Effect::Checkout { into, .. } => self.write(into, Maker::Written, effect),
            Effect::Build { generator, output, origin, server, .. } => {
                self.write(output, Maker::Built(generator.clone()), effect);
                if let Some(output) = output {
                    let built = Built {
                        generator: generator.clone(),
                        output: output.clone(),
                        origin: origin.clone(),
                        at: effect.at,
                        serves: *server,
                    };
                    // Each folder that is handed on keeps them all.
                    if self.built.len() >= BUILDS_KEPT {
                        self.built.remove(0);
                    }
                    self.built.push(Arc::new(built));
                }
            }
            Effect::Write { path } => self.write(path, Maker::Written, effect),
            Effect::MakeFolder { path } => match path {
                Some(path) if self.tree.standing(path) == Standing::There => {}
                path => self.write(path, Maker::Emptied, effect),
            },
            Effect::Remove { path } => self.tree.remove(path.as_deref(), effect.at, sure),
            Effect::Copy { from, to, is_folder, moves } => match to {
                Some(to) => {
                    let targets = self.tree.copy(from, to, *is_folder, effect.at, sure);
                    for (source, target) in from.iter().zip(targets).filter(|(source, _)| *moves && !source.contents) {
                        self.tree.remove(source.path.as_deref(), effect.at, sure);
                        self.tree.moved_to(target);
                    }
                }
                None => self.tree.blur(),
            },
            Effect::Download { name, into, elsewhere, merges } => {
                self.bring(name.known(), name.given.is_some(), into, *elsewhere, *merges, effect, artifacts)
            }
            Effect::Install { manager, dir, .. } if knowledge::managers().get(manager).is_some() => {
                self.write(&join(dir, "node_modules"), Maker::Installed, effect);
            }
            Effect::RestoreCache { paths, .. } => {
                // A path outside the workspace, such as `~/.cache`, makes no folder in it.
                for path in paths.iter().filter(|path| !path.lies_outside()) {
                    match &path.folder {
                        Some(folder) => self.tree.make(folder, Maker::Restored, effect.at, false),
                        None => self.tree.blur(),
                    }
                }
            }
            Effect::Unknown(reach) => self.tree.cloud(reach),
            _ => {}
        }
    }

    fn write(&mut self, path: &Folder, maker: Maker, effect: &EffectAt) {
        match path {
            // Standing rules have always taken what a conditional step makes for made.
            Some(path) => self.tree.make(path, maker, effect.at, true),
            None => self.tree.blur(),
        }
    }

    /// Unpacks one artifact, or all of them each in a folder of its name.
    #[allow(clippy::too_many_arguments, reason = "each is one property of a download")]
    fn bring(
        &mut self,
        name: Option<&str>,
        named: bool,
        into: &Folder,
        elsewhere: bool,
        merges: bool,
        effect: &EffectAt,
        artifacts: &Artifacts<'f>,
    ) {
        let Some(into) = into.as_ref().filter(|_| !elsewhere && !self.elsewhere) else {
            return self.write(into, Maker::Brought(name.unwrap_or_default().to_owned()), effect);
        };
        let wanted: Vec<&Artifact<'f>> = match name {
            Some(name) => artifacts.named(name),
            None if named => Vec::new(),
            None => artifacts.all.iter().collect(),
        };
        if wanted.is_empty() || wanted.iter().any(|artifact| artifact.name.is_none()) {
            return self.write(&Some(into.clone()), Maker::Brought(name.unwrap_or_default().to_owned()), effect);
        }
        for artifact in wanted {
            let own = artifact.name.clone().unwrap_or_default();
            let folder = match (name.is_some() || merges, into.is_empty()) {
                (true, _) => into.clone(),
                (false, true) => own.clone(),
                (false, false) => format!("{into}/{own}"),
            };
            if !folder.is_empty() && artifact.tree.is_empty() {
                self.tree.make(&folder, Maker::Brought(own.clone()), effect.at, true);
            }
            self.tree.graft(&artifact.tree, &folder, true);
            self.brought = Some((own, folder));
        }
    }
}

#[cfg(test)]
mod tests;
