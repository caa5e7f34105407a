//! A call that does not fit what is called.

use crate::case::{Case, at};
use crate::finding::{Edit, Findings, Mend, Severity, listed};
use crate::knowledge::nearest;
use crate::model::{Call, Input, Interface, Pipeline, Text, Variables, Work};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.callee-mismatch",
    severity: Severity::Error,
    title: "A call does not fit the pipeline or action that it calls",
    why: "A called pipeline says which inputs and secrets it takes and which it must have. The forge refuses a file whose call \
          leaves one out or names one that does not exist. A called action only warns, and goes on with an empty value.",
    needs: &[],
    bad: &[
        r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      ‹drafts›: {type: boolean, default: false}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on: push
jobs:
  a:
    uses: ./.github/workflows/publish.yml
    with:
      drafts: «no»
",
        r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      ‹folder›: {type: string, required: true}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
== pipeline
on: push
jobs:
  a:
    uses: «./.github/workflows/publish.yml»
",
    ],
    good: &[r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      folder: {type: string, required: true}
      base: {type: string, required: true, default: /}
    secrets:
      key: {required: true}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
== pipeline
on: push
jobs:
  a:
    uses: ./.github/workflows/publish.yml
    with: {folder: dist}
    secrets: inherit
  publish:
    uses: ./.github/workflows/publish.yml
    with: {Folder: dist, base: /x/}
    secrets: {key: '${{ secrets.KEY }}'}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in &case.pipeline.jobs {
        if let Some(call) = &job.call
            && let Some(index) = case.project.callee(call)
        {
            called(case, call, &case.project.prepared[index].pipeline, out);
        }
        for step in &job.steps {
            if let Work::Uses { action, inputs, found } = &step.work
                && let Some(callee) = case.project.action(found)
                && let Some(interface) = &callee.interface
            {
                for (name, _) in unknown(inputs, interface.inputs.iter().map(|input| &input.name)) {
                    let message =
                        format!("the action `{}` has no input `{}`, so this value goes nowhere", action.value, name.value);
                    strange(name, message, interface, callee, out).severity(Severity::Warning);
                }
            }
        }
    }
}

fn called(case: &Case<'_>, call: &Call, callee: &Pipeline, out: &mut Findings) {
    let target = &call.target;
    let Some(interface) = callee.interface.as_ref().filter(|_| callee.is_called()) else {
        let Some(first) = callee.triggers.first() else { return };
        out.add(target.inner(), format!("`{}` cannot be called, so the forge refuses this file", target.value))
            .witness(at(first.name.at), "it does not say that others may call it")
            .mend(pen::write(case, &Ask::BecomeCallable));
        return;
    };
    let Some(trigger) = callee.triggers.iter().find(|trigger| trigger.event == crate::model::Event::Called) else { return };
    for input in required(&interface.inputs, &call.inputs) {
        let message = format!(
            "`{}` needs the input `{}`, and this call does not give it, so the forge refuses this file",
            target.value, input.name.value
        );
        out.add(target.inner(), message)
            .witness(at(input.name.at), format!("`{}` is required here", input.name.value))
            .mend(pen::write(case, &Ask::GiveInput { name: &input.name.value }));
    }
    for (name, _) in unknown(&call.inputs, interface.inputs.iter().map(|input| &input.name)) {
        let message = format!("`{}` has no input `{}`, so the forge refuses this file", target.value, name.value);
        let known: Vec<&str> = interface.inputs.iter().map(|input| input.name.value.as_str()).collect();
        speak(name, message, trigger.name.at, &known, "inputs", out);
    }
    of_another_kind(case, target, &interface.inputs, &call.inputs, out);
    if call.all_secrets {
        return;
    }
    for (secret, needed) in &interface.secrets {
        if *needed && call.secrets.get(&secret.value).is_none() && !call.secrets.open {
            out.add(
                target.inner(),
                format!("`{}` needs the secret `{}`, and this call does not hand it on", target.value, secret.value),
            )
            .witness(at(secret.at), format!("`{}` is required here", secret.value))
            .mend(pen::write(case, &Ask::HandSecretOn { name: &secret.value, declared: true }));
        }
    }
    for (name, _) in unknown(&call.secrets, interface.secrets.iter().map(|(name, _)| name)) {
        let message = format!("`{}` takes no secret `{}`, so the forge refuses this file", target.value, name.value);
        let known: Vec<&str> = interface.secrets.iter().map(|(name, _)| name.value.as_str()).collect();
        speak(name, message, trigger.name.at, &known, "secrets", out);
    }
}

/// Values that are surely no value of the kind that their input has.
/// Source: the format's page "Workflow syntax", `on.workflow_call.inputs.<input_id>.type`.
fn of_another_kind(case: &Case<'_>, target: &Text, inputs: &[Input], given: &Variables, out: &mut Findings) {
    for input in inputs {
        let Some(kind) = input.kind() else { continue };
        let Some(value) = given.get(&input.name.value) else { continue };
        let name = &input.name.value;
        let wanted = if input.is_boolean() { "true or false, without quotes" } else { "a number" };
        let finding = if let Some(word) = value.known().filter(|word| !input.takes(word)) {
            out.add(
                value.inner(),
                format!("`{name}` of `{}` is a {kind}, and '{word}' is none, so the forge refuses this file", target.value),
            )
        } else if input.is_boolean() && is_a_text(case, value) {
            let message = format!("`{name}` of `{}` is a {kind}, and this is a text, which the forge may refuse", target.value);
            let finding = out.add(value.inner(), message);
            finding.severity(Severity::Warning);
            finding
        } else {
            continue;
        };
        finding.witness(at(input.name.at), format!("`{name}` is declared as a {kind} here"));
        let meant = value.known().and_then(|word| match word.to_ascii_lowercase().as_str() {
            "yes" | "y" | "on" | "1" => Some("true"),
            "no" | "n" | "off" | "0" | "" => Some("false"),
            _ => None,
        });
        finding.mend(match meant.filter(|_| input.is_boolean()) {
            Some(meant) => Mend::likely(format!("write {meant}"), [Edit::replace(value.at, meant)]),
            None if value.known().is_none() => Mend::by_hand("compare it with 'true', so that true or false comes out"),
            None => Mend::by_hand(format!("write {wanted}")),
        });
    }
}

/// Whether a value reads something that is a text whatever it says: what a person gives to a start by hand, by its older path.
fn is_a_text(case: &Case<'_>, value: &Text) -> bool {
    let mut is_text = false;
    crate::case::within(value, &mut |expression, _| {
        let written = expression.dotted().unwrap_or_default();
        is_text |= case.pipeline.customs.text_inputs.iter().any(|start| written.starts_with(start));
    });
    is_text
}

fn required<'c>(inputs: &'c [Input], given: &Variables) -> Vec<&'c Input> {
    let lacks = |input: &&Input| input.required && input.default.is_none() && given.get(&input.name.value).is_none();
    if given.open { Vec::new() } else { inputs.iter().filter(lacks).collect() }
}

fn unknown<'g, 'n>(given: &'g Variables, known: impl Iterator<Item = &'n Text>) -> Vec<&'g (Text, Text)> {
    let known: Vec<&Text> = known.collect();
    given.entries.iter().filter(|(name, _)| !known.iter().any(|one| one.value.eq_ignore_ascii_case(&name.value))).collect()
}

fn strange<'f>(
    name: &Text,
    message: String,
    interface: &Interface,
    callee: &Pipeline,
    out: &'f mut Findings,
) -> &'f mut crate::finding::Finding {
    let known: Vec<&str> = interface.inputs.iter().map(|input| input.name.value.as_str()).collect();
    let place = interface.at.unwrap_or(crate::model::whole_file(callee.file));
    speak(name, message, place, &known, "inputs", out)
}

fn speak<'f>(
    name: &Text,
    message: String,
    place: crate::text::Place,
    known: &[&str],
    what: &str,
    out: &'f mut Findings,
) -> &'f mut crate::finding::Finding {
    let has = if known.is_empty() { format!("it has no {what}") } else { format!("its {what} are {}", listed(known)) };
    let finding = out.add(name.at, message);
    finding.witness(at(place), has);
    finding.mend(match nearest(&name.value, known.iter().copied()) {
        Some(meant) => Mend::likely(format!("write {meant}"), [Edit::replace(name.inner(), meant)]),
        None => Mend::by_hand("remove it, or write the name that is meant"),
    })
}
