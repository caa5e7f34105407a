//! An output that nobody gives.

use crate::case::{Case, at};
use crate::effects::UsedAction;
use crate::finding::{Edit, Findings, Mend, Severity, listed_short};
use crate::knowledge::nearest;
use crate::model::{Shell, Text, Work};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "order.absent-output",
    severity: Severity::Error,
    title: "An output is read that no job or step gives",
    why: "A job hands on only the outputs that it lists, and an action only those that its manual names. Any other is empty: a \
          condition on it is false, a path ends in nothing, and no error says so.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    outputs: {‹page›: x}
    steps:
      - run: echo ready
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - run: echo ${{ needs.build.outputs.«pages» }}
"],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    outputs: {page: x}
    steps:
      - run: echo ready
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - run: echo ${{ needs.build.outputs.Page }} ${{ needs.build.result }} ${{ toJSON(needs.build.outputs) }}
",
        r"
== jobs
  build:
    uses: ferry/tools/.github/workflows/x.yml@v1
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - run: echo ${{ needs.build.outputs.page }}
",
    ],
    check,
};

/// What is known of the outputs of a job or step.
struct Known<'c> {
    names: Vec<&'c str>,
    at: Place,
    source: &'static str,
    /// Only a name that is nearly one of these is surely wrong.
    only_near: bool,
}

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut wrong: Vec<(Place, String, String, Known<'_>)> = Vec::new();
    case.references(&mut |job, path, text: &Text| {
        let [(context, _), (id, _), (outputs, _), (name, range)] = path else { return };
        if !outputs.eq_ignore_ascii_case("outputs") {
            return;
        }
        let known = match (context.to_ascii_lowercase().as_str(), job) {
            ("needs" | "jobs", _) => of_job(case, id),
            ("steps", Some(job)) => of_step(case, job, id),
            _ => None,
        };
        let Some(known) = known.filter(|known| !known.names.iter().any(|one| one.eq_ignore_ascii_case(name))) else { return };
        wrong.push((text.place(range.clone()), (*id).to_owned(), (*name).to_owned(), known));
    });
    wrong.extend(given_back(case));
    for (place, id, name, known) in wrong {
        let near = nearest(&name, known.names.iter().copied());
        if known.only_near && near.is_none() {
            continue;
        }
        let finding = out.add(place, format!("this is empty: `{id}` gives no output `{name}`"));
        let gives = if known.names.is_empty() {
            format!("{} no outputs", known.source)
        } else {
            format!("{} {}", known.source, listed_short(&known.names))
        };
        finding.witness(at(known.at), gives);
        finding.mend(match near {
            Some(near) => Mend::likely(format!("write {near}"), [Edit::replace(place, near)]),
            None => Mend::by_hand(format!("add `{name}` to the outputs of `{id}`, or read one that it gives")),
        });
    }
}

/// What a called pipeline gives back of outputs that its jobs do not have.
fn given_back<'c>(case: &'c Case<'_>) -> Vec<(Place, String, String, Known<'c>)> {
    let mut found = Vec::new();
    let values = case.pipeline.interface.iter().flat_map(|interface| &interface.outputs).filter_map(|(_, value)| value.as_ref());
    for text in values {
        crate::case::within(text, &mut |expression, _| {
            crate::case::paths(expression, &mut |path| {
                let [(context, _), (id, _), (outputs, _), (name, range)] = path else { return };
                if !context.eq_ignore_ascii_case("jobs") || !outputs.eq_ignore_ascii_case("outputs") {
                    return;
                }
                let known = of_job(case, id).filter(|known| !known.names.iter().any(|one| one.eq_ignore_ascii_case(name)));
                found.extend(known.map(|known| (text.place(range.clone()), (*id).to_owned(), (*name).to_owned(), known)));
            });
        });
    }
    found
}

/// The outputs that a script writes, when all that it writes is plain to see and nothing else can write any.
/// Source: the format's page "Workflow commands", setting an output parameter.
fn of_script<'c>(case: &'c Case<'_>, job: usize, step: usize, script: &'c Text) -> Option<Known<'c>> {
    let effects = case.effects.jobs.get(job)?.get(step)?;
    let file = case.pipeline.customs.output_file?;
    if effects.may_do_anything() {
        return None;
    }
    let mut names = Vec::new();
    for line in script.value.lines().filter(|line| line.contains(file)) {
        names.push(output_name(line)?);
    }
    // A list of lines that go into the file together, or an older way to write, is not read here.
    let other = script.value.contains("::set-output") || script.value.contains("<<") || script.value.contains('{');
    (!other).then_some(Known { names, at: script.inner(), source: "this script gives", only_near: false })
}

/// The name in `echo "NAME=value" >> "$GITHUB_OUTPUT"`.
fn output_name(line: &str) -> Option<&str> {
    let rest = line.trim().strip_prefix("echo ").or_else(|| line.trim().strip_prefix("printf "))?;
    let rest = rest.trim_start().trim_start_matches(['"', '\'']);
    let length = rest.bytes().take_while(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'-')).count();
    (length > 0 && rest[length..].starts_with('=')).then_some(&rest[..length])
}

fn of_job<'c>(case: &'c Case<'_>, id: &str) -> Option<Known<'c>> {
    let job = &case.pipeline.jobs[case.pipeline.job(id)?];
    if let Some(call) = &job.call {
        let callee = case.project.callee(call)?;
        let pipeline = &case.project.prepared[callee].pipeline;
        let interface = pipeline.interface.as_ref().filter(|_| pipeline.is_called())?;
        let names = interface.outputs.iter().map(|(name, _)| name.value.as_str()).collect();
        return Some(Known { names, at: interface.at.unwrap_or(call.target.at), source: "it gives", only_near: false });
    }
    let names: Vec<&str> = job.outputs.iter().map(|(name, _)| name.value.as_str()).collect();
    let place = job.outputs.first().map_or(job.id.at, |(name, _)| name.at);
    Some(Known { names, at: place, source: "this job lists", only_near: false })
}

fn of_step<'c>(case: &'c Case<'_>, job: usize, id: &str) -> Option<Known<'c>> {
    let mut steps = case.pipeline.jobs[job].steps.iter().enumerate();
    let (number, step) = steps.find(|(_, step)| step.id.as_ref().is_some_and(|own| own.value.eq_ignore_ascii_case(id)))?;
    if let Work::Runs { script, shell: Shell::Posix } = &step.work {
        return of_script(case, job, number, script);
    }
    let Work::Uses { action, found, .. } = &step.work else { return None };
    if let Some(interface) = case.project.action(found).and_then(|callee| callee.interface.as_ref()) {
        let names = interface.outputs.iter().map(|(name, _)| name.value.as_str()).collect();
        return Some(Known { names, at: action.at, source: "this action gives", only_near: false });
    }
    let known = UsedAction::of(&action.value)?.action().filter(|known| !known.outputs.is_empty())?;
    Some(Known { names: known.outputs.to_vec(), at: action.at, source: "this action gives", only_near: true })
}
