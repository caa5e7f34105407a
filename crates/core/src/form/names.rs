//! The names that an expression can use, as far as the file itself says: jobs, steps, matrix keys, inputs.

use std::cell::{OnceCell, RefCell};
use std::collections::{HashMap, HashSet};

use super::Names;
use crate::expression::Expr;
use crate::knowledge::{self, Among, Declared, Grammar, Meant};
use crate::model::{Job, JobIndex, Pipeline, Step, Text, Work};
use crate::text::Place;

/// A pipeline as the place where names are looked up.
#[derive(Debug)]
pub struct Scope<'p> {
    pipeline: &'p Pipeline,
    jobs: OnceCell<JobIndex>,
    /// By job: the ids of its steps, in small letters.
    steps: RefCell<HashMap<usize, HashSet<String>>>,
}

/// What is wrong with a path.
pub(super) struct WrongName {
    /// It is the whole path that is meant otherwise, rather than the name behind the context.
    pub whole: bool,
    /// What it is looked for among.
    pub names: Names,
    pub meant: Option<Meant>,
    pub known: Vec<String>,
    pub at: Option<Place>,
}

impl WrongName {
    /// A key that no combination has is often empty on purpose, and asked for with a default or in a condition.
    pub fn may_be_empty(&self) -> bool {
        self.names == Names::Matrix
    }
}

impl<'p> Scope<'p> {
    /// Of one pipeline.
    pub fn new(pipeline: &'p Pipeline) -> Self {
        Self { pipeline, jobs: OnceCell::new(), steps: RefCell::default() }
    }

    /// The number of a job by the id as it is written.
    pub(super) fn job_of(&self, id: &str) -> Option<usize> {
        self.jobs().named(&self.pipeline.jobs, id)
    }

    /// Looks a dotted path up; nothing when it fits, or nobody can know.
    pub(super) fn look(
        &self,
        grammar: &'static Grammar,
        (job, step, text): (Option<usize>, Option<usize>, &Text),
        path: &[(&str, std::ops::Range<usize>)],
    ) -> Option<WrongName> {
        let [(context, _), (name, _), ..] = path else { return None };
        let own = job.and_then(|job| self.pipeline.jobs.get(job));
        let Some(declared) = grammar.names.declared(context) else {
            return fixed(grammar, &context.to_ascii_lowercase(), name);
        };
        match declared {
            Declared::Jobs if self.jobs().of_id(&self.pipeline.jobs, name).is_some() => None,
            Declared::Jobs => {
                self.look_in(Among::Whole, Names::Jobs, self.pipeline.jobs.iter().map(|job| &job.id).collect(), name)
            }
            Declared::Steps => {
                let (number, own) = (job?, own?);
                if self.has_step((number, own), name) {
                    return None;
                }
                let ids = own.steps.iter().filter_map(|step| step.id.as_deref()).collect();
                self.look_in(Among::Whole, Names::Steps, ids, name)
            }
            Declared::Axes => {
                let Some(matrix) = &own?.matrix else {
                    let names = Names::NoMatrix;
                    return Some(WrongName { whole: false, names, meant: None, known: Vec::new(), at: None });
                };
                let matrix = Some(matrix).filter(|matrix| !matrix.open)?;
                self.look_in(Among::Open, Names::Matrix, matrix.names.iter().collect(), name)
            }
            Declared::Inputs => {
                let Some(inputs) = self.pipeline.inputs() else {
                    let names = Names::NoInputs;
                    let none = WrongName { whole: false, names, meant: None, known: Vec::new(), at: None };
                    return Some(none).filter(|_| !self.pipeline.takes_values());
                };
                self.look_in(Among::Open, Names::Inputs, inputs.iter().map(|input| &input.name).collect(), name)
            }
            Declared::Variables => self
                .look_in_env(grammar, own, name)
                .or_else(|| own.zip(step).and_then(|(job, step)| self.set_too_narrowly(job, step, text, name))),
        }
    }

    fn jobs(&self) -> &JobIndex {
        self.jobs.get_or_init(|| JobIndex::of(&self.pipeline.jobs))
    }

    /// Whether a step of a job has an id.
    fn has_step(&self, (number, job): (usize, &Job), id: &str) -> bool {
        let lower = |step: &Step| step.id.as_ref().map(|id| id.value.to_ascii_lowercase());
        let mut steps = self.steps.borrow_mut();
        let ids = steps.entry(number).or_insert_with(|| job.steps.iter().filter_map(lower).collect());
        ids.contains(&id.to_ascii_lowercase())
    }

    fn look_in(&self, among: Among, names: Names, known: Vec<&Text>, name: &str) -> Option<WrongName> {
        if known.iter().any(|text| text.value.eq_ignore_ascii_case(name) || text.is_dynamic()) {
            return None;
        }
        let mut words: Vec<String> = Vec::new();
        let mut seen: HashSet<&str> = HashSet::new();
        for text in &known {
            if seen.insert(&text.value) {
                words.push(text.value.clone());
            }
        }
        let meant = knowledge::near(name, words.iter().map(String::as_str), among);
        let at = known.iter().find(|text| meant.as_ref().is_none_or(|meant| text.value == meant.word)).map(|text| text.inner());
        Some(WrongName { whole: false, names, meant, known: words, at })
    }

    /// A variable may also be set by a step; only a slip of a declared name is sure.
    fn look_in_env(&self, grammar: &'static Grammar, job: Option<&Job>, name: &str) -> Option<WrongName> {
        let job = job?;
        let steps = job.steps.iter().flat_map(|step| step.variables.entries.iter());
        let known: Vec<&Text> =
            self.pipeline.variables.entries.iter().chain(&job.variables.entries).chain(steps).map(|(name, _)| name).collect();
        let own = self.pipeline.run().own_starts.iter().any(|start| name.starts_with(start));
        let set_by_step = job.steps.iter().any(|step| match &step.work {
            // A script that reads what the runner sets does not set it.
            Work::Runs { script, .. } if own => script.value.contains(&format!("{name}=")),
            Work::Runs { script, .. } => script.value.contains(name),
            Work::Uses { .. } => name.contains("PATH"),
            Work::RunsImage { .. } | Work::ByItself(_) | Work::Gate | Work::Unclear | Work::Nothing => false,
        });
        let mut wrong = self.look_in(Among::Open, Names::Variables, known, name)?;
        if own && !self.pipeline.customs.reads_variables {
            // The runner sets it for scripts, and the context knows only what the file sets.
            wrong.names = Names::RunnersOwn;
            wrong.meant = of_run(grammar, name);
            wrong.whole = wrong.meant.is_some();
        } else {
            wrong.meant.as_ref()?;
        }
        (!set_by_step).then_some(wrong)
    }

    /// A variable that only another step has, or that stands in the very map which reads it: the context holds what was set before.
    /// Source: the format's page "Contexts reference", `env` context.
    fn set_too_narrowly(&self, job: &Job, step: usize, text: &Text, name: &str) -> Option<WrongName> {
        let is = |(known, _): &&(Text, Text)| known.value.eq_ignore_ascii_case(name);
        let around = &self.pipeline.variables;
        if around.open || job.variables.open || around.entries.iter().chain(&job.variables.entries).any(|entry| is(&entry)) {
            return None;
        }
        let own = job.steps.get(step)?;
        let in_own_map = own.variables.entries.iter().any(|(_, value)| value.at == text.at);
        let set_by = match own.variables.entries.iter().find(is) {
            Some(entry) if in_own_map => Some((&entry.0, Names::SameMap)),
            Some(_) => return None,
            None if own.variables.open => return None,
            None => job.steps.iter().flat_map(|step| &step.variables.entries).find(is).map(|entry| (&entry.0, Names::OtherStep)),
        };
        let (set, names) = set_by?;
        // What runs before may hand a variable on.
        let files = &self.pipeline.customs.variable_files;
        let hands_on = |script: &str| script.contains(name) || files.iter().any(|file| script.contains(file));
        let may_set = job.steps[..step].iter().any(|step| match &step.work {
            Work::Runs { script, .. } => hands_on(&script.value),
            Work::Uses { action, .. } => crate::effects::UsedAction::of(&action.value).is_none_or(|used| used.action().is_none()),
            Work::RunsImage { .. } | Work::ByItself(_) | Work::Gate | Work::Unclear | Work::Nothing => false,
        });
        (!may_set).then(|| WrongName { whole: false, names, meant: None, known: Vec::new(), at: Some(set.inner()) })
    }

    /// Whether an expression is surely `true` or `false` rather than a text.
    pub(super) fn is_boolean(&self, grammar: &Grammar, expression: &Expr) -> bool {
        let Some(path) = expression.path() else { return false };
        let [(context, _), (name, _)] = path.as_slice() else { return false };
        grammar.names.declared(context) == Some(Declared::Inputs)
            && self.input_types(name).all(|kind| kind == "boolean")
            && self.input_types(name).count() > 0
    }

    fn input_types(&self, name: &str) -> impl Iterator<Item = &'p str> {
        let name = name.to_owned();
        self.pipeline
            .triggers
            .iter()
            .flat_map(|trigger| &trigger.inputs)
            .filter(move |input| input.name.value.eq_ignore_ascii_case(&name))
            .map(|input| input.details.get("type").map_or("string", |text| text.value.as_str()))
    }
}

/// Whether an expression is surely a text: outputs and variables always are.
pub(super) fn is_text(grammar: &Grammar, expression: &Expr) -> bool {
    let words: Option<Vec<&str>> = expression.path().map(|path| path.iter().map(|(word, _)| *word).collect());
    words.is_some_and(|words| grammar.names.is_text(&words))
}

/// Keys by which a matrix takes combinations away, though none of its axes has them.
/// Source: the format's page "Workflow syntax", `jobs.<job_id>.strategy.matrix.exclude`.
pub(crate) fn keys_of_no_axis(pipeline: &Pipeline) -> Vec<super::FormIssue> {
    let mut found = Vec::new();
    for matrix in pipeline.jobs.iter().filter_map(|job| job.matrix.as_ref()).filter(|matrix| !matrix.open) {
        let axes: Vec<&str> = matrix.axes.iter().map(|(name, _)| name.value.as_str()).collect();
        for (key, _) in matrix.excluded.iter().flatten().filter(|(key, _)| !axes.contains(&key.value.as_str())) {
            let kind = super::FormIssueKind::UnknownName {
                name: key.value.clone(),
                among: Names::Axes,
                meant: knowledge::near(&key.value, axes.iter().copied(), Among::Whole),
                known: axes.iter().map(|axis| (*axis).to_owned()).collect(),
                at: matrix.axes.first().map(|(name, _)| name.at),
            };
            found.push(super::FormIssue { at: key.at, kind });
        }
    }
    found
}

/// Defaults of inputs that are none of the values which their kind takes.
/// Source: the format's page "Workflow syntax", `on.workflow_dispatch.inputs` and `on.workflow_call.inputs.<input_id>.type`.
pub(crate) fn strange_defaults(pipeline: &Pipeline) -> Vec<super::FormIssue> {
    let mut found = Vec::new();
    for input in pipeline.triggers.iter().flat_map(|trigger| &trigger.inputs) {
        let Some(default) = input.default.as_ref() else { continue };
        let (Some(word), Some(kind)) = (default.known().filter(|word| !input.takes(word)), input.kind()) else { continue };
        let wanted = if input.is_boolean() { "true or false" } else { "a number" };
        let kind = super::FormIssueKind::WrongShape {
            key: "default".into(),
            found: format!("the word `{}`", word.chars().take(40).collect::<String>()),
            wanted: format!("{wanted}, as `{}` is a {kind}", input.name.value),
            instead: None,
        };
        found.push(super::FormIssue { at: default.at, kind });
    }
    found
}

/// The path that holds what the runner sets as a variable: `RUNNER_OS` is `runner.os`.
fn of_run(grammar: &'static Grammar, variable: &str) -> Option<Meant> {
    let (context, name) = variable.split_once('_')?;
    let (context, name) = (context.to_ascii_lowercase(), name.to_ascii_lowercase());
    let known = grammar.names.properties.get(&context)?.contains(&name.as_str());
    known.then(|| Meant::surely(format!("{context}.{name}")))
}

/// A name below a context that has a fixed set of them. Only a slip, or a name that people are known to write, is sure: the set grows.
fn fixed(grammar: &'static Grammar, context: &str, name: &str) -> Option<WrongName> {
    let (context, known) = grammar.names.properties.entry(context)?;
    if known.iter().any(|known| known.eq_ignore_ascii_case(name)) {
        return None;
    }
    let mistaken = grammar.names.mistaken.get(context).and_then(|words| words.get(&name.to_ascii_lowercase()));
    let documented = mistaken.map(|word| Meant::surely(*word));
    let meant = documented.or_else(|| knowledge::near(name, known.iter().copied(), Among::Closed))?;
    Some(WrongName {
        whole: false,
        names: Names::In(context),
        meant: Some(meant),
        known: known.iter().map(|word| (*word).to_owned()).collect(),
        at: None,
    })
}
