//! The way of the files: each job's workspace as folders with what is known of them, folded over the effects of its steps.

use crate::effects::{Effect, EffectAt, Folder, PipelineEffects, UploadPath, join};
use crate::facts::{Facts, FileList, Origin};
use crate::knowledge;
use crate::model::Pipeline;
use crate::text::Place;

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
}

/// Whether a path is there when it is handed on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// A step made it, or git tracks it.
    There,
    /// It may be there: something that is not understood may have made it.
    Perhaps,
    /// Nothing before makes it.
    Never,
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
    /// Whether it is there.
    pub standing: Standing,
    /// The builds before it, in this job.
    pub built: Vec<Built>,
}

/// All hand-overs of a pipeline.
#[derive(Clone, Debug, Default)]
pub struct Trail {
    /// In the order they happen, job by job.
    pub handovers: Vec<Handover>,
}

impl Trail {
    /// Follows the files through every job.
    pub fn of(pipeline: &Pipeline, effects: &PipelineEffects, facts: &Facts) -> Self {
        let mut trail = Self::default();
        for job in 0..pipeline.jobs.len() {
            let mut workspace =
                Workspace { files: None, known_files: facts.files.known(), written: Vec::new(), murky: false, built: Vec::new() };
            for (step, effect) in effects.of_job(job) {
                trail.hand_over(job, step, effect, &workspace);
                workspace.take(effect);
            }
        }
        trail
    }

    fn hand_over(&mut self, job: usize, step: usize, effect: &EffectAt, workspace: &Workspace<'_>) {
        let (paths, publishes): (&[UploadPath], bool) = match &effect.effect {
            Effect::Upload { paths, .. } => (paths, false),
            Effect::Publish { folder: Some(folder), .. } => (std::slice::from_ref(folder), true),
            _ => return,
        };
        for path in paths {
            let standing = path.folder.as_ref().map_or(Standing::Perhaps, |folder| workspace.standing(folder));
            let built = workspace.built.clone();
            self.handovers.push(Handover { job, step, path: path.clone(), together: paths.len(), publishes, standing, built });
        }
    }
}

/// The folders of one job so far.
struct Workspace<'f> {
    /// What the checkout brought.
    files: Option<&'f FileList>,
    known_files: Option<&'f FileList>,
    written: Vec<String>,
    /// Something that is not understood ran: any folder may be there.
    murky: bool,
    built: Vec<Built>,
}

impl<'f> Workspace<'f> {
    fn standing(&self, folder: &str) -> Standing {
        let inside = |inner: &str, outer: &str| {
            outer.is_empty() || inner == outer || inner.strip_prefix(outer).is_some_and(|rest| rest.starts_with('/'))
        };
        let tracked = self.files.is_some_and(|files| files.has(folder) || files.has_folder(folder));
        if tracked || folder.is_empty() || self.written.iter().any(|path| inside(path, folder)) {
            return Standing::There;
        }
        // What lies deeper in a folder that a build made is not known.
        if self.murky || self.written.iter().any(|path| inside(folder, path)) { Standing::Perhaps } else { Standing::Never }
    }

    fn take(&mut self, effect: &'f EffectAt) {
        match &effect.effect {
            Effect::Checkout { into: Some(into), own: true, .. } if into.is_empty() => match self.known_files {
                Some(files) => self.files = Some(files),
                None => self.murky = true,
            },
            Effect::Checkout { into, .. } => self.write(into),
            Effect::Build { generator, output, origin } => {
                self.write(output);
                if let Some(output) = output {
                    let built =
                        Built { generator: generator.clone(), output: output.clone(), origin: origin.clone(), at: effect.at };
                    self.built.push(built);
                }
            }
            Effect::Write { path } => self.write(path),
            Effect::Download { into, .. } => self.write(into),
            Effect::Copy { to, .. } => self.write(to),
            Effect::Install { manager, dir, .. } if knowledge::managers().get(manager).is_some() => {
                self.write(&join(dir, "node_modules"))
            }
            Effect::RestoreCache { paths, .. } => {
                // A path outside the workspace, such as `~/.cache`, makes no folder in it.
                for path in paths.iter().filter(|path| !path.written.starts_with(['~', '/'])) {
                    self.write(&path.folder);
                }
            }
            Effect::Unknown => self.murky = true,
            _ => {}
        }
    }

    fn write(&mut self, path: &Folder) {
        match path {
            // Files put straight into the root may bring any folder with them.
            Some(path) if !path.is_empty() => self.written.push(path.clone()),
            _ => self.murky = true,
        }
    }
}
