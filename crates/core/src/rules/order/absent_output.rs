//! An output that nobody gives.

use crate::case::{Case, at};
use crate::effects::UsedAction;
use crate::finding::{Edit, Findings, Mend, Severity, listed_short};
use crate::knowledge::nearest;
use crate::model::{Text, Work};
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
            ("needs", _) => of_job(case, id),
            ("steps", Some(job)) => of_step(case, job, id),
            _ => None,
        };
        let Some(known) = known.filter(|known| !known.names.iter().any(|one| one.eq_ignore_ascii_case(name))) else { return };
        wrong.push((text.place(range.clone()), (*id).to_owned(), (*name).to_owned(), known));
    });
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

fn of_job<'c>(case: &'c Case<'_>, id: &str) -> Option<Known<'c>> {
    let job = &case.pipeline.jobs[case.pipeline.job(id)?];
    if let Some(call) = &job.call {
        let callee = case.project.callee(&call.target.value)?;
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
    let mut steps = case.pipeline.jobs[job].steps.iter();
    let step = steps.find(|step| step.id.as_ref().is_some_and(|own| own.value.eq_ignore_ascii_case(id)))?;
    let Work::Uses { action, .. } = &step.work else { return None };
    if let Some(interface) = case.project.action(&action.value).and_then(|callee| callee.interface.as_ref()) {
        let names = interface.outputs.iter().map(|(name, _)| name.value.as_str()).collect();
        return Some(Known { names, at: action.at, source: "this action gives", only_near: false });
    }
    let known = UsedAction::of(&action.value)?.action().filter(|known| !known.outputs.is_empty())?;
    Some(Known {
        names: known.outputs.iter().map(String::as_str).collect(),
        at: action.at,
        source: "this action gives",
        only_near: true,
    })
}
