//! A called pipeline or an action with what it is given filled in.

use super::{Cond, Condition, Job, Pipeline, Step, Text, Variables, Work};
use crate::expression::{Expr, ExprKind};

/// What stands for each input: the value that is given, or else the default.
pub struct Inputs<'i> {
    declared: &'i [super::Input],
    given: &'i Variables,
    /// Every value is a text, whatever its declaration says.
    texts_only: bool,
}

impl<'i> Inputs<'i> {
    /// Of a called pipeline, whose inputs have kinds.
    pub fn of_call(declared: &'i [super::Input], given: &'i Variables) -> Self {
        Self { declared, given, texts_only: false }
    }

    /// Of an action, whose inputs are texts.
    /// Source: the format's page "Metadata syntax", `inputs`.
    pub fn of_action(declared: &'i [super::Input], given: &'i Variables) -> Self {
        Self { declared, given, texts_only: true }
    }

    /// The value of an expression that reads one input and nothing else.
    fn value(&self, expression: &Expr) -> Option<(Text, bool)> {
        let name = input_of(expression)?;
        let input = self.declared.iter().find(|input| input.name.value.eq_ignore_ascii_case(name))?;
        let boolean = !self.texts_only && input.is_boolean();
        let nothing = || Text::fixed(if boolean { "false" } else { "" }, input.name.at);
        let value = match (self.given.get(name), &input.default) {
            (Some(given), _) => given.clone(),
            (None, _) if self.given.open || (input.required && input.default.is_none()) => return None,
            (None, default) => default.clone().unwrap_or_else(nothing),
        };
        Some((value, boolean))
    }

    fn text(&self, text: &Text) -> Text {
        text.filled(&|expression| self.value(expression).map(|(text, _)| text))
    }

    fn texts(&self, variables: &mut Variables) {
        variables.entries.iter_mut().for_each(|(_, text)| *text = self.text(text));
    }

    fn option(&self, text: Option<&mut Text>) {
        if let Some(text) = text {
            *text = self.text(text);
        }
    }

    /// An expression with the inputs that are known now in their place.
    fn expression(&self, expression: &Expr) -> Expr {
        let again = |inner: &Expr| Box::new(self.expression(inner));
        if let Some((text, boolean)) = self.value(expression) {
            let kind = match text.value.as_str() {
                "true" | "false" if boolean => ExprKind::Bool(text.value == "true"),
                value if text.known().is_some() => ExprKind::Text(value.to_owned()),
                _ => expression.kind.clone(),
            };
            return Expr { kind, range: expression.range.clone() };
        }
        let kind = match &expression.kind {
            ExprKind::Call(name, arguments) => {
                ExprKind::Call(name.clone(), arguments.iter().map(|argument| self.expression(argument)).collect())
            }
            ExprKind::Not(inner) => ExprKind::Not(again(inner)),
            ExprKind::Binary(operator, left, right) => ExprKind::Binary(*operator, again(left), again(right)),
            other => other.clone(),
        };
        Expr { kind, range: expression.range.clone() }
    }

    fn cond(&self, cond: &mut Cond) {
        match cond {
            Cond::Asks(condition) => self.condition(condition),
            Cond::All(inner) | Cond::Any(inner) => inner.iter_mut().for_each(|one| self.cond(one)),
            Cond::Not(inner) => self.cond(inner),
            Cond::Changed(_) | Cond::Exists(_) | Cond::Named { .. } | Cond::Opaque(_) => {}
        }
    }

    fn condition(&self, condition: &mut Condition) {
        // A switch, and what nobody gives, is left as it is on purpose.
        condition.off |= condition.expression.as_ref().is_some_and(|expression| self.is_a_switch(expression));
        condition.expression = condition.expression.as_ref().map(|expression| self.expression(expression));
    }

    /// Whether an expression reads a yes or no, or an input that is not given.
    fn is_a_switch(&self, expression: &Expr) -> bool {
        let mut found = false;
        expression.walk(&mut |part| {
            let Some(name) = input_of(part) else { return };
            found |= self.given.get(name).is_none() || self.value(part).is_some_and(|(_, boolean)| boolean);
        });
        found
    }

    /// A step with its inputs filled in.
    fn step(&self, step: &mut Step) {
        step.when.iter_mut().for_each(|cond| self.cond(cond));
        self.texts(&mut step.variables);
        self.option(step.directory.as_deref_mut());
        match &mut step.work {
            Work::Uses { inputs, .. } => self.texts(inputs),
            Work::Runs { script, .. } => *script = self.text(script),
            Work::RunsImage { words } => words.iter_mut().for_each(|text| *text = self.text(text)),
            Work::ByItself(_) | Work::Gate | Work::Unclear | Work::Nothing => {}
        }
    }

    fn job(&self, job: &mut Job) {
        job.when.cond.iter_mut().for_each(|cond| self.cond(cond));
        job.when.choices.iter_mut().for_each(|choice| self.cond(&mut choice.cond));
        self.texts(&mut job.variables);
        self.option(job.environment.as_deref_mut());
        self.option(job.machine.image.as_mut());
        job.machine.runners.iter_mut().for_each(|text| *text = self.text(text));
        job.outputs.iter_mut().for_each(|(_, text)| *text = self.text(text));
        if let Some(call) = &mut job.call {
            self.texts(&mut call.inputs);
        }
        job.steps.iter_mut().for_each(|step| self.step(step));
    }

    /// A pipeline with its inputs filled in, each value where it is given or declared.
    pub fn fill(&self, pipeline: &Pipeline) -> Pipeline {
        let mut filled = pipeline.clone();
        self.texts(&mut filled.variables);
        filled.jobs.iter_mut().for_each(|job| self.job(job));
        filled
    }
}

/// The name of the input that an expression reads, when it reads one and nothing else.
fn input_of(expression: &Expr) -> Option<&str> {
    let path = expression.path()?;
    let [(context, _), (name, _)] = path.as_slice() else { return None };
    context.eq_ignore_ascii_case("inputs").then_some(*name)
}
