//! One commit that starts the same jobs twice.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::model::{Event, FilterOf, StartsFrom, Trigger};
use crate::rehearsal::{Answer, Occasion, OccasionKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.double-start",
    severity: Severity::Advice,
    title: "One commit starts the pipeline twice",
    why: "A commit on a branch with an open pull request is a push and a change of the pull request: with both events and no \
          filter, every job runs twice for it, and everybody waits for both.",
    needs: &[],
    bad: &[
        r"
== git
main default
== pipeline
on:
  «push»:
  ‹pull_request›:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
",
        r#"
== git
main default
== gitlab
«build»:
  script:
    - npx vite build
  rules:
    - ‹if: $CI_PIPELINE_SOURCE == "merge_request_event"›
    - if: $CI_COMMIT_BRANCH
"#,
    ],
    good: &[
        r"
== git
main default
== pipeline
on:
  push:
    branches: [main]
  pull_request:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
",
        r"
== git
main default
== pipeline
on:
  push:
  pull_request:
jobs:
  build:
    if: github.event_name == 'push'
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
  publish:
    if: github.event_name == 'pull_request'
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
",
        r#"
== git
main default
== gitlab
build:
  script:
    - npx vite build
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let of = |event: Event| case.pipeline.triggers.iter().find(|trigger| trigger.event == event && trigger.usual);
    let (Some(push), Some(proposal)) = (of(Event::Push), of(Event::Proposal)) else { return };
    if push.filters.iter().any(|filter| filter.of != FilterOf::Paths) || case.pipeline.lock.is_some() {
        return;
    }
    // Where nothing is written of it, settings of the forge decide whether both start it.
    if case.pipeline.starts_from == StartsFrom::Usual && !case.pipeline.customs.warns_of_doubles {
        return;
    }
    let branch = Occasion::new(OccasionKind::Push, Some("a-branch-of-a-pull-request"));
    let pushed = case.project.rehearse_one(case.index, &branch);
    let proposed = case.project.rehearse_one(case.index, &Occasion::new(OccasionKind::Pull, None));
    let builds = |job: &usize| {
        let mut effects = case.effects.of_job(*job);
        let any_work = case.pipeline.customs.warns_of_doubles;
        effects.any(|(_, effect)| match effect.effect {
            Effect::Build { .. } | Effect::Publish { .. } => true,
            Effect::Test { .. } | Effect::Install { .. } | Effect::RunScript { .. } => any_work,
            _ => false,
        })
    };
    let runs_twice = |job: &usize| pushed.jobs[*job].answer.min(proposed.jobs[*job].answer) == Answer::Yes;
    let twice = (0..case.pipeline.jobs.len()).filter(builds).find(runs_twice);
    let Some(job) = twice.filter(|job| case.pipeline.jobs[*job].lock.is_none()) else { return };
    let message = format!("a commit to a pull request's branch runs `{}` twice", case.job_name(job));
    // Where no event is written, it is the rules of the job that let both in.
    if case.pipeline.customs.warns_of_doubles {
        let of_job = &case.pipeline.jobs[job];
        let rule = of_job
            .when
            .choices
            .iter()
            .find(|choice| choice.at.file == of_job.id.at.file)
            .map_or(of_job.id.at, |choice| choice.at);
        out.add(of_job.id.at, message)
            .severity(Severity::Warning)
            .witness(at(rule), "its rules let in the push and the pull request, which are the same commit")
            .mend(Mend::by_hand("let `workflow: rules` leave out pushes to branches with an open merge request"));
        return;
    }
    let finding = out.add(push.name.at, message);
    finding.witness(at(proposal.name.at), "the same commit is a change of the pull request");
    let default = case.facts.git.default_branch.known();
    finding.mend(match default {
        Some(default) => {
            let title = format!("let a push start it on {default} only");
            match filter_edit(case, push, default) {
                Some(edit) => Mend::likely(title, [edit]),
                None => Mend::by_hand(title),
            }
        }
        None => Mend::by_hand("let a push start it on the default branch only"),
    });
}

/// The filter, where the event stands on a line of its own with nothing below.
fn filter_edit(case: &Case<'_>, push: &Trigger, branch: &str) -> Option<Edit> {
    let source = case.sources.get(push.name.at.file);
    let line = source.line_at(push.name.at.span.start);
    let indent = line.strip_suffix("push:").filter(|indent| indent.bytes().all(|byte| byte == b' '))?;
    let at = crate::text::Place { file: push.name.at.file, span: push.name.at.span };
    Some(Edit::replace(at, format!("push:\n{indent}  branches: [{branch}]"))).filter(|_| push.filters.is_empty()).map(
        |mut edit| {
            edit.at.span.end += 1;
            edit
        },
    )
}
