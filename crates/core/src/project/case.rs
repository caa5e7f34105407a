//! All that a rule may read of one pipeline.

use std::borrow::Cow;
use std::collections::HashSet;
use std::sync::{Arc, OnceLock};

use crate::effects::{Effect, EffectAt, PipelineEffects, UploadPath, UsedAction};
use crate::expression::Expr;
use crate::facts::Facts;
use crate::finding::WitnessSource;
use crate::formats::Prepared;
use crate::knowledge::Action;
use crate::model::{Cond, Event, Job, Leg, Pipeline, Step, Target, Text, Trigger, Variables, Work};
use crate::project::{Project, Read, ReadAt, Reads};
use crate::rehearsal::{Answer, Occasion, OccasionKind, Rehearsal};
use crate::text::{Place, Sources};
use crate::trail::{Handover, Trail};

/// A name in a dotted path, with its bytes in the text.
pub type PathPart<'p> = (&'p str, std::ops::Range<usize>);

/// Takes a job's number, a dotted path and the text that it stands in.
pub type ReferenceVisitor<'v> = dyn FnMut(Option<usize>, &[PathPart<'_>], &Text) + 'v;

/// A step that puts a site online.
#[derive(Clone, Copy, Debug)]
pub struct Published<'a> {
    /// The job.
    pub job: usize,
    /// The step in it.
    pub step: usize,
    /// The effect itself.
    pub effect: &'a EffectAt,
    /// The kind of place.
    pub target: &'a Target,
    /// The folder that is published.
    pub folder: Option<&'a UploadPath>,
    /// The branch that it is committed to.
    pub branch: Option<&'a str>,
    /// Where it goes; nothing when that is not known, or it is a preview.
    pub place: Option<&'a str>,
}

impl Published<'_> {
    /// It goes to the forge's own pages.
    pub fn is_forge_pages(&self) -> bool {
        *self.target == Target::ForgePages
    }
}

/// One pipeline, joined with everything known.
pub struct Case<'a> {
    /// What it is checked together with.
    pub project: &'a Project<'a>,
    /// Its number in the project.
    pub index: usize,
    /// All texts.
    pub sources: &'a Sources,
    /// What is known of the repository.
    pub facts: &'a Facts,
    /// The file after reading.
    pub prepared: &'a Prepared,
    /// Its model.
    pub pipeline: &'a Pipeline,
    /// What its steps do.
    pub effects: &'a PipelineEffects,
    /// The way of the files.
    pub trail: &'a Trail,
    /// What its texts read.
    pub reads: &'a Reads,
    /// What many rules ask for, once one of them has.
    pub(super) listed: Listed<'a>,
}

/// Lists of what stands in a pipeline.
#[derive(Default)]
pub(super) struct Listed<'a> {
    texts: OnceLock<Vec<(Option<usize>, &'a Text)>>,
    uses: OnceLock<Vec<Use<'a>>>,
    expressions: OnceLock<Vec<ExpressionIn<'a>>>,
}

/// The job of an expression, the text that it stands in, and itself.
type ExpressionIn<'a> = (Option<usize>, &'a Text, Cow<'a, Expr>);

/// A step that takes an action from elsewhere: none of this repository, and no image.
pub struct Use<'a> {
    /// The job.
    pub job: usize,
    /// The step in it.
    pub step: usize,
    /// The action as it is written.
    pub written: &'a Text,
    /// What it is given.
    pub inputs: &'a Variables,
    /// `owner/name/path`
    pub name: &'a str,
    /// The version that is asked for.
    pub version: Option<&'a str>,
    /// What the catalog knows of it.
    pub action: Option<&'static Action>,
}

impl<'a> Case<'a> {
    /// Every step with its job and its number in it.
    pub fn steps(&self) -> impl Iterator<Item = (usize, usize, &'a Step)> + use<'a> {
        let of_job =
            |(job, of_job): (usize, &'a Job)| of_job.steps.iter().enumerate().map(move |(number, step)| (job, number, step));
        self.pipeline.jobs.iter().enumerate().flat_map(of_job)
    }

    /// Every effect with its job and its step.
    pub fn all_effects(&self) -> impl Iterator<Item = (usize, usize, &EffectAt)> {
        (0..self.pipeline.jobs.len()).flat_map(move |job| self.effects.of_job(job).map(move |(step, effect)| (job, step, effect)))
    }

    /// What goes online: every publish that names where, or reaches visitors in another way that is known.
    pub fn publishes(&self) -> Vec<Published<'_>> {
        self.published().collect()
    }

    /// The same one after the other.
    pub fn published(&self) -> impl Iterator<Item = Published<'_>> {
        self.effects.publishes.iter().copied().filter_map(|(job, step, number)| {
            let effect = &self.effects.jobs[job][step].effects[number];
            let Effect::Publish { target, folder, branch, place, .. } = &effect.effect else { return None };
            let (folder, branch, place) = (folder.as_ref(), branch.as_deref(), place.as_deref());
            Some(Published { job, step, effect, target, folder, branch, place })
        })
    }

    /// Whether what is handed over goes online from there: by this publish, because the forge's pages are made of it, or because another
    /// job puts it online as it comes.
    pub fn goes_online(&self, handover: &Handover) -> bool {
        handover.publishes || self.online().contains(&(handover.job, handover.step))
    }

    /// The steps, by job and number, from which what they hand on goes online without a publish of theirs.
    fn online(&self) -> &HashSet<(usize, usize)> {
        self.project.online(self.index, || {
            let whole = |other: &&Handover| other.publishes && other.path.folder.as_deref() == Some("");
            let published = self.trail.handovers.iter().filter(whole).map(|other| other.job).collect::<HashSet<usize>>();
            let names: HashSet<&str> = published.into_iter().filter_map(|job| self.only_fetched(job)).collect();
            let goes = |effect: &Effect| match effect {
                Effect::Upload { name, .. } if name.known().is_some_and(|name| names.contains(name)) => true,
                effect => effect.goes_online(),
            };
            let online = self.all_effects().filter(|(.., one)| goes(&one.effect));
            online.map(|(job, step, _)| (job, step)).collect()
        })
    }

    /// The artifact that a job fetches, where it does nothing else than fetch it and put files online.
    pub fn only_fetched(&self, job: usize) -> Option<&str> {
        let mut others = self.effects.of_job(job).filter(|(_, effect)| !matches!(effect.effect, Effect::Publish { .. }));
        let (_, only) = others.next()?;
        let (name, _) = only.effect.takes()?;
        name.known().filter(|_| others.next().is_none())
    }

    /// The name of the artifact that a publish takes instead of a folder.
    pub fn artifact_of<'t>(&self, published: &Published<'t>) -> Option<&'t str> {
        match &published.effect.effect {
            Effect::Publish { artifact: Some(name), .. } => name.known(),
            _ => None,
        }
    }

    /// Every event that can start this pipeline, or one that starts it, with what comes of it here.
    pub fn played(&self) -> impl Iterator<Item = (&Occasion, &Rehearsal)> {
        self.project.played(self.index)
    }

    /// Whether a publish happens on an event.
    pub fn happens(&self, published: &Published<'_>, rehearsal: &Rehearsal) -> Answer {
        let answer = rehearsal.step(published.job, published.step).min(rehearsal.starts.answer);
        let tested = crate::rehearsal::all_hold(self.pipeline, rehearsal, self.facts, published.job, &published.effect.tests);
        if published.effect.branching { answer.min(Answer::Unsure).min(tested) } else { answer.min(tested) }
    }

    /// A push to the default branch, as it was played.
    pub fn on_default_push(&self) -> Option<&Rehearsal> {
        let default = self.facts.git.default_branch.known()?;
        let is_it = |occasion: &Occasion| occasion.kind == OccasionKind::Push && occasion.name.as_ref() == Some(default);
        self.played().find(|(occasion, _)| is_it(occasion)).map(|(_, rehearsal)| rehearsal)
    }

    /// An event played against this pipeline where another one's run brings it about, with the trigger by which it follows; nothing where
    /// it does not follow, or too many start it.
    pub fn as_follower(&self, occasion: &Occasion) -> Option<(Arc<Rehearsal>, &'a Trigger)> {
        let follows = |trigger: &&Trigger| trigger.event == Event::AfterPipeline;
        self.pipeline.triggers.iter().find(follows)?;
        let played = self.project.rehearse_with_starters(self.index, occasion)?;
        let trigger = self.pipeline.triggers.get(played.trigger?).filter(follows)?;
        Some((played, trigger))
    }

    /// Whether this repository's files stand at the root of a job's workspace when a step begins.
    pub fn has_own_root(&self, job: usize, step: usize) -> bool {
        // What the format does by itself stands in one step.
        let by_itself = || matches!(self.pipeline.jobs[job].steps.get(step).map(|step| &step.work), Some(Work::ByItself(_)));
        let first = self.effects.own_root.get(job).copied().flatten();
        first.is_some_and(|first| first < step || (first == step && by_itself()))
    }

    /// The folders of the repository that a job's package managers work in, each once; the root where none does.
    pub fn work_folders(&self, job: usize) -> Vec<&str> {
        let mut folders: Vec<&str> = Vec::new();
        for (_, effect) in self.effects.of_job(job) {
            let (Effect::Install { dir: Some(dir), .. } | Effect::RunScript { dir: Some(dir), .. }) = &effect.effect else {
                continue;
            };
            if !folders.contains(&dir.as_str()) {
                folders.push(dir);
            }
        }
        if folders.is_empty() {
            folders.push("");
        }
        folders
    }

    /// Every text of the pipeline with the job it belongs to; nothing for the file's own.
    pub fn texts(&self) -> &[(Option<usize>, &'a Text)] {
        let pipeline = self.pipeline;
        self.listed.texts.get_or_init(|| {
            let values = pipeline.variables.entries.iter().map(|(_, value)| value);
            let file = values.chain(pipeline.lock.iter().map(|lock| &lock.group));
            let jobs = pipeline.jobs.iter().enumerate();
            let of_jobs = jobs.flat_map(|(index, job)| job_texts(job).into_iter().map(move |text| (Some(index), text)));
            file.map(|text| (None, text)).chain(of_jobs).collect()
        })
    }

    /// Every step that takes an action from elsewhere, in the order they stand.
    pub fn uses(&self) -> &[Use<'a>] {
        self.listed.uses.get_or_init(|| {
            let used = |(job, step, of_step): (usize, usize, &'a Step)| {
                let Work::Uses { action: written, inputs, .. } = &of_step.work else { return None };
                let used = UsedAction::of(&written.value)?;
                Some(Use { job, step, written, inputs, name: used.name, version: used.version, action: used.action() })
            };
            self.steps().filter_map(used).collect()
        })
    }

    /// Those of them that the catalog knows, with what it knows.
    pub fn known_uses(&self) -> impl Iterator<Item = (&Use<'a>, &'static Action)> {
        self.uses().iter().filter_map(|used| Some((used, used.action?)))
    }

    /// The action from elsewhere that a step takes.
    pub fn use_of(&self, job: usize, step: usize) -> Option<&Use<'a>> {
        let uses = self.uses();
        let number = uses.binary_search_by_key(&(job, step), |used| (used.job, used.step)).ok()?;
        uses.get(number)
    }

    /// What the catalog knows of the action that a step takes.
    pub fn action_of(&self, job: usize, step: usize) -> Option<&'static Action> {
        self.use_of(job, step)?.action
    }

    /// Calls `visit` for every expression that stands inside a text, with its bytes there, and for every condition that is one as a
    /// whole.
    pub fn expressions(&self, visit: &mut dyn FnMut(Option<usize>, &Text, &Expr)) {
        for (job, text, expression) in self.listed.expressions.get_or_init(|| self.list_expressions()) {
            visit(*job, text, expression);
        }
    }

    fn list_expressions(&self) -> Vec<ExpressionIn<'a>> {
        let pipeline = self.pipeline;
        let of_text = |(job, text): &(Option<usize>, &'a Text)| {
            let (job, text) = (*job, *text);
            text.holes().into_iter().filter_map(move |hole| Some((job, text, Cow::Owned(hole.inside.ok()?))))
        };
        let jobs = pipeline.jobs.iter().enumerate();
        let conditions = jobs.flat_map(|(index, job)| job.all_conditions().map(move |condition| (Some(index), condition)));
        let file = pipeline.conditions().map(|condition| (None, condition));
        let plain = file.chain(conditions).filter(|(_, condition)| !condition.text.is_dynamic());
        let of_conditions =
            plain.filter_map(|(job, condition)| Some((job, &condition.text, Cow::Borrowed(condition.expression()?))));
        self.texts().iter().flat_map(of_text).chain(of_conditions).collect()
    }

    /// Calls `visit` for every dotted path that the pipeline reads, such as `needs.build.outputs.page`: the job it stands in, its
    /// parts with their bytes in the text, and the text.
    pub fn references(&self, visit: &mut ReferenceVisitor<'_>) {
        self.expressions(&mut |job, text, expression| paths(expression, &mut |path| visit(job, path, text)));
    }

    /// Everything that reads a secret of the forge.
    pub fn secrets(&self) -> impl Iterator<Item = &'a ReadAt> {
        self.reads.iter().filter(|read| read.read == Read::Secret)
    }

    /// What one text reads. A text of an action that a step runs is looked up there.
    pub fn reads_of(&self, text: &Text) -> Vec<&ReadAt> {
        let own = |reads: &'a Reads| reads.of_text(text.at).collect::<Vec<_>>();
        let found = own(self.reads);
        if !found.is_empty() || text.at.file == self.pipeline.file {
            return found;
        }
        self.project.reads_in(text.at.file).map(own).unwrap_or_default()
    }

    /// The variables that a step sees: its own, the job's and the file's, nearest first.
    pub fn layers(&self, job: usize, step: usize) -> [&'a Variables; 3] {
        let of_job = &self.pipeline.jobs[job];
        [&of_job.steps[step].variables, &of_job.variables, &self.pipeline.variables]
    }

    /// The key of the job's matrix that a value reads, with its values in all combinations, when it reads one.
    pub fn axis_in(&self, job: usize, text: &Text) -> Option<(String, Vec<&'a Text>)> {
        let matrix = self.pipeline.jobs[job].matrix.as_ref()?;
        let mut axes = self.reads.iter().filter(|read| read.read == Read::Axis && read.job == Some(job));
        let read = axes.find(|read| text.at.holds(read.at))?;
        let is = |name: &str| name.eq_ignore_ascii_case(&read.name);
        let values: Vec<&Text> = match matrix.combinations() {
            Some(legs) => legs.iter().filter_map(|leg| leg.iter().find(|(name, _)| is(name)).map(|(_, value)| *value)).collect(),
            None => matrix.axes.iter().find(|(name, _)| is(&name.value))?.1.iter().collect(),
        };
        Some((read.name.clone(), values)).filter(|(_, values)| !values.is_empty())
    }

    /// A text as it is on each leg of a job's matrix; nothing where it reads more than plain values of that.
    pub fn on_each_leg(&self, job: usize, text: &Text) -> Option<Vec<String>> {
        let legs = self.pipeline.jobs[job].matrix.as_ref()?.combinations()?;
        let reads = self.reads_of(text);
        if reads.len() != text.holes().len() || !reads.iter().all(|read| read.read == Read::Axis && read.plain) {
            return None;
        }
        let fill = |leg: &Leg<'_>| {
            let mut filled = String::new();
            let mut from = 0;
            for read in &reads {
                let (_, value) = leg.iter().find(|(name, _)| name.eq_ignore_ascii_case(&read.name))?;
                filled.push_str(text.value.get(from..read.range.start)?);
                filled.push_str(&value.value);
                from = read.range.end;
            }
            filled.push_str(text.value.get(from..)?);
            Some(filled)
        };
        legs.iter().map(fill).collect()
    }

    /// The secret that a value is, when it is one and nothing else.
    pub fn only_secret(&self, text: &Text) -> Option<&'a ReadAt> {
        self.reads.of_text(text.at).find(|read| read.read == Read::Secret && read.is_all_of(text))
    }

    /// A secret or variable of the forge, as this format writes the name that is read.
    pub fn spelled(&self, read: Read, name: &str) -> String {
        if self.names_only() {
            return name.to_owned();
        }
        format!("{}.{name}", if read == Read::Secret { "secrets" } else { "vars" })
    }

    /// Secrets and variables share one space of names, and every job has all of them without asking.
    pub fn names_only(&self) -> bool {
        self.pipeline.customs.reads_variables
    }

    /// Variables of a job whose values come from a safe, and whose names say that they are credentials.
    pub fn credentials_of(&self, job: usize) -> impl Iterator<Item = &'a Text> {
        self.pipeline.jobs[job].handed.iter().filter(|name| crate::knowledge::credentials().names_one(&name.value))
    }

    /// Whether the forge gives a job a variable of this name by itself.
    pub fn is_held_for(&self, job: usize, name: &str) -> bool {
        let environment = self.pipeline.jobs[job].environment.as_ref().map(|text| text.value.as_str());
        self.names_only() && self.facts.settings.forge.holds(name, environment)
    }

    /// The values that a text stands for, those that are only included too, when it is one key of the job's matrix and nothing else.
    pub fn matrix_values(&self, job: usize, text: &Text) -> Option<Vec<&'a Text>> {
        let read = self.reads_of(text).into_iter().find(|read| read.read == Read::Axis && read.is_all_of(text))?;
        let matrix = self.pipeline.jobs[job].matrix.as_ref()?;
        let axis = matrix.axes.iter().find(|(name, _)| name.value == read.name);
        let gone = |value: &Text| {
            matrix
                .excluded
                .iter()
                .any(|entry| matches!(entry.as_slice(), [(key, one)] if key.value == read.name && one.value == value.value))
        };
        let added = matrix.included.iter().flatten().filter(|(key, _)| key.value == read.name).map(|(_, value)| value);
        let values: Vec<&Text> = axis.iter().flat_map(|(_, values)| values).filter(|value| !gone(value)).chain(added).collect();
        (axis.is_some() || !values.is_empty()).then_some(values)
    }

    /// "`id`", as a job is called in a message.
    pub fn job_name(&self, job: usize) -> &str {
        &self.pipeline.jobs[job].id.value
    }
}

/// The texts of a job, conditions first.
fn job_texts(job: &Job) -> Vec<&Text> {
    let mut texts: Vec<&Text> = Vec::new();
    texts.extend(job.when.cond.iter().flat_map(Cond::conditions).map(|condition| &condition.text));
    texts.extend(job.environment.as_deref().into_iter().chain(&job.machine.image).chain(&job.machine.runners));
    texts.extend(job.lock.iter().map(|lock| &lock.group));
    texts.extend(job.variables.entries.iter().chain(&job.outputs).map(|(_, value)| value));
    texts.extend(job.matrix.iter().flat_map(|matrix| matrix.axes.iter().flat_map(|(_, values)| values)));
    texts
        .extend(job.call.iter().flat_map(|call| call.inputs.entries.iter().chain(&call.secrets.entries).map(|(_, value)| value)));
    for step in &job.steps {
        texts.extend(step.conditions().map(|condition| &condition.text));
        texts.extend(step.name.iter().chain(step.directory.as_deref()));
        texts.extend(step.variables.entries.iter().map(|(_, value)| value));
        texts.extend(step.work.texts());
    }
    texts
}

/// Calls `visit` for every expression inside a text that can be read, with its bytes there, braces included.
pub fn within(text: &Text, visit: &mut dyn FnMut(&Expr, std::ops::Range<usize>)) {
    for hole in text.holes() {
        if let Ok(expression) = &hole.inside {
            visit(expression, hole.range.clone());
        }
    }
}

/// The longest dotted paths in an expression.
pub fn paths(expression: &Expr, visit: &mut dyn FnMut(&[PathPart<'_>])) {
    let mut inner: Vec<std::ops::Range<usize>> = Vec::new();
    expression.walk(&mut |part| {
        if inner.iter().any(|range| range.start <= part.range.start && part.range.end <= range.end) {
            return;
        }
        if let Some(path) = part.path()
            && path.len() > 1
        {
            inner.push(part.range.clone());
            visit(&path);
        }
    });
}

/// A witness that stands in a file.
pub fn at(place: Place) -> WitnessSource {
    WitnessSource::At(place)
}

/// The names of the secrets that one job reads, the forge's own token left out, sorted.
pub fn secrets_of_job(case: &Case<'_>, job: usize) -> Vec<String> {
    let mut names: Vec<String> = case.secrets().filter(|read| read.job.is_none_or(|of| of == job)).map(secret_name).collect();
    names.sort_unstable();
    names.dedup();
    names
}

/// The names of the secrets that a pipeline reads, the forge's own token left out, in the order they stand.
pub fn secrets_read(case: &Case<'_>) -> Vec<String> {
    case.secrets().map(secret_name).collect()
}

/// Names of secrets do not mind upper and lower case.
fn secret_name(read: &ReadAt) -> String {
    read.name.to_ascii_uppercase()
}
