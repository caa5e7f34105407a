//! Which jobs of a pipeline run, and which of their steps.

use super::{Answer, Equality, Occasion, OccasionKind, Value, Verdict, evaluate};
use crate::expression::{Expr, ExprKind};
use crate::facts::Facts;
use crate::model::{Choice, Cond, Condition, Job, Outcome, Pipeline, Step, Text, Then, Trigger, Work};

/// Functions that speak of how other jobs ended.
const STATUS: [&str; 4] = ["always", "cancelled", "failure", "success"];

/// Every job's verdict, and whether each of its steps runs when it does.
pub(super) fn jobs(
    pipeline: &Pipeline,
    occasion: &Occasion,
    facts: &Facts,
    starts: &Verdict,
    trigger: Option<usize>,
) -> (Vec<Verdict>, Vec<Vec<Answer>>) {
    let scene = Scene::new(pipeline, occasion, facts, trigger);
    if starts.answer == Answer::No {
        let no = Verdict::new(Answer::No, "the pipeline does not start", starts.at);
        let steps = pipeline.jobs.iter().map(|job| vec![Answer::No; job.steps.len()]).collect();
        return (vec![no; pipeline.jobs.len()], steps);
    }
    let mut known: Vec<Option<Known>> = vec![None; pipeline.jobs.len()];
    let mut open = vec![false; pipeline.jobs.len()];
    let mut stack = Vec::new();
    for first in 0..pipeline.jobs.len() {
        if known[first].is_some() {
            continue;
        }
        // Those it waits for come first; a circle is broken where it closes.
        stack.push((first, false));
        while let Some((index, ready)) = stack.pop() {
            if known[index].is_some() {
                continue;
            }
            if ready || open[index] {
                let mut verdict = scene.job(index, &known);
                verdict.answer = verdict.answer.min(starts.answer);
                if verdict.answer == Answer::Unsure && starts.answer == Answer::Unsure {
                    verdict = Verdict::new(Answer::Unsure, starts.because.clone(), starts.at);
                }
                let worst = scene.worst(index, verdict.answer, &known);
                known[index] = Some(Known { verdict, worst });
                continue;
            }
            open[index] = true;
            stack.push((index, true));
            let needs = pipeline.needed_by(index);
            let unknown = needs.iter().copied().filter(|need| known[*need].is_none() && !open[*need]);
            stack.extend(unknown.map(|need| (need, false)));
        }
    }
    let steps = (0..pipeline.jobs.len()).map(|index| scene.steps(index, &known)).collect();
    let verdict = |known: Option<Known>| known.map_or_else(|| Verdict::new(Answer::Unsure, "", None), |known| known.verdict);
    (known.into_iter().map(verdict).collect(), steps)
}

/// What a dotted path holds for a job in a run that was played.
pub fn value_of(pipeline: &Pipeline, played: &super::Rehearsal, facts: &Facts, job: usize, path: &[&str]) -> Value {
    let scene = Scene::new(pipeline, &played.on, facts, played.trigger);
    scene.look(path, pipeline.jobs.get(job), &[])
}

/// Whether all of several tests hold for a job in a run that was played.
pub(crate) fn all_hold(pipeline: &Pipeline, played: &super::Rehearsal, facts: &Facts, job: usize, tests: &[Expr]) -> Answer {
    if tests.is_empty() {
        return Answer::Yes;
    }
    let scene = Scene::new(pipeline, &played.on, facts, played.trigger);
    let answer = |test: &Expr| match scene.evaluate(test, pipeline.jobs.get(job), &[]).truth() {
        Some(true) => Answer::Yes,
        Some(false) => Answer::No,
        None => Answer::Unsure,
    };
    tests.iter().map(answer).min().unwrap_or(Answer::Yes)
}

/// Why a job that waits for a click may not run.
pub(super) const BY_HAND: &str = "someone who may run it has to start it on the forge's page";

/// A job that surely is in a run, with the first of its needs that surely is not, where the forge refuses such a run.
/// Source: the format's page "CI/CD YAML syntax reference", `needs`.
pub(super) fn refused(pipeline: &Pipeline, occasion: &Occasion, facts: &Facts) -> Option<super::Refused> {
    if !pipeline.customs.refuses_absent_needs || pipeline.partial {
        return None;
    }
    let is_in = |index: usize| presence(&pipeline.jobs[index], pipeline, occasion, facts);
    (0..pipeline.jobs.len()).find_map(|job| {
        let of_job = &pipeline.jobs[job];
        if of_job.when.by_stage || is_in(job) != Answer::Yes {
            return None;
        }
        let left_out = |need: &Text| pipeline.job_named(&need.value).is_some_and(|other| is_in(other) == Answer::No);
        of_job.needs.iter().position(left_out).map(|need| super::Refused { job, need })
    })
}

/// Whether a job is in a run at all, whenever it runs there.
fn presence(job: &Job, pipeline: &Pipeline, occasion: &Occasion, facts: &Facts) -> Answer {
    if job.when.then == Then::Never {
        return Answer::No;
    }
    if job.when.choices.is_empty() {
        return Answer::Yes;
    }
    let chosen = choose(&job.when.choices, pipeline, Some(job), occasion, facts);
    let waits = chosen.is_by_hand() || chosen.because == AFTER_FAILURE;
    if waits { Answer::Yes } else { chosen.answer }
}

/// Why a job that is for failures does not run.
const AFTER_FAILURE: &str = "it runs only after a failure";

/// What a list of choices says: the first that fits decides, and when none does, nothing runs.
pub(super) fn choose(choices: &[Choice], pipeline: &Pipeline, job: Option<&Job>, occasion: &Occasion, facts: &Facts) -> Verdict {
    let scene = match job {
        Some(_) => Scene::new(pipeline, occasion, facts, None),
        // The file's own rules are what is asked.
        None => Scene { pipeline, occasion, facts, trigger: None, let_in_with: Vec::new() },
    };
    let mut unsure: Vec<&Choice> = Vec::new();
    let mut decided = Verdict::new(Answer::No, "no rule fits", choices.first().map(|choice| choice.at));
    for choice in choices {
        match scene.fits(choice, job) {
            Some(false) => {}
            None => unsure.push(choice),
            Some(true) => {
                decided = chosen(choice);
                break;
            }
        }
    }
    // Where every rule that may fit leads to the same, it does not matter which one does.
    match unsure.iter().find(|choice| chosen(choice).answer != decided.answer) {
        Some(choice) => Verdict::new(Answer::Unsure, "a rule is only known when it runs", Some(choice.at)),
        None => decided,
    }
}

/// What follows when a choice fits.
fn chosen(choice: &Choice) -> Verdict {
    let (answer, because) = match choice.then {
        Then::Never => (Answer::No, "this rule says never"),
        Then::Hand => (Answer::Unsure, BY_HAND),
        Then::OnFailure => (Answer::No, AFTER_FAILURE),
        Then::Run | Then::Always | Then::Later => (Answer::Yes, "this rule lets it run"),
    };
    let at = choice.then_at.filter(|_| choice.then == Then::Hand).unwrap_or(choice.at);
    Verdict::new(answer, because, Some(at))
}

/// What is known of a job that has been rehearsed.
#[derive(Clone)]
pub(super) struct Known {
    pub verdict: Verdict,
    /// Whether it and all that it waits for run, and which of them runs least.
    worst: (Answer, usize),
}

/// What a job is rehearsed in.
pub(super) struct Scene<'s> {
    pub pipeline: &'s Pipeline,
    pub occasion: &'s Occasion,
    pub facts: &'s Facts,
    pub trigger: Option<usize>,
    /// The variables of the rule by which the pipeline was let in; nothing for values that hang on what is not known.
    pub let_in_with: Vec<(&'s str, Option<&'s Text>)>,
}

impl<'s> Scene<'s> {
    /// With what the rule sets that let the pipeline in.
    fn new(pipeline: &'s Pipeline, occasion: &'s Occasion, facts: &'s Facts, trigger: Option<usize>) -> Self {
        let mut scene = Self { pipeline, occasion, facts, trigger, let_in_with: Vec::new() };
        scene.let_in_with = scene.set_by_choices();
        scene
    }

    /// The trigger by which the pipeline starts.
    pub fn started_by(&self) -> Option<&'s Trigger> {
        self.trigger.and_then(|index| self.pipeline.triggers.get(index))
    }

    /// What the file's own rules set, by the first of them that fits.
    /// Source: the format's page "CI/CD YAML syntax reference", `workflow:rules:variables`.
    fn set_by_choices(&self) -> Vec<(&'s str, Option<&'s Text>)> {
        let mut found: Vec<(&str, Option<&Text>)> = Vec::new();
        for choice in &self.pipeline.choices {
            let fits = self.fits(choice, None);
            if fits == Some(false) {
                continue;
            }
            let sure = fits == Some(true);
            for (name, value) in &choice.variables.entries {
                let hangs = found.iter().any(|(known, _)| *known == name.value);
                found.push((&name.value, Some(value).filter(|_| sure && !hangs)));
            }
            if sure {
                break;
            }
        }
        found
    }

    fn fits(&self, choice: &Choice, job: Option<&Job>) -> Option<bool> {
        self.holds(&choice.cond, job, &[]).0
    }

    fn job(&self, index: usize, known: &[Option<Known>]) -> Verdict {
        let job = &self.pipeline.jobs[index];
        let verdict = self.unrefused(job, known);
        match (verdict.answer, self.refused(job)) {
            (Answer::Yes, Some(refused)) => refused,
            // It is not known whether there is anything to refuse: the place that decides is not the environment.
            (Answer::Unsure, Some(refused)) => Verdict { at: None, ..refused },
            _ => verdict,
        }
    }

    /// Whether a job runs when no environment refuses it.
    fn unrefused(&self, job: &Job, known: &[Option<Known>]) -> Verdict {
        match job.when.then {
            Then::Never => Verdict::new(Answer::No, "it never runs", Some(job.id.at)),
            Then::OnFailure => Verdict::new(Answer::No, AFTER_FAILURE, Some(job.id.at)),
            // It waits only where it is there at all.
            Then::Hand => match self.without_a_click(job, known) {
                no if no.answer == Answer::No => no,
                _ => Verdict::new(Answer::Unsure, BY_HAND, Some(job.when.then_at.unwrap_or(job.id.at))),
            },
            _ => self.without_a_click(job, known),
        }
    }

    /// The same for a job that nobody has to start.
    fn without_a_click(&self, job: &Job, known: &[Option<Known>]) -> Verdict {
        let own = if job.when.choices.is_empty() {
            job.when.cond.as_ref().map_or_else(|| Verdict::new(Answer::Yes, "", None), |cond| self.by_cond(cond, job, known))
        } else {
            choose(&job.when.choices, self.pipeline, Some(job), self.occasion, self.facts)
        };
        if own.answer == Answer::No {
            return own;
        }
        let ignores = job.condition().and_then(Condition::expression).is_some_and(names_status) || job.when.then == Then::Always;
        if ignores {
            return own;
        }
        // What stages order may be absent without harm.
        if job.when.by_stage {
            return own;
        }
        let waits = self.waits(job, known);
        let told = |need: &Text, by: &str| match need.value == by {
            true => format!("`{by}`"),
            false => format!("`{by}`, by way of `{}`", need.value),
        };
        if let Some((need, by, _)) = waits.iter().find(|(.., answer)| *answer == Answer::No) {
            let because = match need.value == *by {
                true => format!("`{by}`, which it waits for, does not run"),
                false => format!("it waits for {}, which does not run", told(need, by)),
            };
            return Verdict::new(Answer::No, because, Some(need.at));
        }
        match waits.iter().find(|(.., answer)| *answer == Answer::Unsure) {
            Some((need, by, _)) if own.answer == Answer::Yes => {
                Verdict::new(Answer::Unsure, format!("it waits for {}, which may not run", told(need, by)), Some(need.at))
            }
            _ => own,
        }
    }

    /// What is heard of by way of each need: the need, the job that runs least, and whether that runs.
    fn waits<'j>(&'j self, job: &'j Job, known: &[Option<Known>]) -> Vec<(&'j Text, &'j str, Answer)> {
        let heard = |need: &'j Text| {
            let (answer, index) = known.get(self.pipeline.job(&need.value)?)?.as_ref()?.worst;
            Some((need, self.pipeline.jobs[index].id.value.as_str(), answer))
        };
        job.needs.iter().filter_map(heard).collect()
    }

    /// Of a job and, where a skip is heard of along the whole chain, those that it waits for near and far: the one that runs least.
    fn worst(&self, index: usize, answer: Answer, known: &[Option<Known>]) -> (Answer, usize) {
        // Whoever waits for a job waits for the person whom it waits for.
        let waits = self.pipeline.jobs[index].steps.iter().any(|step| matches!(step.work, Work::Gate));
        let own = (if waits { answer.min(Answer::Unsure) } else { answer }, index);
        if !self.pipeline.customs.skips_run_down {
            return own;
        }
        let needs = self.pipeline.jobs[index].needs.iter().filter_map(|need| self.pipeline.job(&need.value));
        let heard = needs.filter_map(|need| known[need].as_ref().map(|known| known.worst));
        std::iter::once(own).chain(heard).min_by_key(|(answer, _)| *answer).unwrap_or(own)
    }

    fn by_cond(&self, cond: &Cond, job: &Job, known: &[Option<Known>]) -> Verdict {
        if let Cond::Asks(condition) = cond {
            return self.by_condition(condition, job, known);
        }
        let (holds, at) = self.holds(cond, Some(job), known);
        match holds {
            Some(true) => Verdict::new(Answer::Yes, "its condition is true", at),
            Some(false) => Verdict::new(Answer::No, "its condition is false", at),
            None => Verdict::new(Answer::Unsure, "its condition is only known when it runs", at),
        }
    }

    fn by_condition(&self, condition: &Condition, job: &Job, known: &[Option<Known>]) -> Verdict {
        let at = Some(condition.text.at);
        if condition.text.is_dynamic()
            && condition.expression().is_none()
            && condition.text.holes().iter().all(|hole| hole.inside.is_ok())
        {
            return Verdict::new(Answer::Yes, "its condition is a text, which always counts as true", at);
        }
        let Some(expression) = condition.expression() else {
            return Verdict::new(Answer::Unsure, "its condition cannot be read", at);
        };
        match self.evaluate(expression, Some(job), known).truth() {
            Some(true) => Verdict::new(Answer::Yes, "its condition is true", at),
            Some(false) => Verdict::new(Answer::No, "its condition is false", at),
            None => {
                let unknown = self.first_unknown(expression, job, known);
                let because = unknown.map_or("its condition is only known when it runs".to_owned(), |name| {
                    format!("its condition reads `{name}`, which is only known when it runs")
                });
                Verdict::new(Answer::Unsure, because, at)
            }
        }
    }

    fn steps(&self, index: usize, known: &[Option<Known>]) -> Vec<Answer> {
        let job = &self.pipeline.jobs[index];
        // `failure()` and its kin are false here, as everything is taken to succeed.
        let answer = |cond: &Cond| self.by_cond(cond, job, known).answer;
        let by_end = |step: &Step| if step.after == Outcome::Failure || step.off.is_some() { Answer::No } else { Answer::Yes };
        let mut behind_a_gate = false;
        let of_step = |step: &Step| {
            let own = step.when.as_ref().map_or(Answer::Yes, answer).min(by_end(step));
            let held = if behind_a_gate { own.min(Answer::Unsure) } else { own };
            behind_a_gate |= matches!(step.work, Work::Gate);
            held
        };
        job.steps.iter().map(of_step).collect()
    }

    /// The environment that the job deploys to takes nothing from this branch or tag.
    fn refused(&self, job: &Job) -> Option<Verdict> {
        let environment = job.environment.as_ref()?;
        let declared = self.facts.settings.forge.environments.get(environment.known()?)?;
        let patterns = declared.branches.as_ref()?;
        let name = match self.occasion.kind {
            OccasionKind::Tag | OccasionKind::Release => self.occasion.name.as_deref()?,
            _ => self.occasion.branch()?,
        };
        let fits = patterns.iter().any(|pattern| crate::pattern::Glob::read(&pattern.name).map_or(true, |glob| glob.fits(name)));
        let because = format!("the environment `{}` takes nothing from {name}", environment.value);
        (!fits).then(|| Verdict::new(Answer::No, because, Some(environment.at)))
    }

    pub fn evaluate(&self, expression: &Expr, job: Option<&Job>, known: &[Option<Known>]) -> Value {
        let equality = if self.pipeline.customs.reads_variables { Equality::Strict } else { Equality::Loose };
        evaluate(expression, equality, &|path| self.look(path, job, known), &|name| {
            let name = name.to_ascii_lowercase();
            STATUS.contains(&name.as_str()).then(|| match name.as_str() {
                "always" => Value::Bool(true),
                "success" => self.success(job, known),
                _ => Value::Bool(false),
            })
        })
    }

    /// Whether those that a job waits for have all run.
    fn success(&self, job: Option<&Job>, known: &[Option<Known>]) -> Value {
        match job.and_then(|job| self.waits(job, known).into_iter().map(|(.., answer)| answer).min()) {
            Some(Answer::No) => Value::Bool(false),
            Some(Answer::Unsure) => Value::Unknown,
            _ => Value::Bool(true),
        }
    }
}

/// Whether an expression speaks of how other jobs ended: then a job that was skipped does not take this one with it.
pub(crate) fn names_status(expression: &Expr) -> bool {
    let mut found = false;
    expression.walk(&mut |part| {
        found |= matches!(&part.kind, ExprKind::Call(name, _) if STATUS.iter().any(|status| status.eq_ignore_ascii_case(name)));
    });
    found
}
