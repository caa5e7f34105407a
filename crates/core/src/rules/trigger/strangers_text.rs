//! Words of a stranger that become part of a command.

use crate::case::{Case, at, within};
use crate::expression::{Expr, ExprKind, Operator};
use crate::finding::{Findings, Severity};
use crate::model::{Text, Trigger, Work};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.strangers-text",
    severity: Severity::Error,
    title: "Words that a stranger writes become part of a command",
    why: "An expression in a script is put into its text before the shell reads it. The title of an issue, the name of a pull \
          request's branch or a commit's message may hold a command, and the shell runs it with all that the job may do.",
    needs: &[],
    bad: &[r#"
== pipeline
on: ‹issues›
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo "«${{ github.event.issue.title }}»"
"#],
    good: &[
        r#"
== pipeline
on: issues
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - env:
          TITLE: ${{ github.event.issue.title }}
        run: echo "$TITLE"
"#,
        r"
== pipeline
on: push
jobs:
  build:
    if: contains(github.event.head_commit.message, 'publish')
    runs-on: ubuntu-latest
    steps:
      - run: echo ${{ contains(github.event.head_commit.message, 'x') }} ${{ github.event.head_commit.id }} ${{ github.ref_name }}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let made = &case.pipeline.run().values.made_fields;
    for (job, number, step) in case.steps() {
        for script in scripts(case, (job, number), &step.work) {
            within(script, &mut |inside, range| {
                let mut found = None;
                spoken(inside, made, &mut |path| found = found.take().or_else(|| strangers(case, path)));
                if let Some((name, trigger)) = found {
                    speak(case, script, range, &name, trigger, out);
                }
            });
        }
    }
}

fn speak(case: &Case<'_>, script: &Text, range: std::ops::Range<usize>, name: &str, trigger: &Trigger, out: &mut Findings) {
    let privileged = case.pipeline.run().values.privileged.contains(&trigger.name.value.as_str());
    let finding = out.add(script.place(range), format!("whoever writes `{name}` can run any command here"));
    if !privileged {
        finding.severity(Severity::Warning);
    }
    finding.witness(
        at(trigger.name.at),
        format!("`{}` brings it from whoever wrote it, before anybody has looked", trigger.name.value),
    );
    finding.mend(pen::write(case, &Ask::PassAsVariable));
}

/// The texts of a step that are run as a program.
fn scripts<'c>(case: &Case<'_>, (job, step): (usize, usize), work: &'c Work) -> Vec<&'c Text> {
    match work {
        Work::Runs { script, .. } => vec![script],
        Work::Uses { inputs, .. } => {
            let known = case.action_of(job, step);
            known.into_iter().flat_map(|known| known.scripts).filter_map(|input| inputs.get(input)).collect()
        }
        // Without a shell, words are words.
        Work::RunsImage { .. } | Work::ByItself(_) | Work::Gate | Work::Unclear | Work::Nothing => Vec::new(),
    }
}

/// The paths whose own words come out of an expression, as against those that it only looks at.
fn spoken(expression: &Expr, made: &[&str], visit: &mut dyn FnMut(&str)) {
    if let Some(path) = expression.path() {
        let words: Vec<&str> = path.iter().map(|(word, _)| *word).collect();
        visit(&words.join("."));
        return;
    }
    match &expression.kind {
        ExprKind::Binary(Operator::Or | Operator::And, left, right) => {
            spoken(left, made, visit);
            spoken(right, made, visit);
        }
        ExprKind::Call(name, arguments) if ["format", "join", "tojson"].iter().any(|known| name.eq_ignore_ascii_case(known)) => {
            arguments.iter().for_each(|argument| spoken(argument, made, visit));
        }
        ExprKind::Property(_, field, _) if made.contains(&field.as_str()) => {}
        ExprKind::Property(inner, ..) | ExprKind::Index(inner, _) | ExprKind::Filter(inner) => spoken(inner, made, visit),
        _ => {}
    }
}

/// The words and the event that brings them, when strangers write them.
fn strangers<'c>(case: &'c Case<'_>, path: &str) -> Option<(String, &'c Trigger)> {
    let known = &case.pipeline.run().values.strangers_words;
    let (_, events) = known.iter().find(|(name, _)| {
        let start = path.get(..name.len()).is_some_and(|start| start.eq_ignore_ascii_case(name));
        start && matches!(path.as_bytes().get(name.len()), None | Some(b'.'))
    })?;
    let mut triggers = case.pipeline.triggers.iter().filter(|trigger| events.contains(&trigger.name.value.as_str()));
    Some((path.to_owned(), triggers.next()?))
}
